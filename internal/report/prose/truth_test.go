package prose

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"thrush/internal/core/coverage"
	"thrush/internal/core/logic"
	"thrush/internal/core/site"
)

// sailing is wind > 22 || wind > 17 && wave > 250 in a file of its own, with how
// often each way was taken.
func sailing(counts ...uint64) *coverage.File {
	at := site.Pos{Line: 1, Column: 4}
	return coverage.Resolve(&site.Table{
		Path: "timetable.go", Counters: 4, Lines: 1, Level: site.Conditions, Keep: site.Counts,
		Functions: []site.Function{{Name: "Decide", Sum: site.Sum{0, 1, 2, 3}, Span: site.Span{Start: site.Pos{Line: 1, Column: 1}, End: site.Pos{Line: 1, Column: 60}}}},
		Decisions: []site.Decision{{Kind: "if", Pos: at, Logic: []site.Logic{{
			Pos: at, Formula: "0 1 2 & |", Ways: []site.Sum{{0}, {1}, {2}, {3}},
			Conditions: []site.Condition{{Text: "wind > 22", Pos: at}, {Text: "wind > 17", Pos: at}, {Text: "wave > 250", Pos: at}},
		}}}},
	}, counts)
}

func TestTable(t *testing.T) {
	table := Table(sailing(3, 0, 1, 2).Decisions[0].Logic[0])
	assert.Equal(t, "c1 or c2 and c3", table.Formula)
	assert.Equal(t, []ConditionRow{
		{"c1", "wind > 22", "3 times", "3 times", "decided alone: ways 1 and 3", true},
		{"c2", "wind > 17", "once", "2 times", "decided the outcome only when false so far: needs way 2", false},
		{"c3", "wave > 250", "never", "once", "only false so far: needs way 2", false},
	}, table.Conditions)
	assert.Equal(t, []WayRow{
		{1, []string{"true", "", ""}, "true", "3 times", "c1"},
		{2, []string{"false", "true", "true"}, "true", "never", ""},
		{3, []string{"false", "true", "false"}, "false", "once", "c1"},
		{4, []string{"false", "false", ""}, "false", "2 times", ""},
	}, table.Ways)
	assert.Equal(t, "1 more way would show every condition: way 2", table.More)
	assert.Equal(t, "every condition was shown to decide on its own", Table(sailing(1, 1, 1, 1).Decisions[0].Logic[0]).More)
}

func TestNotesSayWhatATestNeeds(t *testing.T) {
	said := func(f *coverage.File) (out []string) {
		for _, n := range Notes(f)[1] {
			out = append(out, n.Text)
		}
		return out
	}
	assert.Equal(t, []string{
		"wind > 17 decided the outcome only when false so far: needs (wind > 22)=false, (wind > 17)=true, (wave > 250)=true",
		"wave > 250: only false so far: needs (wind > 22)=false, (wind > 17)=true, (wave > 250)=true",
	}, said(sailing(3, 0, 1, 2)))
	assert.Equal(t, []string{"not called yet"}, said(sailing(0, 0, 0, 0)), "of a decision that was not reached there is nothing to say")
}

func TestFormulaHasTheBracketsItNeeds(t *testing.T) {
	for rpn, want := range map[string]string{
		"0":             "c1",
		"0 1 & 2 |":     "c1 and c2 or c3",
		"0 1 2 | &":     "c1 and (c2 or c3)",
		"0 1 | ! 2 &":   "not (c1 or c2) and c3",
		"0 ! 1 2 & ! |": "not c1 or not (c2 and c3)",
	} {
		f, err := logic.Parse(rpn)
		assert.NoError(t, err)
		assert.Equal(t, want, formula(f, 0))
	}
}
