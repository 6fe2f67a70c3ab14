// Package weave decides where probes stand in a source file and puts them
// there.
//
// The decision is the same for every language: it is taken on the flow of
// statements, and a Dialect spells it out. A probe is placed only where no
// earlier probe can speak for a statement, that is at the entry of a function,
// of each outcome of a decision, and after a statement in which control may
// have left. Where ways join again, the counts of the ways are added; nothing
// is ever subtracted.
package weave

import (
	"thrush/internal/core/site"
	"thrush/internal/flow"
)

// planner walks a file's flow, hands out counters and collects the table and
// the edits.
type planner struct {
	source []byte
	table  *site.Table
	edits  []Edit
	names  int // labels, flags and paths handed out
	fn     *function
	ways   int // counters of ways handed out; they come after all others
	later  []func(first int)
	// permitted are the permits that are taken.
	permitted map[flow.Permit]bool
}

// function is what is gathered while one function is walked.
type function struct {
	index    int
	open     int
	constant bool
	among    flow.Among
	breaks   map[flow.Node]*exits
	falls    map[*flow.Arm]*fall
	switches map[*flow.Switch]*[]site.Outcome
	moved    map[*flow.Label]int // breaks that no longer name the label
	// left counts the blocks around a place at whose end code runs that may lead elsewhere: a
	// jump out of one does not surely arrive.
	left int
}

// exits gathers the breaks out of a loop or a choice.
type exits struct {
	state state
	label int // where breaks are led, for loops whose leaving is counted after them, or 0
	flag  int // what breaks set instead, in constant functions, or 0
	used  bool
	once  bool // continues leave too
	left  int  // function.left around it
}

// fall is how control falls into an arm from the one before.
type fall struct {
	flag  int // or 0
	state state
}

func (p *planner) branches() bool { return p.table.Level >= site.Branches }

func (p *planner) name() int {
	p.names++
	return p.names
}

func (p *planner) decide(kind string, at site.Pos) (index int) {
	p.table.Decisions = append(p.table.Decisions, site.Decision{Kind: kind, Pos: at, Function: p.fn.index})
	return len(p.table.Decisions) - 1
}

func (p *planner) function(f *flow.Function) {
	outer := p.fn
	p.fn = &function{
		index:    len(p.table.Functions),
		open:     f.Body.Open,
		constant: f.Constant,
		among:    f.Among,
		breaks:   map[flow.Node]*exits{},
		falls:    map[*flow.Arm]*fall{},
		switches: map[*flow.Switch]*[]site.Outcome{},
		moved:    map[*flow.Label]int{},
	}
	if f.Body.Bare {
		p.insert(f.Body.Open, Begin)
		if !f.Body.Silent {
			p.put(Edit{At: f.Body.Open, Action: &Action{Op: Give}, rank: 1})
		}
	}
	if outer == nil || f.Hoisted {
		p.put(Edit{At: f.Body.Open, Action: &Action{Op: Enter, Function: f}})
	}
	index := p.fn.index
	p.table.Functions = append(p.table.Functions, site.Function{Name: f.Name, Span: f.Span, ByEnd: f.ByEnd})
	entry := p.enter(f)
	entry.tell(func(sum site.Sum) { p.table.Functions[index].Sum = sum })
	p.list(f.Body.Nodes, entry)
	if f.Body.Bare {
		p.put(Edit{At: f.Body.Close, Action: &Action{Op: Given}, rank: -1, order: f.Body.Close - f.Body.Open - widest})
	}
	p.fn = outer
}

// enter gives the state in which control comes into a function.
func (p *planner) enter(f *flow.Function) state {
	switch e := f.Body.Entry; {
	case f.Among != flow.NotAmong:
		return state{kind: pending} // each statement is come to by itself
	case e != nil:
		c := p.count()
		p.around(e.From, e.End, &Action{Op: First, Counter: c, Value: e})
		return counted(site.Sum{uint32(c)})
	}
	return p.owe(f.Body.Open)
}

// block weaves a block that control enters in a state.
func (p *planner) block(b *flow.Block, s state) state {
	if b.Bare {
		p.insert(b.Open, Begin)
	}
	if b.Yields {
		p.put(Edit{At: b.Open, Action: &Action{Op: Yield}, rank: 1})
	}
	s = p.within(b.Leaves, func() state { return p.list(b.Nodes, s) })
	if b.Bare {
		p.insert(b.Close, End)
	}
	if b.Leaves && s.kind == known {
		return state{kind: pending}
	}
	return s
}

// within weaves what stands in a block; leaves says that code runs at the block's end that
// may lead elsewhere.
func (p *planner) within(leaves bool, weave func() state) state {
	if !leaves {
		return weave()
	}
	p.fn.left++
	defer func() { p.fn.left-- }()
	return weave()
}

func (p *planner) list(nodes []flow.Node, s state) state {
	for _, n := range nodes {
		s = p.node(n, s)
	}
	return p.settle(s, state{})
}

// arrive makes sure that the count at a statement is known, notes the
// statement and looks into its function literals.
func (p *planner) arrive(h *flow.Stmt, s state) state {
	if h.Counted && (s.kind == pending || s.kind == dead) {
		s = p.owe(h.At)
	}
	if h.Counted {
		index := len(p.table.Statements)
		p.table.Statements = append(p.table.Statements, site.Statement{Span: h.Span, Head: h.Head, Function: p.fn.index})
		s.tell(func(sum site.Sum) { p.table.Statements[index].Sum = sum })
	}
	for _, f := range h.Literals {
		p.function(f)
	}
	among := p.fn.among
	p.fn.among = flow.NotAmong
	for _, b := range h.Inner {
		p.block(b, state{kind: pending})
	}
	p.fn.among = among
	if p.branches() {
		for _, l := range h.Values {
			p.value(l, h.Placeless)
		}
		for _, k := range h.Picks {
			p.pick(k)
		}
	}
	return s
}

func (p *planner) node(n flow.Node, s state) state {
	switch n := n.(type) {
	case *flow.Plain:
		s = p.arrive(&n.Stmt, s)
		if n.Leaves {
			p.settle(s, state{})
			return state{kind: pending}
		}
		return s
	case *flow.Jump:
		return p.jump(n, p.settle(p.arrive(&n.Stmt, s), state{}))
	case *flow.Branch:
		s = p.arrive(&n.Stmt, s)
		if n.CondLeaves || n.Settled || len(n.Literals) > 0 {
			s = p.settle(s, state{})
		}
		after, tried := p.branch(n)
		p.settle(s, tried)
		return after
	case *flow.Loop:
		p.settle(p.arrive(&n.Stmt, s), state{})
		return p.loop(n)
	case *flow.Choice:
		p.settle(p.arrive(&n.Stmt, s), state{})
		return p.choice(n)
	case *flow.Switch:
		p.settle(p.arrive(&n.Stmt, s), state{})
		return p.switched(n)
	case *flow.Case:
		return p.caseOf(n, p.settle(s, state{}))
	case *flow.Try:
		return p.try(n, p.settle(p.arrive(&n.Stmt, s), state{}))
	case *flow.Label:
		return p.label(n, s)
	case *flow.Nested:
		return p.block(n.Body, p.settle(s, state{}))
	}
	panic("weave: unknown kind of statement")
}

// try weaves a block with handlers. Where one begins, nothing is known of how far the block
// came.
func (p *planner) try(t *flow.Try, s state) state {
	after := p.within(t.Finally != nil, func() state {
		after := p.block(t.Body, s)
		if t.Else != nil {
			after = p.block(t.Else, after)
		}
		for _, h := range t.Handlers {
			after = join(after, p.block(h, state{kind: pending}))
		}
		return after
	})
	if t.Finally == nil {
		return after
	}
	if last := p.block(t.Finally, state{kind: pending}); last.kind == dead || after.kind == dead {
		return state{kind: dead}
	}
	return state{kind: pending}
}

func (p *planner) jump(j *flow.Jump, s state) state {
	switch j.Kind {
	case flow.Break:
		x := p.fn.breaks[j.Target]
		x.state = join(x.state, p.arriving(s, x))
		switch {
		case x.flag != 0:
			x.used = true
			p.numbered(j.At, x.flag, Raise)
		case x.label != 0:
			// Past the probe that counts leaving by the condition.
			x.used = true
			if j.Label != nil {
				p.fn.moved[j.Label]++
			}
			p.lead(j, x.label)
		}
	case flow.Continue:
		if x := p.fn.breaks[j.Target]; x != nil && x.once {
			x.state = join(x.state, p.arriving(s, x))
		}
	case flow.Fall:
		f := p.fn.falls[j.Into]
		f.state = join(f.state, s)
		if f.flag != 0 {
			p.numbered(j.At, f.flag, Raise)
		}
	}
	return state{kind: dead}
}

// arriving is the state in which a jump out of a loop or a choice comes to its end.
func (p *planner) arriving(s state, x *exits) state {
	if s.kind == known && p.fn.left > x.left {
		return state{kind: pending}
	}
	return s
}

// lead makes a jump go to a label of ours.
func (p *planner) lead(j *flow.Jump, label int) {
	p.put(Edit{At: j.From, Del: j.End - j.From, Action: &Action{Op: Goto, Name: label}})
}

func (p *planner) label(l *flow.Label, s state) state {
	if len(l.Gotos) > 0 || l.Taken {
		p.settle(s, state{})
		at := l.After
		if l.Breaks+l.Continues > 0 {
			// The label must stay at its loop: gotos get one of their own.
			own := p.name()
			for _, j := range l.Gotos {
				p.lead(j, own)
			}
			at = l.At
			p.numbered(at, own, Label)
		}
		s = p.probe(at)
	}
	s = p.node(l.Inner, s)
	if n := p.fn.moved[l]; n > 0 && n == l.Breaks && len(l.Gotos)+l.Continues == 0 {
		// Nothing names it any more, which some languages do not allow.
		p.put(Edit{At: l.At, Del: l.After - l.At, Action: &Action{Op: Drop}})
	}
	return s
}
