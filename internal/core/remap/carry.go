// Package remap finds what of a file is the same in another version of it, by
// content, so that counts can follow it through an edit. Where there are two ways
// to tell what became what, it says that nothing did.
package remap

import (
	"cmp"
	"slices"

	"thrush/internal/core/site"
)

// Matched says for each function, statement and decision of a table which one of the
// table of an older version it is, or -1.
type Matched struct {
	Functions, Statements, Decisions []int
	// Same says of each function of the newer table that it matches one all of whose
	// statements match, in the same order: nothing in it changed.
	Same []bool
}

// mostPairs bounds how long two versions of a function are compared.
const mostPairs = 1 << 22

// Match compares two versions of a file.
func Match(old, now *site.Table) *Matched {
	m := &Matched{fill(len(now.Functions)), fill(len(now.Statements)), fill(len(now.Decisions)), make([]bool, len(now.Functions))}
	before, after := groups(old), groups(now)
	for name, b := range after {
		a := before[name]
		if a == nil {
			continue
		}
		pairs := align(marks(a), marks(b))
		same := len(a) == len(b)
		for j, i := range pairs {
			if same = same && i == j; i < 0 {
				continue
			}
			if b[j].function {
				m.Functions[b[j].index] = a[i].index
			} else {
				m.Statements[b[j].index] = a[i].index
			}
		}
		for _, e := range b {
			if e.function {
				m.Same[e.index] = same
			}
		}
	}
	m.decisions(old, now)
	return m
}

func fill(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = -1
	}
	return out
}

// decisions matches decisions by their marks: the same place in the same statement.
// Those that a place has several of are matched only if it has as many in both.
func (m *Matched) decisions(old, now *site.Table) {
	before, after := byMark(old), byMark(now)
	was := make([]int, len(old.Statements)) // what each older statement has become
	for i := range was {
		was[i] = -1
	}
	for j, i := range m.Statements {
		if i >= 0 {
			was[i] = j
		}
	}
	for mark, list := range after {
		a := before[mark]
		if mark == 0 || len(a) != len(list) {
			continue
		}
		for k, j := range list {
			if carried(old.Decisions[a[k]], now.Decisions[j]) && m.holds(old, now, a[k], j) {
				m.Decisions[j] = a[k]
			}
		}
	}
}

// holds tells whether the statement that a decision stands in was matched with that of
// the other.
func (m *Matched) holds(old, now *site.Table, i, j int) bool {
	a, b := around(old, old.Decisions[i].Pos), around(now, now.Decisions[j].Pos)
	return a >= 0 && b >= 0 && m.Statements[b] == a
}

// around is the innermost statement that a place is in, or -1. Statements are in the
// order in which they begin.
func around(t *site.Table, at site.Pos) int {
	i, _ := slices.BinarySearchFunc(t.Statements, at, func(s site.Statement, p site.Pos) int {
		return cmp.Or(s.Span.Start.Compare(p), -1)
	})
	for i--; i >= 0; i-- {
		if at.Before(t.Statements[i].Span.End) {
			return i
		}
	}
	return -1
}

func byMark(t *site.Table) map[uint64][]int {
	out := map[uint64][]int{}
	for i, d := range t.Decisions {
		out[d.Mark] = append(out[d.Mark], i)
	}
	return out
}

// carried tells whether two decisions of equal text can go the same ways. Below the
// level of conditions nothing is known of what they are made of.
func carried(a, b site.Decision) bool {
	known := a.Logic != nil && b.Logic != nil
	return a.Kind == b.Kind && slices.EqualFunc(a.Outcomes, b.Outcomes, func(x, y site.Outcome) bool { return x.Way == y.Way }) &&
		(!known || slices.EqualFunc(a.Logic, b.Logic, func(x, y site.Logic) bool {
			return x.Formula == y.Formula && len(x.Ways) == len(y.Ways) && len(x.Both) == len(y.Both) &&
				slices.EqualFunc(x.Conditions, y.Conditions, func(p, q site.Condition) bool { return p.Text == q.Text })
		}))
}

// element is a function or a statement.
type element struct {
	at       site.Span
	function bool
	index    int
	mark     uint64
}

// groups gives the elements of a table, in order, by the name of the outermost
// function they are in.
func groups(t *site.Table) map[string][]element {
	var all []element
	for i, f := range t.Functions {
		all = append(all, element{f.Span, true, i, f.Mark})
	}
	for i, s := range t.Statements {
		all = append(all, element{s.Span, false, i, s.Mark})
	}
	slices.SortStableFunc(all, func(a, b element) int {
		return cmp.Or(a.at.Start.Compare(b.at.Start), b.at.End.Compare(a.at.End))
	})
	out := map[string][]element{}
	var end site.Pos
	name := ""
	for _, e := range all {
		if e.function && !e.at.Start.Before(end) {
			name, end = t.Functions[e.index].Name, e.at.End
		}
		out[name] = append(out[name], e)
	}
	return out
}

func marks(list []element) []uint64 {
	out := make([]uint64, len(list))
	for i, e := range list {
		out[i] = e.mark
	}
	return out
}

// align gives for each mark of b which one of a it is, or -1: the pairs that are in
// every longest common subsequence of the two. A pair that is only in some would be
// a guess.
func align(a, b []uint64) []int {
	out := fill(len(b))
	if slices.Equal(a, b) {
		for i := range out {
			if b[i] != 0 {
				out[i] = i
			}
		}
		return out
	}
	if len(a)*len(b) > mostPairs || len(a) == 0 || len(b) == 0 {
		return out
	}
	ahead := lengths(a, b)
	behind := lengths(reversed(a), reversed(b))
	n, k := len(a), len(b)
	longest := int(ahead[n*(k+1)+k])
	// at tells for each place in the common subsequence which pair can stand there.
	at := make([][2]int, longest+1)
	several := make([]bool, longest+1)
	for i := range n {
		for j := range k {
			if a[i] != b[j] || a[i] == 0 {
				continue
			}
			place := int(ahead[i*(k+1)+j])
			if place+1+int(behind[(n-1-i)*(k+1)+(k-1-j)]) != longest {
				continue
			}
			if at[place+1] != [2]int{} {
				several[place+1] = true
			}
			at[place+1] = [2]int{i + 1, j + 1}
		}
	}
	for p := 1; p <= longest; p++ {
		if !several[p] && at[p] != [2]int{} {
			out[at[p][1]-1] = at[p][0] - 1
		}
	}
	return out
}

// lengths gives, for each i and j, how long the longest common subsequence of the
// first i of a and the first j of b is.
func lengths(a, b []uint64) []uint16 {
	k := len(b) + 1
	out := make([]uint16, (len(a)+1)*k)
	for i := range a {
		for j := range b {
			if a[i] == b[j] && a[i] != 0 {
				out[(i+1)*k+j+1] = out[i*k+j] + 1
			} else {
				out[(i+1)*k+j+1] = max(out[i*k+j+1], out[(i+1)*k+j])
			}
		}
	}
	return out
}

func reversed(list []uint64) []uint64 {
	out := slices.Clone(list)
	slices.Reverse(out)
	return out
}

// Table gives the table of the newer version, its counts read off the counters of
// the older one. What is not the same in both has no counters: it did not run.
func Table(old, now *site.Table) *site.Table {
	m := Match(old, now)
	out := *now
	out.Unit, out.Counters = old.Unit, old.Counters
	out.Functions = slices.Clone(now.Functions)
	for j := range out.Functions {
		out.Functions[j].Sum = nil
		if i := m.Functions[j]; i >= 0 {
			out.Functions[j].Sum = old.Functions[i].Sum
		}
	}
	out.Statements = slices.Clone(now.Statements)
	for j := range out.Statements {
		out.Statements[j].Sum = nil
		if i := m.Statements[j]; i >= 0 {
			out.Statements[j].Sum = old.Statements[i].Sum
		}
	}
	out.Decisions = make([]site.Decision, len(now.Decisions))
	for j, d := range now.Decisions {
		if i := m.Decisions[j]; i >= 0 {
			out.Decisions[j] = with(d, old.Decisions[i])
		} else {
			out.Decisions[j] = without(d)
		}
	}
	site.Limit(&out, []*site.Table{old, now})
	out.Keep = old.Keep
	return &out
}

// with gives a decision with the counts of another.
func with(d, from site.Decision) site.Decision {
	d.Outcomes, d.Logic = slices.Clone(d.Outcomes), slices.Clone(d.Logic)
	for i := range d.Outcomes {
		d.Outcomes[i].Sum = from.Outcomes[i].Sum
	}
	for i := range min(len(d.Logic), len(from.Logic)) {
		d.Logic[i].Ways, d.Logic[i].Both = from.Logic[i].Ways, from.Logic[i].Both
	}
	return d
}

// without gives a decision without counts.
func without(d site.Decision) site.Decision {
	d.Outcomes, d.Logic = slices.Clone(d.Outcomes), slices.Clone(d.Logic)
	for i := range d.Outcomes {
		d.Outcomes[i].Sum = nil
	}
	for i, l := range d.Logic {
		if l.Ways != nil {
			d.Logic[i].Ways = make([]site.Sum, len(l.Ways))
		} else {
			d.Logic[i].Both = make([]site.Sum, len(l.Both))
		}
	}
	return d
}
