package merging

import (
	"thrush/internal/core/attribution"
	"thrush/internal/recording"
)

// reaching adds to what is known of who reached counters what a recording tells.
type reaching struct {
	to   *attribution.Sets
	from *recording.Recording
	// of gives the set in the result for a set of the recording; unions, for each of
	// these, the union with a set of the result, plus one.
	of       map[uint32]uint32
	unions   map[uint32][]uint32
	counters []uint64 // of a row, used again for each
	sets     []uint32
}

// newReaching gives nil if labels are not told apart.
func newReaching(sets *attribution.Sets, rec *recording.Recording) *reaching {
	if sets == nil {
		return nil
	}
	return &reaching{to: sets, from: rec, of: map[uint32]uint32{}, unions: map[uint32][]uint32{}}
}

// add takes row n of the recording into account.
func (r *reaching) add(n int, to *row) {
	if to.reach == nil {
		to.reach = make([]uint32, to.Counters)
	}
	if cap(r.counters) < to.Counters {
		r.counters, r.sets = make([]uint64, 2*to.Counters), make([]uint32, 2*to.Counters)
	}
	counters, sets := r.counters[:to.Counters], r.sets[:to.Counters]
	clear(counters)
	r.from.Counts(n, counters)
	r.from.Reached(n, counters, sets)
	var last uint32
	var unions []uint32
	for i, s := range sets {
		if s == 0 {
			continue
		}
		if s != last {
			last, unions = s, r.unions[s]
		}
		had := to.reach[i]
		if int(had) < len(unions) && unions[had] != 0 {
			to.reach[i] = unions[had] - 1
			continue
		}
		to.reach[i] = r.union(had, s)
		unions = r.unions[s]
	}
}

// union works out a union that is not known yet.
func (r *reaching) union(had, s uint32) uint32 {
	set, ok := r.of[s]
	if !ok {
		set = r.to.Named(r.from.Sets.Names(s))
		r.of[s] = set
	}
	u := r.to.Union(had, set)
	for len(r.unions[s]) <= int(had) {
		r.unions[s] = append(r.unions[s], 0)
	}
	r.unions[s][had] = u + 1
	return u
}
