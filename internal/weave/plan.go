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
	"thrush/internal/syntax/flow"
)

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

// planner walks a file's flow, hands out counters and collects the table and
// the edits.
type planner struct {
	source []byte
	table  *site.Table
	edits  []edit
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
}

// exits gathers the breaks out of a loop or a choice.
type exits struct {
	state state
	label int // where breaks are led, for loops whose leaving is counted after them, or 0
	flag  int // what breaks set instead, in constant functions, or 0
	used  bool
	once  bool // continues leave too
}

// fall is how control falls into an arm from the one before.
type fall struct {
	flag  int // or 0
	state state
}

// edit replaces bytes of the source by what a dialect says.
type edit struct {
	at, del int
	rank    int                  // at one offset, expressions end, then come statements, then expressions begin
	order   int                  // of expressions, the inner end first and begin last
	say     func(Dialect) string // nil says nothing
}

func (p *planner) insert(at int, say func(Dialect) string) {
	p.edits = append(p.edits, edit{at: at, say: p.inFunction(say)})
}

// inFunction has what is said fit the function at hand.
func (p *planner) inFunction(say func(Dialect) string) func(Dialect) string {
	if say == nil {
		return nil
	}
	constant, among := p.fn.constant, p.fn.among
	return func(d Dialect) string {
		if constant {
			d = d.Constant()
		}
		if among != flow.NotAmong {
			d = d.Among(among)
		}
		return say(d)
	}
}

// numbered inserts what a dialect says of a counter, a label or a flag.
func (p *planner) numbered(at, n int, say func(Dialect, int) string) {
	p.insert(at, func(d Dialect) string { return say(d, n) })
}

// place puts a new counter at an offset and gives the state from there on.
func (p *planner) place(at int, say func(Dialect, int) string) state {
	c := p.table.Counters
	p.table.Counters++
	p.numbered(at, c, say)
	return counted(site.Sum{uint32(c)})
}

func (p *planner) probe(at int) state { return p.place(at, Dialect.Probe) }

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

func (p *planner) branches() bool { return p.table.Level >= site.Branches }

func (p *planner) name() int {
	p.names++
	return p.names
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
		p.insert(f.Body.Open, Dialect.Begin)
		if !f.Body.Silent {
			p.edits = append(p.edits, edit{at: f.Body.Open, rank: 1, order: 0, say: Dialect.Give})
		}
	}
	if outer == nil || f.Hoisted {
		p.insert(f.Body.Open, func(d Dialect) string { return d.Enter(f) })
	}
	index := p.fn.index
	p.table.Functions = append(p.table.Functions, site.Function{Name: f.Name, Span: f.Span})
	entry := p.enter(f)
	entry.tell(func(sum site.Sum) { p.table.Functions[index].Sum = sum })
	p.list(f.Body.Nodes, entry)
	if f.Body.Bare {
		p.edits = append(p.edits, edit{at: f.Body.Close, rank: -1, order: f.Body.Close - f.Body.Open - widest, say: Dialect.Given})
	}
	p.fn = outer
}

// enter gives the state in which control comes into a function.
func (p *planner) enter(f *flow.Function) state {
	switch e := f.Body.Entry; {
	case f.Among != flow.NotAmong:
		return state{kind: pending} // each statement is come to by itself
	case e != nil:
		c := p.table.Counters
		p.table.Counters++
		p.around(e.From, e.End, func(d Dialect) (before, after string) { return d.First(e, c) })
		return counted(site.Sum{uint32(c)})
	}
	return p.owe(f.Body.Open)
}

// block weaves a block that control enters in a state.
func (p *planner) block(b *flow.Block, s state) state {
	if b.Bare {
		p.insert(b.Open, Dialect.Begin)
	}
	if b.Yields {
		p.edits = append(p.edits, edit{at: b.Open, rank: 1, order: 0, say: Dialect.Yield})
	}
	s = p.list(b.Nodes, s)
	if b.Bare {
		p.insert(b.Close, Dialect.Unwrap)
	}
	if b.Leaves && s.kind == known {
		return state{kind: pending}
	}
	return s
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
		after := p.block(n.Body, p.settle(p.arrive(&n.Stmt, s), state{}))
		if n.Else != nil {
			after = p.block(n.Else, after)
		}
		for _, h := range n.Handlers {
			after = join(after, p.block(h, state{kind: pending}))
		}
		if n.Finally == nil {
			return after
		}
		if last := p.block(n.Finally, state{kind: pending}); last.kind == dead || after.kind == dead {
			return state{kind: dead}
		}
		return state{kind: pending}
	case *flow.Label:
		return p.label(n, s)
	case *flow.Nested:
		return p.block(n.Body, p.settle(s, state{}))
	}
	panic("weave: unknown kind of statement")
}

func (p *planner) jump(j *flow.Jump, s state) state {
	switch j.Kind {
	case flow.Break:
		x := p.fn.breaks[j.Target]
		x.state = join(x.state, s)
		switch {
		case x.flag != 0:
			x.used = true
			p.numbered(j.At, x.flag, Dialect.Raise)
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
			x.state = join(x.state, s)
		}
	case flow.Fall:
		f := p.fn.falls[j.Into]
		f.state = join(f.state, s)
		if f.flag != 0 {
			p.numbered(j.At, f.flag, Dialect.Raise)
		}
	}
	return state{kind: dead}
}

// lead makes a jump go to a label of ours.
func (p *planner) lead(j *flow.Jump, label int) {
	say := func(d Dialect) string { return d.Goto(label) }
	p.edits = append(p.edits, edit{at: j.From, del: j.End - j.From, say: say})
}

func (p *planner) decide(kind string, at site.Pos) (index int) {
	p.table.Decisions = append(p.table.Decisions, site.Decision{Kind: kind, Pos: at, Function: p.fn.index})
	return len(p.table.Decisions) - 1
}

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
		no = p.place(b.End, Dialect.After)
		otherwise = no
	default:
		no = p.place(b.End, Dialect.Else)
		otherwise = no
	}
	p.table.Decisions[index].Outcomes = []site.Outcome{
		{Label: "true", Pos: b.CondAt, Sum: yes.sum},
		{Label: "false", Pos: b.CondAt, Sum: no.sum},
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
		no = p.place(inner.From, Dialect.Wrap)
	}
	at := len(p.table.Statements)
	p.arrive(&inner.Stmt, counted(nil))
	after, tried := p.branch(inner)
	switch {
	case no.kind == known:
		p.insert(inner.End, Dialect.Unwrap)
	case tried.kind == known:
		no = tried
	default:
		no = p.place(inner.From, Dialect.Wrap)
		p.insert(inner.End, Dialect.Unwrap)
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
		p.arrive(&b.ElseIf.Stmt, p.place(b.ElseIf.From, Dialect.Wrap))
		after, _ := p.branch(b.ElseIf)
		p.insert(b.ElseIf.End, Dialect.Unwrap)
		return join(then, after)
	}
	return state{kind: pending}
}

func (p *planner) loop(l *flow.Loop) state {
	x := &exits{state: state{kind: dead}, once: l.Once}
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
	label, in, out := "entered", state{}, state{}
	after := state{}
	switch {
	case l.Clause:
		_, in = p.way(l.Body)
		after, out = p.clause(l)
	case l.Late:
		p.block(l.Body, state{kind: pending})
		label = "entered again"
		in, out = p.ticked(l.Cond, true, true)
	case l.Tested:
		_, in = p.way(l.Body)
		_, out = p.ticked(l.Cond, false, true)
	default:
		in, out = p.watched(l, x)
	}
	p.table.Decisions[index].Outcomes = []site.Outcome{
		{Label: label, Pos: l.Span.Start, Sum: in.sum},
		{Label: "left by the condition", Pos: l.Span.Start, Sum: out.sum},
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
	entry = p.place(l.End, Dialect.Else)
	return entry, entry
}

// watched weaves a loop whose leaving is counted after it, past which breaks lead.
func (p *planner) watched(l *flow.Loop, x *exits) (in, out state) {
	if p.fn.constant {
		x.flag = p.name()
		p.numbered(p.fn.open, x.flag, Dialect.Flag)
	} else {
		x.label = p.name()
	}
	_, in = p.way(l.Body)
	switch {
	case x.flag != 0 && x.used:
		return in, p.place(l.End, func(d Dialect, c int) string { return d.Lower(x.flag, c) })
	case x.used:
		out = p.place(l.End, Dialect.After)
		p.numbered(l.End, x.label, Dialect.Label)
		return in, out
	}
	return in, p.place(l.End, Dialect.After)
}

func (p *planner) choice(c *flow.Choice) state {
	x := &exits{state: state{kind: dead}}
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
			outcomes = append(outcomes, site.Outcome{Label: a.Label, Pos: a.Pos})
			outcome := len(outcomes) - 1
			f := p.fn.falls[a]
			if f == nil {
				s = p.owe(a.Open)
			} else {
				s = p.place(a.Open, func(d Dialect, c int) string { return d.Lower(f.flag, c) })
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
			missed = p.place(c.Close, lastArm)
			outcomes = append(outcomes, site.Outcome{Label: "none matched", Pos: c.Span.Start, Sum: missed.sum})
		}
		after = join(after, missed)
	}
	if index >= 0 {
		p.table.Decisions[index].Outcomes = outcomes
		p.cases(index, c)
	}
	return join(after, x.state)
}

// lastArm is what an arm says that is chosen when no other is.
func lastArm(d Dialect, counter int) string { return d.Default(d.Probe(counter)) }

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
			p.numbered(p.fn.open, f.flag, Dialect.Flag)
		}
		p.fn.falls[a] = f
	}
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
			p.numbered(at, own, Dialect.Label)
		}
		s = p.probe(at)
	}
	s = p.node(l.Inner, s)
	if n := p.fn.moved[l]; n > 0 && n == l.Breaks && len(l.Gotos)+l.Continues == 0 {
		// Nothing names it any more, which some languages do not allow.
		p.edits = append(p.edits, edit{at: l.At, del: l.After - l.At})
	}
	return s
}
