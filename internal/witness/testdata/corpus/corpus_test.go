package corpus

import (
	"os"
	"os/exec"
	"sync"
	"testing"
)

func TestFlow(t *testing.T) {
	for _, n := range []int{-1, 0, 1, 2, 3, 10, 101, 150, 500, 700} {
		branches(n)
	}
	recovers(func() { branches(666) })
	for n := range 12 {
		ladder(n)
		loops(n * 3)
		labels(n)
		gotos(n)
		switches(n, []any{1, "x", nil, 2.5}[n%4])
		closures(n)
		sequences(n)
		named(n%2 == 0, n)
		oneLine(n)
	}
	values, done := make(chan int), make(chan struct{})
	go func() {
		for i := range 3 {
			values <- i
		}
		close(values)
		done <- struct{}{}
	}()
	selects(values, done)
	most(1, 5, 3)
	most(1.5, 0.5)
	var s stack[string]
	s.push("a")
	s.pop()
	s.pop()
	if early != 42 {
		t.Fatal(early)
	}
}

func TestLeave(t *testing.T) {
	full := &boat{name: "Tern", crew: []string{"x", "y", "z"}, next: &boat{name: "Gull", crew: []string{"x"}}}
	for range 3 {
		for _, f := range []func(){
			func() { index([]int{1, 2}, 0) }, func() { index([]int{1, 2}, 1) }, func() { index(nil, 0) },
			func() { swap([]int{1, 2}, 0, 1) }, func() { swap([]int{1, 2}, 0, 7) }, func() { swap(nil, 0, 7) },
			func() { nilPointer(full) }, func() { nilPointer(full.next) }, func() { nilPointer(nil) },
			func() { divide(7, 3) }, func() { divide(7, 0) }, func() { divide(7, 1) },
			func() { assert(1) }, func() { assert("x") },
			func() { nilMap(map[string]int{}) }, func() { nilMap(nil) },
			func() { slices("abc", 1, 2) }, func() { slices("abc", 5, 2) }, func() { slices("abc", 1, 9) },
			func() { incomparable(1, 2) }, func() { incomparable([]int{}, []int{}) },
			func() { shift(1, 2) }, func() { shift(1, -1) },
			func() { array(make([]byte, 4)) }, func() { array(nil) },
			func() { embedded(&vessel{boat: full}) }, func() { embedded(&vessel{}) }, func() { embedded(nil) },
			func() { rethrows() }, func() { deferred() },
			func() { loopLeaves([]*boat{full, full, nil}) }, func() { loopLeaves(nil) },
			func() { loopLeaves([]*boat{full, full, full, full, full, full, full, full, full, full}) },
			func() { conditionLeaves(full) }, func() { conditionLeaves(&boat{crew: []string{"a", "b"}}) },
			func() { conditionLeaves(&boat{crew: []string{""}}) }, func() { conditionLeaves(&boat{crew: []string{"a", "b", ""}}) },
			func() { conditionLeaves(nil) }, func() { conditionLeaves(&boat{crew: []string{"a", ""}}) },
			func() { caseLeaves([]int{1}) }, func() { caseLeaves([]int{0}) }, func() { caseLeaves([]int{0, 1}) }, func() { caseLeaves([]int{0, 0}) },
			func() { recursive(9) }, func() { recursive(3) },
			func() { methodMoves([]int{1, 2}) }, func() { methodMoves(make([]int, 100)) },
			func() { global = &vessel{}; shadows() }, func() { captured(&vessel{}) }, func() { captured(nil) },
			func() { between(&vessel{}, make(chan bool)) },
			func() { unread(nil) }, func() { unread(&hold{}) },
			func() { through(nil) }, func() { through(&hold{}) }, func() { through(&hold{boats: []*vessel{nil}}) }, func() { through(&hold{boats: []*vessel{{}}}) },
			func() { shrinks([]int{1, 2, 3}) }, func() { shrinks([]int{1}) },
			func() { checks(nil) }, func() { checks(&vessel{boat: full}) },
			func() { negative(2) }, func() { negative(9) },
			func() { jumps([]int{1, 2, 3}, 0) }, func() { jumps(nil, 0) },
			func() { slicing(&hold{boats: make([]*vessel, 4)}, 2) }, func() { slicing(&hold{boats: make([]*vessel, 4)}, 3) }, func() { slicing(&hold{}, 0) },
			func() { popping(&hold{boats: make([]*vessel, 3)}) }, func() { popping(&hold{}) },
			func() { twoNames([]int{1, 2}) }, func() { twoNames(make([]int, 9)) },
			func() { promoted(&vessel{boat: full}) }, func() { promoted(&vessel{}) },
			func() { switched(&vessel{}, 1) }, func() { switched(&vessel{}, 2) }, func() { switched(&vessel{}, 3) }, func() { switched(nil, 3) },
		} {
			recovers(f)
		}
	}
	var wg sync.WaitGroup
	for i := range 4 {
		wg.Add(1)
		go goexit(&wg, i == 2)
	}
	wg.Wait()
	go stuck(make(chan int))
	t.Run("fails", func(t *testing.T) {
		n := 0
		n++
		t.SkipNow()
		n++
	})
}

// Ends are ways in which a process stops in the middle.
func TestEnds(t *testing.T) {
	if how := os.Getenv("CORPUS_END"); how != "" {
		end(how)
		return
	}
	for _, how := range []string{"exit", "fatal", "panic", "nil", "kill", "deadlock", "return"} {
		cmd := exec.Command(os.Args[0], "-test.run", "^TestEnds$")
		cmd.Env = append(os.Environ(), "CORPUS_END="+how)
		_ = cmd.Run()
	}
}
