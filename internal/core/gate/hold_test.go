package gate

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/changed"
	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
)

// price is a file of a function with so many lines that run, and so many that do not,
// each a statement of its own; moved is how many lines further down it stands.
func price(path string, moved, ran, not int) *coverage.File {
	at := func(line int) site.Span {
		return site.Span{Start: site.Pos{Line: line + moved, Column: 2}, End: site.Pos{Line: line + moved, Column: 9}}
	}
	t := &site.Table{Path: path, Digest: string(rune('a'+moved)) + string(rune('a'+ran)) + string(rune('a'+not)), Lines: 200, Counters: 2, Level: site.Branches, Keep: site.Counts}
	t.Functions = []site.Function{{Name: "Price", Span: site.Span{Start: site.Pos{Line: 1 + moved, Column: 1}, End: site.Pos{Line: 100 + moved, Column: 2}}, Sum: site.Sum{0}, Mark: 1}}
	for i := range ran + not {
		s := site.Statement{Span: at(2 + i), Head: at(2 + i).End, Sum: site.Sum{0}, Mark: uint64(10 + i)}
		if i >= ran {
			s.Sum = site.Sum{1}
		}
		t.Statements = append(t.Statements, s)
	}
	return coverage.Resolve(t, []uint64{3, 0})
}

func holding(each Each, slack float64) Rule {
	return Rule{Name: "never backwards", On: All, Each: each, Hold: []coverage.Metric{coverage.Lines}, Slack: slack}
}

func against(strict bool) Input {
	return Input{Baseline: &Baseline{From: "main"}, Strict: strict, Match: func(globs []string, path string) bool { return globs[0] == path }}
}

func TestHoldComparesEachWithItself(t *testing.T) {
	// One file gains what the other loses: as a whole nothing fell, one by one it did.
	pairs := []coverage.Pair{
		{Now: price("fare.go", 5, 9, 0), Was: price("fare.go", 0, 7, 2)},
		{Now: price("deck.go", 0, 7, 2), Was: price("deck.go", 0, 9, 0)},
	}
	assert.True(t, Judge(holding(Whole, 0), against(false), pairs).Met)
	for _, each := range []Each{PerFile, Function} {
		v := Judge(holding(each, 0), against(false), pairs)
		require.False(t, v.Met, each)
		assert.Equal(t, []Place{{Path: "deck.go", Line: 9, Metric: coverage.Lines, Why: "does not run any more"}, {Path: "deck.go", Line: 10, Metric: coverage.Lines, Why: "does not run any more"}}, v.Lines, each)
	}
	v := Judge(holding(Function, 0), against(false), pairs)
	assert.Equal(t, "fare.go:6 Price", v.Results[1].Scope, "a function is the same one where its lines have moved")
	assert.True(t, v.Results[1].Met)
	only := holding(PerFile, 0)
	only.Where = []string{"fare.go"}
	assert.True(t, Judge(only, against(false), pairs).Met)
}

func TestHoldIsExact(t *testing.T) {
	pair := []coverage.Pair{{Now: price("fare.go", 0, 8, 2), Was: price("fare.go", 0, 9, 1)}} // 9 of 11 lines, 10 of 11
	for slack, met := range map[float64]bool{0: false, 9.09: false, 9.0909: false, 9.1: true} {
		assert.Equal(t, met, Judge(holding(Whole, slack), against(false), pair).Met, slack)
	}
}

func TestHoldKnowsWhatIsNewAndWhatIsGone(t *testing.T) {
	fresh := Judge(holding(PerFile, 0), against(true), []coverage.Pair{{Now: price("new.go", 0, 0, 3)}})
	assert.True(t, fresh.Met, "a new file has nothing to hold")
	less := Judge(holding(Whole, 0), against(false), []coverage.Pair{{Now: price("fare.go", 0, 1, 1), Was: price("fare.go", 0, 1, 1)}, {Was: price("deck.go", 0, 9, 0)}})
	require.False(t, less.Met)
	assert.Empty(t, less.Lines)
	assert.Contains(t, less.Note, "of those that ran, 10 are gone")
	none := Judge(holding(Whole, 0), Input{}, []coverage.Pair{{Now: price("fare.go", 0, 1, 1)}})
	assert.True(t, none.Met)
	assert.Contains(t, none.Note, "no baseline yet")
	assert.False(t, Judge(holding(Whole, 0), Input{Strict: true}, []coverage.Pair{{Now: price("fare.go", 0, 1, 1)}}).Met)
}

func TestFloorsOnlyRise(t *testing.T) {
	j := Begin(holding(PerFile, 0), Input{})
	j.Add(coverage.Pair{Now: price("fare.go", 0, 2, 1)})
	now := j.Floors()
	require.Equal(t, []Floor{{"never backwards", "fare.go", coverage.Lines, 75}}, now)
	old := []Floor{{"never backwards", "fare.go", coverage.Lines, 80}, {"never backwards", "gone.go", coverage.Lines, 10}}
	raised := Raise(old, now)
	assert.Equal(t, []Floor{{"never backwards", "fare.go", coverage.Lines, 80}}, raised)
	in := Input{Baseline: &Baseline{From: "floors", Floors: raised}}
	v := Judge(holding(PerFile, 0), in, []coverage.Pair{{Now: price("fare.go", 0, 2, 1)}})
	assert.False(t, v.Met)
	assert.Equal(t, []Place{{Path: "fare.go", Line: 4, Metric: coverage.Lines, Why: "not run yet", group: 4}}, v.Lines)
	set := changed.Set{"fare.go": &changed.Lines{}}
	set["fare.go"].Add(4, "")
	in.Changed = set
	assert.Len(t, Judge(holding(PerFile, 0), in, []coverage.Pair{{Now: price("fare.go", 0, 2, 4)}}).Lines, 1, "of a floor, what changed is named")
}
