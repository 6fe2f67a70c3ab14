package pages

import (
	"fmt"
	"slices"
	"strings"

	"thrush/internal/core/gate"
	"thrush/internal/core/site"
	"thrush/internal/report/words"
)

// verdict is what the gates say, the unmet first.
type verdict struct {
	Headline string
	Met      bool
	None     bool // no gate was judged
	Rules    []ruleFacts
}

type ruleFacts struct {
	gate.Verdict
	About  string
	Judged bool
	Shown  []gate.Fold // what falls short
	More   int
	Short  []gate.Result // results that do not meet it, or all of few
	Fine   int           // results that meet it and are not shown
	// Unjudged is what is not known of its scope, in words.
	Unjudged []string
	Passed   string // changed code that does not count, in words
}

func (b *book) verdict() verdict {
	v := verdict{Met: true}
	judged, unmet, open := 0, 0, 0
	for i, j := range b.judgings {
		rule := b.opt.Rules[i]
		f := ruleFacts{Verdict: j.Verdict(), Judged: true, About: "everything"}
		if rule.On == gate.Changed {
			f.About = "changed lines"
		}
		if rule.Each != gate.Whole {
			f.About += ", each " + string(rule.Each)
		}
		if why := b.unable(rule, f.Verdict); why != "" {
			f.Verdict = gate.Verdict{Name: rule.Name, On: rule.On, Each: rule.Each, Met: true, Note: why}
			f.Judged = false
			open++
			v.Rules = append(v.Rules, f)
			continue
		}
		judged++
		f.count()
		if !f.Met {
			unmet++
			v.Met = false
		}
		v.Rules = append(v.Rules, f)
	}
	for _, w := range b.reader.Expired() {
		judged, unmet, v.Met = judged+1, unmet+1, false
		v.Rules = append(v.Rules, ruleFacts{Verdict: gate.Expired("thrush.toml", w.Line, strings.Join(w.Where, ", "), w.Reason, w.Until.Format("2006-01-02")),
			Judged: true, About: "waivers"})
	}
	slices.SortStableFunc(v.Rules, func(a, b ruleFacts) int { return a.rank() - b.rank() })
	v.None = judged == 0 || v.Met && open > 0
	v.Headline = b.headline(judged, unmet, open)
	return v
}

// unable says what a page lacks to judge a rule as thrush gate does, or nothing. A page must
// not say more than it knows: that a rule is met although thrush gate, which finds a baseline
// by itself and refuses what is out of date, would end otherwise. That a minimum is not
// reached it knows without a baseline.
func (b *book) unable(rule gate.Rule, v gate.Verdict) string {
	info := b.reader.Recording.Info
	level, _ := site.LevelOf(info.Level)
	switch m := rule.Beyond(level); {
	case len(info.Problems) > 0:
		return "a waiver cannot be honoured"
	case m != "":
		return fmt.Sprintf("it is about %s, and the recording was made at level %s; record with --level %s", m, level, m.Level())
	case rule.On == gate.Changed && b.opt.Changed == nil:
		return "it is about what changed, which was not said: add --since main, or --diff FILE"
	case rule.On != gate.Changed && b.stale > 0:
		return "the sources are not as they were when the recording was made; record again"
	case len(rule.Hold) > 0 && b.baseline == nil && v.Met:
		return "it holds what a baseline had; render with --against RECORDING to compare with, or see thrush gate, which finds its baseline by itself"
	}
	return ""
}

// headline is what a reader learns who reads no further.
func (b *book) headline(judged, unmet, open int) string {
	switch {
	case judged == 0:
		return fmt.Sprintf("%s of %s ran", words.Number(uint64(b.totals.Lines.Covered)), words.Plural(b.totals.Lines.Total, "line", "lines"))
	case open > 0 && unmet == 0:
		return fmt.Sprintf("%d of %d gates are met, %d not judged here", judged, judged+open, open)
	case open > 0:
		return fmt.Sprintf("%d of %d gates not met, %d not judged here", unmet, judged+open, open)
	}
	return words.Headline(judged, unmet)
}

func (f *ruleFacts) rank() int {
	switch {
	case !f.Met:
		return 0
	case f.Judged:
		return 1
	}
	return 2
}

// count chooses what of a verdict to show.
func (f *ruleFacts) count() {
	f.Unjudged, f.Passed = words.Unjudged(f.Verdict), words.PassedOver(f.Verdict)
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
