package logic

// Value is what a condition was on a way.
type Value uint8

// The values of a condition.
const (
	Skipped Value = iota // not evaluated
	True
	False
)

// Way is one way of evaluating a formula to its result.
type Way struct {
	Values []Value // of each condition
	Result bool
	// Decides tells for each condition whether it decided the result: it was
	// evaluated, and at every operator around it the other operand let it through
	// or was not evaluated.
	Decides []bool
}

// Ways gives the ways through a formula in the order of their numbers, or nil if
// there are more than most.
func (f *Formula) Ways(most int) []Way {
	steps := f.Steps()
	if steps[f.first()].Ways > most {
		return nil
	}
	var out []Way
	values := make([]Value, len(steps))
	var walk func(e Edge)
	walk = func(e Edge) {
		if e.Next < 0 {
			w := Way{Values: append([]Value{}, values...), Result: e.Result, Decides: make([]bool, len(steps))}
			f.mark(&w, true)
			out = append(out, w)
			return
		}
		values[e.Next] = True
		walk(steps[e.Next].True)
		values[e.Next] = False
		walk(steps[e.Next].False)
		values[e.Next] = Skipped
	}
	walk(Edge{Next: f.first()})
	return out
}

// mark fills in Decides below a formula that itself decides the result or not.
func (f *Formula) mark(w *Way, decides bool) {
	switch f.Op {
	case Leaf:
		w.Decides[f.Condition] = decides && w.Values[f.Condition] != Skipped
	case Not:
		f.X.mark(w, decides)
	default:
		right := f.Y.value(w)
		f.X.mark(w, decides && (right == Skipped || right == f.X.value(w)))
		f.Y.mark(w, decides && right != Skipped)
	}
}

// value is what a formula was on a way.
func (f *Formula) value(w *Way) Value {
	switch f.Op {
	case Leaf:
		return w.Values[f.Condition]
	case Not:
		return f.X.value(w).negated()
	}
	if right := f.Y.value(w); right != Skipped {
		return right
	}
	return f.X.value(w)
}

// Deciding gives a way on which a condition has a value and decides the result:
// before it everything lets it through, and after it too.
func (f *Formula) Deciding(condition int, value Value) Way {
	w := Way{Values: make([]Value, f.Size()), Decides: make([]bool, f.Size())}
	result := f.lead(&w, condition, value)
	w.Result = result == True
	f.mark(&w, true)
	return w
}

// lead sets the values on a way on which a condition decides, below a formula that
// has it, and gives what the formula turns out to be.
func (f *Formula) lead(w *Way, condition int, value Value) Value {
	switch f.Op {
	case Leaf:
		w.Values[condition] = value
		return value
	case Not:
		return f.X.lead(w, condition, value).negated()
	}
	neutral := True // what lets the other operand through
	if f.Op == Or {
		neutral = False
	}
	if condition >= f.Y.first() {
		f.X.force(w, neutral)
		return f.Y.lead(w, condition, value)
	}
	left := f.X.lead(w, condition, value)
	if left == neutral {
		f.Y.force(w, neutral)
	}
	return left
}

// force sets values with which a formula turns out as wanted, evaluating as little
// as that takes.
func (f *Formula) force(w *Way, want Value) {
	switch f.Op {
	case Leaf:
		w.Values[f.Condition] = want
	case Not:
		f.X.force(w, want.negated())
	default:
		f.X.force(w, want)
		if (f.Op == And) == (want == True) {
			f.Y.force(w, want) // one operand is not enough
		}
	}
}

func (v Value) negated() Value {
	switch v {
	case True:
		return False
	case False:
		return True
	}
	return Skipped
}

// Proof says how a condition is, or could be, shown to decide the result on its
// own: by two ways on which it decided it, once true and once false.
type Proof struct {
	Shown       bool
	True, False int // numbers of the ways
}

// Prove looks for a proof for each condition among the ways that were seen. Where
// there is none, it names the pair that needs the fewest new ways. Of several
// pairs it takes the one in which the fewest other conditions differ.
func Prove(ways []Way, seen func(way int) bool) []Proof {
	if len(ways) == 0 {
		return nil
	}
	out := make([]Proof, len(ways[0].Values))
	for c := range out {
		best := -1
		for t := range ways {
			if ways[t].Values[c] != True || !ways[t].Decides[c] {
				continue
			}
			for f := range ways {
				if ways[f].Values[c] != False || !ways[f].Decides[c] {
					continue
				}
				cost := differ(ways[t], ways[f])
				for _, w := range []int{t, f} {
					if !seen(w) {
						cost += 1000
					}
				}
				if best < 0 || cost < best {
					best = cost
					out[c] = Proof{Shown: seen(t) && seen(f), True: t, False: f}
				}
			}
		}
	}
	return out
}

// differ is the number of conditions that have another value on each of two ways;
// one that was skipped on either does not differ.
func differ(a, b Way) (n int) {
	for i, v := range a.Values {
		if v != Skipped && b.Values[i] != Skipped && v != b.Values[i] {
			n++
		}
	}
	return n
}

// More gives ways that, taken besides those seen, show every condition: a small
// number of them, chosen one by one by how much each adds.
func More(ways []Way, seen func(way int) bool) []int {
	if len(ways) == 0 {
		return nil
	}
	type need struct {
		condition int
		value     Value
	}
	open := map[need]bool{}
	for c := range ways[0].Values {
		open[need{c, True}], open[need{c, False}] = true, true
	}
	meets := func(w int, act func(need)) {
		for c, v := range ways[w].Values {
			if ways[w].Decides[c] && open[need{c, v}] {
				act(need{c, v})
			}
		}
	}
	for w := range ways {
		if seen(w) {
			meets(w, func(n need) { delete(open, n) })
		}
	}
	var out []int
	for len(open) > 0 {
		best, gain := -1, 0
		for w := range ways {
			n := 0
			meets(w, func(need) { n++ })
			if n > gain {
				best, gain = w, n
			}
		}
		if best < 0 {
			break
		}
		meets(best, func(n need) { delete(open, n) })
		out = append(out, best)
	}
	return out
}
