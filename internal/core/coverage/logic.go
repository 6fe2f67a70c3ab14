package coverage

import (
	"thrush/internal/core/logic"
	"thrush/internal/core/site"
)

// Logic is a boolean expression in a decision, with what was seen of it.
type Logic struct {
	Pos        site.Pos
	Formula    *logic.Formula
	Conditions []Condition
	// Ways are the ways through it, and Counts how often each was taken. They are
	// missing where there are too many to be counted one by one.
	Ways   []logic.Way
	Counts []uint64
}

// Condition is an operand of a boolean expression.
type Condition struct {
	Text        string
	Pos         site.Pos
	True, False uint64 // how often it was evaluated to each
	// Shown says that it was seen to decide the result on its own: once true and
	// once false, each time with the other conditions letting it through or not
	// evaluated (masking MC/DC, CAST-6).
	Shown bool
	// Decided tells whether it was seen to decide being true, and being false.
	Decided [2]bool
}

func resolveLogic(l site.Logic, read func(site.Sum) uint64) Logic {
	out := Logic{Pos: l.Pos}
	formula, err := logic.Parse(l.Formula)
	if err != nil {
		return out // a table that was read was checked
	}
	out.Formula = formula
	for _, c := range l.Conditions {
		out.Conditions = append(out.Conditions, Condition{Text: c.Text, Pos: c.Pos})
	}
	if l.Ways == nil {
		for i := range out.Conditions {
			c := &out.Conditions[i]
			c.True, c.False = read(l.Both[4*i]), read(l.Both[4*i+1])
			c.Decided = [2]bool{read(l.Both[4*i+2]) > 0, read(l.Both[4*i+3]) > 0}
			c.Shown = c.Decided[0] && c.Decided[1]
		}
		return out
	}
	out.Ways = formula.Ways(len(l.Ways))
	for i, w := range out.Ways {
		n := read(l.Ways[i])
		out.Counts = append(out.Counts, n)
		for j := range out.Conditions {
			c := &out.Conditions[j]
			switch {
			case w.Values[j] == logic.True:
				c.True += n
				c.Decided[0] = c.Decided[0] || n > 0 && w.Decides[j]
			case w.Values[j] == logic.False:
				c.False += n
				c.Decided[1] = c.Decided[1] || n > 0 && w.Decides[j]
			}
			c.Shown = c.Decided[0] && c.Decided[1]
		}
	}
	return out
}

// Taken tells whether a way was taken.
func (l *Logic) Taken(way int) bool { return l.Counts[way] > 0 }

// Proofs says for each condition which pair of ways shows it, or would.
func (l *Logic) Proofs() []logic.Proof { return logic.Prove(l.Ways, l.Taken) }

// More are ways that would show all conditions, besides those taken.
func (l *Logic) More() []int { return logic.More(l.Ways, l.Taken) }
