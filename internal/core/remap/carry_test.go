package remap

import (
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/site"
	"thrush/internal/lang/golang"
	"thrush/internal/weave"
)

const base = `package fare

func Price(age int, night bool) int {
	total := 900
	if age < 12 {
		total = 450
	} else if night {
		total += 200
	}
	for i := 0; i < 3; i++ {
		total++
	}
	later := func() { println(total) }
	later()
	switch {
	case age > 67:
		total -= 100
	case age > 30:
		total -= 10
	}
	log("a")
	log("a")
	return total
}

func log(s string) { println(s) }
`

func tableOf(t *testing.T, source string) *site.Table {
	file, err := golang.Read("fare/fare.go", []byte(source))
	require.NoError(t, err)
	table := &site.Table{Path: "fare/fare.go"}
	weave.Place([]byte(source), file, table, weave.Options{Level: site.Branches, Keep: site.Counts})
	site.SetMarks(table, []byte(source))
	return table
}

// first is the first line of what stands in a span, without its indent.
func first(source string, s site.Span) string {
	line := strings.Split(source, "\n")[s.Start.Line-1]
	return strings.TrimSpace(line[s.Start.Column-1:])
}

// Only what is the same in text, and below the same, is carried; and where it could be
// one or another, neither is.
func TestWhatIsCarried(t *testing.T) {
	for _, c := range []struct {
		name, old, new string
		lost           []string // statements of the newer version that are not carried
		outcomes       int      // outcomes that are not
	}{
		{"nothing changed", "", "", nil, 0},
		{"moved down", "package fare\n", "package fare\n\n// Prices are in cents.\n", nil, 0},
		{"a statement changed", "total := 900", "total := 950", []string{"total := 950"}, 0},
		{"a statement more", "later()\n", "later()\n\tlog(\"b\")\n", []string{`log("b")`}, 0},
		{"a condition changed", "age < 12", "age < 13", []string{"if age < 13 {", "total = 450", "if night {", "total += 200"}, 4},
		{"an inner condition changed", "else if night", "else if !night", []string{"if !night {", "total += 200"}, 2},
		{"a branch more", "\t\ttotal += 200\n\t}\n", "\t\ttotal += 200\n\t} else {\n\t\tlog(\"c\")\n\t}\n", []string{`log("c")`}, 0},
		{"a case changed", "age > 67", "age > 68", []string{"switch {", "total -= 100", "total -= 10"}, 3},
		{"one of two alike is gone", "\tlog(\"a\")\n\tlog(\"a\")\n", "\tlog(\"a\")\n", []string{`log("a")`}, 0},
		{"one alike more", "\tlog(\"a\")\n\tlog(\"a\")\n", "\tlog(\"a\")\n\tlog(\"a\")\n\tlog(\"a\")\n", []string{`log("a")`, `log("a")`, `log("a")`}, 0},
		{"in another place", "\tfor i := 0; i < 3; i++ {\n\t\ttotal++\n\t}\n", "\tif night {\n\t\tfor i := 0; i < 3; i++ {\n\t\t\ttotal++\n\t\t}\n\t}\n", []string{"if night {", "for i := 0; i < 3; i++ {", "total++"}, 4},
		{"a signature changed", "night bool) int", "night, tide bool) int", nil, 0},
		{"a literal changed", "println(total)", "println(-total)", []string{"println(-total) }"}, 0},
		{"renamed", "func Price(", "func Fare(", []string{"total := 900", "if age < 12 {", "total = 450", "if night {", "total += 200", "for i := 0; i < 3; i++ {", "total++",
			"later := func() { println(total) }", "println(total) }", "later()", "switch {", "total -= 100", "total -= 10", `log("a")`, `log("a")`, "return total"}, 9},
	} {
		source := strings.Replace(base, c.old, c.new, 1)
		old, now := tableOf(t, base), tableOf(t, source)
		m := Match(old, now)
		var lost []string
		for j, i := range m.Statements {
			if i < 0 {
				lost = append(lost, first(source, now.Statements[j].Span))
			}
		}
		assert.Equal(t, c.lost, lost, c.name)
		carried := Table(old, now)
		outcomes := 0
		for _, d := range carried.Decisions {
			for _, o := range d.Outcomes {
				if o.Sum == nil {
					outcomes++
				}
			}
		}
		assert.Equal(t, c.outcomes, outcomes, "outcomes: %s", c.name)
	}
}

// On real files, with lines taken out, put in twice or swapped, whatever is carried has
// the text it had, and what did not change is carried.
func TestCarriedTextIsTheSame(t *testing.T) {
	root, err := exec.Command("go", "env", "GOROOT").Output()
	require.NoError(t, err)
	files, err := filepath.Glob(filepath.Join(strings.TrimSpace(string(root)), "src", "strconv", "*.go"))
	require.NoError(t, err)
	carried := 0
	for n, name := range files {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		old := tableOf(t, string(text))
		for seed := range uint64(6) {
			source := edited(string(text), rand.New(rand.NewPCG(seed, uint64(n))))
			if _, err := golang.Read("x.go", []byte(source)); err != nil {
				continue
			}
			now := tableOf(t, source)
			m := Match(old, now)
			taken := map[int]bool{}
			for j, i := range m.Statements {
				if i < 0 {
					continue
				}
				carried++
				require.False(t, taken[i], "%s: one became two", name)
				taken[i] = true
				require.Equal(t, own(string(text), old.Statements[i]), own(source, now.Statements[j]), name)
				require.Equal(t, old.Functions[old.Statements[i].Function].Name, now.Functions[now.Statements[j].Function].Name, name)
			}
		}
	}
	assert.Greater(t, carried, 4000)
}

func own(source string, s site.Statement) string {
	lines := strings.Split(source, "\n")
	if s.Span.Start.Line == s.Head.Line {
		return lines[s.Head.Line-1][s.Span.Start.Column-1 : s.Head.Column-1]
	}
	return lines[s.Span.Start.Line-1][s.Span.Start.Column-1:]
}

// edited changes a few lines that hold a whole statement.
func edited(source string, r *rand.Rand) string {
	lines := strings.Split(source, "\n")
	for range 1 + r.IntN(6) {
		i := r.IntN(len(lines) - 1)
		if !strings.HasPrefix(lines[i], "\t") || strings.HasSuffix(lines[i], "{") || strings.Contains(lines[i], "}") {
			continue
		}
		switch r.IntN(3) {
		case 0:
			lines[i] = ""
		case 1:
			lines[i] += "\n" + lines[i]
		case 2:
			lines[i], lines[i+1] = lines[i+1], lines[i]
		}
	}
	return strings.Join(lines, "\n")
}
