// Package brute says by trying what package logic works out: it makes boolean
// expressions, evaluates them as languages do, and decides by definition whether a
// condition decided a result.
package brute

import (
	"fmt"
	"math/rand/v2"

	"thrush/internal/core/logic"
)

// Shapes gives all formulas of n conditions made of and and or, operands negated or
// not by chance.
func Shapes(n int, chance *rand.Rand) []*logic.Formula { return shapes(n, 0, chance) }

func shapes(n, from int, chance *rand.Rand) []*logic.Formula {
	maybe := func(f *logic.Formula) *logic.Formula {
		if chance.IntN(4) == 0 {
			return &logic.Formula{Op: logic.Not, X: f}
		}
		return f
	}
	if n == 1 {
		return []*logic.Formula{maybe(&logic.Formula{Condition: from})}
	}
	var out []*logic.Formula
	for left := 1; left < n; left++ {
		for _, x := range shapes(left, from, chance) {
			for _, y := range shapes(n-left, from+left, chance) {
				for _, op := range []logic.Op{logic.And, logic.Or} {
					out = append(out, maybe(&logic.Formula{Op: op, X: x, Y: y}))
				}
			}
		}
	}
	return out
}

// Spell writes a formula with the operators !, && and ||, its conditions as v[0],
// v[1] and so on.
func Spell(f *logic.Formula) string {
	switch f.Op {
	case logic.Leaf:
		return fmt.Sprintf("v[%d]", f.Condition)
	case logic.Not:
		return "!(" + Spell(f.X) + ")"
	case logic.And:
		return "(" + Spell(f.X) + " && " + Spell(f.Y) + ")"
	}
	return "(" + Spell(f.X) + " || " + Spell(f.Y) + ")"
}

// Evaluate does what a language does, and notes in values which conditions it
// looked at.
func Evaluate(f *logic.Formula, input []bool, values []logic.Value) bool {
	switch f.Op {
	case logic.Leaf:
		values[f.Condition] = logic.False
		if input[f.Condition] {
			values[f.Condition] = logic.True
		}
		return input[f.Condition]
	case logic.Not:
		return !Evaluate(f.X, input, values)
	case logic.And:
		return Evaluate(f.X, input, values) && Evaluate(f.Y, input, values)
	}
	return Evaluate(f.X, input, values) || Evaluate(f.Y, input, values)
}

// Inputs are all combinations of n values.
func Inputs(n int) [][]bool {
	var out [][]bool
	for bits := range 1 << n {
		in := make([]bool, n)
		for i := range in {
			in[i] = bits>>i&1 == 1
		}
		out = append(out, in)
	}
	return out
}

// Decides tells whether a condition decided the result: it was evaluated, and there
// are values for what was not with which turning it round turns the result.
func Decides(f *logic.Formula, in []bool, c int) bool {
	values := make([]logic.Value, len(in))
	Evaluate(f, in, values)
	if values[c] == logic.Skipped {
		return false
	}
	var free []int
	for i, v := range values {
		if v == logic.Skipped {
			free = append(free, i)
		}
	}
	for _, choice := range Inputs(len(free)) {
		a := append([]bool{}, in...)
		for i, x := range free {
			a[x] = choice[i]
		}
		b := append([]bool{}, a...)
		b[c] = !b[c]
		unused := make([]logic.Value, len(a))
		if Evaluate(f, a, unused) != Evaluate(f, b, unused) {
			return true
		}
	}
	return false
}
