package remap

import "thrush/internal/core/site"

// place is where something stands, and which of those that stand there it is.
type place struct {
	span site.Span
	kind string
	nth  int
}

// ByPlace compares two tables of the same text, which may have been made in different
// ways: what stands in the same place is the same.
func ByPlace(old, now *site.Table) *Matched {
	m := &Matched{fill(len(now.Functions)), fill(len(now.Statements)), fill(len(now.Decisions)), make([]bool, len(now.Functions))}
	pair(old.Functions, now.Functions, m.Functions, func(f site.Function) place { return place{span: f.Span} })
	pair(old.Statements, now.Statements, m.Statements, func(s site.Statement) place { return place{span: s.Span} })
	pair(old.Decisions, now.Decisions, m.Decisions, func(d site.Decision) place { return place{span: site.Span{Start: d.Pos}, kind: d.Kind} })
	for i := range m.Same {
		m.Same[i] = true
	}
	return m
}

// pair finds for each of the newer ones the older one in its place.
func pair[T any](old, now []T, to []int, at func(T) place) {
	index, seen := map[place]int{}, map[place]int{}
	nth := func(x T) place {
		p := at(x)
		seen[p]++
		p.nth = seen[p]
		return p
	}
	for i, x := range old {
		index[nth(x)] = i
	}
	clear(seen)
	for j, x := range now {
		if i, ok := index[nth(x)]; ok {
			to[j] = i
		}
	}
}
