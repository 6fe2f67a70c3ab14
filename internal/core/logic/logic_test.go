package logic_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	. "thrush/internal/core/logic"
	"thrush/internal/witness/brute"
)

func TestAgreesWithBruteForce(t *testing.T) {
	chance := rand.New(rand.NewPCG(1, 2))
	formulas := 0
	for n := 1; n <= 5; n++ {
		for _, f := range brute.Shapes(n, chance) {
			formulas++
			ways := f.Ways(1000)
			steps := f.Steps()
			back, err := Parse(f.String())
			require.NoError(t, err)
			require.Equal(t, f, back)
			// Every input takes one of the ways, the one whose number its edges add up to.
			taken := map[int]bool{}
			for _, in := range brute.Inputs(n) {
				values := make([]Value, n)
				result := brute.Evaluate(f, in, values)
				number, deciding := 0, make([]bool, n)
				for e := (Edge{}); e.Next >= 0; {
					deciding[e.Next] = true
					if s := steps[e.Next]; in[e.Next] {
						e = s.True
					} else {
						e = s.False
					}
					number += e.Weight
					for _, c := range e.Masks {
						deciding[c] = false
					}
				}
				require.Equal(t, ways[number].Decides, deciding, "%s %v", f, in)
				require.Equal(t, Way{values, result, ways[number].Decides}, ways[number], "%s %v", f, in)
				taken[number] = true
				// A condition decides if turning it round turns the result, with what
				// was skipped chosen so that it lets the condition through.
				for c := range n {
					require.Equal(t, brute.Decides(f, in, c), ways[number].Decides[c], "%s %v condition %d", f, in, c)
				}
			}
			require.Len(t, taken, len(ways), "%s", f)
			for c, p := range Prove(ways, func(int) bool { return true }) {
				require.True(t, p.Shown, "%s: each condition stands once, so each can be shown; %d", f, c)
				for _, v := range []Value{True, False} {
					w := f.Deciding(c, v)
					require.Contains(t, ways, w, "%s %d", f, c)
					require.True(t, w.Values[c] == v && w.Decides[c], "%s %d", f, c)
				}
			}
		}
	}
	assert.Greater(t, formulas, 250)
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
			brute.Evaluate(f, in, values)
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
	assert.Equal(t, 1_000_000_000, pairs.Steps()[0].Ways)
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
