package weave

import "thrush/internal/core/site"

// maxTerms is the longest sum a site may have before a counter of its own is
// cheaper to keep than the sum.
const maxTerms = 8

// state is what is known about how often control reaches a place.
type state struct {
	kind stateKind
	sum  site.Sum
	debt *debt
}

type stateKind uint8

const (
	pending stateKind = iota // not known: the next statement needs a counter
	known                    // sum tells
	dead                     // control does not get here
	owed                     // not known yet: debt says what waits for it
)

// debt is a count that a counter may not be needed for: if control goes on, and
// cannot leave, to a decision whose outcomes are counted, they add up to it.
type debt struct {
	at   int // where the counter stands if one is needed after all
	fill []func(site.Sum)
}

func counted(s site.Sum) state { return state{kind: known, sum: s} }

// join is the state where two ways meet.
func join(a, b state) state {
	switch {
	case a.kind == dead:
		return b
	case b.kind == dead:
		return a
	case a.kind == pending || b.kind == pending || len(a.sum)+len(b.sum) > maxTerms:
		return state{kind: pending}
	}
	sum := make(site.Sum, 0, len(a.sum)+len(b.sum))
	return counted(append(append(sum, a.sum...), b.sum...))
}

// owe puts off placing a counter.
func (p *planner) owe(at int) state { return state{kind: owed, debt: &debt{at: at}} }

// tell hands a sum to where it is needed, now or once it is known.
func (s state) tell(to func(site.Sum)) {
	if s.kind == owed {
		s.debt.fill = append(s.debt.fill, to)
		return
	}
	to(s.sum)
}

// settle makes an owed count known, by what its outcomes add up to or by a
// counter.
func (p *planner) settle(s, outcomes state) state {
	if s.kind != owed {
		return s
	}
	if outcomes.kind != known {
		outcomes = p.probe(s.debt.at)
	}
	for _, to := range s.debt.fill {
		to(outcomes.sum)
	}
	return outcomes
}
