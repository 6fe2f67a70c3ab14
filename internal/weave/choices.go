package weave

import (
	"thrush/internal/core/site"
	"thrush/internal/flow"
)

func (p *planner) choice(c *flow.Choice) state {
	x := &exits{state: state{kind: dead}, left: p.fn.left}
	p.fn.breaks[c] = x
	p.catchFalls(c)
	after := state{kind: dead}
	index := -1
	if p.branches() && len(c.Arms) > 0 {
		index = p.decide(c.Kind, c.Span.Start)
	}
	var outcomes []site.Outcome
	for _, a := range c.Arms {
		s := state{kind: pending}
		if p.branches() {
			outcomes = append(outcomes, site.Outcome{Way: site.Case(a.Label), Pos: a.Pos})
			outcome := len(outcomes) - 1
			f := p.fn.falls[a]
			if f == nil {
				s = p.owe(a.Open)
			} else {
				s = p.placed(a.Open, Action{Op: Lower, Name: f.flag})
			}
			s.tell(func(sum site.Sum) { outcomes[outcome].Sum = sum })
			if f != nil {
				s = join(s, f.state)
			}
		}
		after = join(after, p.block(&a.Block, s))
	}
	if c.Misses {
		missed := state{kind: pending}
		if p.branches() && len(c.Arms) > 0 {
			missed = p.place(c.Close, LastArm)
			outcomes = append(outcomes, site.Outcome{Way: site.Unmatched.Way(), Pos: c.Span.Start, Sum: missed.sum})
		}
		after = join(after, missed)
	}
	if index >= 0 {
		p.table.Decisions[index].Outcomes = outcomes
		p.cases(index, c)
	}
	return join(after, x.state)
}

// catchFalls prepares the arms that others fall into. An arm entered that way
// was not chosen, so a flag tells the two apart.
func (p *planner) catchFalls(c *flow.Choice) {
	for _, a := range c.Arms {
		if !a.FallenInto {
			continue
		}
		f := &fall{state: state{kind: dead}}
		if p.branches() {
			f.flag = p.name()
			p.numbered(p.fn.open, f.flag, Flag)
		}
		p.fn.falls[a] = f
	}
}
