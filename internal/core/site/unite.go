package site

import (
	"cmp"
	"slices"
)

// functionKey is what makes functions of several tables the same one.
type functionKey struct {
	span Span
	name string
}

func keyOf(f *Function) functionKey {
	if f.ByEnd {
		return functionKey{span: Span{End: f.Span.End}}
	}
	return functionKey{f.Span, f.Name}
}

// placeKey is what makes statements, or decisions, of one function the same one: the
// place, and which of those at that place it is, since a macro may put several there.
type placeKey struct {
	function int
	span     Span
	kind     string
	nth      int
}

// Repeats tells whether a table has a function twice: its file was included twice.
func Repeats(t *Table) bool {
	seen := map[functionKey]bool{}
	for i := range t.Functions {
		key := keyOf(&t.Functions[i])
		key.name = ""
		if seen[key] {
			return true
		}
		seen[key] = true
	}
	return false
}

// Unite makes one table of several for the same text of a file: it was built in
// several ways, or into several programs, each of which has counters of its own. The
// counters of the result are those of the tables, one after another; the count of a
// site is the sum of what they tell of it. Of a site that a partial table lacks nothing can
// be told, whatever the others say.
func Unite(tables []*Table) *Table {
	first := tables[0]
	u := &uniter{out: &Table{
		Path: first.Path, Language: first.Language, Unit: first.Unit, Digest: first.Digest,
		Level: first.Level, Keep: first.Keep, Lines: first.Lines, Waivers: first.Waivers,
	}, functions: map[functionKey]int{}, statements: map[placeKey]int{}, decisions: map[placeKey]int{}}
	begins := map[uint32]bool{}
	var lines []uint32
	for _, t := range tables {
		u.add(t)
		u.out.Partial = u.out.Partial || t.Partial
		lines = append(lines, t.Continued...)
		if len(t.Waivers) > len(u.out.Waivers) {
			u.out.Waivers = t.Waivers
		}
	}
	u.drop(tables)
	t := u.out
	for _, f := range t.Functions {
		begins[uint32(f.Span.Start.Line)] = true
	}
	for _, s := range t.Statements {
		begins[uint32(s.Span.Start.Line)] = true
	}
	slices.Sort(lines)
	t.Continued = slices.DeleteFunc(slices.Compact(lines), func(l uint32) bool { return begins[l] })
	slices.SortStableFunc(t.Statements, func(a, b Statement) int { return a.Span.Start.Compare(b.Span.Start) })
	slices.SortStableFunc(t.Decisions, func(a, b Decision) int { return a.Pos.Compare(b.Pos) })
	return t
}

type uniter struct {
	out        *Table
	functions  map[functionKey]int
	statements map[placeKey]int
	decisions  map[placeKey]int
}

// drop takes out what not all partial tables have.
func (u *uniter) drop(tables []*Table) {
	if !u.out.Partial {
		return
	}
	all := 0
	functions, statements, decisions := map[functionKey]int{}, map[placeKey]int{}, map[placeKey]int{}
	for _, t := range tables {
		if !t.Partial {
			continue
		}
		all++
		one := &uniter{out: &Table{}, functions: map[functionKey]int{}, statements: map[placeKey]int{}, decisions: map[placeKey]int{}}
		one.add(t)
		of := make([]int, len(one.out.Functions)) // which one of the united table each is
		for key, i := range one.functions {
			functions[key]++
			of[i] = u.functions[key]
		}
		for key := range one.statements {
			key.function = of[key.function]
			statements[key]++
		}
		for key := range one.decisions {
			key.function = of[key.function]
			decisions[key]++
		}
	}
	t := u.out
	number := make([]int, len(t.Functions))
	kept := t.Functions[:0:0]
	for i, f := range t.Functions {
		if number[i] = -1; functions[keyOf(&f)] == all {
			number[i] = len(kept)
			kept = append(kept, f)
		}
	}
	keep := func(at map[placeKey]int, count map[placeKey]int) map[int]bool {
		out := map[int]bool{}
		for key, i := range at {
			if count[key] == all && number[key.function] >= 0 {
				out[i] = true
			}
		}
		return out
	}
	left, told := keep(u.statements, statements), keep(u.decisions, decisions)
	t.Functions = kept
	i := -1
	t.Statements = slices.DeleteFunc(t.Statements, func(Statement) bool { i++; return !left[i] })
	i = -1
	t.Decisions = slices.DeleteFunc(t.Decisions, func(Decision) bool { i++; return !told[i] })
	for i := range t.Statements {
		t.Statements[i].Function = number[t.Statements[i].Function]
	}
	for i := range t.Decisions {
		t.Decisions[i].Function = number[t.Decisions[i].Function]
	}
}

// add adds a table, whose counters come after those that there are.
func (u *uniter) add(t *Table) {
	base := uint32(u.out.Counters)
	u.out.Counters += t.Counters
	shift := func(s Sum) Sum {
		out := make(Sum, len(s))
		for i, c := range s {
			out[i] = c + base
		}
		return out
	}
	index := make([]int, len(t.Functions))
	for i, f := range t.Functions {
		key := keyOf(&f)
		at, ok := u.functions[key]
		if !ok {
			at = len(u.out.Functions)
			u.functions[key] = at
			u.out.Functions = append(u.out.Functions, Function{Name: f.Name, Span: f.Span, Mark: f.Mark, ByEnd: f.ByEnd})
		}
		index[i] = at
		if f.Name < u.out.Functions[at].Name {
			u.out.Functions[at].Name = f.Name // whatever the order of the tables
		}
		if u.out.Functions[at].Mark != f.Mark {
			u.out.Functions[at].Mark = 0
		}
		u.out.Functions[at].Sum = append(u.out.Functions[at].Sum, shift(f.Sum)...)
	}
	// Within one table, functions at the same place are the same text, read twice.
	seen := map[placeKey]int{}
	nth := func(function int, k placeKey) placeKey {
		k.function = function
		n := seen[k]
		seen[k]++
		k.function, k.nth = index[function], n
		return k
	}
	for _, s := range t.Statements {
		key := nth(s.Function, placeKey{span: s.Span})
		at, ok := u.statements[key]
		if !ok {
			at = len(u.out.Statements)
			u.statements[key] = at
			u.out.Statements = append(u.out.Statements, Statement{Span: s.Span, Head: s.Head, Function: key.function, Mark: s.Mark})
		}
		if u.out.Statements[at].Mark != s.Mark {
			u.out.Statements[at].Mark = 0
		}
		u.out.Statements[at].Sum = append(u.out.Statements[at].Sum, shift(s.Sum)...)
	}
	for _, d := range t.Decisions {
		u.decision(nth(d.Function, placeKey{span: Span{Start: d.Pos}, kind: d.Kind}), d, shift)
	}
}

func (u *uniter) decision(key placeKey, d Decision, shift func(Sum) Sum) {
	at, ok := u.decisions[key]
	if !ok {
		at = len(u.out.Decisions)
		u.decisions[key] = at
		u.out.Decisions = append(u.out.Decisions, Decision{Kind: d.Kind, Pos: d.Pos, Function: key.function, Mark: d.Mark})
	}
	to := &u.out.Decisions[at]
	if to.Mark != d.Mark {
		to.Mark = 0 // one of them saw more outcomes
	}
	seen := map[Way]int{}
	for _, o := range d.Outcomes {
		seen[o.Way]++
		i := nthOutcome(to.Outcomes, o.Way, seen[o.Way])
		if i < 0 {
			i = len(to.Outcomes)
			to.Outcomes = append(to.Outcomes, Outcome{Way: o.Way, Pos: o.Pos})
		}
		to.Outcomes[i].Sum = append(to.Outcomes[i].Sum, shift(o.Sum)...)
	}
	taken := make([]bool, len(to.Logic))
	for _, l := range d.Logic {
		i := slices.IndexFunc(to.Logic, func(o Logic) bool { return sameLogic(o, l) })
		for i >= 0 && i < len(taken) && taken[i] {
			next := slices.IndexFunc(to.Logic[i+1:], func(o Logic) bool { return sameLogic(o, l) })
			if next < 0 {
				i = -1
			} else {
				i += 1 + next
			}
		}
		if i < 0 || i >= len(taken) {
			to.Logic = append(to.Logic, Logic{Pos: l.Pos, Formula: l.Formula, Conditions: l.Conditions, Ways: shiftAll(l.Ways, shift), Both: shiftAll(l.Both, shift)})
			continue
		}
		taken[i] = true
		join(to.Logic[i].Ways, l.Ways, shift)
		join(to.Logic[i].Both, l.Both, shift)
	}
}

func nthOutcome(outcomes []Outcome, way Way, n int) int {
	for i, o := range outcomes {
		if o.Way == way {
			if n--; n == 0 {
				return i
			}
		}
	}
	return -1
}

func sameLogic(a, b Logic) bool {
	return a.Pos == b.Pos && a.Formula == b.Formula && len(a.Ways) == len(b.Ways) && len(a.Both) == len(b.Both) &&
		slices.EqualFunc(a.Conditions, b.Conditions, func(x, y Condition) bool { return cmp.Compare(x.Text, y.Text) == 0 && x.Pos == y.Pos })
}

func shiftAll(sums []Sum, shift func(Sum) Sum) []Sum {
	if sums == nil {
		return nil
	}
	out := make([]Sum, len(sums))
	for i, s := range sums {
		out[i] = shift(s)
	}
	return out
}

func join(to, from []Sum, shift func(Sum) Sum) {
	for i := range from {
		to[i] = append(to[i], shift(from[i])...)
	}
}

// Limit takes out of a united table what not all of some tables can speak of: an
// outcome that one of them never looked for cannot be said not to have been taken.
func Limit(t *Table, by []*Table) {
	t.Level, t.Keep = by[0].Level, Counts
	for _, o := range by {
		t.Level = min(t.Level, o.Level)
		if o.Keep == Hits {
			t.Keep = Hits
		}
	}
	if t.Level < Branches {
		t.Decisions = nil
	}
	if t.Level < Conditions {
		for i := range t.Decisions {
			t.Decisions[i].Logic = nil
		}
	}
}
