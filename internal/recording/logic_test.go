package recording

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/site"
)

func TestLogicIsKeptAndChecked(t *testing.T) {
	at := func(column int) site.Pos { return site.Pos{Line: 3, Column: column} }
	table := func() *site.Table {
		return &site.Table{
			Path: "fare.go", Lines: 9, Counters: 9, Level: site.Conditions, Keep: site.Counts,
			Functions: []site.Function{{Name: "Price"}},
			Decisions: []site.Decision{{Kind: "loop", Outcomes: []site.Outcome{}}, {Kind: "if", Outcomes: []site.Outcome{}, Logic: []site.Logic{
				{Pos: at(5), Formula: "0 1 &", Conditions: []site.Condition{{Text: "night", Pos: at(5)}, {Text: "tide > 180", Pos: at(14)}},
					Ways: []site.Sum{{0}, {1}, {2, 3}}},
				{Pos: at(9), Formula: "0 !", Conditions: []site.Condition{{Text: "islander", Pos: at(10)}}, Both: []site.Sum{{4}, {8}, {}, {5}}},
			}}},
		}
	}
	data, err := EncodeTable(table())
	require.NoError(t, err)
	back, err := DecodeTable(data)
	require.NoError(t, err)
	assert.Equal(t, table().Decisions[1].Logic, back.Decisions[1].Logic)
	for name, spoil := range map[string]func(l *site.Logic){
		"a formula that is none":           func(l *site.Logic) { l.Formula = "0 &" },
		"more conditions than there are":   func(l *site.Logic) { l.Formula = "0 1 & 2 & 3 & 4 &" },
		"a way too few":                    func(l *site.Logic) { l.Ways = l.Ways[:2] },
		"a counter that is not there":      func(l *site.Logic) { l.Ways[0] = site.Sum{9} },
		"conditions counted, one too many": func(l *site.Logic) { l.Ways, l.Both = nil, []site.Sum{{0}} },
	} {
		bad := table()
		spoil(&bad.Decisions[1].Logic[0])
		data, err := EncodeTable(bad)
		require.NoError(t, err)
		_, err = DecodeTable(data)
		assert.ErrorContains(t, err, "does not hold together", name)
	}
}
