package corpus

import (
	"errors"
	"runtime"
	"sync"
)

type boat struct {
	name string
	crew []string
	next *boat
}

// Each of these leaves half-way for some of its arguments.

func index(list []int, i int) (sum int) {
	sum = 1
	sum += list[i]
	sum += list[i+1]
	sum *= 2
	return sum
}

func swap(list []int, i, j int) {
	a := list[i]
	b := list[j]
	list[i] = b
	list[j] = a
}

func nilPointer(b *boat) (n int) {
	n = 1
	n += len(b.name)
	n++
	n += len(b.next.name)
	n++
	return n
}

func divide(a, b int) int {
	c := a + 1
	c /= b
	c++
	return c % (b - 1)
}

func assert(v any) int {
	n := 1
	n = v.(int)
	n++
	return n
}

func nilMap(m map[string]int) int {
	n := 0
	m["x"] = 1
	n++
	return n
}

func slices(s string, from, to int) string {
	a := s[from:]
	b := s[:to]
	c := a + b
	return c
}

func incomparable(a, b any) bool {
	same := a == b
	same = !same
	return same
}

func shift(n, by int) int {
	m := n << by
	m++
	return m
}

func array(b []byte) int {
	a := [4]byte(b)
	n := int(a[0])
	return n
}

func embedded(b *vessel) int {
	b.length = 3
	n := b.length
	b.name = "Skua"
	n++
	return n
}

type vessel struct {
	*boat
	length int
}

func recovers(f func()) (failed bool) {
	defer func() {
		if recover() != nil {
			failed = true
		}
	}()
	failed = true
	f()
	failed = false
	return
}

func rethrows() {
	defer func() {
		r := recover()
		if r != nil {
			panic(r)
		}
	}()
	panic("again")
}

func goexit(wg *sync.WaitGroup, leave bool) {
	defer wg.Done()
	n := 1
	if leave {
		n++
		runtime.Goexit()
		n++
	}
	n--
	_ = n
}

func deferred() (err error) {
	defer func() { err = errors.Join(err, errors.New("second")) }()
	defer func() {
		if r := recover(); r != nil {
			err = errors.New("first")
		}
	}()
	var f func()
	f()
	return nil
}

func stuck(c chan int) {
	n := 0
	n++
	<-c
	n++
}

func loopLeaves(list []*boat) (n int) {
	for i := 0; i < 10; i++ {
		n++
		n += len(list[i].crew)
		n++
	}
	n = -n
	return n
}

func conditionLeaves(b *boat) int {
	for b.next != nil {
		b = b.next
	}
	if b.crew[0] == "" {
		return 1
	} else if b.crew[1] == "" {
		return 2
	} else if b.crew[2] == "" {
		return 3
	}
	return 4
}

func caseLeaves(list []int) int {
	switch {
	case list[0] == 1:
		return 1
	case list[1] == 1:
		return 2
	}
	return 3
}

func recursive(n int) int {
	if n == 0 {
		panic("bottom")
	}
	if n == 5 {
		defer func() { _ = recover() }()
	}
	m := recursive(n - 1)
	m++
	return m
}
