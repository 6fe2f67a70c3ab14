// Package attribution keeps sets of labels, each set once, so that for millions of
// counters it can be said which labels reached each.
package attribution

import (
	"encoding/binary"
	"fmt"
	"slices"
	"sync"
)

// Sets are sets of labels, by number. The number 0 is the empty set. A run without
// a label counts for the label "".
type Sets struct {
	Labels []string // in order, each once

	mu     sync.RWMutex
	sets   [][]uint32        // indexes of labels, in order
	byText map[string]uint32 // a set's number by its indexes
	unions map[[2]uint32]uint32
	all    uint32
}

// Of makes sets of labels, which must be in order, each once.
func Of(labels []string) *Sets {
	s := &Sets{Labels: labels, sets: [][]uint32{nil}, byText: map[string]uint32{"": 0}, unions: map[[2]uint32]uint32{}}
	return s
}

// Add gives the number of a set of indexes of labels, which must be in order.
func (s *Sets) Add(set []uint32) (uint32, error) {
	for i, m := range set {
		if int(m) >= len(s.Labels) || i > 0 && set[i-1] >= m {
			return 0, fmt.Errorf("a set of labels is not as it was written")
		}
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.add(set), nil
}

func (s *Sets) add(set []uint32) uint32 {
	text := make([]byte, 0, 4*len(set))
	for _, m := range set {
		text = binary.LittleEndian.AppendUint32(text, m)
	}
	n, ok := s.byText[string(text)]
	if !ok {
		n = uint32(len(s.sets))
		s.sets = append(s.sets, set)
		s.byText[string(text)] = n
	}
	return n
}

// All is the set of all labels.
func (s *Sets) All() uint32 {
	s.mu.RLock()
	all := s.all
	s.mu.RUnlock()
	if all != 0 || len(s.Labels) == 0 {
		return all
	}
	set := make([]uint32, len(s.Labels))
	for i := range set {
		set[i] = uint32(i)
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.all = s.add(set)
	return s.all
}

// Named gives the set of the labels with the given names, which must all be there.
func (s *Sets) Named(names []string) uint32 {
	var set []uint32
	for _, n := range names {
		if i, ok := slices.BinarySearch(s.Labels, n); ok {
			set = append(set, uint32(i))
		}
	}
	slices.Sort(set)
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.add(slices.Compact(set))
}

// Len is how many sets there are; each number below it is one's.
func (s *Sets) Len() int {
	s.mu.RLock()
	defer s.mu.RUnlock()
	return len(s.sets)
}

// Union gives the set of what is in either of two.
func (s *Sets) Union(a, b uint32) uint32 {
	if a == b || b == 0 {
		return a
	}
	if a == 0 {
		return b
	}
	key := [2]uint32{min(a, b), max(a, b)}
	s.mu.RLock()
	n, ok := s.unions[key]
	s.mu.RUnlock()
	if ok {
		return n
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	set := slices.Concat(s.sets[a], s.sets[b])
	slices.Sort(set)
	n = s.add(slices.Compact(set))
	s.unions[key] = n
	return n
}

// Members are the indexes of the labels in a set.
func (s *Sets) Members(n uint32) []uint32 {
	s.mu.RLock()
	defer s.mu.RUnlock()
	return s.sets[n]
}

// Names are the labels in a set.
func (s *Sets) Names(n uint32) []string {
	var out []string
	for _, m := range s.Members(n) {
		out = append(out, s.Labels[m])
	}
	return out
}

// Has tells whether a label is in a set.
func (s *Sets) Has(n uint32, label string) bool {
	i, ok := slices.BinarySearch(s.Labels, label)
	if !ok {
		return false
	}
	_, ok = slices.BinarySearch(s.Members(n), uint32(i))
	return ok
}
