package tests

import (
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/logic"
	"thrush/internal/witness/brute"
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

// spelling is how formulas stand in the functions of one language, and how a program
// tries them.
type spelling struct {
	file    string
	forms   []string // functions of a formula, each with the decision on its second line
	head    string   // two lines
	tail    string
	call    string                                   // of a function, with a list of values
	test    func(calls []string) (file, text string) // for each formula
	more    map[string]string
	command []string
	words   *strings.Replacer // of the operators, where they are not as in Go
}

var goSpelling = spelling{
	file: "rules.go",
	head: "package rules\n\n",
	forms: []string{
		"func i%d(v []bool) {\nif %s { _ = 0 }\n}\n",
		"func l%d(v []bool) {\nfor %s { return }\n}\n",
		"func c%d(v []bool) {\nswitch { case %s: _ = 0 }\n}\n",
		"func v%d(v []bool) bool {\nreturn %s\n}\n",
	},
	call: "%s%d([]bool{%s}); ",
	test: func(calls []string) (string, string) {
		return "rules_test.go", "package rules\n\nimport \"testing\"\n\nfunc TestRules(t *testing.T) {\n" + strings.Join(calls, "\n") + "}\n"
	},
	more:    map[string]string{"go.mod": "module rules\n\ngo 1.26\n"},
	command: []string{"go", "test", "./..."},
}

// nativeSpelling spells in C, or in C++. A do loop is left by a jump when it goes round
// again.
func nativeSpelling(ext, compiler string, flags ...string) spelling {
	return spelling{
		file: "rules" + ext,
		head: "#include \"rules.h\"\n\n",
		forms: []string{
			"void i%d(const int *v) {\nif (%s) { used++; }\n}\n",
			"void l%d(const int *v) {\nwhile (%s) return;\n}\n",
			"void d%d(const int *v) {\ndo { again(used++); } while (%s);\n}\n",
			"int v%d(const int *v) {\nreturn %s;\n}\n",
			"int q%d(const int *v) {\nreturn (%s) ? 3 : 4;\n}\n",
		},
		call: "{ static const int v[] = {%[3]s}; used = 0; if (!setjmp(out)) %[1]s%[2]d(v); }\n",
		test: func(calls []string) (string, string) {
			var each, all strings.Builder
			for i, c := range calls {
				fmt.Fprintf(&each, "static void try%d(void) {\n%s}\n", i, strings.NewReplacer("true", "1", "false", "0").Replace(c))
				fmt.Fprintf(&all, "try%d();\n", i)
			}
			return "test_rules" + ext, "#include \"rules" + ext + "\"\nvoid again(int n) { if (n) longjmp(out, 1); }\n" + each.String() + "int main(void) {\n" + all.String() + "return 0; }\n"
		},
		more:    map[string]string{"rules.h": "#include <setjmp.h>\nstatic jmp_buf out;\nstatic int used;\nvoid again(int n);\n", "thrush.toml": ""},
		command: []string{"sh", "-c", compiler + " " + strings.Join(flags, " ") + " -o rules test_rules" + ext + " && ./rules"},
	}
}

var pythonSpelling = spelling{
	file: "rules.py",
	head: "import sys\n\n",
	forms: []string{
		"def i%d(v):\n    if %s: pass\n\n",
		"def l%d(v):\n    while %s: return\n\n",
		"def v%d(v):\n    return %s\n\n",
		"def q%d(v):\n    return 3 if (%s) else 4\n\n",
		"def f%d(v):\n    return [0 for _ in v[:1] if (%s)]\n\n",
	},
	call:  "rules.%s%d([%s]); ",
	words: strings.NewReplacer("&&", " and ", "||", " or ", "!", " not "),
	test: func(calls []string) (string, string) {
		return "test_rules.py", "import rules\ntrue, false = True, False\n" + strings.Join(calls, "\n")
	},
	more:    map[string]string{"thrush.toml": ""},
	command: []string{"python3", "test_rules.py"},
}

var scriptSpelling = spelling{
	file: "rules.js",
	head: "'use strict'\n\n",
	forms: []string{
		"exports.i%d = (v) => {\nif (%s) { }\n}\n",
		"exports.l%d = function (v) {\nwhile (%s) return\n}\n",
		"exports.d%d = function (v) { let n = 0;\ndo { again(n++) } while (%s)\n}\n",
		"exports.v%d = (v) => {\nreturn %s\n}\n",
		"exports.q%d = (v) =>\n(%s) ? 3 : 4\n;\n",
	},
	call: "try { rules.%s%d([%s]) } catch {} ",
	test: func(calls []string) (string, string) {
		return "test.js", "const rules = require('./rules.js')\nglobalThis.again = (n) => { if (n) throw n }\n" + strings.Join(calls, "\n")
	},
	more:    map[string]string{"thrush.toml": ""},
	command: []string{"node", "test.js"},
}

// javaSpelling spells in Java, the operands as they are, or as tests for a type, every other
// one of which gives the value a name.
func javaSpelling(named bool) spelling {
	var operands []string
	for i := 0; named && i < 20; i++ {
		v, name := fmt.Sprintf("v[%d]", i), ""
		if i%2 == 0 {
			name = fmt.Sprintf(" s%d", i)
		}
		operands = append(operands, v, "(RulesTest.o("+v+") instanceof String"+name+")")
	}
	return spelling{
		file: "Rules.java",
		head: "final class Rules {\n\n",
		forms: []string{
			"static void i%d(boolean[] v) {\nif (%s) { used++; }\n}\n",
			"static void l%d(boolean[] v) {\nwhile (%s) return;\n}\n",
			"static void d%d(boolean[] v) {\ndo { RulesTest.again(used++); } while (%s);\n}\n",
			"static boolean v%d(boolean[] v) {\nreturn %s;\n}\n",
			"static int q%d(boolean[] v) {\nreturn (%s) ? 3 : 4;\n}\n",
		},
		tail: "static int used;\n}\n",
		call: "Rules.used = 0; try { Rules.%s%d(new boolean[] {%s}); } catch (IllegalStateException e) { }\n",
		test: func(calls []string) (string, string) {
			var each, all strings.Builder
			for i, c := range calls {
				fmt.Fprintf(&each, "static void try%d() {\n%s}\n", i, c)
				fmt.Fprintf(&all, "try%d();\n", i)
			}
			return "RulesTest.java", "class RulesTest {\nstatic Object o(boolean b) { return b ? \"\" : null; }\nstatic void again(int n) { if (n > 0) throw new IllegalStateException(); }\n" +
				each.String() + "public static void main(String[] args) {\n" + all.String() + "}\n}\n"
		},
		more:    map[string]string{"thrush.toml": ""},
		command: []string{"sh", "-c", "javac Rules.java RulesTest.java && java RulesTest"},
		words:   strings.NewReplacer(operands...),
	}
}

// Each formula stands in an if, a loop, a case and as a value: what Thrush says of
// every one must be what trying says.
func TestConditionsAgreeWithBruteForce(t *testing.T) {
	t.Run("go", func(t *testing.T) { agreeWithBruteForce(t, goSpelling) })
	t.Run("c", func(t *testing.T) { agreeWithBruteForce(t, nativeSpelling(".c", needs(t, "gcc"), "-O1")) })
	t.Run("python", func(t *testing.T) {
		needs(t, "python3")
		agreeWithBruteForce(t, pythonSpelling)
	})
	t.Run("javascript", func(t *testing.T) {
		needs(t, "node")
		agreeWithBruteForce(t, scriptSpelling)
	})
	t.Run("java", func(t *testing.T) {
		needs(t, "javac")
		agreeWithBruteForce(t, javaSpelling(false))
		agreeWithBruteForce(t, javaSpelling(true))
	})
	t.Run("c++", func(t *testing.T) { agreeWithBruteForce(t, nativeSpelling(".cpp", needs(t, "g++"), "-O0")) })
}

// needs gives a tool, or skips the test where it is missing; in CI that is a failure.
func needs(t *testing.T, tool string) string {
	if _, err := exec.LookPath(tool); err != nil {
		if os.Getenv("CI") != "" {
			t.Fatalf("there is no %s", tool)
		}
		t.Skipf("there is no %s", tool)
	}
	return tool
}

func agreeWithBruteForce(t *testing.T, sp spelling) {
	all := trials()
	var source strings.Builder
	var tries []string
	source.WriteString(sp.head)
	line := strings.Count(sp.head, "\n")
	begins := map[int]int{} // line of a decision → trial
	for i, tr := range all {
		for _, form := range sp.forms {
			formula := brute.Spell(tr.formula)
			if sp.words != nil {
				formula = sp.words.Replace(formula)
			}
			fmt.Fprintf(&source, form, i, formula)
			begins[line+2] = i
			line += 3
		}
		var calls strings.Builder
		for _, in := range tr.inputs {
			list := strings.Trim(strings.ReplaceAll(fmt.Sprint(in), " ", ","), "[]")
			for _, form := range sp.forms {
				name, _, _ := strings.Cut(form[strings.Index(form, "%d")-1:], "%d")
				fmt.Fprintf(&calls, sp.call, name, i, list)
			}
			calls.WriteString("\n")
		}
		tries = append(tries, calls.String())
	}
	source.WriteString(sp.tail)
	dir := t.TempDir()
	test, text := sp.test(tries)
	files := map[string]string{sp.file: source.String(), test: text}
	maps.Copy(files, sp.more)
	for name, text := range files {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o666))
	}
	run(t, dir, "thrush", append([]string{"record", "-q", "--level", "conditions", "--"}, sp.command...)...)
	var said measured
	require.NoError(t, json.Unmarshal([]byte(run(t, dir, "thrush", "source", "--format", "json", sp.file)), &said))
	compared := map[string]int{}
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
		compared[d.Kind]++
	}
	t.Log(compared)
	plain := 0
	for _, tr := range all {
		if tr.size == 1 {
			plain++
		}
	}
	// A value without an operator is no decision.
	assert.Equal(t, len(all)-plain, compared["value"])
	assert.GreaterOrEqual(t, compared["if"]+compared["loop"]+compared["switch"]+compared["?:"]+compared["if else"]+compared["filter"], (len(sp.forms)-1)*len(all))
}
