package site

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func span(line, column int) Span {
	return Span{Start: Pos{line, column}, End: Pos{line, column + 3}}
}

// Two programs have the same header, one with a case more.
func TestUniteAddsWhatTablesTell(t *testing.T) {
	a := &Table{Path: "deck.h", Counters: 3, Continued: []uint32{4, 9},
		Functions:  []Function{{Name: "deck", Span: span(1, 1), Sum: Sum{0}}},
		Statements: []Statement{{Span: span(2, 2), Sum: Sum{0}}, {Span: span(2, 2), Sum: Sum{1}}},
		Decisions:  []Decision{{Kind: "switch", Pos: Pos{2, 2}, Outcomes: []Outcome{{Way: Case("case 1"), Sum: Sum{1}}, {Way: Unmatched.Way(), Sum: Sum{2}}}}},
	}
	b := &Table{Path: "deck.h", Counters: 4, Continued: []uint32{4},
		Functions:  []Function{{Name: "deck", Span: span(1, 1), Sum: Sum{0}}},
		Statements: []Statement{{Span: span(2, 2), Sum: Sum{0}}, {Span: span(2, 2), Sum: Sum{1}}, {Span: span(9, 2), Sum: Sum{3}}},
		Decisions:  []Decision{{Kind: "switch", Pos: Pos{2, 2}, Outcomes: []Outcome{{Way: Case("case 1"), Sum: Sum{1}}, {Way: Case("case 2"), Sum: Sum{2}}, {Way: Unmatched.Way(), Sum: Sum{3}}}}},
	}
	u := Unite([]*Table{a, b})
	assert.Equal(t, 7, u.Counters)
	assert.Equal(t, []Function{{Name: "deck", Span: span(1, 1), Sum: Sum{0, 3}}}, u.Functions)
	assert.Equal(t, []Sum{{0, 3}, {1, 4}, {6}}, []Sum{u.Statements[0].Sum, u.Statements[1].Sum, u.Statements[2].Sum})
	var outcomes []Way
	for _, o := range u.Decisions[0].Outcomes {
		outcomes = append(outcomes, o.Way)
	}
	assert.Equal(t, []Way{Case("case 1"), Unmatched.Way(), Case("case 2")}, outcomes)
	assert.Equal(t, []uint32{4}, u.Continued, "a line on which something begins in one of them is no continuation")

	twice := &Table{Counters: 2, Functions: []Function{{Name: "deck", Span: span(1, 1), Sum: Sum{0}}, {Name: "deck", Span: span(1, 1), Sum: Sum{1}}},
		Statements: []Statement{{Span: span(2, 2), Function: 0, Sum: Sum{0}}, {Span: span(2, 2), Function: 1, Sum: Sum{1}}}}
	assert.Equal(t, Sum{0, 1}, Unite([]*Table{twice}).Statements[0].Sum, "a file that is included twice is there once")
}

// Of what a tool made of a file only some sites can be told, and of the others nothing,
// whatever another program says.
func TestUniteKeepsWhatAllPartialTablesHave(t *testing.T) {
	whole := &Table{Counters: 3,
		Functions:  []Function{{Name: "quote", Span: span(1, 1), Sum: Sum{0}}, {Name: "fee", Span: span(5, 1), Sum: Sum{1}}},
		Statements: []Statement{{Span: span(2, 2), Sum: Sum{0}}, {Span: span(3, 2), Sum: Sum{0}}, {Span: span(6, 2), Function: 1, Sum: Sum{1}}},
		Decisions:  []Decision{{Kind: "if", Pos: Pos{6, 2}, Function: 1, Outcomes: []Outcome{{Way: True.Way(), Sum: Sum{1}}, {Way: False.Way(), Sum: Sum{2}}}}},
	}
	some := &Table{Counters: 2, Partial: true,
		Functions:  []Function{{Name: "fee", Span: span(5, 1), Sum: Sum{0}}},
		Statements: []Statement{{Span: span(6, 2), Sum: Sum{1}}},
	}
	u := Unite([]*Table{whole, some})
	assert.True(t, u.Partial)
	assert.Equal(t, []Function{{Name: "fee", Span: span(5, 1), Sum: Sum{1, 3}}}, u.Functions)
	assert.Equal(t, []Statement{{Span: span(6, 2), Sum: Sum{1, 4}}}, u.Statements)
	assert.Empty(t, u.Decisions)
	assert.Len(t, Unite([]*Table{whole, u}).Statements, 1, "and so it stays")
}
