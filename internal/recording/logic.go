package recording

import (
	"thrush/internal/core/logic"
	"thrush/internal/core/site"
)

// mostWays bounds the ways of a formula that a recording may count.
const mostWays = 1 << 12

func (w *wireTable) putLogic(decision int, l site.Logic) {
	sums, ways := l.Ways, uint32(1)
	if sums == nil {
		sums, ways = l.Both, 0
	}
	w.LogicDecisions = append(w.LogicDecisions, uint32(decision))
	w.LogicFormulas = append(w.LogicFormulas, l.Formula)
	w.LogicPlaces = append(putPos(w.LogicPlaces, l.Pos), ways)
	w.LogicSums = append(w.LogicSums, uint32(len(sums)))
	for _, s := range sums {
		w.LogicSums = putSum(w.LogicSums, s)
	}
	for _, c := range l.Conditions {
		w.ConditionTexts = append(w.ConditionTexts, c.Text)
		w.ConditionPlaces = putPos(w.ConditionPlaces, c.Pos)
	}
}

// logic reads the boolean expressions of decisions, and checks that each has the
// conditions and the counts that its formula says.
func (r *columns) logic(w *wireTable, decisions []site.Decision) {
	texts := w.ConditionTexts
	for i, formula := range w.LogicFormulas {
		l := site.Logic{Formula: formula, Pos: r.pos(&w.LogicPlaces)}
		counted := r.next(&w.LogicPlaces) == 1
		sums := make([]site.Sum, min(int(r.next(&w.LogicSums)), len(w.LogicSums)))
		for j := range sums {
			sums[j] = r.sum(&w.LogicSums)
		}
		f, err := logic.Parse(formula)
		if err != nil || i >= len(w.LogicDecisions) || int(w.LogicDecisions[i]) >= len(decisions) || f.Size() > len(texts) {
			r.bad = true
		}
		if r.bad {
			return
		}
		want := 4 * f.Size()
		if l.Both = sums; counted {
			l.Ways, l.Both = sums, nil
			want = f.Steps()[0].Ways
		}
		if len(sums) != want || counted && want > mostWays {
			r.bad = true
			return
		}
		for range f.Size() {
			l.Conditions = append(l.Conditions, site.Condition{Text: texts[0], Pos: r.pos(&w.ConditionPlaces)})
			texts = texts[1:]
		}
		d := &decisions[w.LogicDecisions[i]]
		d.Logic = append(d.Logic, l)
	}
}
