// Package gaps ranks what did not run by how much a test of it would add, and
// what ran by how often it did.
package gaps

import (
	"cmp"
	"slices"
	"sort"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
)

// Kind says what a gap is.
type Kind string

// The kinds of gaps, in the order in which they are best looked at: a test of a
// function that was never called also closes the gaps inside it.
const (
	Function Kind = "function" // not called
	Stretch  Kind = "stretch"  // lines in a function that was called, not reached
	Outcome  Kind = "outcome"  // a decision that was reached never went this way
	// Condition is an operand of a decision that was reached: it never went both
	// ways, or never decided the outcome on its own.
	Condition Kind = "condition"
)

// Gap is something that did not run and is worth a test.
type Gap struct {
	Kind     Kind   `json:"kind"`
	Path     string `json:"path"`
	Line     int    `json:"line"`
	EndLine  int    `json:"end_line"`
	Function string `json:"function"`
	// Construct is what decides, in a word, such as "if"; empty of functions and stretches.
	Construct string `json:"construct,omitempty"`
	What      string `json:"what"` // in words
	// Way is the code of the way that was not gone, of an outcome; it stays the same however What
	// words it.
	Way      site.Code `json:"way,omitempty"`
	Needs    string    `json:"needs,omitempty"` // of a condition: the values a test needs
	Lines    int       `json:"lines"`           // lines of code that would run
	Branches int       `json:"branches"`        // outcomes that would be taken, at the least
	Reached  uint64    `json:"reached"`         // how often control came as far as the decision before it
	// Operands is how many operands a decision has, where that is known.
	Operands int `json:"-"`
}

func operands(d coverage.Decision) (n int) {
	for _, l := range d.Logic {
		n = max(n, len(l.Conditions))
	}
	return n
}

// weight orders gaps: lines and outcomes won, more for what control nearly
// reached, since that takes the smaller test.
func (g Gap) weight() int { return 2*g.Lines + g.Branches }

// Find gives the gaps of the files, the most worth first.
func Find(files []*coverage.File) []Gap {
	var out []Gap
	for _, f := range files {
		out = append(out, In(f)...)
	}
	Rank(out)
	return out
}

// Rank sorts gaps, the most worth first, and what is aside of the product last.
func Rank(list []Gap) {
	aside := map[string]int{}
	for _, g := range list {
		if Aside(g.Path) != "" {
			aside[g.Path] = 1
		}
	}
	slices.SortStableFunc(list, func(a, b Gap) int {
		return cmp.Or(aside[a.Path]-aside[b.Path], cmp.Compare(b.weight(), a.weight()), strings.Compare(a.Path, b.Path), cmp.Compare(a.Line, b.Line))
	})
}

// In gives the gaps of one file: functions, then outcomes, then stretches.
func In(f *coverage.File) []Gap {
	var out []Gap
	inside := idle(f)
	counts := make(map[site.Pos]uint64, len(f.Statements))
	for _, s := range f.Statements {
		counts[s.Span.Start] = s.Count
	}
	for i, fn := range f.Named() {
		if fn.Count == 0 && !fn.Waived && !inside[i] {
			lines, branches := within(f, fn.Span.Start.Line, fn.Span.LastLine())
			out = append(out, Gap{
				Kind: Function, Path: f.Path, Line: fn.Span.Start.Line, EndLine: fn.Span.LastLine(),
				Function: fn.Name, What: NotCalled, Lines: lines, Branches: branches,
			})
		}
	}
	for _, d := range f.Decisions {
		reached, ok := counts[d.Pos]
		if !ok {
			l, _ := f.At(d.Pos.Line)
			reached = l.Count
		}
		if d.Waived || reached == 0 {
			continue
		}
		for i, o := range d.Outcomes {
			if o.Count > 0 {
				continue
			}
			g := Gap{
				Kind: Outcome, Path: f.Path, Line: o.Pos.Line, EndLine: o.Pos.Line,
				Function: f.Functions[d.Function].Name, Construct: Construct(d.Kind), What: untaken(d, i), Way: o.Code, Branches: 1, Reached: reached,
				Operands: operands(d),
			}
			g.EndLine, g.Lines = follow(f, d, i)
			out = append(out, g)
		}
	}
	out = append(out, stretches(f, out)...)
	return append(out, conditions(f)...)
}

// idle tells for each function whether it stands inside another that was never
// called: then that one is the gap.
func idle(f *coverage.File) []bool {
	inside := make([]bool, len(f.Functions))
	order := make([]int, len(f.Functions))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return f.Functions[a].Span.Start.Compare(f.Functions[b].Span.Start) })
	var end site.Pos // of the functions never called so far, the furthest
	for _, i := range order {
		fn := f.Functions[i]
		inside[i] = fn.Span.Start.Before(end)
		if fn.Count == 0 && end.Before(fn.Span.End) {
			end = fn.Span.End
		}
	}
	return inside
}

// within counts the lines and outcomes that did not run between two lines.
func within(f *coverage.File, from, to int) (lines, branches int) {
	for _, l := range f.From(from) {
		if l.Number > to {
			break
		}
		if l.State == coverage.None {
			lines++
		}
	}
	first := sort.Search(len(f.Decisions), func(i int) bool { return f.Decisions[i].Pos.Line >= from })
	for _, d := range f.Decisions[first:] {
		if d.Pos.Line > to {
			break
		}
		if d.Waived {
			continue
		}
		for _, o := range d.Outcomes {
			if o.Count == 0 {
				branches++
			}
		}
	}
	return lines, branches
}

// follow gives the last line and the number of the lines that did not run
// because a decision did not go one way: those that come next without a line
// between that ran.
func follow(f *coverage.File, d coverage.Decision, outcome int) (end, lines int) {
	from := d.Outcomes[outcome].Pos.Line
	end = from
	if !opens(d, outcome) {
		return end, 0
	}
	for _, l := range f.From(from + 1) {
		if l.State != coverage.None || l.Function != d.Function {
			break
		}
		if outcome+1 < len(d.Outcomes) {
			if next := d.Outcomes[outcome+1].Pos; next != d.Pos && next.Line <= l.Number {
				break
			}
		}
		lines++
		end = l.Number
	}
	return end, lines
}

// opens tells whether an outcome leads straight to the lines below it.
func opens(d coverage.Decision, outcome int) bool {
	switch d.Outcomes[outcome].Code {
	case site.False, site.Unmatched, site.Left:
		return false
	}
	return true
}

// stretches gives the lines that did not run in functions that did and that no
// other gap has in it.
func stretches(f *coverage.File, known []Gap) []Gap {
	known = slices.Clone(known)
	slices.SortStableFunc(known, func(a, b Gap) int { return cmp.Compare(a.Line, b.Line) })
	taken := 0 // the last line of those known that began above
	var out []Gap
	var last *Gap
	for _, l := range f.Lines {
		for len(known) > 0 && known[0].Line <= l.Number {
			taken, known = max(taken, known[0].EndLine), known[1:]
		}
		if l.State != coverage.None || l.Number <= taken {
			last = nil
			continue
		}
		if last == nil || last.Function != f.Functions[l.Function].Name {
			out = append(out, Gap{Kind: Stretch, Path: f.Path, Line: l.Number, Function: f.Functions[l.Function].Name, What: NotReached})
			last = &out[len(out)-1]
		}
		last.EndLine = l.Number
		last.Lines++
	}
	return out
}

// Hot is a line that ran.
type Hot struct {
	Path     string `json:"path"`
	Line     int    `json:"line"`
	Function string `json:"function"`
	Count    uint64 `json:"count"`
}

// Hottest gives the functions' most run lines, the most run first: one line a
// function, its hottest.
func Hottest(files []*coverage.File) []Hot {
	var out []Hot
	for _, f := range files {
		best := map[int]coverage.Line{}
		for _, l := range f.Lines {
			if b, ok := best[l.Function]; l.Ran && (!ok || l.Count > b.Count) {
				best[l.Function] = l
			}
		}
		for fn, l := range best {
			out = append(out, Hot{f.Path, l.Number, f.Functions[fn].Name, l.Count})
		}
	}
	slices.SortFunc(out, func(a, b Hot) int {
		return cmp.Or(cmp.Compare(b.Count, a.Count), strings.Compare(a.Path, b.Path), cmp.Compare(a.Line, b.Line))
	})
	return out
}

// Reached tells whether control came as far as deciding. Of a decision with a single
// outcome, which is counted only when it is taken, the line it stands on tells.
func Reached(f *coverage.File, d coverage.Decision) bool {
	if len(d.Outcomes) == 1 {
		l, _ := f.At(d.Pos.Line)
		return l.Ran
	}
	for _, o := range d.Outcomes {
		if o.Count > 0 {
			return true
		}
	}
	return false
}
