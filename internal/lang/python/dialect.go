package python

import (
	"fmt"

	"thrush/internal/core/site"
	"thrush/internal/weave"
)

// Dialect spells orders.
type Dialect struct{}

var _ weave.Dialect = Dialect{}

// Spell implements weave.Dialect.
func (Dialect) Spell(a *weave.Action) (order, behind string) {
	switch a.Op {
	case weave.Probe, weave.Wrap, weave.Lower: // counts before the statement or expression; what hangs on an else is a statement of its own
		return fmt.Sprintf("before %d", a.Counter), ""
	case weave.After: // counts after the statement
		return fmt.Sprintf("after %d", a.Counter), ""
	case weave.Else: // gives the statement an else clause that counts
		return fmt.Sprintf("else %d", a.Counter), ""
	case weave.LastArm: // gives the statement a last case that counts
		return fmt.Sprintf("default %d", a.Counter), ""
	case weave.Operand: // tests an expression, or passes it on and looks at its truth where that has no effect
		word := "test"
		if a.Condition.Kept {
			word = "pass"
		}
		return word + " " + say(a.True) + " " + say(a.False), ""
	case weave.FreshSum, weave.FreshBits:
		return fmt.Sprintf("fresh %d", a.Name), ""
	}
	return "", ""
}

func say(s *weave.Say) string {
	switch {
	case s == nil:
		return "-"
	case s.Saying == weave.Add:
		return fmt.Sprintf("add:%d:%d", s.Name, s.Weight)
	case s.Saying == weave.TickAt:
		return fmt.Sprintf("at:%d:%d:%d", s.Name, s.Counter, s.Ways)
	case s.Saying == weave.Note:
		value, done := 1, 0
		if s.True {
			value = 0
		}
		if s.Done {
			done = 1
		}
		return fmt.Sprintf("note:%d:%d:%d:%d:%d:%d", s.Name, s.Counter, s.Index, value, s.Masks, done)
	}
	return fmt.Sprintf("tick:%d", s.Counter)
}

// Resume implements weave.Dialect.
func (Dialect) Resume(int, int) string { return "" }

// Frame implements weave.Dialect.
func (Dialect) Frame(*site.Table) []weave.Insertion { return nil }

// Spell gives the orders of a plan: a line with the number of counters and 1 if they only
// note; then a line each, of a statement "s" with its line and column, or of an expression
// "e" with those of its beginning and its end, and what is to be done there.
func Spell(p *weave.Plan, f *File) []byte {
	hits := 0
	if p.Table.Keep == site.Hits {
		hits = 1
	}
	out := fmt.Appendf(nil, "%d %d\n", p.Table.Counters, hits)
	p.Each(Dialect{}, func(at int, order string) {
		a := f.Anchors[at]
		if a.Expression {
			out = fmt.Appendf(out, "e %d %d %d %d %s\n", a.Line, a.Column, a.ToLine, a.ToColumn, order)
		} else {
			out = fmt.Appendf(out, "s %d %d %s\n", a.Line, a.Column, order)
		}
	})
	return out
}
