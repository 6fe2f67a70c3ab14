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

// What follows looks as if it could not leave half-way, but does.

type cursor int

func (c *cursor) far() { *c = 99 }

func methodMoves(list []int) (n int) {
	var c cursor
	n += list[c]
	c.far()
	n += 1
	n += list[c]
	n++
	return n
}

var global *vessel

func loseGlobal() { global = nil }

func shadows() (n int) {
	global.length++
	n++
	loseGlobal()
	n++
	global.length++
	n++
	{
		global := &vessel{}
		global.length++
		n++
	}
	return n
}

func captured(b *vessel) (n int) {
	lose := func() { b = nil }
	b.length++
	n++
	lose()
	n++
	b.length++
	n++
	return n
}

func between(b *vessel, turn chan bool) {
	n := 0
	done := make(chan bool)
	go func() {
		defer close(done)
		defer func() { _ = recover() }()
		b.length++
		n++
		turn <- true
		<-turn
		b.length++
		n++
	}()
	<-turn
	b = nil
	turn <- true
	<-done
	_ = n
}

type hold struct {
	berths [4]int
	boats  []*vessel
	count  uint
}

func unread(h *hold) (n int) {
	n = len(h.berths)
	n++
	h.count++
	n++
	return n
}

func through(h *hold) (n int) {
	h.count++
	n = len(h.boats)
	h.boats[0].length++
	n++
	h.boats[0].length++
	n++
	h.boats[0] = nil
	n++
	h.boats[0].length++
	n++
	return n
}

func shrinks(list []int) (n int) {
	for i := range list {
		n += list[i]
		n++
	}
	for i := range list {
		list = list[:1]
		n++
		n += list[i]
		n++
	}
	for i := 0; i < len(list); i++ {
		n += list[i]
		i += 7
		n++
		n += list[i]
		n++
	}
	return n
}

func checks(b *vessel) (n int) {
	if b == nil {
		n++
		b = &vessel{}
		n++
	}
	b.length++
	n++
	if b.boat != nil {
		n += len(b.boat.name)
		n++
	}
	if b = nil; b == nil {
		n++
	}
	b.length++
	n++
	return n
}

func negative(n int) int {
	by := len("ferry")
	by -= n
	m := 1 << by
	m++
	return m
}

func jumps(list []int, i int) (n int) {
	n += list[i]
	n++
again:
	n += list[i]
	n++
	if n < 20 {
		i++
		goto again
	}
	return n
}

func promoted(b *vessel) (n int) {
	n = len(b.name)
	n++
	b.boat = nil
	n++
	n += len(b.name)
	n++
	return n
}

func switched(b *vessel, how int) (n int) {
	b.length++
	switch how {
	case 1:
		b = nil
		fallthrough
	case 2:
		n++
		b.length++
		n++
	}
	b.length++
	n++
	return n
}

func slicing(h *hold, at int) (n int) {
	list := h.boats
	first := list[at]
	n++
	rest := list[at:]
	n++
	list = list[:at]
	n++
	rest = rest[at:]
	n++
	last := list[at]
	n++
	_, _ = first, last
	return n
}

func popping(h *hold) (n int) {
	for {
		l := len(h.boats) - 1
		b := h.boats[l]
		n++
		h.boats = h.boats[:l]
		n++
		again := h.boats[:l]
		n++
		worse := h.boats[l]
		n++
		_, _, _ = b, again, worse
	}
}

func twoNames(list []int) (n int) {
	i := 0
	n += list[i]
	i = 5
	n++
	n += list[i]
	n++
	func() { i = 7 }()
	return n
}
