package weave

import (
	"thrush/internal/core/site"
	"thrush/internal/flow"
)

// switched weaves a switch whose ways are marked by labels.
func (p *planner) switched(w *flow.Switch) state {
	x := &exits{state: state{kind: dead}, left: p.fn.left}
	p.fn.breaks[w] = x
	if !p.branches() || w.Settled || w.Labels == 0 {
		p.block(w.Body, state{kind: dead})
		return state{kind: pending}
	}
	index := p.decide("switch", w.Span.Start)
	var outcomes []site.Outcome
	p.fn.switches[w] = &outcomes
	if w.Body.Bare {
		p.insert(w.Body.Open, Begin)
	}
	var missed state
	if w.Misses && w.Declares {
		missed = p.place(w.Body.Open, FirstLabel)
	}
	after := p.within(w.Body.Leaves, func() state { return p.list(w.Body.Nodes, state{kind: dead}) })
	p.permit(w, after)
	if w.Misses {
		if !w.Declares {
			missed = p.marked(w.Body.Close, w.Body.Close, after, LastLabel)
		}
		outcomes = append(outcomes, site.Outcome{Way: site.Unmatched.Way(), Pos: w.Span.Start, Sum: missed.sum})
		after = join(after, missed)
	}
	if w.Body.Bare {
		p.insert(w.Body.Close, End)
	}
	if w.Body.Leaves {
		after = state{kind: pending}
	}
	p.table.Decisions[index].Outcomes = outcomes
	return join(after, x.state)
}

// permit has the compiler not warn of what control runs past between labels, where nothing
// stands but a probe.
func (p *planner) permit(w *flow.Switch, last state) {
	at := w.Permit
	if at == nil || p.permitted[*at] {
		return
	}
	runs := w.Misses && last.kind != dead
	for i, n := range w.Body.Nodes[1:] {
		_, one := w.Body.Nodes[i].(*flow.Case)
		_, other := n.(*flow.Case)
		runs = runs || one && other
	}
	if !runs {
		return
	}
	p.permitted[*at] = true
	a := &Action{Op: Permit, Permit: at}
	p.put(Edit{At: at.From, Action: a, rank: 1})
	p.put(Edit{At: at.End, Action: a, Behind: true, rank: 1})
}

// caseOf weaves a place that a switch may lead to.
func (p *planner) caseOf(c *flow.Case, before state) state {
	outcomes := p.fn.switches[c.Of]
	if outcomes == nil {
		return state{kind: pending}
	}
	chosen := p.marked(c.At, c.After, before, Probe)
	*outcomes = append(*outcomes, site.Outcome{Way: site.Case(c.Label), Pos: c.Pos, Sum: chosen.sum})
	return join(chosen, before)
}

// marked counts, after an offset, how often control comes from the switch itself:
// what comes from the statement before is led past it.
func (p *planner) marked(at, after int, before state, op Op) state {
	if before.kind == dead {
		return p.place(after, op)
	}
	n := p.name()
	if p.fn.constant {
		p.numbered(p.fn.open, n, Flag)
		p.numbered(at, n, Raise)
		lower := Lower
		if at == after {
			lower = LastLower // only the last label is not a statement
		}
		return p.placed(after, Action{Op: lower, Name: n})
	}
	p.numbered(at, n, Goto)
	chosen := p.place(after, op)
	p.numbered(after, n, Label)
	return chosen
}
