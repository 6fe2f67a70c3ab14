package gate

import (
	"slices"

	"thrush/internal/core/changed"
	"thrush/internal/core/coverage"
)

// Uncovered gives the changed lines of a file that never ran, and the outcomes on them
// that were never taken.
func Uncovered(f *coverage.File, lines *changed.Lines) []Place {
	var out []Place
	if lines == nil {
		return nil
	}
	collect(f, true, lines, func(c *collector, m coverage.Metric, i coverage.Item) {
		if !i.Covered && (m == coverage.Lines || m == coverage.Branches) {
			out = append(out, c.place(m, i))
		}
	})
	slices.SortStableFunc(out, comparePlaces)
	return out
}
