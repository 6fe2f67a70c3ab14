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
	collect(f, true, lines, func(_ int, m Metric, covered bool, p Place) {
		if !covered && (m == Lines || m == Branches) {
			out = append(out, p)
		}
	})
	slices.SortStableFunc(out, comparePlaces)
	return out
}
