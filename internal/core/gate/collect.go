package gate

import (
	"thrush/internal/core/changed"
	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
)

// collector hands over what counts of a file, with the places that keep a rule from being met.
type collector struct {
	file    *coverage.File
	words   *gaps.Words
	stretch map[int]int // of lines that stand together, by line
}

// collect hands every item in scope to add: all of them, or those that changed lines stand for.
func collect(f *coverage.File, onlyChanged bool, lines *changed.Lines, add func(*collector, coverage.Metric, coverage.Item)) {
	c := &collector{f, gaps.Speak(f), stretches(f)}
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
	lack := c.words.Of(m, i)
	p := Place{Path: c.file.Path, Line: i.Line, Metric: m, Way: lack.Way, Why: lack.Text}
	switch fn := c.file.Functions[i.Function]; {
	case lack.Untouched && fn.Count == 0 && !fn.Outside():
		p.group, p.idle = -i.Function-1, fn.Name
	case i.Row:
		p.group = c.stretch[i.Line]
	}
	return p
}
