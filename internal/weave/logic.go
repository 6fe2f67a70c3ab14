package weave

import (
	"cmp"
	"slices"

	"thrush/internal/core/logic"
	"thrush/internal/core/site"
	"thrush/internal/flow"
)

// mostWays is the most ways through a boolean expression that are counted one by
// one. An expression has about as many as it has conditions, unless ands of ors,
// or ors of ands, stand in it.
const mostWays = 512

// value weaves a boolean expression whose value is used: a decision of its own.
// Nothing can be declared for one that is placeless.
func (p *planner) value(l *flow.Logic, placeless bool) {
	index := p.decide(cmp.Or(l.Kind, "value"), l.Pos)
	if p.table.Level >= site.Conditions && len(l.Conditions) > 1 && followed(l, placeless) {
		p.operands(index, l, nil, nil)
		p.later = append(p.later, func(int) {
			d := &p.table.Decisions[index]
			d.Outcomes = outcomesOf(l, &d.Logic[0])
		})
		return
	}
	yes, no := p.ticked(l, true, true)
	p.table.Decisions[index].Outcomes = []site.Outcome{
		{Way: cmp.Or(l.True, site.True).Way(), Pos: l.Pos, Sum: yes.sum},
		{Way: cmp.Or(l.False, site.False).Way(), Pos: l.Pos, Sum: no.sum},
	}
	if followed(l, placeless) {
		p.operands(index, l, yes.sum, no.sum)
	}
}

// followed tells whether each way through a boolean expression can be told from the others:
// where several lead to one operand, something that adds up is needed for it. Of expressions
// that are too long for a recording only the result is told.
func followed(l *flow.Logic, placeless bool) bool {
	return len(l.Conditions) <= logic.Most && (!placeless || !joined(l.Formula.Steps()) && l.Formula.Steps()[0].Ways <= mostWays)
}

// named tells whether a condition of an expression gives a name.
func named(l *flow.Logic) bool {
	return slices.ContainsFunc(l.Conditions, func(c flow.Condition) bool { return c.Names != nil })
}

// joined tells whether several ways lead to one operand.
func joined(steps []logic.Step) bool {
	into := make([]int, len(steps))
	for _, s := range steps {
		for _, e := range []logic.Edge{s.True, s.False} {
			if e.Next >= 0 {
				into[e.Next]++
			}
		}
	}
	return slices.Max(into) > 1
}

// pick weaves an expression that chooses by whether a value is there.
func (p *planner) pick(k *flow.Pick) {
	index := p.decide(k.Kind, k.Pos)
	var ticks [2]*Say
	for i, way := range []site.Code{k.There, k.Missing} {
		if way == "" {
			continue
		}
		c := p.count()
		ticks[i] = &Say{Saying: Tick, Counter: c}
		d := &p.table.Decisions[index]
		d.Outcomes = append(d.Outcomes, site.Outcome{Way: way.Way(), Pos: k.Pos, Sum: site.Sum{uint32(c)}})
	}
	p.around(k.From, k.End, &Action{Op: Pick, True: ticks[0], False: ticks[1]})
}

// ticked counts, in the expression itself, how often it turns out true, if that is
// asked for, and false.
func (p *planner) ticked(l *flow.Logic, onTrue, onFalse bool) (yes, no state) {
	counters := map[bool]int{}
	for _, result := range []bool{true, false} {
		if result && onTrue || !result && onFalse {
			counters[result] = p.count()
		}
	}
	tick := func(e logic.Edge) *Say {
		c, wanted := counters[e.Result]
		if e.Next >= 0 || !wanted {
			return nil
		}
		return &Say{Saying: Tick, Counter: c}
	}
	for i, s := range l.Formula.Steps() {
		if yes, no := tick(s.True), tick(s.False); yes != nil || no != nil {
			p.operand(l, i, yes, no)
		}
	}
	of := func(result bool) state { return counted(site.Sum{uint32(counters[result])}) }
	return of(true), of(false)
}

// outcomesOf are the outcomes of an expression whose ways are counted, or, where
// they are not, of its last conditions.
func outcomesOf(l *flow.Logic, s *site.Logic) []site.Outcome {
	yes, no := site.Outcome{Way: cmp.Or(l.True, site.True).Way(), Pos: l.Pos}, site.Outcome{Way: cmp.Or(l.False, site.False).Way(), Pos: l.Pos}
	if s.Ways != nil {
		for i, w := range l.Formula.Ways(mostWays) {
			if w.Result {
				yes.Sum = append(yes.Sum, s.Ways[i]...)
			} else {
				no.Sum = append(no.Sum, s.Ways[i]...)
			}
		}
		return []site.Outcome{yes, no}
	}
	for i, step := range l.Formula.Steps() {
		for _, side := range []struct {
			edge logic.Edge
			sum  site.Sum
		}{{step.True, s.Both[4*i]}, {step.False, s.Both[4*i+1]}} {
			switch {
			case side.edge.Next >= 0:
			case side.edge.Result:
				yes.Sum = append(yes.Sum, side.sum...)
			default:
				no.Sum = append(no.Sum, side.sum...)
			}
		}
	}
	return []site.Outcome{yes, no}
}

// operand puts what is said for true and for false around a condition of an
// expression; either may be nil.
func (p *planner) operand(l *flow.Logic, i int, onTrue, onFalse *Say) {
	c := l.Conditions[i]
	if n := c.Names; n != nil && onFalse != nil {
		p.around(n.From, n.End, &Action{Op: Unless, Type: n.Type, False: onFalse})
		onFalse = nil
	}
	p.around(c.From, c.End, &Action{Op: Operand, True: onTrue, False: onFalse, Condition: &c})
}

// fresh forgets what an evaluation that was left half-way noted, before the first
// condition.
func (p *planner) fresh(c flow.Condition, name int, op Op) {
	if v := c.Names; v != nil {
		p.around(v.From, v.End, &Action{Op: FreshNamed, Name: name})
		return
	}
	p.around(c.From, c.End, &Action{Op: op, Name: name})
}

// operands weaves the conditions of a decision. A single one went each way as
// often as the decision did, which yes and no tell.
func (p *planner) operands(index int, l *flow.Logic, yes, no site.Sum) {
	if p.table.Level < site.Conditions || l == nil || !followed(l, false) {
		return
	}
	out := site.Logic{Pos: l.Pos, Formula: l.Formula.String()}
	for _, c := range l.Conditions {
		text := c.Text
		if text == "" {
			text = flow.Caption(p.source[c.From:c.End])
		}
		out.Conditions = append(out.Conditions, site.Condition{Text: text, Pos: c.Pos})
	}
	at := len(p.table.Decisions[index].Logic)
	p.table.Decisions[index].Logic = append(p.table.Decisions[index].Logic, out)
	put := func(ways, both []site.Sum) {
		here := &p.table.Decisions[index].Logic[at]
		here.Ways, here.Both = ways, both
	}
	if len(l.Conditions) == 1 {
		if ways := l.Formula.Ways(2); ways[0].Result {
			put([]site.Sum{yes, no}, nil)
		} else {
			put([]site.Sum{no, yes}, nil)
		}
		return
	}
	steps := l.Formula.Steps()
	if steps[0].Ways > mostWays || named(l) && joined(steps) {
		p.note(l, steps, p.wayCounters(4*len(steps), func(sums []site.Sum) { put(nil, sums) }))
		return
	}
	first := p.wayCounters(steps[0].Ways, func(sums []site.Sum) { put(sums, nil) })
	p.follow(l, steps, first)
}

// follow makes each way through an expression count by its own counter. Where
// only one way leads to a condition, what was added up so far is known; else a
// sum of the function's keeps it.
func (p *planner) follow(l *flow.Logic, steps []logic.Step, first int) {
	path := 0
	if joined(steps) {
		path = p.name()
		p.numbered(p.fn.open, path, Sum)
	}
	if path != 0 {
		p.fresh(l.Conditions[0], path, FreshSum)
	}
	so := make([]int, len(steps)) // the sum on the only way to a condition
	say := func(from int, e logic.Edge) *Say {
		switch {
		case path != 0 && e.Next >= 0 && e.Weight == 0:
			return nil
		case path != 0 && e.Next >= 0:
			return &Say{Saying: Add, Name: path, Weight: e.Weight}
		case path != 0:
			return p.wayed(&Say{Saying: TickAt, Name: path, Counter: first + e.Weight, Ways: steps[0].Ways - e.Weight})
		case e.Next >= 0:
			so[e.Next] = so[from] + e.Weight
			return nil
		}
		return p.wayed(&Say{Saying: Tick, Counter: first + so[from] + e.Weight})
	}
	for i, s := range steps {
		p.operand(l, i, say(i, s.True), say(i, s.False))
	}
}

// mostNoted is how many conditions have a bit.
const mostNoted = 64

// note counts each condition of an expression by itself, and notes in bits of the
// function's which of them decide.
func (p *planner) note(l *flow.Logic, steps []logic.Step, first int) {
	bits := p.name()
	p.numbered(p.fn.open, bits, Bits)
	p.fresh(l.Conditions[0], bits, FreshBits)
	for i, s := range steps {
		say := func(e logic.Edge, value bool) *Say {
			n := Noted{Index: i, True: value, Done: e.Next < 0}
			for _, c := range e.Masks {
				if c < mostNoted {
					n.Masks |= 1 << c
				}
			}
			return p.wayed(&Say{Saying: Note, Name: bits, Counter: first, Noted: n})
		}
		p.operand(l, i, say(s.True, true), say(s.False, false))
	}
}

// wayCounters hands out counters for ways, which stand in a row after all others,
// and has their sums put where they belong once their numbers are known.
func (p *planner) wayCounters(n int, put func([]site.Sum)) (first int) {
	first = p.ways
	p.ways += n
	p.later = append(p.later, func(base int) {
		sums := make([]site.Sum, n)
		for i := range sums {
			sums[i] = site.Sum{uint32(base + first + i)}
		}
		put(sums)
	})
	return first
}

// wayed has something said count by a counter of ways, once these have numbers.
func (p *planner) wayed(s *Say) *Say {
	p.later = append(p.later, func(base int) { s.Counter += base })
	return s
}

// number gives the counters of ways their numbers.
func (p *planner) number() {
	base := p.table.Counters
	p.table.Counters += p.ways
	for _, f := range p.later {
		f(base)
	}
}

// cases weaves the conditions of a choice by boolean expressions. A single one
// was true as often as its arm was chosen, and false as often as a later one.
func (p *planner) cases(index int, c *flow.Choice) {
	if p.table.Level < site.Conditions {
		return
	}
	outcomes := p.table.Decisions[index].Outcomes
	for i, a := range c.Arms {
		if a.Cond == nil {
			continue
		}
		var later site.Sum
		for j, o := range outcomes {
			if j > i || j < len(c.Arms) && c.Arms[j].Cond == nil {
				later = append(later, o.Sum...)
			}
		}
		p.operands(index, a.Cond, outcomes[i].Sum, later)
	}
}
