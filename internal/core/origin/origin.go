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
	"strings"

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

// Back gives, for each source, its table with the sums of the output's, or nil if nothing
// of it is in the output. Links are in the order of the output. A table that lacks sites of
// the source is partial.
func Back(output Text, links []Link, sources []*Text) []*site.Table {
	o := newIndex(output)
	links = o.tight(links)
	out := make([]*site.Table, len(sources))
	for i, s := range sources {
		if s == nil {
			continue
		}
		m := &match{output: o, source: newIndex(*s), links: links, number: i}
		m.read()
		m.matchStatements()
		m.matchFunctions()
		out[i] = m.table()
	}
	return out
}

// tight moves links over blanks to the text that they are about, and leaves out those of
// blanks alone.
func (x *index) tight(links []Link) []Link {
	var out []Link
	for i, l := range links {
		from := x.offset(l.At)
		line := x.Source[from:]
		if n := bytes.IndexByte(line, '\n'); n >= 0 {
			line = line[:n]
		}
		blanks := len(line) - len(bytes.TrimLeft(line, " \t"))
		if i+1 < len(links) && links[i+1].At.Line == l.At.Line && links[i+1].At.Column > l.At.Column && links[i+1].At.Column <= l.At.Column+blanks {
			continue
		}
		if blanks < len(line) {
			l.At.Column += blanks
		}
		out = append(out, l)
	}
	return out
}

// match matches one source with the output.
type match struct {
	output, source *index
	number         int
	links          []Link // of the whole output

	// Of the links that lead into this source: where they lie in both.
	own []place
	// statements and functions are, for each of the source's, the one of the output that is
	// the same, or -1.
	statements, functions []int
}

// place is where a link lies: innermost statements and functions, or -1.
type place struct {
	link                int
	outStatement        int
	outFunction         int
	statement, function int
}

func (m *match) read() {
	for i, l := range m.links {
		if l.Source == m.number {
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
	statements, functions = m.source.around(at)
	for i := range m.own {
		m.own[i].statement, m.own[i].function = statements[i], functions[i]
	}
}

// from gives the places of this source that a place of the output came from. Where no link
// is, text that was copied as it stood since the last one counts as linked.
func (m *match) from(at site.Pos) []site.Pos {
	i, found := slices.BinarySearchFunc(m.links, at, func(l Link, at site.Pos) int { return l.At.Compare(at) })
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
	i, _ := slices.BinarySearchFunc(m.links, in.Start, func(l Link, at site.Pos) int { return l.At.Compare(at) })
	for ; i < len(m.links) && m.links[i].At.Before(in.End); i++ {
		l := m.links[i]
		if l.Source >= 0 && (l.Source != m.number || l.From.Before(into.Start) || into.End.Before(l.From)) {
			return false
		}
	}
	return true
}

// ownWithin tells whether what is of a statement of the output itself leads into what is of
// one of the source itself, or to its end. What functions in it do is their own.
func (m *match) ownWithin(x, y site.Statement) bool {
	last := site.Pos{Line: y.Span.End.Line, Column: y.Span.End.Column - 1}
	i, _ := slices.BinarySearchFunc(m.links, x.Span.Start, func(l Link, at site.Pos) int { return l.At.Compare(at) })
	for ; i < len(m.links) && m.links[i].At.Before(x.Head); i++ {
		l := m.links[i]
		if l.Source == m.number && y.Head.Before(l.From) && l.From.Before(last) && !m.inFunctionOf(x, i) {
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

func (m *match) matchStatements() {
	begin := map[site.Pos]int{}
	t := m.source.Table
	for y := len(t.Statements) - 1; y >= 0; y-- {
		for _, at := range m.source.begins(t.Statements[y].Span.Start) {
			begin[at] = y
		}
	}
	m.statements = fill(len(t.Statements))
	for x, s := range m.output.Table.Statements {
		for _, from := range m.from(s.Span.Start) {
			y, ok := begin[from]
			if ok && m.statements[y] < 0 && m.within(s.Span, t.Statements[y].Span) && m.ownWithin(s, t.Statements[y]) {
				m.statements[y] = x
			}
		}
	}
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
	for m.displaced() || m.merged() {
	}
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
	t := m.source.Table
	type twin struct {
		function int
		text     string
	}
	read := func(y int) twin {
		s := t.Statements[y]
		return twin{s.Function, string(bytes.Join(bytes.Fields(m.source.text(s.Span.Start, s.Span.End)), nil))}
	}
	missing := map[twin]bool{}
	for y, x := range m.statements {
		if x < 0 {
			missing[read(y)] = true
		}
	}
	for y, x := range m.statements {
		if x >= 0 && missing[read(y)] {
			m.statements[y], any = -1, true
		}
	}
	return any
}

func (m *match) matchFunctions() {
	t, o := m.source.Table, m.output.Table
	m.functions = fill(len(t.Functions))
	byPlace := map[site.Pos]int{} // functions of the source by where the text before their parameters stands
	for g, f := range t.Functions {
		if f.Span != (site.Span{}) {
			for _, at := range m.source.header(f.Span.Start) {
				if _, taken := byPlace[at]; !taken {
					byPlace[at] = g
				}
			}
		}
	}
	for f, fn := range o.Functions {
		if fn.Span == (site.Span{}) {
			continue
		}
		for _, from := range m.from(fn.Span.Start) {
			if g, ok := byPlace[from]; ok && m.functions[g] < 0 {
				m.functions[g] = f
			}
		}
	}
	m.byStatements()
	// A function is the one that has all that is left of its statements.
	for _, p := range m.own {
		if p.statement < 0 || p.outStatement < 0 {
			continue
		}
		g := t.Statements[p.statement].Function
		if f := m.functions[g]; f >= 0 && t.Functions[g].Span != (site.Span{}) && !holds(o.Functions[f].Span, o.Statements[p.outStatement].Span) {
			m.functions[g] = -1
		}
	}
}

// byStatements matches functions that begin in other words: all statements of the one are
// those of the other.
func (m *match) byStatements() {
	t, o := m.source.Table, m.output.Table
	of := map[int]int{} // functions of the output, by those of the source; -1 for several
	to := map[int]int{} // and the other way round
	put := func(in map[int]int, key, value int) {
		if old, ok := in[key]; ok && old != value {
			value = -1
		}
		in[key] = value
	}
	for y, x := range m.statements {
		if x >= 0 {
			put(of, t.Statements[y].Function, o.Statements[x].Function)
			put(to, o.Statements[x].Function, t.Statements[y].Function)
		}
	}
	for g, f := range of {
		if m.functions[g] < 0 && f >= 0 && to[f] == g && t.Functions[g].Span != (site.Span{}) && o.Functions[f].Span != (site.Span{}) {
			m.functions[g] = f
		}
	}
}

// table is what the output tells of the source.
func (m *match) table() *site.Table {
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
	for y, s := range t.Statements {
		if x := m.statements[y]; x >= 0 && number[s.Function] >= 0 {
			s.Sum, s.Function = o.Statements[x].Sum, number[s.Function]
			out.Statements = append(out.Statements, s)
		}
	}
	for d, x := range m.decisions() {
		if x >= 0 && number[t.Decisions[d].Function] >= 0 {
			if told, ok := ways(t.Decisions[d], o.Decisions[x]); ok {
				told.Function = number[told.Function]
				out.Decisions = append(out.Decisions, told)
			}
		}
	}
	if len(out.Functions) == 0 {
		return nil
	}
	out.Partial = len(out.Functions) < len(t.Functions) || len(out.Statements) < len(t.Statements) || len(out.Decisions) < len(t.Decisions)
	return &out
}

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
	for x, d := range o.Decisions {
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
	return out
}

// sameSigns tells whether nothing in a statement was turned round.
func (m *match) sameSigns(x, y int) bool {
	is, was := own(m.output.Table.Statements[x]), own(m.source.Table.Statements[y])
	return m.output.Signs(m.output.text(is.Start, is.End)) == m.source.Signs(m.source.text(was.Start, was.End))
}

// inWords are the outcomes of operators that older languages lack, as they are in the
// words of the choice that tools write for them, which is true or false.
var inWords = map[string]map[string]string{
	"??": {"true": "the left", "false": "the right"},
	"?.": {"true": "missing", "false": "there"},
}

// ways gives a decision with the sums of another that is the same.
func ways(d, of site.Decision) (site.Decision, bool) {
	if len(d.Outcomes) != len(of.Outcomes) || len(d.Logic) > 0 && len(d.Logic) != len(of.Logic) {
		return d, false
	}
	d.Outcomes, d.Logic = slices.Clone(d.Outcomes), slices.Clone(d.Logic)
	for i := range d.Outcomes {
		label := d.Outcomes[i].Label
		if d.Kind != of.Kind {
			label = inWords[of.Kind][label]
		}
		j := slices.IndexFunc(of.Outcomes, func(o site.Outcome) bool { return o.Label == label })
		if d.Kind == of.Kind && of.Outcomes[i].Label == label {
			j = i // labels may be there twice
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

func fill(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = -1
	}
	return out
}

// own is what of a statement is not of those nested in it.
func own(s site.Statement) site.Span { return site.Span{Start: s.Span.Start, End: s.Head} }

func inside(s site.Span, p site.Pos) bool { return !p.Before(s.Start) && p.Before(s.End) }

func holds(outer, inner site.Span) bool {
	return !inner.Start.Before(outer.Start) && !outer.End.Before(inner.End)
}

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

// index finds places in a text.
type index struct {
	Text
	lines     []int // byte offsets
	functions []int // in the order in which they begin, outer ones first
	parents   []int // for each statement the one that it is in, or -1
}

func newIndex(t Text) *index {
	x := &index{Text: t, lines: []int{0}}
	for i, c := range t.Source {
		if c == '\n' {
			x.lines = append(x.lines, i+1)
		}
	}
	for i, f := range t.Table.Functions {
		if f.Span != (site.Span{}) {
			x.functions = append(x.functions, i)
		}
	}
	slices.SortStableFunc(x.functions, func(a, b int) int { return outerFirst(t.Table.Functions[a].Span, t.Table.Functions[b].Span) })
	x.parents = fill(len(t.Table.Statements))
	var open []int
	for _, i := range x.statements() {
		s := t.Table.Statements[i].Span
		for len(open) > 0 && !holds(t.Table.Statements[open[len(open)-1]].Span, s) {
			open = open[:len(open)-1]
		}
		if len(open) > 0 {
			x.parents[i] = open[len(open)-1]
		}
		open = append(open, i)
	}
	return x
}

// statements gives the statements in the order in which they begin, outer ones first.
func (x *index) statements() []int {
	t := x.Table
	list := make([]int, len(t.Statements))
	for i := range list {
		list[i] = i
	}
	slices.SortStableFunc(list, func(a, b int) int { return outerFirst(t.Statements[a].Span, t.Statements[b].Span) })
	return list
}

func outerFirst(a, b site.Span) int {
	if c := a.Start.Compare(b.Start); c != 0 {
		return c
	}
	return b.End.Compare(a.End)
}

func (x *index) offset(p site.Pos) int {
	if p.Line < 1 || p.Line > len(x.lines) {
		return len(x.Source)
	}
	return min(x.lines[p.Line-1]+max(p.Column-1, 0), len(x.Source))
}

func (x *index) text(from, to site.Pos) []byte {
	a, b := x.offset(from), x.offset(to)
	return x.Source[a:max(a, b)]
}

// around gives the innermost statements and functions that places are in, or -1.
func (x *index) around(at []site.Pos) (statements, functions []int) {
	order := make([]int, len(at))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return at[a].Compare(at[b]) })
	t := x.Table
	statements = innermost(at, order, x.statements(), func(i int) site.Span { return t.Statements[i].Span })
	functions = innermost(at, order, x.functions, func(i int) site.Span { return t.Functions[i].Span })
	return statements, functions
}

// innermost gives, for places in an order, the innermost of the spans of a list that each
// is in, or -1.
func innermost(at []site.Pos, order, list []int, span func(int) site.Span) []int {
	out := make([]int, len(at))
	var open []int
	next := 0
	for _, i := range order {
		for ; next < len(list) && !at[i].Before(span(list[next]).Start); next++ {
			open = append(open, list[next])
		}
		for len(open) > 0 && !at[i].Before(span(open[len(open)-1]).End) {
			open = open[:len(open)-1]
		}
		out[i] = -1
		for k := len(open) - 1; k >= 0 && out[i] < 0; k-- {
			if at[i].Before(span(open[k]).End) {
				out[i] = open[k]
			}
		}
	}
	return out
}

// begins gives the places at which a statement or an expression may be said to begin:
// tools leave out brackets around it, and words before a declaration.
func (x *index) begins(at site.Pos) []site.Pos {
	out := []site.Pos{at}
	rest := x.Source[x.offset(at):]
	n := 0
	for _, word := range []string{"export", "default", "const", "let", "var"} {
		if after, ok := bytes.CutPrefix(rest[n:], []byte(word)); ok && len(after) > 0 && (after[0] == ' ' || after[0] == '\t') {
			n = len(rest) - len(bytes.TrimLeft(after, " \t"))
			out = append(out, site.Pos{Line: at.Line, Column: at.Column + n})
		}
	}
	at.Column += n
	if p := x.unbracketed(at); p != at {
		out = append(out, p)
	}
	return out
}

// unbracketed is the place after the brackets at a place.
func (x *index) unbracketed(at site.Pos) site.Pos {
	rest := x.Source[x.offset(at):]
	at.Column += len(rest) - len(bytes.TrimLeft(rest, "("))
	return at
}

// header gives the places at which a function may be said to begin: each word before its
// parameters, and words before it that say that it is for others.
func (x *index) header(at site.Pos) []site.Pos {
	out := []site.Pos{at}
	from := x.offset(at)
	line := x.Source[from:]
	if i := bytes.IndexByte(line, '\n'); i >= 0 {
		line = line[:i]
	}
	word := true
	for i, c := range line {
		if c == ' ' || c == '\t' || c == '*' || c == '#' {
			word = false
			continue
		}
		if !isWord(c) {
			break
		}
		if !word {
			out = append(out, site.Pos{Line: at.Line, Column: at.Column + i})
		}
		word = true
	}
	before := string(x.Source[x.lines[at.Line-1]:from])
	words := strings.TrimLeft(before, " \t")
	for {
		trimmed := strings.TrimRight(words, " \t")
		cut := strings.LastIndexAny(trimmed, " \t;{}") + 1
		if w := trimmed[cut:]; w != "export" && w != "default" {
			return out
		}
		words = trimmed[:cut]
		out = append(out, site.Pos{Line: at.Line, Column: len(before) - len(strings.TrimLeft(before, " \t")) + cut + 1})
	}
}

func isWord(c byte) bool {
	return c == '_' || c == '$' || c >= 0x80 || '0' <= c && c <= '9' || 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z'
}
