package weave

import (
	"thrush/internal/core/site"
	"thrush/internal/syntax/flow"
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
		p.insert(w.Body.Open, Dialect.Begin)
	}
	var missed state
	if w.Misses && w.Declares {
		missed = p.place(w.Body.Open, func(d Dialect, c int) string { return d.LastLabel(d.Probe(c) + "break;") })
	}
	after := p.within(w.Body.Leaves, func() state { return p.list(w.Body.Nodes, state{kind: dead}) })
	p.permit(w, after)
	if w.Misses {
		if !w.Declares {
			missed = p.marked(w.Body.Close, w.Body.Close, after, func(d Dialect, c int) string { return d.LastLabel(d.Probe(c)) })
		}
		outcomes = append(outcomes, site.Outcome{Way: site.Unmatched.Way(), Pos: w.Span.Start, Sum: missed.sum})
		after = join(after, missed)
	}
	if w.Body.Bare {
		p.insert(w.Body.Close, Dialect.Unwrap)
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
	p.edits = append(p.edits,
		edit{at: at.From, rank: 1, say: func(d Dialect) string { before, _ := d.Permit(at); return before }},
		edit{at: at.End, rank: 1, say: func(d Dialect) string { _, after := d.Permit(at); return after }})
}

// caseOf weaves a place that a switch may lead to.
func (p *planner) caseOf(c *flow.Case, before state) state {
	outcomes := p.fn.switches[c.Of]
	if outcomes == nil {
		return state{kind: pending}
	}
	chosen := p.marked(c.At, c.After, before, Dialect.Probe)
	*outcomes = append(*outcomes, site.Outcome{Way: site.Case(c.Label), Pos: c.Pos, Sum: chosen.sum})
	return join(chosen, before)
}

// marked counts, after an offset, how often control comes from the switch itself:
// what comes from the statement before is led past it.
func (p *planner) marked(at, after int, before state, say func(Dialect, int) string) state {
	if before.kind == dead {
		return p.place(after, say)
	}
	n := p.name()
	if p.fn.constant {
		p.numbered(p.fn.open, n, Dialect.Flag)
		p.numbered(at, n, Dialect.Raise)
		return p.place(after, func(d Dialect, c int) string {
			// Only the last label is not a statement.
			if at == after {
				return d.LastLabel(d.Lower(n, c))
			}
			return d.Lower(n, c)
		})
	}
	p.insert(at, func(d Dialect) string { return d.Goto(n) })
	chosen := p.place(after, say)
	p.numbered(after, n, Dialect.Label)
	return chosen
}
