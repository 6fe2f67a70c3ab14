package site

import (
	"bytes"
	"encoding/binary"
	"slices"

	"github.com/cespare/xxhash/v2"
)

// SetMarks gives every function, statement and decision of a table its mark, from
// the text of the file. Equal marks mean equal text in an equal place: the own text
// of a statement, without how far it is indented, below statements of equal own
// text, in a function of the same name. The own text of a choice of many, and of what
// catches errors, is all that is not of the statements in it; that of others ends where
// the first of these begins.
func SetMarks(t *Table, source []byte) {
	m := &marker{source: source, lines: lineOffsets(source)}
	for i, f := range t.Functions {
		m.nodes = append(m.nodes, node{span: f.Span, function: true, index: i})
	}
	for i, s := range t.Statements {
		m.nodes = append(m.nodes, node{span: s.Span, head: s.Head, index: i})
	}
	slices.SortStableFunc(m.nodes, func(a, b node) int {
		if c := a.span.Start.Compare(b.span.Start); c != 0 {
			return c
		}
		return b.span.End.Compare(a.span.End)
	})
	choices := map[Pos]bool{}
	for _, d := range t.Decisions {
		choices[d.Pos] = choices[d.Pos] || len(d.Outcomes) > 2
	}
	var open []int // nodes around the one at hand
	for i := range m.nodes {
		n := &m.nodes[i]
		for len(open) > 0 && !n.span.Start.Before(m.nodes[open[len(open)-1]].span.End) {
			open = open[:len(open)-1]
		}
		around := uint64(0)
		if len(open) > 0 {
			around = m.nodes[open[len(open)-1]].mark
		}
		switch {
		case !n.function:
			end := n.head
			if choices[n.span.Start] || bytes.HasPrefix(m.text(n.span.Start, n.head), []byte("try")) {
				end = n.span.End
			}
			n.mark = digest('s', around, m.own(i, end))
			t.Statements[n.index].Mark = n.mark
		case len(open) == 0:
			n.mark = digest('f', 0, []byte(t.Functions[n.index].Name))
			t.Functions[n.index].Mark = n.mark
		default:
			n.mark = digest('l', around, m.text(n.span.Start, m.before(i)))
			t.Functions[n.index].Mark = n.mark
		}
		open = append(open, i)
	}
	m.decisions(t)
}

// decisions marks each decision by the innermost statement that it stands in and
// where in it.
func (m *marker) decisions(t *Table) {
	order := make([]int, len(t.Decisions))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return t.Decisions[a].Pos.Compare(t.Decisions[b].Pos) })
	var open []*node // statements around the decision at hand
	next := 0
	for _, i := range order {
		d := &t.Decisions[i]
		for ; next < len(m.nodes) && !d.Pos.Before(m.nodes[next].span.Start); next++ {
			if !m.nodes[next].function {
				open = append(m.around(open, m.nodes[next].span.Start), &m.nodes[next])
			}
		}
		if open = m.around(open, d.Pos); len(open) == 0 {
			continue
		}
		at := open[len(open)-1]
		text := binary.LittleEndian.AppendUint32([]byte(d.Kind), uint32(d.Pos.Line-at.span.Start.Line))
		if d.Pos.Line == at.span.Start.Line {
			text = binary.LittleEndian.AppendUint32(text, uint32(d.Pos.Column-at.span.Start.Column))
		}
		d.Mark = digest('d', at.mark, text)
	}
}

// around gives those of the open nodes that a place is still in.
func (m *marker) around(open []*node, at Pos) []*node {
	for len(open) > 0 && !at.Before(open[len(open)-1].span.End) {
		open = open[:len(open)-1]
	}
	return open
}

type node struct {
	span     Span
	head     Pos
	function bool
	index    int
	mark     uint64
}

type marker struct {
	source []byte
	lines  []int
	nodes  []node
}

// own is the text of a node, up to a place, that is not of the nodes in it.
func (m *marker) own(i int, end Pos) (text []byte) {
	at := m.nodes[i].span.Start
	for _, n := range m.nodes[i+1:] {
		if !n.span.Start.Before(end) {
			break
		}
		if !n.span.Start.Before(at) {
			text = append(append(text, bytes.TrimSpace(m.text(at, n.span.Start))...), 0)
			at = n.span.End
		}
	}
	return append(text, bytes.TrimSpace(m.text(at, end))...)
}

// before is where the text of a node ends and that of those in it begins.
func (m *marker) before(i int) Pos {
	if i+1 < len(m.nodes) && m.nodes[i+1].span.Start.Before(m.nodes[i].span.End) {
		return m.nodes[i+1].span.Start
	}
	return m.nodes[i].span.End
}

// text is the source from one place to another, its lines moved to the left by as
// much as the first one is indented.
func (m *marker) text(from, to Pos) []byte {
	a, b := m.offset(from), m.offset(to)
	if a >= b {
		return nil
	}
	text := bytes.TrimRight(m.source[a:b], " \t\r\n")
	if bytes.IndexByte(text, '\n') < 0 {
		return text
	}
	line := m.source[m.lines[from.Line-1]:a]
	indent := line[:len(line)-len(bytes.TrimLeft(line, " \t"))]
	return bytes.ReplaceAll(text, append([]byte{'\n'}, indent...), []byte{'\n'})
}

func (m *marker) offset(p Pos) int {
	if p.Line < 1 || p.Line > len(m.lines) {
		return len(m.source)
	}
	return min(m.lines[p.Line-1]+max(p.Column-1, 0), len(m.source))
}

func lineOffsets(source []byte) []int {
	out := []int{0}
	for i, c := range source {
		if c == '\n' {
			out = append(out, i+1)
		}
	}
	return out
}

func digest(kind byte, around uint64, text []byte) uint64 {
	head := binary.LittleEndian.AppendUint64([]byte{kind}, around)
	d := xxhash.New()
	_, _ = d.Write(head)
	_, _ = d.Write(text)
	return d.Sum64()
}
