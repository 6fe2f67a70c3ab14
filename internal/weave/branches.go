package weave

import (
	"thrush/internal/core/site"
	"thrush/internal/flow"
)

// branch weaves an if and what hangs on it. It gives the state after it, and
// how often the condition was worked out to an end.
func (p *planner) branch(b *flow.Branch) (after, tried state) {
	if !p.branches() || b.Settled {
		return p.branchLines(b), state{kind: pending}
	}
	index := p.decide("if", b.CondAt)
	then, yes := p.way(b.Then)
	var no, otherwise state
	switch {
	case b.Else != nil:
		otherwise, no = p.way(b.Else)
	case b.ElseIf != nil:
		otherwise, no = p.elseIf(b)
	case then.kind == dead && b.Listed:
		no = p.place(b.End, After)
		otherwise = no
	default:
		no = p.place(b.End, Else)
		otherwise = no
	}
	p.table.Decisions[index].Outcomes = []site.Outcome{
		{Way: site.True.Way(), Pos: b.CondAt, Sum: yes.sum},
		{Way: site.False.Way(), Pos: b.CondAt, Sum: no.sum},
	}
	p.operands(index, b.Cond, yes.sum, no.sum)
	return join(then, otherwise), join(yes, no)
}

// way weaves one way of a decision, and gives the state after it and at its
// entry.
func (p *planner) way(b *flow.Block) (after, entry state) {
	s := p.owe(b.Open)
	s.tell(func(sum site.Sum) { entry = counted(sum) })
	after = p.block(b, s)
	return after, entry
}

// elseIf weaves the branch that hangs on the else of b. Its condition is worked
// out each time b's was false, so its own outcomes add up to that, unless
// control may leave in between: then a probe stands before it.
func (p *planner) elseIf(b *flow.Branch) (after, no state) {
	inner := b.ElseIf
	if inner.CondLeaves || inner.Settled || len(inner.Literals) > 0 {
		no = p.place(inner.From, Wrap)
	}
	at := len(p.table.Statements)
	p.arrive(&inner.Stmt, counted(nil))
	after, tried := p.branch(inner)
	switch {
	case no.kind == known:
		p.insert(inner.End, End)
	case tried.kind == known:
		no = tried
	default:
		no = p.place(inner.From, Wrap)
		p.insert(inner.End, End)
	}
	p.table.Statements[at].Sum = no.sum
	return after, no
}

// branchLines weaves an if for its statements only.
func (p *planner) branchLines(b *flow.Branch) state {
	then := p.block(b.Then, state{kind: pending})
	switch {
	case b.Else != nil:
		return join(then, p.block(b.Else, state{kind: pending}))
	case b.ElseIf != nil:
		p.arrive(&b.ElseIf.Stmt, p.place(b.ElseIf.From, Wrap))
		after, _ := p.branch(b.ElseIf)
		p.insert(b.ElseIf.End, End)
		return join(then, after)
	}
	return state{kind: pending}
}
