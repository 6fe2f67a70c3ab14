package coverage

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"thrush/internal/core/site"
)

func span(line, column, endLine, endColumn int) site.Span {
	return site.Span{Start: site.Pos{Line: line, Column: column}, End: site.Pos{Line: endLine, Column: endColumn}}
}

// table is a function with a decision, a statement over three lines, a waived
// line and two statements on one line.
func table() *site.Table {
	return &site.Table{
		Path: "fare.go", Counters: 5, Lines: 12, Level: site.Branches, Keep: site.Counts,
		Functions: []site.Function{{Name: "Price", Span: span(1, 1, 12, 2), Sum: site.Sum{0}}},
		Statements: []site.Statement{
			{Span: span(2, 2, 4, 3), Head: site.Pos{Line: 2, Column: 9}, Sum: site.Sum{0}},
			{Span: span(3, 3, 3, 9), Head: site.Pos{Line: 3, Column: 9}, Sum: site.Sum{1}},
			{Span: span(5, 2, 7, 4), Head: site.Pos{Line: 7, Column: 4}, Sum: site.Sum{1, 2}},
			{Span: span(8, 2, 8, 9), Head: site.Pos{Line: 8, Column: 9}, Sum: site.Sum{3}},
			{Span: span(9, 2, 9, 5), Head: site.Pos{Line: 9, Column: 5}, Sum: site.Sum{3}},
			{Span: span(9, 7, 9, 9), Head: site.Pos{Line: 9, Column: 9}, Sum: site.Sum{4}},
		},
		Decisions: []site.Decision{{Kind: "if", Pos: site.Pos{Line: 2, Column: 2}, Outcomes: []site.Outcome{
			{Way: site.True.Way(), Sum: site.Sum{1}}, {Way: site.False.Way(), Sum: site.Sum{2}},
		}}},
		Waivers:   []site.Waiver{{Line: 8, EndLine: 8, Reason: "cannot happen"}},
		Continued: []uint32{6, 7},
	}
}

func TestResolve(t *testing.T) {
	f := Resolve(table(), []uint64{7, 0, 7, 2, 0})
	states := map[int]string{}
	for _, l := range f.Lines {
		states[l.Number] = l.State.String()
	}
	assert.Equal(t, map[int]string{1: "full", 2: "part", 3: "none", 5: "full", 8: "waived", 9: "part"}, states)
	assert.Equal(t, Totals{WaivedLines: 1}.With(Lines, Ratio{4, 5}).With(Branches, Ratio{1, 2}).With(Functions, Ratio{1, 1}), f.Totals)
	l, ok := f.SpeaksFor(6)
	assert.True(t, ok)
	assert.Equal(t, 5, l.Number)
	assert.EqualValues(t, 7, l.Count)
	_, ok = f.SpeaksFor(10)
	assert.False(t, ok, "a line without code belongs to nothing")
}

func TestNotLoadedCountsInFull(t *testing.T) {
	f := Resolve(table(), nil)
	assert.Equal(t, Totals{WaivedLines: 1}.With(Lines, Ratio{0, 5}).With(Branches, Ratio{0, 2}).With(Functions, Ratio{0, 1}), f.Totals)
	assert.False(t, f.Loaded)
}

func TestHitsAreNoCounts(t *testing.T) {
	tab := table()
	tab.Keep = site.Hits
	assert.EqualValues(t, 1, Resolve(tab, []uint64{3, 2, 2, 0, 0}).Statements[2].Count)
}

func TestPercentRoundsDown(t *testing.T) {
	for _, c := range []struct {
		r    Ratio
		want int
	}{{Ratio{9996, 10000}, 9996}, {Ratio{99999, 100000}, 9999}, {Ratio{2, 3}, 6666}, {Ratio{0, 5}, 0}, {Ratio{5, 5}, 10000}, {Ratio{}, 10000}} {
		assert.Equal(t, c.want, c.r.HundredthsPercent(), c.r)
	}
}
