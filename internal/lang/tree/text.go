package tree

import (
	"bytes"
	"sort"
	"strings"

	"thrush/internal/core/site"
)

// Text is a source text in which places are looked up.
type Text struct {
	Bytes  []byte
	starts []int // offsets at which lines begin
}

// NewText takes a text in.
func NewText(text []byte) *Text {
	t := &Text{Bytes: text, starts: []int{0}}
	for i, c := range text {
		if c == '\n' {
			t.starts = append(t.starts, i+1)
		}
	}
	return t
}

// Pos gives the place of an offset.
func (t *Text) Pos(at int) site.Pos {
	line := sort.SearchInts(t.starts, at+1) - 1
	return site.Pos{Line: line + 1, Column: at - t.starts[line] + 1}
}

// Word is the text of a node.
func (t *Text) Word(n *Node) string { return string(t.Bytes[n.From:n.To]) }

// Lines is how many lines the text has.
func (t *Text) Lines() int {
	if n := len(t.starts); t.starts[n-1] == len(t.Bytes) {
		return n - 1
	}
	return len(t.starts)
}

// Before is what stands before an offset on its line.
func (t *Text) Before(at int) []byte {
	return t.Bytes[t.starts[t.Pos(at).Line-1]:at]
}

// After is what stands after an offset on its line.
func (t *Text) After(at int) []byte {
	line, _, _ := bytes.Cut(t.Bytes[at:], []byte{'\n'})
	return line
}

// Code gives the lines, in order, that carry more than blanks, comments and closing
// brackets. whole says that a node is one piece, and skip that it does not count.
func (t *Text) Code(nodes []Node, whole, skip func(*Node) bool) []uint32 {
	var out []uint32
	last := uint32(0)
	var visit func(n *Node)
	visit = func(n *Node) {
		switch {
		case skip(n):
		case len(n.Kids) > 0 && !whole(n):
			for i := range n.Kids {
				visit(&n.Kids[i])
			}
		case n.From < n.To && !strings.ContainsRune(")]},;", rune(t.Bytes[n.From])):
			for line, to := t.Pos(n.From).Line, t.Pos(n.To-1).Line; line <= to; line++ {
				if uint32(line) > last {
					last = uint32(line)
					out = append(out, last)
				}
			}
		}
	}
	for i := range nodes {
		visit(&nodes[i])
	}
	return out
}

// Only gives the only named child of a node, or nil.
func (n *Node) Only() *Node {
	var out *Node
	for i := range n.Kids {
		if n.Kids[i].Named {
			if out != nil {
				return nil
			}
			out = &n.Kids[i]
		}
	}
	return out
}
