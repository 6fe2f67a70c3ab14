// Package logic works on boolean expressions whose operands, the conditions, are
// evaluated from left to right and only as far as needed: which ways there are
// through one, which condition decided the result on each, and which pairs of ways
// show that a condition decides it on its own.
//
// The last is modified condition/decision coverage in its masking form: Chilenski
// and Miller, Applicability of MC/DC to software testing, 1994; CAST-6 position
// paper, Rationale for accepting masking MC/DC, 2001. A condition that was not
// evaluated is taken to be masked.
package logic

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Op is what a formula does with its operands.
type Op uint8

// The operators. A Leaf is a condition.
const (
	Leaf Op = iota
	Not
	And
	Or
)

// Formula is a boolean expression. Conditions are numbered from 0 in the order in
// which they stand, each once.
type Formula struct {
	Op        Op
	Condition int      // of a Leaf
	X, Y      *Formula // operands; Y is nil for Not
}

// Size is the number of conditions.
func (f *Formula) Size() int {
	switch f.Op {
	case Leaf:
		return 1
	case Not:
		return f.X.Size()
	}
	return f.X.Size() + f.Y.Size()
}

// String writes a formula with its operators after their operands, as in
// "0 1 & 2 |" for (c0 and c1) or c2; "!" negates.
func (f *Formula) String() string {
	switch f.Op {
	case Leaf:
		return strconv.Itoa(f.Condition)
	case Not:
		return f.X.String() + " !"
	case And:
		return f.X.String() + " " + f.Y.String() + " &"
	}
	return f.X.String() + " " + f.Y.String() + " |"
}

// Most is how many conditions a formula may have that is kept in a recording: what is worked
// out of one grows with the square of that.
const Most = 1024

// Parse reads what String writes.
func Parse(s string) (*Formula, error) {
	var stack []*Formula
	next := 0
	for _, word := range strings.Fields(s) {
		n := len(stack)
		switch {
		case word == "!" && n >= 1:
			stack[n-1] = &Formula{Op: Not, X: stack[n-1]}
		case (word == "&" || word == "|") && n >= 2:
			op := And
			if word == "|" {
				op = Or
			}
			stack = append(stack[:n-2], &Formula{Op: op, X: stack[n-2], Y: stack[n-1]})
		default:
			if word != strconv.Itoa(next) || next == Most {
				return nil, fmt.Errorf("formula %.40q: %.10q does not belong there", s, word)
			}
			stack = append(stack, &Formula{Condition: next})
			next++
		}
	}
	if len(stack) != 1 {
		return nil, errors.New("formula is not one whole")
	}
	return stack[0], nil
}

// Edge is where evaluation goes from a condition.
type Edge struct {
	Next   int  // the next condition, or -1 if the result is known
	Result bool // if it is
	// Weight, summed up over the edges of a way, is the way's number (Ball and
	// Larus, Efficient path profiling, 1996).
	Weight int
	// Masks are the conditions evaluated before that do not decide the result any
	// more once this edge is taken: an operator around them turned out otherwise.
	Masks []int
}

// Step is a condition as a step of evaluation.
type Step struct {
	True, False Edge
	Ways        int // from here to a result; no more than a billion are told apart
}

const countless = 1_000_000_000

// Steps gives the step of each condition.
func (f *Formula) Steps() []Step {
	steps := make([]Step, f.Size())
	f.link(steps, Edge{Next: -1, Result: true}, Edge{Next: -1})
	for i := len(steps) - 1; i >= 0; i-- {
		ways := func(e Edge) int {
			if e.Next < 0 {
				return 1
			}
			return steps[e.Next].Ways
		}
		s := &steps[i]
		s.False.Weight = ways(s.True)
		s.Ways = min(countless, ways(s.True)+ways(s.False))
	}
	return steps
}

// first is the condition that is evaluated first.
func (f *Formula) first() int {
	for f.Op != Leaf {
		f = f.X
	}
	return f.Condition
}

// link says where evaluation goes when the formula turns out true or false.
func (f *Formula) link(steps []Step, yes, no Edge) {
	switch f.Op {
	case Leaf:
		steps[f.Condition] = Step{True: yes, False: no}
	case Not:
		f.X.link(steps, no, yes)
	case And:
		f.X.link(steps, Edge{Next: f.Y.first()}, no)
		f.Y.link(steps, yes, no.masking(f.X))
	case Or:
		f.X.link(steps, yes, Edge{Next: f.Y.first()})
		f.Y.link(steps, yes.masking(f.X), no)
	}
}

// masking adds the conditions of a formula to those that an edge masks.
func (e Edge) masking(f *Formula) Edge {
	e.Masks = slices.Clone(e.Masks)
	for c, end := f.first(), f.first()+f.Size(); c < end; c++ {
		e.Masks = append(e.Masks, c)
	}
	return e
}
