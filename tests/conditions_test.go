package tests

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/logic"
	"thrush/internal/truth/brute"
)

// measured is what thrush source says of a file's decisions.
type measured struct {
	Files []struct {
		Decisions []struct {
			Line       int
			Kind       string
			Outcomes   []struct{ Count int }
			Conditions []struct {
				True, False int
				Independent bool
			}
		}
	}
}

// trial is a formula and the inputs that a program tries it with.
type trial struct {
	formula *logic.Formula
	size    int
	inputs  [][]bool
}

// trials gives all shapes up to five conditions, each with some of all inputs.
func trials() []trial {
	chance := rand.New(rand.NewPCG(3, 5))
	var out []trial
	for n := 1; n <= 5; n++ {
		for _, f := range brute.Shapes(n, chance) {
			t := trial{formula: f, size: n}
			for _, in := range brute.Inputs(n) {
				if chance.IntN(3) > 0 {
					t.inputs = append(t.inputs, in)
				}
			}
			out = append(out, t)
		}
	}
	return append(out, manyWays(chance, logic.And, logic.Or), manyWays(chance, logic.Or, logic.And))
}

// manyWays is a formula of ten pairs, through which there are too many ways to be
// counted one by one, with inputs that leave few of its conditions unevaluated.
func manyWays(chance *rand.Rand, outer, inner logic.Op) trial {
	t := trial{size: 20}
	for i := 0; i < t.size; i += 2 {
		pair := &logic.Formula{Op: inner, X: &logic.Formula{Condition: i}, Y: &logic.Formula{Condition: i + 1}}
		if i == 0 {
			t.formula = pair
		} else {
			t.formula = &logic.Formula{Op: outer, X: t.formula, Y: pair}
		}
	}
	for len(t.inputs) < 40 {
		in, values, skipped := make([]bool, t.size), make([]logic.Value, t.size), 0
		for i := range in {
			in[i] = chance.IntN(2) == 0
		}
		brute.Evaluate(t.formula, in, values)
		for _, v := range values {
			if v == logic.Skipped {
				skipped++
			}
		}
		if skipped < 10 {
			t.inputs = append(t.inputs, in)
		}
	}
	return t
}

// expect works out by trying how often each condition was true and false, and which
// were shown to decide alone; and how often the result was true and false.
func (t trial) expect() (conditions [][3]int, outcomes [2]int) {
	conditions = make([][3]int, t.size)
	decided := make([][2]bool, t.size)
	for _, in := range t.inputs {
		values := make([]logic.Value, t.size)
		if brute.Evaluate(t.formula, in, values) {
			outcomes[0]++
		} else {
			outcomes[1]++
		}
		for c, v := range values {
			if v == logic.Skipped {
				continue
			}
			at := 1
			if v == logic.True {
				at = 0
			}
			conditions[c][at]++
			decided[c][at] = decided[c][at] || brute.Decides(t.formula, in, c)
		}
	}
	for c, d := range decided {
		if d[0] && d[1] {
			conditions[c][2] = 1
		}
	}
	return conditions, outcomes
}

// Each formula stands in an if, a loop, a case and as a value, two lines each:
// what Thrush says of every one must be what trying says.
func TestConditionsAgreeWithBruteForce(t *testing.T) {
	all := trials()
	var source, test strings.Builder
	source.WriteString("package rules\n")
	test.WriteString("package rules\n\nimport \"testing\"\n\nfunc TestRules(t *testing.T) {\n")
	line := 1
	begins := map[int]int{} // line of a decision → trial
	for i, tr := range all {
		expr := brute.Spell(tr.formula)
		for _, form := range []string{
			"func i%d(v []bool) {\nif %s { _ = 0 }\n}\n",
			"func l%d(v []bool) {\nfor %s { return }\n}\n",
			"func c%d(v []bool) {\nswitch { case %s: _ = 0 }\n}\n",
			"func v%d(v []bool) bool {\nreturn %s\n}\n",
		} {
			fmt.Fprintf(&source, form, i, expr)
			begins[line+2] = i
			line += 3
		}
		for _, in := range tr.inputs {
			list := strings.Trim(strings.ReplaceAll(fmt.Sprint(in), " ", ","), "[]")
			fmt.Fprintf(&test, "i%[1]d([]bool{%[2]s}); l%[1]d([]bool{%[2]s}); c%[1]d([]bool{%[2]s}); v%[1]d([]bool{%[2]s})\n", i, list)
		}
	}
	test.WriteString("}\n")
	dir := t.TempDir()
	for name, text := range map[string]string{"go.mod": "module rules\n\ngo 1.26\n", "rules.go": source.String(), "rules_test.go": test.String()} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o666))
	}
	run(t, dir, "thrush", "record", "-q", "--level", "conditions", "--", "go", "test", "./...")
	var said measured
	require.NoError(t, json.Unmarshal([]byte(run(t, dir, "thrush", "source", "--format", "json", "rules.go")), &said))
	compared := 0
	for _, d := range said.Files[0].Decisions {
		tr := all[begins[d.Line]]
		if d.Kind == "value" {
			// The decision is what is negated, not its negation.
			for tr.formula.Op == logic.Not {
				tr.formula = tr.formula.X
			}
		}
		conditions, outcomes := tr.expect()
		var got [][3]int
		for _, c := range d.Conditions {
			got = append(got, [3]int{c.True, c.False, map[bool]int{true: 1}[c.Independent]})
		}
		require.Equal(t, conditions, got, "%s at line %d: %s", d.Kind, d.Line, brute.Spell(tr.formula))
		assert.Equal(t, outcomes, [2]int{d.Outcomes[0].Count, d.Outcomes[1].Count}, "%s at line %d: %s", d.Kind, d.Line, brute.Spell(tr.formula))
		compared++
	}
	// A value without an operator is no decision.
	plain := 0
	for _, tr := range all {
		if tr.size == 1 {
			plain++
		}
	}
	assert.Equal(t, 4*len(all)-plain, compared)
}
