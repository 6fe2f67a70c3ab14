package origin

import (
	"slices"

	"thrush/internal/core/site"
)

// decisions gives for each decision of the source the one of the output that is the same,
// or -1. Those of a place are told apart by their order, if there are as many in both.
func (m *match) decisions() []int {
	t, o := m.source.Table, m.output.Table
	out := fill(len(t.Decisions))
	type key struct {
		at   site.Pos
		kind string
	}
	known := map[key][]int{}
	at := make([]site.Pos, len(t.Decisions))
	for d, x := range t.Decisions {
		k := key{m.source.unbracketed(x.Pos), x.Kind}
		known[k] = append(known[k], d)
		at[d] = x.Pos
	}
	statements, functions := m.source.around(at)
	found := map[key][]int{}
	for _, x := range m.part.decisions {
		d := o.Decisions[x]
		for _, from := range m.from(d.Pos) {
			k := key{m.source.unbracketed(from), d.Kind}
			if known[k] == nil && inWords[d.Kind] != nil {
				k.kind = "?:"
			}
			found[k] = append(found[k], x)
		}
	}
	for k, list := range found {
		if len(known[k]) != len(list) {
			continue
		}
		for i, d := range known[k] {
			y, in := statements[d], functions[d]
			if in >= 0 {
				in = m.functions[in]
			}
			switch {
			case y >= 0 && t.Statements[y].Function == t.Decisions[d].Function:
				if x := m.statements[y]; x >= 0 && inside(o.Statements[x].Span, o.Decisions[list[i]].Pos) && m.sameSigns(x, y) {
					out[d] = list[i]
				}
			case len(t.Decisions[d].Outcomes) == 1 && in >= 0 && inside(o.Functions[in].Span, o.Decisions[list[i]].Pos):
				out[d] = list[i]
			}
		}
	}
	m.beginning(out, statements)
	return out
}

// beginning matches decisions with which statements begin by these: an if is one of the
// output if the statements are. statements are those that decisions of the source are in.
func (m *match) beginning(found, statements []int) {
	t, o := m.source.Table, m.output.Table
	type key struct {
		at   site.Pos
		kind string
	}
	of := map[key][]int{}
	for _, x := range m.part.decisions {
		k := key{o.Decisions[x].Pos, o.Decisions[x].Kind}
		of[k] = append(of[k], x)
	}
	for d, y := range statements {
		if found[d] >= 0 || y < 0 || m.statements[y] < 0 || t.Statements[y].Span.Start != t.Decisions[d].Pos {
			continue
		}
		x := m.statements[y]
		if same := of[key{o.Statements[x].Span.Start, t.Decisions[d].Kind}]; len(same) == 1 && m.sameSigns(x, y) {
			found[d] = same[0]
		}
	}
}

// sameSigns tells whether nothing in a statement was turned round.
func (m *match) sameSigns(x, y int) bool {
	is, was := own(m.output.Table.Statements[x]), own(m.source.Table.Statements[y])
	return m.output.Signs(m.output.text(is.Start, is.End)) == m.source.Signs(m.source.text(was.Start, was.End))
}

// inWords are the outcomes of operators that older languages lack, as they are in the
// words of the choice that tools write for them, which is true or false.
var inWords = map[string]map[site.Code]site.Code{
	"??": {site.True: site.FirstOperand, site.False: site.LastOperand},
	"?.": {site.True: site.Absent, site.False: site.Present},
}

// without gives a decision without counters.
func without(d site.Decision) site.Decision {
	d.Outcomes, d.Logic = slices.Clone(d.Outcomes), slices.Clone(d.Logic)
	for i := range d.Outcomes {
		d.Outcomes[i].Sum = nil
	}
	for i := range d.Logic {
		d.Logic[i].Ways, d.Logic[i].Both = make([]site.Sum, len(d.Logic[i].Ways)), make([]site.Sum, len(d.Logic[i].Both))
	}
	return d
}

// ways gives a decision with the sums of another that is the same.
func ways(d, of site.Decision) (site.Decision, bool) {
	if len(d.Outcomes) != len(of.Outcomes) || len(d.Logic) > 0 && len(d.Logic) != len(of.Logic) {
		return d, false
	}
	d.Outcomes, d.Logic = slices.Clone(d.Outcomes), slices.Clone(d.Logic)
	for i := range d.Outcomes {
		way := d.Outcomes[i].Way
		if d.Kind != of.Kind {
			way = inWords[of.Kind][way.Code].Way()
		}
		j := slices.IndexFunc(of.Outcomes, func(o site.Outcome) bool { return o.Way == way })
		if d.Kind == of.Kind && of.Outcomes[i].Way == way {
			j = i // a way may be there twice
		}
		if j < 0 {
			return d, false
		}
		d.Outcomes[i].Sum = of.Outcomes[j].Sum
	}
	for i := range d.Logic {
		l, o := &d.Logic[i], of.Logic[i]
		if l.Formula != o.Formula || len(l.Conditions) != len(o.Conditions) || len(l.Ways) != len(o.Ways) || len(l.Both) != len(o.Both) {
			return d, false
		}
		l.Ways, l.Both = o.Ways, o.Both
	}
	return d, true
}
