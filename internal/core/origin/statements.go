package origin

import (
	"bytes"
	"crypto/sha256"
	"slices"

	"thrush/internal/core/site"
)

// ownWithin tells whether what is of a statement of the output itself leads into what is of
// one of the source itself, or to its end. What functions in it do is their own.
func (m *match) ownWithin(x, y site.Statement) bool {
	last := site.Pos{Line: y.Span.End.Line, Column: y.Span.End.Column - 1}
	i, _ := slices.BinarySearchFunc(m.links, x.Span.Start, compareLink)
	for ; i < len(m.links) && m.links[i].At.Before(x.Head); i++ {
		l := m.links[i]
		if l.Source == m.number && !m.closes[i] && y.Head.Before(l.From) && l.From.Before(last) && !m.inFunctionOf(x, i) {
			return false
		}
	}
	return true
}

// inFunctionOf tells whether a link of this source is in a function that stands in a
// statement.
func (m *match) inFunctionOf(x site.Statement, link int) bool {
	i, found := slices.BinarySearchFunc(m.own, link, func(p place, link int) int { return p.link - link })
	f := -1
	if found {
		f = m.own[i].outFunction
	}
	return f >= 0 && holds(x.Span, m.output.Table.Functions[f].Span)
}

// begun gives the places of this source at which what begins at a place of the output may
// have begun.
func (m *match) begun(at site.Pos) []site.Pos {
	out := m.from(at)
	for _, l := range m.blank[at] {
		if l.Source == m.number {
			out = append(out, l.From)
		}
	}
	return out
}

func (m *match) matchStatements() {
	begin := map[site.Pos]int{}
	t := m.source.Table
	for y := len(t.Statements) - 1; y >= 0; y-- {
		for _, at := range m.source.begins(t.Statements[y].Span.Start) {
			begin[at] = y
		}
	}
	m.statements = fill(len(t.Statements))
	for _, x := range m.part.statements {
		s := m.output.Table.Statements[x]
		for _, from := range m.begun(s.Span.Start) {
			y, ok := begin[from]
			if ok && m.statements[y] < 0 && m.within(s.Span, since(from, t.Statements[y].Span)) && m.ownWithin(s, t.Statements[y]) {
				m.statements[y] = x
			}
		}
	}
	m.near()
	// What is of a statement may go on after the one that is it, but not begin before, nor
	// be in another function.
	for _, p := range m.own {
		if p.statement < 0 || p.outStatement < 0 {
			continue
		}
		x := m.statements[p.statement]
		if x < 0 || x == p.outStatement {
			continue
		}
		is, other := m.output.Table.Statements[x], m.output.Table.Statements[p.outStatement]
		if holds(is.Span, other.Span) || is.Function == other.Function && !other.Span.Start.Before(is.Span.End) {
			continue
		}
		m.statements[p.statement] = -1
	}
	m.readTwins()
	for m.displaced() || m.merged() {
	}
}

// near matches statements of the output at whose beginning, or just after it, a map leads
// into the middle of one of the source: tools that make maps of maps take a place close by. They have to begin
// with the same text then.
func (m *match) near() {
	t, o := m.source.Table, m.output.Table
	taken := make([]bool, len(o.Statements))
	for _, x := range m.statements {
		if x >= 0 {
			taken[x] = true
		}
	}
	var left []int
	var at []site.Pos
	for _, x := range m.part.statements {
		if taken[x] {
			continue
		}
		begin := o.Statements[x].Span.Start
		for _, from := range append(m.begun(begin), m.next(begin, o.Statements[x].Head)...) {
			left, at = append(left, x), append(at, from)
		}
	}
	found, _ := m.source.around(at)
	claims := map[int]int{} // statements of the output, by those of the source; -1 for several
	for i, y := range found {
		if y < 0 || m.statements[y] >= 0 || !m.alike(o.Statements[left[i]], t.Statements[y]) {
			continue
		}
		if x, ok := claims[y]; ok && x != left[i] {
			claims[y] = -1
			continue
		}
		claims[y] = left[i]
	}
	for y, x := range claims {
		if x >= 0 {
			m.statements[y] = x
		}
	}
}

// next gives where the first link of this source leads that stands after a place, and before
// another, on its line.
func (m *match) next(at, end site.Pos) []site.Pos {
	i, found := slices.BinarySearchFunc(m.links, at, compareLink)
	if found {
		return nil
	}
	if i < len(m.links) && m.links[i].Source == m.number && m.links[i].At.Line == at.Line && m.links[i].At.Before(end) {
		return []site.Pos{m.links[i].From}
	}
	return nil
}

// telling is how many bytes of two statements, without blanks, have to be the same to tell
// that they are.
const telling = 12

// alike tells whether a statement of the output leads into one of the source and begins as it
// does.
func (m *match) alike(x, y site.Statement) bool {
	if !m.within(x.Span, y.Span) || !m.ownWithin(x, y) {
		return false
	}
	is := squeezed(m.output.text(x.Span.Start, x.Span.End))
	for _, at := range m.source.begins(y.Span.Start) {
		if of := squeezed(m.source.text(at, y.Span.End)); len(of) > 0 && bytes.Equal(of[:min(len(of), telling)], is[:min(len(is), telling)]) {
			return true
		}
	}
	return false
}

// squeezed is a text without blanks, and with one kind of quotes.
func squeezed(text []byte) []byte {
	text = text[:min(len(text), 20*telling)]
	return bytes.ReplaceAll(bytes.Join(bytes.Fields(text), nil), []byte("'"), []byte(`"`))
}

// since is a span with what is said to be its beginning.
func since(from site.Pos, s site.Span) site.Span {
	if from.Before(s.Start) {
		s.Start = from
	}
	return s
}

// displaced takes back statements that are not in the same statement as they were, and
// tells whether there were any.
func (m *match) displaced() (any bool) {
	t, o := m.source.Table, m.output.Table
	for y, x := range m.statements {
		if x < 0 {
			continue
		}
		above, was := m.output.parents[x], m.source.parents[y]
		inner := was >= 0 && t.Statements[was].Function == t.Statements[y].Function
		if inner && m.statements[was] != above || !inner && above >= 0 && o.Statements[above].Function == o.Statements[x].Function {
			m.statements[y], any = -1, true
		}
	}
	return any
}

// merged takes back statements that read the same as one of the same function that is not
// in the output: a tool may have made one of them. It tells whether there were any.
func (m *match) merged() (any bool) {
	missing := map[twin]bool{}
	for y, x := range m.statements {
		if x < 0 {
			missing[m.twins[y]] = true
		}
	}
	for y, x := range m.statements {
		if x >= 0 && missing[m.twins[y]] {
			m.statements[y], any = -1, true
		}
	}
	return any
}

// twin is what statements that read the same have in common.
type twin struct {
	function int
	text     [sha256.Size]byte
}

func (m *match) readTwins() {
	for _, s := range m.source.Table.Statements {
		words := bytes.Join(bytes.Fields(m.source.text(s.Span.Start, s.Span.End)), nil)
		m.twins = append(m.twins, twin{s.Function, sha256.Sum256(words)})
	}
}

// own is what of a statement is not of those nested in it.
func own(s site.Statement) site.Span { return site.Span{Start: s.Span.Start, End: s.Head} }
