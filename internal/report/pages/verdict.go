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
	Shown  []gate.Place // lines that fall short
	More   int
	Short  []gate.Result // results that do not meet it, or all of few
	Fine   int           // results that meet it and are not shown
}

func (b *book) verdict() verdict {
	v := verdict{Met: true}
	judged, unmet := 0, 0
	for i, j := range b.judgings {
		rule := b.opt.Rules[i]
		f := ruleFacts{Verdict: j.Verdict(), Judged: rule.On != gate.Changed || b.opt.Changed != nil, About: "everything"}
		if rule.On == gate.Changed {
			f.About = "changed lines"
		}
		if rule.Each != gate.Whole {
			f.About += ", each " + string(rule.Each)
		}
		level, _ := site.LevelOf(b.reader.Recording.Info.Level)
		if m := rule.Beyond(level); m != "" {
			f.Judged, f.Met = false, true
			f.Note = fmt.Sprintf("not judged: it is about %s, and the recording was made at level %s; record with --level %s", m, level, m.Level())
			v.Rules = append(v.Rules, f)
			continue
		}
		if !f.Judged {
			f.Note = "not judged: nobody said what changed; render with --since main, or --diff FILE"
			v.Rules = append(v.Rules, f)
			continue
		}
		if len(rule.Hold) > 0 && len(rule.Minimums) == 0 && b.baseline == nil {
			f.Judged = false
			f.Note = "not judged: render with --against RECORDING to compare with; thrush gate finds its baseline by itself"
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
	v.None = judged == 0
	v.Headline = b.headline(judged, unmet)
	return v
}

// headline is what a reader learns who reads no further.
func (b *book) headline(judged, unmet int) string {
	switch {
	case b.reader.Recording.Info.Processes == 0:
		return "Nothing was reported to have run"
	case judged == 0:
		return fmt.Sprintf("%s of %s ran", words.Number(uint64(b.totals.Lines.Covered)), words.Plural(b.totals.Lines.Total, "line", "lines"))
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
	f.Shown = f.Lines[:min(mostPlaces, len(f.Lines))]
	f.More = len(f.Lines) - len(f.Shown)
}
