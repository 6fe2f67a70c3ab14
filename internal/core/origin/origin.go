// Package origin leads what is measured in a text that a tool made back to the sources
// that it was made of.
//
// A site of a source is told by a site of the output only if both are the same code: the
// one begins where the other does, all of it that leads anywhere leads into the other, and
// nothing of the other runs before it or elsewhere. Of any other site of the source nothing
// is said: a guess could call something run that did not.
package origin

import (
	"bytes"
	"slices"

	"thrush/internal/core/site"
)

// Link says that a place of an output came from one of a source; from nowhere, if Source
// is -1.
type Link struct {
	At     site.Pos
	Source int
	From   site.Pos
}

// Text is a text with what is measured in it.
type Text struct {
	Table  *site.Table
	Source []byte
	// Signs gives what turns the outcomes of decisions round, in the order of a text: tools
	// that make code smaller turn them.
	Signs func(text []byte) string
}

// Back gives, for each source, its table with the sums of the output's, or nil if no link
// leads into it, and tells whether a site of any of them was found. Links are in the order of
// the output. A table that lacks sites of the source is partial; it may lack them all.
func Back(output Text, links []Link, sources []*Text) (out []*site.Table, any bool) {
	o := newIndex(output)
	links, closes, blank := o.tight(links)
	parts := share(o, links, len(sources))
	out = make([]*site.Table, len(sources))
	matches, named := make([]*match, len(sources)), map[string]bool{}
	for i, s := range sources {
		if s == nil {
			continue
		}
		m := &match{output: o, source: newIndex(*s), links: links, closes: closes, blank: blank, number: i, part: parts[i]}
		m.read()
		m.matchStatements()
		m.matchFunctions()
		m.names(named)
		matches[i] = m
	}
	for i, m := range matches {
		if m != nil && len(m.own) > 0 {
			out[i] = m.table(m.removed(named))
			any = any || m.found()
		}
	}
	return out, any
}

// match matches one source with the output.
type match struct {
	output, source *index
	number         int
	links          []Link              // of the whole output
	closes         []bool              // those about no code
	blank          map[site.Pos][]Link // those of the blanks before a place
	part           part

	// Of the links that lead into this source: where they lie in both.
	own []place
	// statements and functions are, for each of the source's, the one of the output that is
	// the same, or -1.
	statements, functions []int
	twins                 []twin // of the source's statements
}

// part is what of an output may have come from one source: links, and sites by their
// indexes.
type part struct {
	links, statements, functions, decisions []int
}

// share tells which part of an output may have come from which source.
func share(o *index, links []Link, sources int) []part {
	out := make([]part, sources)
	for i, l := range links {
		if l.Source >= 0 {
			out[l.Source].links = append(out[l.Source].links, i)
		}
	}
	// A site came from where the links at its beginning lead, or the last one before it.
	put := func(at site.Pos, to func(*part)) {
		i, found := slices.BinarySearchFunc(links, at, compareLink)
		if !found {
			i--
		}
		seen := -1
		for first := i; i >= 0 && i < len(links) && (i == first || links[i].At == at); i++ {
			if s := links[i].Source; s >= 0 && s != seen {
				to(&out[s])
				seen = s
			}
		}
	}
	for i, s := range o.Table.Statements {
		put(s.Span.Start, func(p *part) { p.statements = append(p.statements, i) })
	}
	for i, f := range o.Table.Functions {
		if f.Span != (site.Span{}) {
			put(f.Span.Start, func(p *part) { p.functions = append(p.functions, i) })
		}
	}
	for i, d := range o.Table.Decisions {
		put(d.Pos, func(p *part) { p.decisions = append(p.decisions, i) })
	}
	return out
}

func compareLink(l Link, at site.Pos) int { return l.At.Compare(at) }

// place is where a link lies: innermost statements and function, or -1.
type place struct {
	link                      int
	outStatement, outFunction int
	statement                 int
}

func (m *match) read() {
	for _, i := range m.part.links {
		if !m.closes[i] {
			m.own = append(m.own, place{link: i})
		}
	}
	at := make([]site.Pos, len(m.own))
	for i := range m.own {
		at[i] = m.links[m.own[i].link].At
	}
	statements, functions := m.output.around(at)
	for i := range m.own {
		m.own[i].outStatement, m.own[i].outFunction = statements[i], functions[i]
		at[i] = m.links[m.own[i].link].From
	}
	statements, _ = m.source.around(at)
	for i := range m.own {
		m.own[i].statement = statements[i]
	}
}

// from gives the places of this source that a place of the output came from. Where no link
// is, text that was copied as it stood since the last one counts as linked.
func (m *match) from(at site.Pos) []site.Pos {
	i, found := slices.BinarySearchFunc(m.links, at, compareLink)
	var out []site.Pos
	if found {
		for ; i < len(m.links) && m.links[i].At == at; i++ {
			if m.links[i].Source == m.number {
				out = append(out, m.links[i].From)
			}
		}
		return out
	}
	if i--; i < 0 || m.links[i].Source != m.number || m.links[i].At.Line != at.Line {
		return nil
	}
	l := m.links[i]
	to := site.Pos{Line: l.From.Line, Column: l.From.Column + at.Column - l.At.Column}
	copied := m.output.text(l.At, at)
	if len(copied) != at.Column-l.At.Column || !bytes.Equal(copied, m.source.text(l.From, to)) {
		return nil
	}
	return []site.Pos{to}
}

// within tells whether all links in a stretch of the output lead into a stretch of this
// source. Tools link the end of a text to the place after it.
func (m *match) within(in, into site.Span) bool {
	i, _ := slices.BinarySearchFunc(m.links, in.Start, compareLink)
	for ; i < len(m.links) && m.links[i].At.Before(in.End); i++ {
		l := m.links[i]
		if l.Source >= 0 && !m.closes[i] && (l.Source != m.number || l.From.Before(into.Start) || into.End.Before(l.From)) {
			return false
		}
	}
	return true
}

// table is what the output tells of the source, of which some functions were left out: they
// are there and have no counters.
func (m *match) table(removed map[int]bool) *site.Table {
	t, o := m.source.Table, m.output.Table
	out := *t
	out.Functions, out.Statements, out.Decisions = nil, nil, nil
	out.Counters, out.Level, out.Keep = o.Counters, o.Level, o.Keep
	number := fill(len(t.Functions))
	for g, f := range t.Functions {
		at := m.functions[g]
		if f.Span == (site.Span{}) {
			at = slices.IndexFunc(t.Statements, func(s site.Statement) bool { return s.Function == g })
			for y := max(at, 0); y < len(t.Statements); y++ {
				if t.Statements[y].Function == g && m.statements[y] >= 0 {
					f.Sum = o.Statements[m.statements[y]].Sum
					number[g] = len(out.Functions)
					out.Functions = append(out.Functions, f)
					break
				}
			}
			continue
		}
		if at >= 0 {
			f.Sum = o.Functions[at].Sum
			number[g] = len(out.Functions)
			out.Functions = append(out.Functions, f)
		}
	}
	for g, f := range t.Functions {
		if removed[g] {
			f.Sum, number[g] = nil, len(out.Functions)
			out.Functions = append(out.Functions, f)
		}
	}
	for y, s := range t.Statements {
		if removed[s.Function] {
			s.Sum, s.Function = nil, number[s.Function]
			out.Statements = append(out.Statements, s)
			continue
		}
		if x := m.statements[y]; x >= 0 && number[s.Function] >= 0 {
			s.Sum, s.Function = o.Statements[x].Sum, number[s.Function]
			out.Statements = append(out.Statements, s)
		}
	}
	for d, x := range m.decisions() {
		if of := t.Decisions[d].Function; removed[of] {
			never := without(t.Decisions[d])
			never.Function = number[of]
			out.Decisions = append(out.Decisions, never)
			continue
		}
		if x >= 0 && number[t.Decisions[d].Function] >= 0 {
			if told, ok := ways(t.Decisions[d], o.Decisions[x]); ok {
				told.Function = number[told.Function]
				out.Decisions = append(out.Decisions, told)
			}
		}
	}
	out.Partial = len(out.Functions) < len(t.Functions) || len(out.Statements) < len(t.Statements) || len(out.Decisions) < len(t.Decisions)
	return &out
}

// found tells whether a site of the source is one of the output.
func (m *match) found() bool {
	is := func(x int) bool { return x >= 0 }
	return slices.ContainsFunc(m.statements, is) || slices.ContainsFunc(m.functions, is)
}

func fill(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = -1
	}
	return out
}
