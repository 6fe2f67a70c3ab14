package words

import (
	"fmt"
	"strings"

	"thrush/internal/core/gate"
)

// Headline says how many gates are met, in a few words.
func Headline(judged, unmet int) string {
	switch {
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
	case unmet == 1:
		return fmt.Sprintf("1 of %d gates is not met", judged)
	}
	return fmt.Sprintf("%d of %d gates are not met", unmet, judged)
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
