package gaps

import (
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/logic"
)

// conditions gives the conditions of decisions that were reached which were not
// shown to decide the outcome on their own. A single condition is its decision, of
// which the outcomes speak.
func conditions(f *coverage.File) []Gap {
	var out []Gap
	for _, d := range f.Decisions {
		if d.Waived {
			continue
		}
		for _, l := range d.Logic {
			for i, words := range Conditions(l) {
				c := l.Conditions[i]
				if words != "" {
					out = append(out, Gap{Kind: Condition, Path: f.Path, Line: c.Pos.Line, EndLine: c.Pos.Line,
						Function: f.Functions[d.Function].Name, What: c.Text + " " + words, Reached: c.True + c.False})
				}
			}
		}
	}
	return out
}

// Conditions says of each condition of an expression what is missing, and what a
// test needs; nothing of those that were shown, and nothing at all of an expression
// that was never reached or has a single condition.
func Conditions(l coverage.Logic) []string {
	out := make([]string, len(l.Conditions))
	if len(l.Conditions) < 2 || l.Conditions[0].True+l.Conditions[0].False == 0 {
		return out
	}
	proofs := l.Proofs()
	for i, c := range l.Conditions {
		if c.Shown {
			continue
		}
		out[i] = Lacks(c)
		if proofs == nil {
			if c.True > 0 && c.False > 0 {
				out[i] = "not shown to decide the outcome: there are too many ways through the decision to count them"
			}
			continue
		}
		var needs []string
		for _, w := range []int{proofs[i].True, proofs[i].False} {
			if !l.Taken(w) {
				needs = append(needs, Needs(l, w))
			}
		}
		out[i] += ": needs " + strings.Join(needs, "; and ")
	}
	return out
}

// Lacks says what is missing of a condition that was not shown.
func Lacks(c coverage.Condition) string {
	switch {
	case c.True+c.False == 0:
		return "never evaluated"
	case c.True == 0:
		return "never true"
	case c.False == 0:
		return "never false"
	}
	return "never decided the outcome"
}

// Needs says which values a test needs to take a way.
func Needs(l coverage.Logic, way int) string {
	var parts []string
	for i, v := range l.Ways[way].Values {
		text := l.Conditions[i].Text
		if strings.ContainsAny(text, " =<>") {
			text = "(" + text + ")"
		}
		switch v {
		case logic.True:
			parts = append(parts, text+"=true")
		case logic.False:
			parts = append(parts, text+"=false")
		}
	}
	return strings.Join(parts, ", ")
}
