package term

import (
	"bytes"
	"strings"
	"testing"

	"github.com/charmbracelet/x/ansi"
	"github.com/stretchr/testify/assert"

	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
	"thrush/internal/reading"
	"thrush/internal/recording"
)

const fareText = `package fare

func price(night, islander bool) int {
	if night && !islander {
		return 1500 // dear
	}
	return 1250
}

func old() int { return 1 }
`

// fare is the file above: called three times, never by night, and old is waived.
func fare() *coverage.File {
	span := func(line, column, endLine, endColumn int) site.Span {
		return site.Span{Start: site.Pos{Line: line, Column: column}, End: site.Pos{Line: endLine, Column: endColumn}}
	}
	t := &site.Table{
		Path: "fare.go", Counters: 4, Lines: 10, Level: site.Conditions, Keep: site.Counts,
		Functions: []site.Function{{Name: "price", Span: span(3, 1, 8, 2), Sum: site.Sum{0}}, {Name: "old", Span: span(10, 1, 10, 28)}},
		Statements: []site.Statement{
			{Span: span(4, 2, 6, 3), Head: site.Pos{Line: 4, Column: 25}, Sum: site.Sum{0}},
			{Span: span(5, 3, 5, 14), Head: site.Pos{Line: 5, Column: 14}, Sum: site.Sum{1}},
			{Span: span(7, 2, 7, 13), Head: site.Pos{Line: 7, Column: 13}, Sum: site.Sum{0}},
			{Span: span(10, 18, 10, 26), Head: site.Pos{Line: 10, Column: 26}, Function: 1},
		},
		Decisions: []site.Decision{{Kind: "if", Pos: site.Pos{Line: 4, Column: 2}, Outcomes: []site.Outcome{
			{Way: site.True.Way(), Pos: site.Pos{Line: 4, Column: 2}, Sum: site.Sum{1}}, {Way: site.False.Way(), Pos: site.Pos{Line: 4, Column: 2}, Sum: site.Sum{2, 3}},
		}, Logic: []site.Logic{{Pos: site.Pos{Line: 4, Column: 5}, Formula: "0 1 ! &", Ways: []site.Sum{{3}, {1}, {2}},
			Conditions: []site.Condition{{Text: "night", Pos: site.Pos{Line: 4, Column: 5}}, {Text: "islander", Pos: site.Pos{Line: 4, Column: 15}}}}}}},
		Waivers: []site.Waiver{{Line: 10, EndLine: 10, Reason: "goes away with the 2027 tariff"}},
	}
	return coverage.Resolve(t, []uint64{3, 0, 3, 0})
}

// drawn is what a terminal shows, without its colours.
func drawn(draw func(*Out)) string {
	var b bytes.Buffer
	draw(&Out{Writer: &b, Terminal: true, Width: 100})
	return ansi.Strip(b.String())
}

func TestSourceOnATerminal(t *testing.T) {
	changed := func(line int) bool { return line == 7 }
	assert.Equal(t, strings.TrimPrefix(`
fare.go  ▮▮▮▮▮▮▮◧▯▯ 75.00%  lines 3/4 · branches 1/2 · functions 1/1
 1          package fare
 2          
 3      3 ▮ func price(night, islander bool) int {
 4      3 ◧     if night && !islander {
                ╰ only false so far
                   ╰ night: only false so far: needs night=true, islander=false
                             ╰ islander: not worked out yet: needs night=true, islander=true; and
                               night=true, islander=false
 5      0 ▯         return 1500 // dear
 6              }
 7┃     3 ▮     return 1250
 8          }
 9          
10      0 ▨ func old() int { return 1 }
            ╰ waived: goes away with the 2027 tariff
`, "\n"), drawn(func(o *Out) { o.Source(fare(), fareText, SourceOptions{Changed: changed}) }))
	out := drawn(func(o *Out) { o.Source(fare(), fareText, SourceOptions{From: 4, To: 4, Tables: true}) })
	assert.Contains(t, out, "c1 and not c2")
	assert.Contains(t, out, "2 more ways would show every condition: ways 1 and 2")
	out = drawn(func(o *Out) { o.Source(fare(), fareText, SourceOptions{Gaps: true}) })
	assert.NotContains(t, out, "package fare")
	assert.Contains(t, out, "only false so far")
}

func TestExplain(t *testing.T) {
	out := drawn(func(o *Out) { o.ExplainFile(fare()) })
	for _, want := range []string{"3 of 4 lines on which", "1 of 2 outcomes of 1 decision were taken", "line 10: goes away with the 2027 tariff", "price", "3 calls", "1 of 4: each counts once for true"} {
		assert.Contains(t, out, want)
	}
	for line, want := range map[int]string{
		1: "not code: no statement and no function begins here",
		4: "part: it counts as a line that ran",
		5: "did not begin",
		7: "began 3 times",
	} {
		assert.Contains(t, drawn(func(o *Out) { o.ExplainLine(fare(), line, "") }), want, "line %d", line)
	}
}

func TestLog(t *testing.T) {
	out := drawn(func(o *Out) {
		o.Log([]reading.Kept{
			{ID: "b9469d73", Info: recording.Info{Part: recording.Part{When: "2026-03-02T08:00:00Z", Labels: []string{"unit"}, Commit: "0123456789ab", Dirty: true, Exit: 1,
				Command: []string{"go", "test", "\x1b[31m" + strings.Repeat("x", 200)}}}, Totals: coverage.Totals{}.With(coverage.Lines, coverage.Ratio{Covered: 2, Total: 3})},
			{ID: "a2b58c11", Problem: "it is damaged"},
		}, 3)
	})
	assert.Contains(t, out, "66.66%")
	assert.Contains(t, out, "01234567+")
	assert.Contains(t, out, `\x1b[31m`, "what a command holds is spelled out")
	assert.Contains(t, out, "a2b58c11  it is damaged")
	assert.Contains(t, out, "and 3 older: --all lists them")
	for _, line := range strings.Split(out, "\n") {
		assert.LessOrEqual(t, Width(line), 101, line)
	}
}

func TestCut(t *testing.T) {
	for _, c := range []struct {
		text  string
		width int
		want  string
	}{{"short", 9, "short"}, {"sentences of words", 9, "sentence…"}, {"ab", 1, "a"}} {
		assert.Equal(t, c.want, Cut(c.text, c.width))
	}
	assert.Equal(t, "inter…fare.go", Middle("internal/fare/fare.go", 13))
}
