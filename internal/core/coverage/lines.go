package coverage

import (
	"fmt"

	"thrush/internal/core/site"
)

// Lines counts lines of code: those on which a statement or a function begins. A line ran if
// anything that begins on it began to run.
const Lines Metric = "lines"

var lines = Definition{
	Metric: Lines, Level: site.Lines, Badge: "lines ran", Column: "lines_ran", Rank: 9, Share: true, Noun: "ran",
	About: []string{
		"A code line is a line on which a statement or the head of a function begins. It ran if any of what begins there began to run. Lines that only continue a statement, blank lines, comments and closing brackets are not code lines.",
		"The count beside a line is the largest count of what begins on it.",
	},
	Told: func(*File) string { return "%d lines on which a statement or a function begins ran" },
	Items: func(f *File, each func(Item)) {
		for _, l := range f.Lines {
			if l.State != Waived {
				each(Item{Function: l.Function, Line: l.Number, Covered: l.Ran, Row: true})
			}
		}
	},
	// A changed line that continues a statement counts through the innermost statement that spans it.
	Changed: func(f *File, changed []int, each func(Item)) {
		for _, n := range changed {
			l, ok := f.SpeaksFor(n)
			if !ok || l.State == Waived {
				continue
			}
			i := Item{Function: l.Function, Line: n, Covered: l.Ran, Row: l.Number == n}
			if !i.Row {
				i.Lacks = fmt.Sprintf("continues line %d, ", l.Number)
			}
			each(i)
		}
	},
}
