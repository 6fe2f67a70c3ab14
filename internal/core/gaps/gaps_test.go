package gaps

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
)

func at(line, column, endLine int) site.Span {
	return site.Span{Start: site.Pos{Line: line, Column: column}, End: site.Pos{Line: endLine, Column: 30}}
}

// table has a function with an if that was never true, lines after a panic, and
// a function with a literal in it that nobody calls.
func table() *site.Table {
	return &site.Table{
		Path: "deck/deck.go", Lines: 30, Counters: 4, Level: site.Branches, Keep: site.Counts,
		Functions: []site.Function{
			{Name: "Place", Span: at(1, 1, 9), Sum: site.Sum{0}},
			{Name: "Ballast", Span: at(11, 1, 16), Sum: site.Sum{3}},
			{Name: "Ballast.func1", Span: at(12, 9, 14), Sum: site.Sum{3}},
		},
		Statements: []site.Statement{
			{Span: at(2, 2, 5), Sum: site.Sum{0}}, {Span: at(3, 3, 3), Sum: site.Sum{1}}, {Span: at(4, 3, 4), Sum: site.Sum{1}},
			{Span: at(6, 2, 6), Sum: site.Sum{0}}, {Span: at(7, 2, 7), Sum: site.Sum{2}}, {Span: at(8, 2, 8), Sum: site.Sum{2}},
			{Span: at(12, 2, 14), Function: 1, Sum: site.Sum{3}}, {Span: at(13, 3, 13), Function: 2, Sum: site.Sum{3}},
		},
		Decisions: []site.Decision{{Kind: "if", Pos: site.Pos{Line: 2, Column: 2}, Outcomes: []site.Outcome{
			{Way: site.True.Way(), Pos: site.Pos{Line: 2, Column: 2}, Sum: site.Sum{1}}, {Way: site.False.Way(), Pos: site.Pos{Line: 2, Column: 2}, Sum: site.Sum{0}}}}},
	}
}

func TestFind(t *testing.T) {
	list := Find([]*coverage.File{coverage.Resolve(table(), []uint64{5, 0, 0, 0})})
	assert.Equal(t, []Gap{
		{Kind: Function, Path: "deck/deck.go", Line: 11, EndLine: 16, Function: "Ballast", What: "not called yet", Lines: 3},
		{Kind: Outcome, Path: "deck/deck.go", Line: 2, EndLine: 4, Function: "Place", Construct: "if", What: "only false so far", Way: site.True, Lines: 2, Branches: 1, Reached: 5},
		{Kind: Stretch, Path: "deck/deck.go", Line: 7, EndLine: 8, Function: "Place", What: "not reached yet", Lines: 2},
	}, list)
	assert.Empty(t, Find([]*coverage.File{coverage.Resolve(table(), []uint64{5, 2, 5, 1})}))
}

func TestHottest(t *testing.T) {
	list := Hottest([]*coverage.File{coverage.Resolve(table(), []uint64{5, 2, 9, 0})})
	assert.Equal(t, []Hot{{"deck/deck.go", 7, "Place", 9}}, list)
}
