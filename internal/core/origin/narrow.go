package origin

import (
	"slices"

	"thrush/internal/core/site"
)

// Narrow gives a table with only the counters that its sums name, and which ones of the
// old these are.
func Narrow(t *site.Table) (out *site.Table, counters []uint32) {
	number := map[uint32]uint32{}
	each := func(s site.Sum) site.Sum {
		to := make(site.Sum, len(s))
		for i, c := range s {
			n, ok := number[c]
			if !ok {
				n = uint32(len(counters))
				number[c] = n
				counters = append(counters, c)
			}
			to[i] = n
		}
		return to
	}
	all := func(sums []site.Sum) []site.Sum {
		sums = slices.Clone(sums)
		for i := range sums {
			sums[i] = each(sums[i])
		}
		return sums
	}
	narrow := *t
	narrow.Functions, narrow.Statements, narrow.Decisions = slices.Clone(t.Functions), slices.Clone(t.Statements), slices.Clone(t.Decisions)
	for i := range narrow.Functions {
		narrow.Functions[i].Sum = each(narrow.Functions[i].Sum)
	}
	for i := range narrow.Statements {
		narrow.Statements[i].Sum = each(narrow.Statements[i].Sum)
	}
	for i := range narrow.Decisions {
		d := &narrow.Decisions[i]
		d.Outcomes, d.Logic = slices.Clone(d.Outcomes), slices.Clone(d.Logic)
		for j := range d.Outcomes {
			d.Outcomes[j].Sum = each(d.Outcomes[j].Sum)
		}
		for j := range d.Logic {
			d.Logic[j].Ways, d.Logic[j].Both = all(d.Logic[j].Ways), all(d.Logic[j].Both)
		}
	}
	narrow.Counters = len(counters)
	return &narrow, counters
}
