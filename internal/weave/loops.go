package weave

import (
	"thrush/internal/core/site"
	"thrush/internal/flow"
)

func (p *planner) loop(l *flow.Loop) state {
	x := &exits{state: state{kind: dead}, once: l.Once, left: p.fn.left}
	p.fn.breaks[l] = x
	switch {
	case l.Once:
		return join(p.block(l.Body, state{kind: pending}), x.state)
	case l.Endless:
		p.block(l.Body, state{kind: pending})
		if l.Else != nil {
			p.block(l.Else, state{kind: dead})
		}
		return x.state
	case !p.branches() || l.Settled:
		p.block(l.Body, state{kind: pending})
		if l.Else != nil {
			p.block(l.Else, state{kind: pending})
		}
		return state{kind: pending}
	}
	index := p.decide("loop", l.Span.Start)
	way, in, out := site.Entered, state{}, state{}
	after := state{}
	switch {
	case l.Clause:
		_, in = p.way(l.Body)
		after, out = p.clause(l)
	case l.Late:
		p.block(l.Body, state{kind: pending})
		way = site.EnteredAgain
		in, out = p.ticked(l.Cond, true, true)
	case l.Tested:
		_, in = p.way(l.Body)
		_, out = p.ticked(l.Cond, false, true)
	default:
		in, out = p.watched(l, x)
	}
	p.table.Decisions[index].Outcomes = []site.Outcome{
		{Way: way.Way(), Pos: l.Span.Start, Sum: in.sum},
		{Way: site.Left.Way(), Pos: l.Span.Start, Sum: out.sum},
	}
	p.operands(index, l.Cond, in.sum, out.sum)
	if l.Clause {
		return join(after, x.state)
	}
	return join(out, x.state)
}

// clause weaves what runs when the condition ends a loop.
func (p *planner) clause(l *flow.Loop) (after, entry state) {
	if l.Else != nil {
		return p.way(l.Else)
	}
	entry = p.place(l.End, Else)
	return entry, entry
}

// watched weaves a loop whose leaving is counted after it, past which breaks lead.
func (p *planner) watched(l *flow.Loop, x *exits) (in, out state) {
	if p.fn.constant {
		x.flag = p.name()
		p.numbered(p.fn.open, x.flag, Flag)
	} else {
		x.label = p.name()
	}
	_, in = p.way(l.Body)
	switch {
	case x.flag != 0 && x.used:
		return in, p.placed(l.End, Action{Op: Lower, Name: x.flag})
	case x.used:
		out = p.place(l.End, After)
		p.numbered(l.End, x.label, Label)
		return in, out
	}
	return in, p.place(l.End, After)
}
