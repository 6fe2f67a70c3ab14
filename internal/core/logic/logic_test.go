package logic

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// shapes gives all formulas of n conditions made of and and or, each operand
// negated or not by chance.
func shapes(n, from int, chance *rand.Rand) []*Formula {
	maybe := func(f *Formula) *Formula {
		if chance.IntN(4) == 0 {
			return &Formula{Op: Not, X: f}
		}
		return f
	}
	if n == 1 {
		return []*Formula{maybe(&Formula{Condition: from})}
	}
	var out []*Formula
	for left := 1; left < n; left++ {
		for _, x := range shapes(left, from, chance) {
			for _, y := range shapes(n-left, from+left, chance) {
				for _, op := range []Op{And, Or} {
					out = append(out, maybe(&Formula{Op: op, X: x, Y: y}))
				}
			}
		}
	}
	return out
}

// evaluate is what a language does, by definition, noting which conditions it
// looks at.
func evaluate(f *Formula, input []bool, values []Value) bool {
	switch f.Op {
	case Leaf:
		values[f.Condition] = False
		if input[f.Condition] {
			values[f.Condition] = True
		}
		return input[f.Condition]
	case Not:
		return !evaluate(f.X, input, values)
	case And:
		return evaluate(f.X, input, values) && evaluate(f.Y, input, values)
	}
	return evaluate(f.X, input, values) || evaluate(f.Y, input, values)
}

func inputs(n int) [][]bool {
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

func TestAgreesWithBruteForce(t *testing.T) {
	chance := rand.New(rand.NewPCG(1, 2))
	formulas := 0
	for n := 1; n <= 5; n++ {
		for _, f := range shapes(n, 0, chance) {
			formulas++
			ways := f.Ways(1000)
			steps := f.Steps()
			back, err := Parse(f.String())
			require.NoError(t, err)
			require.Equal(t, f, back)
			// Every input takes one of the ways, the one whose number its edges add up to.
			taken := map[int]bool{}
			for _, in := range inputs(n) {
				values := make([]Value, n)
				result := evaluate(f, in, values)
				number := 0
				for e := (Edge{Next: f.first()}); e.Next >= 0; {
					if s := steps[e.Next]; in[e.Next] {
						e = s.True
					} else {
						e = s.False
					}
					number += e.Weight
				}
				require.Equal(t, Way{values, result, ways[number].Decides}, ways[number], "%s %v", f, in)
				taken[number] = true
				// A condition decides if turning it round turns the result, with what
				// was skipped chosen so that it lets the condition through.
				for c := range n {
					require.Equal(t, decides(f, in, values, c), ways[number].Decides[c], "%s %v condition %d", f, in, c)
				}
			}
			require.Len(t, taken, len(ways), "%s", f)
			for c, p := range Prove(ways, func(int) bool { return true }) {
				require.True(t, p.Shown, "%s: each condition stands once, so each can be shown; %d", f, c)
			}
		}
	}
	assert.Greater(t, formulas, 250)
}

// decides tells by trying whether a condition decided the result: there are values
// for what was skipped with which turning it round turns the result.
func decides(f *Formula, in []bool, values []Value, c int) bool {
	if values[c] == Skipped {
		return false
	}
	var free []int
	for i, v := range values {
		if v == Skipped {
			free = append(free, i)
		}
	}
	for _, choice := range inputs(len(free)) {
		a := append([]bool{}, in...)
		for i, x := range free {
			a[x] = choice[i]
		}
		b := append([]bool{}, a...)
		b[c] = !b[c]
		unused := make([]Value, len(a))
		if evaluate(f, a, unused) != evaluate(f, b, unused) {
			return true
		}
	}
	return false
}

// The worked example of the Practical tutorial on MC/DC (NASA/TM-2001-210876),
// (A or B) and C: TFT, FTT, FFT and TFF, or those like them, are enough.
func TestWorkedExample(t *testing.T) {
	f, err := Parse("0 1 | 2 &")
	require.NoError(t, err)
	ways := f.Ways(100)
	require.Len(t, ways, 5)
	take := func(inputs ...[]bool) func(int) bool {
		seen := map[int]bool{}
		for _, in := range inputs {
			values := make([]Value, 3)
			evaluate(f, in, values)
			for i, w := range ways {
				if assert.ObjectsAreEqual(w.Values, values) {
					seen[i] = true
				}
			}
		}
		return func(w int) bool { return seen[w] }
	}
	tft, ftt, fft, tff := []bool{true, false, true}, []bool{false, true, true}, []bool{false, false, true}, []bool{true, false, false}
	shown := func(seen func(int) bool) (out []bool) {
		for _, p := range Prove(ways, seen) {
			out = append(out, p.Shown)
		}
		return out
	}
	assert.Equal(t, []bool{true, true, true}, shown(take(tft, ftt, fft, tff)))
	assert.Equal(t, []bool{true, false, true}, shown(take(tft, fft, tff)), "B was never true where it mattered")
	assert.Equal(t, []bool{false, false, true}, shown(take(tft, tff)))
	assert.Empty(t, More(ways, take(tft, ftt, fft, tff)))
	assert.Len(t, More(ways, take(tft, tff)), 2)
	assert.Len(t, More(ways, take()), 4, "one more than there are conditions")
}

func TestManyConditions(t *testing.T) {
	f := &Formula{}
	for i := 1; i < 64; i++ {
		f = &Formula{Op: Or, X: f, Y: &Formula{Condition: i}}
	}
	assert.Len(t, f.Ways(1000), 65)
	pairs := pair(0)
	for i := 1; i < 32; i++ {
		pairs = &Formula{Op: And, X: pairs, Y: pair(2 * i)}
	}
	assert.Nil(t, pairs.Ways(1000))
	assert.Equal(t, countless, pairs.Steps()[0].Ways)
}

func pair(from int) *Formula {
	return &Formula{Op: Or, X: &Formula{Condition: from}, Y: &Formula{Condition: from + 1}}
}

func FuzzParse(f *testing.F) {
	f.Add("0 1 & 2 | !")
	f.Fuzz(func(t *testing.T, s string) {
		formula, err := Parse(s)
		if err != nil {
			return
		}
		again, err := Parse(formula.String())
		require.NoError(t, err)
		require.Equal(t, formula, again)
		formula.Ways(100)
	})
}
