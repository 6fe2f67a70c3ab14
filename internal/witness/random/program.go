// Package random makes programs of all constructs of a language, nested at random, in which
// calls fail at random places. Each is made twice: as it is measured, and with a witness in it
// that counts, at the cost of a call before each statement and around each operand, what
// began to run and which way decisions went.
package random

import (
	"math/rand/v2"
)

// Kind is a kind of statement.
type Kind int

// The kinds. What a language lacks it has no text for, and another is taken.
const (
	Assign   Kind = iota // a local takes the value of a call that may fail
	Step                 // a local grows
	If                   // with else and else-if, or without
	While                // as long as there is budget
	Count                // a loop that counts
	Do                   // a loop that asks at its end
	Switch               // over a number
	Return               //
	Fail                 // throw, panic, raise
	Try                  // with a handler, and maybe with what runs at last
	Value                // a boolean expression as a value
	Choose               // ?:
	Block                // braces of their own
	Closure              // a function literal, which is called
	Break                //
	Continue             //
	Outer                // break or continue of an outer loop by its label
	Defer                // what runs when the function ends
	Object               // something that is made, and may fail to be
	Jump                 // goto, forwards
	Each                 // a loop over a list
	kinds
)

// Node is a statement.
type Node struct {
	Kind Kind
	ID   int // tells statements apart
	Cond *Cond
	// Bodies are its blocks: then, else; cases; body, handler, at last.
	Bodies [][]*Node
	Else   *Node // an if that hangs on its else
	Number int   // a small number, of several uses
	Target *Node // of Outer
}

// Cond is a boolean expression: an operand, or an operator with its sides.
type Cond struct {
	Op   byte // 0 for an operand, '&', '|', '!'
	X, Y *Cond
	ID   int // of an operand
}

// Function is a function of one number, which gives a number.
type Function struct {
	ID   int
	Body []*Node
}

// Program is functions of which each calls only those before it.
type Program struct {
	Seed       uint64
	Functions  []*Function
	ids, conds int
}

// New makes a program of a language.
func New(seed uint64, l *Language) *Program {
	g := &maker{r: rand.New(rand.NewPCG(seed, 7)), language: l, p: &Program{Seed: seed}}
	for i := range 6 {
		g.depth, g.loops, g.left = 0, nil, 40
		f := &Function{ID: i}
		g.p.Functions = append(g.p.Functions, f)
		f.Body = g.list(2 + g.r.IntN(4))
	}
	return g.p
}

type maker struct {
	r        *rand.Rand
	language *Language
	p        *Program
	depth    int
	left     int // statements that the function may still have
	loops    []*Node
}

func (g *maker) id() int {
	g.p.ids++
	return g.p.ids
}

func (g *maker) list(n int) []*Node {
	var out []*Node
	for range n {
		if g.left <= 0 {
			break
		}
		s := g.statement()
		out = append(out, s)
		if ends(s) {
			break
		}
	}
	if len(out) == 0 {
		out = append(out, &Node{Kind: Step, ID: g.id()})
	}
	return out
}

// ends tells whether nothing may stand after a statement: some compilers refuse it.
func ends(s *Node) bool {
	switch s.Kind {
	case Return, Fail, Break, Continue, Outer:
		return true
	}
	return false
}

func (g *maker) statement() *Node {
	g.left--
	for {
		k := Kind(g.r.IntN(int(kinds)))
		if !g.fits(k) {
			continue
		}
		s := &Node{Kind: k, ID: g.id(), Number: g.r.IntN(4)}
		g.fill(s)
		return s
	}
}

// fits tells whether a kind may stand here.
func (g *maker) fits(k Kind) bool {
	if g.language.lacks[k] {
		return false
	}
	nests := k == If || k == While || k == Count || k == Do || k == Switch || k == Try || k == Block || k == Closure || k == Each
	switch {
	case nests && g.depth > 3:
		return false
	case k == Break || k == Continue:
		return len(g.loops) > 0 && g.loops[len(g.loops)-1] != nil && g.r.IntN(3) > 0
	case k == Outer:
		return len(g.loops) > 1 && g.loops[0] != nil && g.loops[len(g.loops)-1] != nil
	case k == Return || k == Fail:
		return g.depth > 0 && g.r.IntN(3) > 0
	case k == Defer || k == Jump:
		return g.depth < 2
	}
	return true
}

func (g *maker) inner(n int) []*Node {
	g.depth++
	defer func() { g.depth-- }()
	return g.list(1 + g.r.IntN(n))
}

// within makes the body of a loop, or, with nil, of what no break leads out of.
func (g *maker) within(loop *Node, n int) []*Node {
	outer := g.loops
	if loop == nil {
		g.loops = nil
	} else {
		g.loops = append(outer[:len(outer):len(outer)], loop)
	}
	defer func() { g.loops = outer }()
	return g.inner(n)
}

func (g *maker) fill(s *Node) {
	switch s.Kind {
	case If:
		s.Cond = g.cond(3)
		s.Bodies = [][]*Node{g.inner(3), nil}
		switch g.r.IntN(3) {
		case 0:
			s.Bodies[1] = g.inner(3)
		case 1:
			s.Else = &Node{Kind: If, ID: g.id()}
			g.fill(s.Else)
		}
	case While, Do:
		s.Cond = g.cond(2)
		s.Bodies = [][]*Node{g.within(s, 3)}
	case Count, Each:
		s.Bodies = [][]*Node{g.within(s, 3)}
	case Switch:
		for range 2 + g.r.IntN(3) {
			// A break in a case would leave the switch in some languages, and the loop in others.
			outer := g.loops
			g.loops = append(outer[:len(outer):len(outer)], nil)
			s.Bodies = append(s.Bodies, g.inner(2))
			g.loops = outer
		}
	case Try:
		outer := g.loops
		if g.language.functionTry {
			g.loops = nil
		}
		s.Bodies = [][]*Node{g.inner(3), g.inner(2), nil}
		if s.Number < 2 && !g.language.noFinally {
			last := g.loops
			g.loops = nil
			s.Bodies[2] = g.inner(1)
			g.loops = last
			if ends(s.Bodies[2][len(s.Bodies[2])-1]) {
				s.Bodies[2] = []*Node{{Kind: Step, ID: g.id()}}
			}
		}
		g.loops = outer
	case Value:
		s.Cond = g.cond(3)
		for s.Cond.Op == 0 || s.Cond.Op == '!' {
			s.Cond = g.cond(3)
		}
	case Choose:
		s.Cond = g.cond(2)
	case Block:
		s.Bodies = [][]*Node{g.inner(3)}
	case Closure, Defer:
		s.Bodies = [][]*Node{g.within(nil, 2)}
		if s.Kind == Defer {
			s.Bodies = [][]*Node{{{Kind: Step, ID: g.id()}}}
		}
	case Outer:
		s.Target = g.loops[0]
	case Jump:
		s.Cond = g.cond(1)
		s.Bodies = [][]*Node{{{Kind: Step, ID: g.id()}}}
	}
}

func (g *maker) cond(depth int) *Cond {
	if depth == 0 || g.r.IntN(3) == 0 {
		g.p.conds++
		return &Cond{ID: g.p.conds}
	}
	switch g.r.IntN(5) {
	case 0:
		return &Cond{Op: '!', X: g.cond(depth - 1)}
	case 1, 2:
		return &Cond{Op: '&', X: g.cond(depth - 1), Y: g.cond(depth - 1)}
	}
	return &Cond{Op: '|', X: g.cond(depth - 1), Y: g.cond(depth - 1)}
}
