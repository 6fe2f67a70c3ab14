package term

import (
	"fmt"
	"math"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gate"
	"thrush/internal/judge"
	"thrush/internal/report/prose"
)

// mostPlaces is how many places of a rule are listed before the rest is summed up.
const mostPlaces = 20

// mostMet is how many results of a rule that is met are worth listing.
const mostMet = 5

// Gate draws verdicts: first those that are not met, with the lines that fall
// short and their source.
func (o *Out) Gate(r *judge.Report) {
	for _, met := range []bool{false, true} {
		for _, v := range r.Verdicts {
			if v.Met == met {
				o.verdict(v, r.Text)
			}
		}
		if !met {
			o.expired(r.Expired)
		}
	}
	style := Good
	count := r.Count()
	if count.Fails() {
		style = Bad
	}
	fmt.Fprintln(o, style(prose.Headline(count)))
}

// expired draws waivers that have ended.
func (o *Out) expired(list []gate.Expired) {
	for _, w := range list {
		fmt.Fprintf(o, "%s  %s\n         %s\n", Bad("  ENDED"), Strong(prose.Safe(fmt.Sprintf("%s:%d", w.Path, w.Line))), prose.Safe(prose.Expired(w)))
	}
}

func (o *Out) verdict(v gate.Verdict, source func(path string, line int) string) {
	word := Good("    met")
	if !v.Met {
		word = Bad("NOT MET")
	}
	if v.Open != "" {
		word = Half("   open")
	}
	fmt.Fprintf(o, "%s  %s  %s\n", word, Strong(prose.Safe(v.Name)), Faint(prose.LooksAt(v)))
	if v.Open != "" {
		fmt.Fprintf(o, "         %s\n", prose.Safe("not judged: "+v.Open))
		return
	}
	if v.Against != "" {
		fmt.Fprintf(o, "         %s\n", Faint(prose.Safe("against "+v.Against)))
	}
	if v.Note != "" {
		fmt.Fprintf(o, "         %s\n", prose.Safe(v.Note))
	}
	for _, text := range prose.Unjudged(v) {
		fmt.Fprintf(o, "         %s\n", Half(prose.Safe(text)))
	}
	if text := prose.PassedOver(v); text != "" {
		fmt.Fprintf(o, "         %s\n", Faint(prose.Safe(text)))
	}
	listed := listed(v)
	wide := 0
	for _, r := range listed {
		wide = max(wide, Width(scope(r, v.Each)))
	}
	for _, r := range listed {
		o.result(r, Pad(scope(r, v.Each), wide))
	}
	if v.Met && len(v.Results) > mostMet {
		fmt.Fprintf(o, "         %s\n", Faint("met by each of "+prose.Plural(len(v.Results), "result", "results")))
	}
	folds := gate.Folded(v.Lines)
	for i, p := range folds {
		if i == mostPlaces && !o.All {
			fmt.Fprintf(o, "         %s\n", Faint(fmt.Sprintf("and %d more: --all lists them", len(folds)-i)))
			break
		}
		place := fmt.Sprintf("%s:%d", prose.Safe(p.Path), p.Line)
		if p.End > p.Line {
			place += fmt.Sprintf("-%d", p.End)
		}
		text := strings.TrimSpace(prose.Expand(prose.Safe(source(p.Path, p.Line))))
		fmt.Fprintf(o, "         %s  %s\n", Strong(place), Half(prose.Safe(prose.Brief(p.Why, text))))
		if text != "" {
			fmt.Fprintf(o, "             %s\n", Cut(text, o.Width-13))
		}
	}
}

// listed are the results that are worth a line: what is short, and what is met unless it is
// one of many.
func listed(v gate.Verdict) (out []gate.Result) {
	for _, r := range v.Results {
		if v.Met && len(v.Results) <= mostMet || !v.Met && (!r.Met || v.Each == gate.Whole) {
			out = append(out, r)
		}
	}
	return out
}

// scope is what a result is about, if its rule is about more than one.
func scope(r gate.Result, each gate.Each) string {
	if each == gate.Whole {
		return ""
	}
	return prose.Safe(r.Scope) + "  "
}

func (o *Out) result(r gate.Result, scope string) {
	have := coverage.Ratio{Covered: r.Covered, Total: r.Total}
	short := ""
	if !r.Met {
		need := int(math.Ceil(r.Required*float64(r.Total)/100 - 1e-9))
		short = Bad(fmt.Sprintf("%d short", max(1, need-r.Covered)))
	}
	o.line("         %s%-9s  required %7s  measured %8s  %s  %s", scope, r.Metric, prose.Points(r.Required), prose.Percent(have), prose.Of(have), short)
}

// ExplainGate draws verdicts with how each came about: where the rule stands and what it
// asks for, what it looked at, and the arithmetic.
func (o *Out) ExplainGate(report *judge.Report, rules [][2]string) {
	defer o.expired(report.Expired)
	for i, v := range report.Verdicts {
		if i > 0 {
			fmt.Fprintln(o)
		}
		o.verdict(v, report.Text)
		o.line("         %-9s %s", "rule", prose.Safe(rules[i][1]))
		o.line("         %-9s %s", "from", prose.Safe(rules[i][0]))
		looked := prose.Plural(v.Looked.Files, "measured file", "measured files")
		if v.On == gate.Changed {
			looked += fmt.Sprintf(" with %s, %d of which carry code", prose.Plural(v.Looked.Changed, "changed line", "changed lines"), v.Looked.Measured)
		}
		o.line("         %-9s %s", "looked at", looked)
		for _, r := range v.Results[:min(len(v.Results), mostPlaces)] {
			o.line("         %-9s %s", "reckoned", reckoned(r))
		}
		if len(v.Results) > mostPlaces {
			o.line("         %-9s and %d more", "", len(v.Results)-mostPlaces)
		}
	}
}

// reckoned writes out the arithmetic of a result.
func reckoned(r gate.Result) string {
	text := fmt.Sprintf("%s %s: %d of %d is %s", prose.Safe(r.Scope), r.Metric, r.Covered, r.Total, prose.Percent(coverage.Ratio{Covered: r.Covered, Total: r.Total}))
	if r.Total == 0 {
		return fmt.Sprintf("%s %s: there is none, so nothing is missing", prose.Safe(r.Scope), r.Metric)
	}
	need := int(math.Ceil(r.Required*float64(r.Total)/100 - 1e-9))
	return text + fmt.Sprintf("; %s of %d asks for %d", prose.Points(r.Required), r.Total, need)
}
