package prose

import (
	"fmt"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gate"
)

// Headline says how the gate stands, in a few words, or nothing if no rule was judged.
func Headline(c gate.Count) string {
	text := rules(c)
	switch {
	case c.Expired == 0:
		return text
	case text == "":
		return Plural(c.Expired, "waiver has ended", "waivers have ended")
	}
	if c.Unmet > 0 {
		return text + ", and " + Plural(c.Expired, "waiver has ended", "waivers have ended")
	}
	return text + ", but " + Plural(c.Expired, "waiver has ended", "waivers have ended")
}

func rules(c gate.Count) string {
	judged, unmet := c.Judged(), c.Unmet
	switch {
	case judged == 0:
		return ""
	case c.Open > 0 && unmet == 0:
		return fmt.Sprintf("%d of %d gates %s met, %d not judged", judged, judged+c.Open, isAre(judged), c.Open)
	case c.Open > 0:
		return fmt.Sprintf("%d of %d gates %s not met, %d not judged", unmet, judged+c.Open, isAre(unmet), c.Open)
	case judged == 1 && unmet == 0:
		return "The gate is met"
	case judged == 1:
		return "The gate is not met"
	case unmet == 0 && judged == 2:
		return "Both gates are met"
	case unmet == 0:
		return fmt.Sprintf("All %d gates are met", judged)
	case unmet == judged && judged == 2:
		return "Neither gate is met"
	case unmet == judged:
		return fmt.Sprintf("None of the %d gates is met", judged)
	}
	return fmt.Sprintf("%d of %d gates %s not met", unmet, judged, isAre(unmet))
}

func isAre(n int) string {
	if n == 1 {
		return "is"
	}
	return "are"
}

// Standing says how a rule stands, in a word or two.
func Standing(v gate.Verdict) string {
	switch {
	case v.Open != "":
		return "not judged"
	case v.Met:
		return "met"
	}
	return "not met"
}

// LooksAt says what a rule looks at.
func LooksAt(v gate.Verdict) string {
	text := "everything"
	if v.On == gate.Changed {
		text = "changed lines"
	}
	if v.Each != gate.Whole {
		text += ", each " + string(v.Each)
	}
	return text
}

// Required says what a result asked for and what was measured, as a sentence without its end.
// It names the scope where the rule is about more than one.
func Required(v gate.Verdict, r gate.Result) string {
	have := coverage.Ratio{Covered: r.Covered, Total: r.Total}
	scope := ""
	if v.Each != gate.Whole {
		scope = r.Scope + " "
	}
	return fmt.Sprintf("%s%s: required %s, measured %s (%s)", scope, r.Metric, Points(r.Required), Percent(have), Of(have))
}

// Expired says of a waiver that it has ended, and what to do.
func Expired(w gate.Expired) string {
	return fmt.Sprintf("the waiver of %s ended on %s (%s); test what it covers and remove it, or give it a new date", strings.Join(w.Where, ", "), w.Until, w.Reason)
}

// mostUnjudged is how many files that could not be judged are named beside a verdict.
const mostUnjudged = 10

// Unjudged says in lines of what a verdict knows nothing.
func Unjudged(v gate.Verdict) []string {
	var out []string
	for _, glob := range v.Nowhere {
		out = append(out, fmt.Sprintf("where = %q matches no source file, so the rule guards nothing there", glob))
	}
	for i, u := range v.Unmeasured {
		if i == mostUnjudged {
			out = append(out, fmt.Sprintf("and %d more files that are unmeasured", len(v.Unmeasured)-i))
			break
		}
		out = append(out, fmt.Sprintf("unmeasured: %s: %s", u.Path, u.Reason))
	}
	return out
}

// PassedOver says which changed code a verdict does not count, or nothing.
func PassedOver(v gate.Verdict) string {
	n := len(v.PassedOver)
	if n == 0 {
		return ""
	}
	text := "not counted, as generated, vendored or skipped: " + strings.Join(v.PassedOver[:min(n, mostUnjudged)], ", ")
	if n > mostUnjudged {
		text += fmt.Sprintf(" and %d more", n-mostUnjudged)
	}
	return text
}

// Moved writes how a percentage moved, in points.
func Moved(hundredths int) string {
	switch {
	case hundredths > 0:
		return fmt.Sprintf("▲ %d.%02d", hundredths/100, hundredths%100)
	case hundredths < 0:
		return fmt.Sprintf("▼ %d.%02d", -hundredths/100, -hundredths%100)
	}
	return "unchanged"
}
