package origin

import (
	"bytes"
	"slices"

	"thrush/internal/core/site"
)

// tight moves links over blanks to the text that they are about, and leaves out those of
// blanks alone, which are given by where the text after them begins: some tools say there
// where a line came from. closes says of which that they are of what closes something, and about no
// code.
func (x *index) tight(links []Link) (out []Link, closes []bool, blank map[site.Pos][]Link) {
	blank = map[site.Pos][]Link{}
	for i, l := range links {
		from := x.offset(l.At)
		line := x.Source[from:]
		if n := bytes.IndexByte(line, '\n'); n >= 0 {
			line = line[:n]
		}
		blanks := len(line) - len(bytes.TrimLeft(line, " \t"))
		if i+1 < len(links) && links[i+1].At.Line == l.At.Line && links[i+1].At.Column > l.At.Column && links[i+1].At.Column <= l.At.Column+blanks {
			l.At.Column += blanks
			blank[l.At] = append(blank[l.At], l)
			continue
		}
		if blanks < len(line) {
			l.At.Column += blanks
		}
		out = append(out, l)
		closes = append(closes, blanks < len(line) && bytes.IndexByte([]byte("})];,"), line[blanks]) >= 0)
	}
	return out, closes, blank
}

func inside(s site.Span, p site.Pos) bool { return !p.Before(s.Start) && p.Before(s.End) }

func holds(outer, inner site.Span) bool {
	return !inner.Start.Before(outer.Start) && !outer.End.Before(inner.End)
}

// index finds places in a text.
type index struct {
	Text
	lines      []int // byte offsets
	functions  []int // in the order in which they begin, outer ones first
	statements []int // the same
	parents    []int // for each statement the one that it is in, or -1
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
	for i := range t.Table.Statements {
		x.statements = append(x.statements, i)
	}
	slices.SortStableFunc(x.statements, func(a, b int) int { return outerFirst(t.Table.Statements[a].Span, t.Table.Statements[b].Span) })
	x.parents = fill(len(t.Table.Statements))
	var open []int
	for _, i := range x.statements {
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
	statements = innermost(at, order, x.statements, func(i int) site.Span { return t.Statements[i].Span })
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
// tools leave out brackets around it, and words before a declaration, and take one after an
// else for what begins there.
func (x *index) begins(at site.Pos) []site.Pos {
	out := []site.Pos{at}
	before := x.Source[x.lines[at.Line-1]:x.offset(at)]
	if rest, ok := bytes.CutSuffix(bytes.TrimRight(before, " \t"), []byte("else")); ok {
		out = append(out, site.Pos{Line: at.Line, Column: len(rest) + 1})
		if rest, ok = bytes.CutSuffix(bytes.TrimRight(rest, " \t"), []byte("}")); ok {
			out = append(out, site.Pos{Line: at.Line, Column: len(rest) + 1})
		}
	}
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
