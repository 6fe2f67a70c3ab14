package facts

import (
	"thrush/internal/core/coverage"
	"thrush/internal/core/gate"
	"thrush/internal/recording"
)

// Report is what pipelines are told: the totals, the verdicts, and the changed lines
// that did not run.
type Report struct {
	Info      recording.Info
	ID        string
	Totals    coverage.Totals
	Was       *coverage.Totals // of the baseline, if there is one
	Against   string           // the baseline, in words
	Since     string           // since when lines count as changed
	Changed   bool             // it is known what changed
	Rules     []string         // files that say what is required and are part of what changed
	Verdicts  []gate.Verdict
	Uncovered []gate.Place
	// Text gives a line of source, or nothing if it is not as it was recorded.
	Text func(path string, line int) string
}

// Unmet is how many gates are not met.
func (r *Report) Unmet() (n int) {
	for _, v := range r.Verdicts {
		if !v.Met {
			n++
		}
	}
	return n
}
