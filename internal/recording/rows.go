package recording

import (
	"encoding/binary"
	"math"
)

// Row says what of a file was measured in one way, as it is stored.
type Row struct {
	Path, Digest string
	Table        []byte // as PackTable gives it
	Counters     int
	Loaded       bool
}

// Check tells whether the table can be read and belongs to the row.
func (r Row) Check() error {
	one := row{path: r.Path, digest: r.Digest, table: r.Table, counters: r.Counters}
	_, err := one.open()
	return err
}

// Rows is how many rows there are, in the order of their paths.
func (r *Recording) Rows() int { return len(r.rows) }

// Row gives row n.
func (r *Recording) Row(n int) Row {
	one := &r.rows[n]
	return Row{one.path, one.digest, one.table, one.counters, one.width != notLoaded}
}

// Counts adds the counters of row n, which must be loaded, to a sum that has as many.
// Sums that grow too large stay at the largest number.
func (r *Recording) Counts(n int, sum []uint64) {
	one := &r.rows[n]
	data := r.counts[one.at : one.at+one.counters*int(one.width)]
	sum = sum[:one.counters]
	switch one.width {
	case 1:
		for i := range sum {
			sum[i] = add(sum[i], uint64(data[i]))
		}
	case 2:
		for i := range sum {
			sum[i] = add(sum[i], uint64(binary.LittleEndian.Uint16(data[2*i:])))
		}
	case 4:
		for i := range sum {
			sum[i] = add(sum[i], uint64(binary.LittleEndian.Uint32(data[4*i:])))
		}
	case 8:
		for i := range sum {
			sum[i] = add(sum[i], binary.LittleEndian.Uint64(data[8*i:]))
		}
	}
}

func add(a, b uint64) uint64 {
	if s := a + b; s >= a {
		return s
	}
	return math.MaxUint64
}

// Reached puts the sets of labels that reached the counters of row n, which must be
// loaded, into a list that has as many. Where no sets are told apart, those that
// have counted were reached by all.
func (r *Recording) Reached(n int, counters []uint64, to []uint32) {
	one := &r.rows[n]
	data := r.reach[one.reachAt : one.reachAt+one.counters*int(r.each)]
	all := r.Sets.All()
	known := r.Sets.Len()
	for i := range to {
		var id uint32
		switch r.each {
		case 0:
			if counters[i] > 0 {
				id = all
			}
		case 1:
			id = uint32(data[i])
		case 2:
			id = uint32(binary.LittleEndian.Uint16(data[2*i:]))
		case 4:
			id = binary.LittleEndian.Uint32(data[4*i:])
		}
		if int(id) < known {
			to[i] = id
		}
	}
}

// Plain tells whether what ran was reached by all labels.
func (r *Recording) Plain() bool { return r.each == 0 }
