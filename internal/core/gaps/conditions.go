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
			for i, m := range Conditions(l) {
				c := l.Conditions[i]
				if m.What != "" {
					out = append(out, Gap{Kind: Condition, Path: f.Path, Line: c.Pos.Line, EndLine: c.Pos.Line, Construct: Construct(d.Kind),
						Function: f.Functions[d.Function].Name, What: Of(c.Text, m.What), Needs: m.Values(l), Reached: c.True + c.False})
				}
			}
		}
	}
	return out
}

// Missing is what is missing of a condition.
type Missing struct {
	What  string      // in words; empty if nothing is
	Needs []logic.Way // that a test needs to take
	// Numbers are the numbers of these ways, where ways are counted.
	Numbers []int
}

// Conditions says of each condition of an expression what is missing: nothing of
// those that were shown, and nothing at all of an expression that was never reached
// or has a single condition.
func Conditions(l coverage.Logic) []Missing {
	out := make([]Missing, len(l.Conditions))
	if len(l.Conditions) < 2 || l.Conditions[0].True+l.Conditions[0].False == 0 {
		return out
	}
	proofs := l.Proofs()
	for i, c := range l.Conditions {
		if c.Shown {
			continue
		}
		out[i].What = Lacks(c)
		if proofs == nil {
			for j, v := range []logic.Value{logic.True, logic.False} {
				if !c.Decided[j] {
					out[i].Needs = append(out[i].Needs, l.Formula.Deciding(i, v))
				}
			}
			continue
		}
		for _, w := range []int{proofs[i].True, proofs[i].False} {
			if !l.Taken(w) {
				out[i].Needs, out[i].Numbers = append(out[i].Needs, l.Ways[w]), append(out[i].Numbers, w)
			}
		}
	}
	return out
}

// Values says which values a test needs.
func (m Missing) Values(l coverage.Logic) string {
	var needs []string
	for _, w := range m.Needs {
		needs = append(needs, needed(l, w))
	}
	return strings.Join(needs, "; and ")
}

// Says puts what is missing of a condition and what a test needs together.
func (m Missing) Says(l coverage.Logic) string {
	if needs := m.Values(l); needs != "" {
		return m.What + ": needs " + needs
	}
	return m.What
}

// needed says which values a test needs to take a way.
func needed(l coverage.Logic, way logic.Way) string {
	var parts []string
	for i, v := range way.Values {
		text := l.Conditions[i].Text
		if strings.ContainsAny(strings.ReplaceAll(text, "->", ""), " =<>") {
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
