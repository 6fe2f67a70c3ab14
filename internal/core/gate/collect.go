package gate

import (
	"fmt"

	"thrush/internal/core/changed"
	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
)

// collect hands every line, outcome and function in scope to add, with the
// place that keeps a rule from being met if it did not run.
func collect(f *coverage.File, onlyChanged bool, lines *changed.Lines,
	add func(function int, m Metric, covered bool, p Place)) {
	g := groupsOf(f)
	if onlyChanged {
		changedLines(g, lines, add)
	} else {
		for _, l := range f.Lines {
			if l.State != coverage.Waived {
				add(l.Function, Lines, l.Ran, g.place(l.Function, l.Number, gaps.NotRun, true))
			}
		}
	}
	in := func(line int) bool { return !onlyChanged || lines.Has(line) }
	for _, d := range f.Decisions {
		if d.Waived {
			continue
		}
		for i, o := range d.Outcomes {
			if in(d.Pos.Line) || in(o.Pos.Line) {
				add(d.Function, Branches, o.Count > 0, g.place(d.Function, o.Pos.Line, gaps.Says(f, d, i), false))
			}
		}
		for _, l := range d.Logic {
			conditions(g, d, l, in, add)
		}
	}
	for i, fn := range f.Named() {
		if !fn.Waived && (!onlyChanged || lines.HasAny(fn.Span.Start.Line, fn.Span.LastLine())) {
			add(i, Functions, fn.Count > 0, g.place(i, fn.Span.Start.Line, fn.Name+": "+gaps.NotCalled, false))
		}
	}
}

func conditions(g *grouping, d coverage.Decision, l coverage.Logic, in func(line int) bool, add func(int, Metric, bool, Place)) {
	missing := gaps.Conditions(l)
	for i, c := range l.Conditions {
		if !in(c.Pos.Line) && !in(d.Pos.Line) {
			continue
		}
		lacks := gaps.Lacks(c)
		add(d.Function, Conditions, c.True > 0, g.place(d.Function, c.Pos.Line, gaps.Of(c.Text, lacks), false))
		add(d.Function, Conditions, c.False > 0, g.place(d.Function, c.Pos.Line, gaps.Of(c.Text, lacks), false))
		why := missing[i].Says(l)
		if why == "" {
			why = lacks
		}
		add(d.Function, Independence, c.Shown, g.place(d.Function, c.Pos.Line, gaps.Of(c.Text, why), false))
	}
}

// changedLines counts every changed line that carries code. One that continues
// a statement counts through the innermost statement that spans it.
func changedLines(g *grouping, lines *changed.Lines, add func(int, Metric, bool, Place)) {
	f := g.file
	for _, n := range lines.Within(f.LineCount) {
		l, ok := f.SpeaksFor(n)
		if !ok || l.State == coverage.Waived {
			continue
		}
		why := gaps.NotRun
		if l.Number != n {
			why = fmt.Sprintf("continues line %d, %s", l.Number, gaps.NotRun)
		}
		add(l.Function, Lines, l.Ran, g.place(l.Function, n, why, l.Number == n))
	}
}
