package corpus

import "fmt"

func branches(n int) (out string) {
	if n < 0 {
		return "negative"
	}
	if n == 0 {
		out = "zero"
	} else if n == 1 {
		out = "one"
	} else if m := n % 7; m == 3 {
		out = "three more than a week"
	} else if n > 100 && fails(n) {
		out = "large"
	} else {
		out = "some"
	}
	if x := len(out); x > 3 {
		out += "!"
	}
	return
}

func fails(n int) bool {
	if n == 666 {
		panic("the number of the ferry")
	}
	return n > 200
}

func ladder(n int) string {
	if n == 1 {
		return "1"
	} else if n == 2 {
		return "2"
	} else if n == 3 {
		return "3"
	} else if n == 4 {
		return "4"
	} else if n == 5 {
		return "5"
	} else if n == 6 {
		return "6"
	} else if n == 7 {
		return "7"
	} else if n == 8 {
		return "8"
	}
	return "more"
}

func loops(n int) (sum int) {
	for i := 0; i < n; i++ {
		if i == 3 {
			continue
		}
		if i == 7 {
			break
		}
		sum += i
	}
	for range n {
		sum++
	}
	for i, c := range "tide" {
		sum += i + int(c)
	}
	for {
		sum--
		if sum < 50 {
			break
		}
		if sum%11 == 0 {
			return
		}
	}
	for n > 0 {
		n--
	}
	sum += n
	return sum
}

func labels(n int) (steps int) {
outer:
	for i := 0; i < n; i++ {
		for j := 0; j < n; j++ {
			steps++
			switch {
			case i*j == 6:
				break outer
			case j > i:
				continue outer
			case j == 2:
				break
			default:
				steps += 2
			}
			select {
			default:
				if steps > 1000 {
					break outer
				}
			}
		}
	}
only:
	for {
		switch steps {
		case 0:
			break only
		}
		steps--
	}
	return steps
}

func gotos(n int) int {
	i := 0
again:
	i++
	if i < n {
		goto again
	}
	if n > 5 {
		goto end
	}
	i *= 2
end:
	i++
loop:
	for i < 40 {
		i += 3
		if i == 20 {
			continue loop
		}
		if i%13 == 0 {
			goto loop
		}
		if i == 31 {
			break loop
		}
	}
	if i > 1000 {
		goto out
	}
	{
		i--
	}
out:
	return i
}

func switches(n int, v any) (out []string) {
	switch n {
	case 1, 2:
		out = append(out, "low")
	case 3:
		out = append(out, "three")
		fallthrough
	case 4:
		out = append(out, "four")
		if n == 4 {
			break
		}
		fallthrough
	case 5:
		out = append(out, "five")
	}
	switch {
	case n > 2:
		out = append(out, "above")
		fallthrough
	default:
		out = append(out, "default")
	case n == 0:
		out = append(out, "nothing")
	}
	switch x := v.(type) {
	case int:
		out = append(out, fmt.Sprint(x))
	case string, error:
		out = append(out, "text")
	case nil:
	}
	switch v.(type) {
	default:
	}
	switch m := n * 2; m {
	}
	switch {
	}
	return out
}

func selects(values chan int, done chan struct{}) (sum int) {
	for {
		select {
		case v, ok := <-values:
			if !ok {
				values = nil
				break
			}
			sum += v
		case <-done:
			return sum
		}
	}
}

func closures(n int) int {
	add := func(a, b int) int { return a + b }
	never := func() { n = 0 }
	_ = never
	total := 0
	each(n, func(i int) bool {
		total = add(total, i)
		return i < 5
	})
	func() {
		total++
	}()
	defer func() { total = 0 }()
	return total
}

func each(n int, f func(int) bool) {
	for i := range n {
		if !f(i) {
			return
		}
	}
}

func sequences(n int) (sum int) {
	up := func(yield func(int) bool) {
		for i := range n {
			if !yield(i) {
				return
			}
		}
	}
	for v := range up {
		if v == 2 {
			continue
		}
		if v == 6 {
			break
		}
		sum += v
	}
search:
	for v := range up {
		for w := range up {
			if v*w == 12 {
				break search
			}
			if w > v {
				continue search
			}
			sum++
		}
	}
	for v := range up {
		if v == 3 {
			return sum
		}
	}
	return -1
}

type number interface{ ~int | ~float64 }

func most[T number](list ...T) (best T) {
	for i, v := range list {
		if i == 0 || v > best {
			best = v
		}
	}
	return
}

type stack[T any] struct{ items []T }

func (s *stack[T]) push(v T) { s.items = append(s.items, v) }

func (s *stack[T]) pop() (v T, ok bool) {
	if len(s.items) == 0 {
		return v, false
	}
	v = s.items[len(s.items)-1]
	s.items = s.items[:len(s.items)-1]
	return v, true
}

type truth bool

func named(t truth, n int) int {
	for t && n > 0 {
		n--
		if t = n != 3; !t {
			return -1
		}
	}
	return n
}

func empty() {}

func oneLine(n int) int {
	if n > 3 {
		return 1
	} else {
		n++
	}
	for n < 2 {
		n++
	}
	return n
}

var table = map[string]func(int) int{
	"double": func(n int) int { return 2 * n },
	"never":  func(n int) int { return 0 },
}

var early = table["double"](21)
