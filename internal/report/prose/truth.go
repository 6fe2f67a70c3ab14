package prose

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
	"thrush/internal/core/logic"
)

// TruthTable is a boolean expression with its conditions and the ways through it,
// in words.
type TruthTable struct {
	Formula    string         `json:"formula"` // with c1, c2 … for the conditions
	Conditions []ConditionRow `json:"conditions"`
	Ways       []WayRow       `json:"ways"`
	Hidden     int            `json:"hidden,omitempty"` // ways neither taken nor needed that are not listed
	More       string         `json:"more"`             // how many more ways are needed, and which
}

// ConditionRow is a condition.
type ConditionRow struct {
	Name  string `json:"name"` // c1, c2, …
	Text  string `json:"text"`
	True  string `json:"true"`
	False string `json:"false"`
	Says  string `json:"says"` // what shows it, or what is missing
	Shown bool   `json:"shown"`
}

// WayRow is a way of evaluating an expression.
type WayRow struct {
	Number int      `json:"number"` // from 1
	Values []string `json:"values"` // "true", "false", or empty where it was not evaluated
	Result string   `json:"result"`
	Taken  string   `json:"taken"`
	Proves string   `json:"proves"` // conditions that it helps to show
}

// mostWays is how many ways are listed whether they matter or not.
const mostWays = 16

// Table writes a boolean expression out.
func Table(l coverage.Logic) TruthTable {
	t := TruthTable{Formula: formula(l.Formula, 0), Conditions: []ConditionRow{}, Ways: []WayRow{}}
	proofs, missing := l.Proofs(), gaps.Conditions(l)
	proves := map[int][]string{}
	for i, c := range l.Conditions {
		row := ConditionRow{Name: fmt.Sprintf("c%d", i+1), Text: Safe(c.Text), True: Often(c.True), False: Often(c.False), Shown: c.Shown, Says: Safe(missing[i].What)}
		switch needs := missing[i].Numbers; {
		case len(needs) > 0:
			row.Says += ": needs " + numbers(needs)
		case len(l.Ways) == 0 && c.Shown:
			row.Says = "decided alone"
		case len(l.Ways) == 0:
			row.Says = Safe(missing[i].Says(l))
		}
		if c.Shown && len(l.Ways) > 0 {
			p := proofs[i]
			row.Says = fmt.Sprintf("decided alone: ways %d and %d", p.True+1, p.False+1)
			proves[p.True] = append(proves[p.True], row.Name)
			proves[p.False] = append(proves[p.False], row.Name)
		}
		t.Conditions = append(t.Conditions, row)
	}
	needed := map[int]bool{}
	more := l.More()
	for _, w := range more {
		needed[w] = true
	}
	for i, w := range l.Ways {
		if len(l.Ways) > mostWays && !l.Taken(i) && !needed[i] {
			t.Hidden++
			continue
		}
		row := WayRow{Number: i + 1, Result: fmt.Sprint(w.Result), Taken: Often(l.Counts[i]), Proves: strings.Join(proves[i], " ")}
		for _, v := range w.Values {
			row.Values = append(row.Values, map[logic.Value]string{logic.True: "true", logic.False: "false"}[v])
		}
		t.Ways = append(t.Ways, row)
	}
	switch {
	case len(l.Ways) == 0:
		t.More = "each condition was counted by itself, so no ways are listed"
	case len(more) == 0:
		t.More = "every condition was shown to decide on its own"
	default:
		slices.Sort(more)
		t.More = Plural(len(more), "more way", "more ways") + " would show every condition: " + numbers(more)
	}
	return t
}

// numbers names ways.
func numbers(ways []int) string {
	if len(ways) == 1 {
		return fmt.Sprintf("way %d", ways[0]+1)
	}
	var out []string
	for _, w := range ways {
		out = append(out, strconv.Itoa(w+1))
	}
	last := len(out) - 1
	return "ways " + strings.Join(out[:last], ", ") + " and " + out[last]
}

// formula writes a formula with as few brackets as it needs.
func formula(f *logic.Formula, around int) string {
	text, binds := "", 0
	switch f.Op {
	case logic.Leaf:
		return fmt.Sprintf("c%d", f.Condition+1)
	case logic.Not:
		return "not " + formula(f.X, 3)
	case logic.And:
		text, binds = formula(f.X, 2)+" and "+formula(f.Y, 2), 2
	case logic.Or:
		text, binds = formula(f.X, 1)+" or "+formula(f.Y, 1), 1
	}
	if binds < around {
		return "(" + text + ")"
	}
	return text
}
