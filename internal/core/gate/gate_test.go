package gate

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"thrush/internal/core/changed"
	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
)

// file is a file of two functions, one called, one not, with a line each but
// for the first, which has an if that was never true over lines 2 to 4.
func file(path string) *coverage.File {
	at := func(line, endLine int) site.Span {
		return site.Span{Start: site.Pos{Line: line, Column: 2}, End: site.Pos{Line: endLine, Column: 9}}
	}
	head := func(line int) site.Pos { return site.Pos{Line: line, Column: 9} }
	t := &site.Table{
		Path: path, Lines: 12, Counters: 3, Level: site.Branches, Keep: site.Counts,
		Functions: []site.Function{{Name: "Price", Span: at(1, 6), Sum: site.Sum{0}}, {Name: "Old", Span: at(8, 10), Sum: site.Sum{2}}},
		Statements: []site.Statement{
			{Span: at(2, 4), Head: head(2), Sum: site.Sum{0}}, {Span: at(3, 3), Head: head(3), Sum: site.Sum{1}},
			{Span: at(5, 5), Head: head(5), Sum: site.Sum{0}}, {Span: at(9, 9), Head: head(9), Function: 1, Sum: site.Sum{2}},
		},
		Decisions: []site.Decision{{Kind: "if", Pos: site.Pos{Line: 2, Column: 2}, Outcomes: []site.Outcome{
			{Way: site.True.Way(), Pos: site.Pos{Line: 2, Column: 2}, Sum: site.Sum{1}}, {Way: site.False.Way(), Pos: site.Pos{Line: 2, Column: 2}, Sum: site.Sum{0}}}}},
	}
	return coverage.Resolve(t, []uint64{4, 0, 0})
}

func input(set changed.Set) Input {
	return Input{
		Changed: set,
		Match:   func(globs []string, path string) bool { return globs[0] == path },
	}
}

func files() []coverage.Pair {
	return []coverage.Pair{{Now: file("fare/fare.go")}, {Now: file("deck/deck.go")}}
}

func TestJudge(t *testing.T) {
	lines := func(percent float64) []Minimum { return []Minimum{{coverage.Lines, percent}} }
	one := changed.Set{"fare/fare.go": &changed.Lines{}}
	for _, n := range []int{2, 3, 7} {
		one["fare/fare.go"].Add(n, "")
	}
	for _, c := range []struct {
		name    string
		rule    Rule
		set     changed.Set
		met     bool
		results []Result
		places  int
	}{
		{"all met exactly", Rule{On: All, Each: Whole, Minimums: lines(50)}, nil, true, []Result{{"whole", coverage.Lines, 50, 6, 12, true}}, 0},
		{"a hair above", Rule{On: All, Each: Whole, Minimums: lines(50.001)}, nil, false, []Result{{"whole", coverage.Lines, 50.001, 6, 12, false}}, 6},
		{"where", Rule{On: All, Each: PerFile, Where: []string{"deck/deck.go"}, Minimums: lines(1)}, nil, true, []Result{{"deck/deck.go", coverage.Lines, 1, 3, 6, true}}, 0},
		{"each folder", Rule{On: All, Each: Folder, Minimums: lines(1)}, nil, true, []Result{{"deck", coverage.Lines, 1, 3, 6, true}, {"fare", coverage.Lines, 1, 3, 6, true}}, 0},
		{"each function", Rule{On: All, Each: Function, Where: []string{"fare/fare.go"}, Minimums: lines(50)}, nil, false,
			[]Result{{"fare/fare.go:1 Price", coverage.Lines, 50, 3, 4, true}, {"fare/fare.go:8 Old", coverage.Lines, 50, 0, 2, false}}, 2},
		{"changed", Rule{On: Changed, Each: Whole, Minimums: lines(50)}, one, true, []Result{{"whole", coverage.Lines, 50, 1, 2, true}}, 0},
		{"changed branches", Rule{On: Changed, Each: Whole, Minimums: []Minimum{{coverage.Branches, 100}}}, one, false, []Result{{"whole", coverage.Branches, 100, 1, 2, false}}, 1},
		{"nothing changed", Rule{On: Changed, Each: Whole, Minimums: lines(100)}, changed.Set{}, true, []Result{}, 0},
		{"functions", Rule{On: All, Each: Whole, Minimums: []Minimum{{coverage.Functions, 51}}}, nil, false, []Result{{"whole", coverage.Functions, 51, 2, 4, false}}, 2},
	} {
		v := Judge(c.rule, input(c.set), files())
		assert.Equal(t, c.met, v.Met, c.name)
		assert.Equal(t, c.results, v.Results, c.name)
		assert.Len(t, v.Lines, c.places, c.name)
	}
}

func TestConditionsAreJudgedWhereTheyWereMeasured(t *testing.T) {
	at := site.Pos{Line: 2, Column: 5}
	f := coverage.Resolve(&site.Table{
		Path: "fare/fare.go", Lines: 4, Counters: 3, Level: site.Conditions, Keep: site.Counts,
		Functions: []site.Function{{Name: "Price", Span: site.Span{Start: site.Pos{Line: 1, Column: 1}, End: site.Pos{Line: 4, Column: 2}}}},
		Decisions: []site.Decision{{Kind: "if", Pos: at, Logic: []site.Logic{{Pos: at, Formula: "0 1 &", Ways: []site.Sum{{0}, {1}, {2}},
			Conditions: []site.Condition{{Text: "night", Pos: at}, {Text: "islander", Pos: site.Pos{Line: 3, Column: 5}}}}}}},
	}, []uint64{2, 0, 1})
	rule := func(on On, conditions, independence float64) Rule {
		return Rule{On: on, Each: Whole, Minimums: []Minimum{{coverage.Conditions, conditions}, {coverage.Independence, independence}}}
	}
	v := Judge(rule(All, 75, 51), Input{}, []coverage.Pair{{Now: f}})
	assert.Equal(t, []Result{{"whole", coverage.Conditions, 75, 3, 4, true}, {"whole", coverage.Independence, 51, 1, 2, false}}, v.Results)
	assert.Equal(t, []Place{{Path: "fare/fare.go", Line: 3, Metric: coverage.Independence, Way: site.False, Why: "islander: only true so far: needs night=true, islander=false"}}, v.Lines)

	one := changed.Set{"fare/fare.go": &changed.Lines{}}
	one["fare/fare.go"].Add(3, "")
	v = Judge(rule(Changed, 0, 0), Input{Changed: one}, []coverage.Pair{{Now: f}})
	assert.Equal(t, []Result{{"whole", coverage.Conditions, 0, 1, 2, true}, {"whole", coverage.Independence, 0, 0, 1, true}}, v.Results, "the condition on the changed line")

	assert.Equal(t, coverage.Conditions, rule(All, 1, 1).Beyond(site.Branches))
	assert.Empty(t, rule(All, 1, 1).Beyond(site.Conditions))
	assert.Equal(t, coverage.Branches, Rule{Hold: []coverage.Metric{coverage.Lines, coverage.Branches}}.Beyond(site.Lines))
}
