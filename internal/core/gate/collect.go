package gate

import (
	"thrush/internal/core/changed"
	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
)

// collector hands over what counts of a file, with the places that keep a rule from being met.
type collector struct {
	file  *coverage.File
	words *gaps.Words
	*grouping
}

// collect hands every item in scope to add: all of them, or those that changed lines stand for.
func collect(f *coverage.File, onlyChanged bool, lines *changed.Lines, add func(*collector, coverage.Metric, coverage.Item)) {
	c := &collector{f, gaps.Speak(f), groupsOf(f)}
	var numbers []int
	if onlyChanged {
		numbers = lines.Within(f.LineCount)
	}
	for _, d := range coverage.Metrics {
		each := func(i coverage.Item) { add(c, d.Metric, i) }
		switch {
		case !onlyChanged:
			d.Items(f, each)
		case d.Changed != nil:
			d.Changed(f, numbers, each)
		default:
			d.Items(f, func(i coverage.Item) {
				if lines.Has(i.Line) || i.Also > 0 && lines.Has(i.Also) || i.EndLine > i.Line && lines.HasAny(i.Line, i.EndLine) {
					each(i)
				}
			})
		}
	}
}

// place is where an item keeps a rule from being met, and why.
func (c *collector) place(m coverage.Metric, i coverage.Item) Place {
	return c.grouping.place(i.Function, i.Line, c.words.Of(m, i), i.Row)
}
