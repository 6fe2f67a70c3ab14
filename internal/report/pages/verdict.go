package pages

import (
	"fmt"
	"slices"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gate"
	"thrush/internal/report/prose"
)

// verdict is what the gates say, the unmet first.
type verdict struct {
	Headline string
	Met      bool
	None     bool // not all can be said to be met, though none is unmet
	Rules    []ruleFacts
	Expired  []expiredFacts
}

type ruleFacts struct {
	gate.Verdict
	State, About string
	Shown        []gate.Fold // what falls short
	More         int
	Short        []gate.Result // results that do not meet it, or all of few
	Fine         int           // results that meet it and are not shown
	// Unjudged is what is not known of its scope, in words.
	Unjudged []string
	Passed   string // changed code that does not count, in words
}

// expiredFacts is a waiver that has ended.
type expiredFacts struct {
	gate.Expired
	Says string
}

// verdict draws what the judge says; it decides nothing.
func (b *book) verdict() verdict {
	report := b.opt.Judge.Report()
	count := report.Count()
	v := verdict{Met: !count.Fails(), Headline: prose.Headline(count)}
	v.None = v.Met && (count.Open > 0 || count.Judged() == 0)
	if v.Headline == "" {
		v.Headline = fmt.Sprintf("%s of %s ran", prose.Number(uint64(b.totals.Of(coverage.Lines).Covered)), prose.Plural(b.totals.Of(coverage.Lines).Total, "line", "lines"))
	}
	for _, one := range report.Verdicts {
		f := ruleFacts{Verdict: one, State: prose.Standing(one), About: prose.LooksAt(one)}
		f.count()
		v.Rules = append(v.Rules, f)
	}
	for _, w := range report.Expired {
		v.Expired = append(v.Expired, expiredFacts{w, prose.Expired(w)})
	}
	slices.SortStableFunc(v.Rules, func(a, b ruleFacts) int { return a.rank() - b.rank() })
	return v
}

func (f *ruleFacts) rank() int {
	switch {
	case f.Open != "":
		return 2
	case f.Met:
		return 1
	}
	return 0
}

// count chooses what of a verdict to show.
func (f *ruleFacts) count() {
	f.Unjudged, f.Passed = prose.Unjudged(f.Verdict), prose.PassedOver(f.Verdict)
	for _, r := range f.Results {
		if r.Met && (len(f.Results) > 3 || !f.Met) {
			f.Fine++
			continue
		}
		f.Short = append(f.Short, r)
	}
	if len(f.Short) > mostPlaces {
		f.Fine, f.Short = 0, f.Short[:mostPlaces]
	}
	folds := gate.Folded(f.Lines)
	f.Shown = folds[:min(mostPlaces, len(folds))]
	f.More = len(folds) - len(f.Shown)
}
