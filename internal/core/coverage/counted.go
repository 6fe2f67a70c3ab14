package coverage

import "thrush/internal/core/attribution"

// Counted are the counters of a file, and the set of labels that reached each.
type Counted struct {
	Counters []uint64 // nil if nothing of the file ran
	Reach    []uint32 // nil if nobody asks
	Sets     *attribution.Sets
}

// Only gives what remains of counters if only what a label reached counts.
func (c Counted) Only(label string) Counted {
	out := Counted{Sets: c.Sets}
	own := c.Sets.Named([]string{label})
	for i, n := range c.Counters {
		if !c.Sets.Has(c.Reach[i], label) {
			continue
		}
		if out.Counters == nil {
			out.Counters, out.Reach = make([]uint64, len(c.Counters)), make([]uint32, len(c.Counters))
		}
		out.Counters[i], out.Reach[i] = n, own
	}
	return out
}
