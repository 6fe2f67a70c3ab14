package coverage

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/logic"
	"thrush/internal/core/site"
)

// boarding is a function with one decision, age >= 67 || islander && !night, of
// which the ways T, FTT, FTF, FF are counted by counters 1 to 4.
func boarding() *site.Table {
	at := func(column int) site.Pos { return site.Pos{Line: 2, Column: column} }
	return &site.Table{
		Path: "fare.go", Counters: 5, Lines: 6, Level: site.Conditions, Keep: site.Counts,
		Functions:  []site.Function{{Name: "Price", Span: span(1, 1, 6, 2), Sum: site.Sum{0}}},
		Statements: []site.Statement{{Span: span(2, 2, 4, 3), Head: at(40), Sum: site.Sum{0}}},
		Decisions: []site.Decision{{Kind: "if", Pos: at(2), Outcomes: []site.Outcome{
			{Way: site.True.Way(), Pos: at(2), Sum: site.Sum{1, 3}}, {Way: site.False.Way(), Pos: at(2), Sum: site.Sum{2, 4}},
		}, Logic: []site.Logic{{
			Pos: at(5), Formula: "0 1 2 ! & |", Ways: []site.Sum{{1}, {2}, {3}, {4}},
			Conditions: []site.Condition{{Text: "age >= 67", Pos: at(5)}, {Text: "islander", Pos: at(18)}, {Text: "night", Pos: at(31)}},
		}}}},
	}
}

func TestConditions(t *testing.T) {
	for _, c := range []struct {
		name         string
		counters     []uint64
		conditions   Ratio
		independence Ratio
		shown        []bool
		more         int
	}{
		{"nothing", nil, Ratio{0, 6}, Ratio{0, 3}, []bool{false, false, false}, 4},
		{"old, and no islander", []uint64{2, 1, 0, 0, 1}, Ratio{3, 6}, Ratio{1, 3}, []bool{true, false, false}, 2},
		{"and an islander by night", []uint64{3, 1, 1, 0, 1}, Ratio{5, 6}, Ratio{1, 3}, []bool{true, false, false}, 1},
		{"and one by day", []uint64{4, 1, 1, 1, 1}, Ratio{6, 6}, Ratio{3, 3}, []bool{true, true, true}, 0},
		{"islanders only", []uint64{2, 0, 5, 5, 0}, Ratio{4, 6}, Ratio{1, 3}, []bool{false, false, true}, 2},
	} {
		f := Resolve(boarding(), c.counters)
		assert.Equal(t, c.conditions, f.Totals.Of(Conditions), c.name)
		assert.Equal(t, c.independence, f.Totals.Of(Independence), c.name)
		l := f.Decisions[0].Logic[0]
		var shown []bool
		for i, x := range l.Conditions {
			shown = append(shown, x.Shown)
			assert.Equal(t, x.Shown, l.Proofs()[i].Shown, "%s: what shows %s", c.name, x.Text)
		}
		assert.Equal(t, c.shown, shown, c.name)
		assert.Len(t, l.More(), c.more, c.name)
	}
}

// The same decision counted condition by condition says the same.
func TestConditionsNotedOneByOne(t *testing.T) {
	counters := []uint64{4, 2, 1, 3, 5}
	want := Resolve(boarding(), counters).Decisions[0].Logic[0]
	table := boarding()
	l := &table.Decisions[0].Logic[0]
	formula, err := logic.Parse(l.Formula)
	require.NoError(t, err)
	l.Ways, l.Both = nil, make([]site.Sum, 4*len(l.Conditions))
	for i, w := range formula.Ways(10) {
		for c, v := range w.Values {
			if v == logic.Skipped {
				continue
			}
			at := 4*c + int(v) - 1
			l.Both[at] = append(l.Both[at], uint32(1+i))
			if w.Decides[c] {
				l.Both[at+2] = append(l.Both[at+2], uint32(1+i))
			}
		}
	}
	got := Resolve(table, counters).Decisions[0].Logic[0]
	assert.Equal(t, want.Conditions, got.Conditions)
	assert.Empty(t, got.Ways)
}

func TestWaivedDecisionsHaveNoConditions(t *testing.T) {
	f := Resolve(boarding(), []uint64{1, 1, 0, 0, 0}, site.Waiver{Line: 2, EndLine: 4, Reason: "goes away with the 2027 tariff"})
	assert.Equal(t, Ratio{}, f.Totals.Of(Conditions))
	assert.Equal(t, Ratio{}, f.Totals.Of(Independence))
}
