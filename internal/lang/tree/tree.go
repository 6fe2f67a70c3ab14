// Package tree gives the syntax trees of source texts, by the grammars of
// tree-sitter, in a shape that front ends can walk without holding the parser.
package tree

import (
	"unsafe"

	sitter "github.com/tree-sitter/go-tree-sitter"

	"thrush/internal/flow"
)

// Node is a node of a syntax tree.
type Node struct {
	Kind     string // of the grammar; "ERROR" where the text does not fit it
	Field    string // of its parent that it fills, or empty
	From, To int    // byte offsets
	Named    bool
	Missing  bool // the grammar wants it, but it is not in the text
	Kids     []Node
}

// Child gives the child that fills a field, or nil.
func (n *Node) Child(field string) *Node {
	for i := range n.Kids {
		if n.Kids[i].Field == field {
			return &n.Kids[i]
		}
	}
	return nil
}

// First gives the first child of a kind, or nil.
func (n *Node) First(kind string) *Node {
	for i := range n.Kids {
		if n.Kids[i].Kind == kind {
			return &n.Kids[i]
		}
	}
	return nil
}

// Broken tells whether the text of a node does not fit the grammar.
func (n *Node) Broken() bool {
	if n.Kind == "ERROR" || n.Missing {
		return true
	}
	for i := range n.Kids {
		if n.Kids[i].Broken() {
			return true
		}
	}
	return false
}

// Each visits a node and all below it, as long as visit says to go deeper.
func (n *Node) Each(visit func(*Node) bool) {
	if !visit(n) {
		return
	}
	for i := range n.Kids {
		n.Kids[i].Each(visit)
	}
}

// Grammar is a language's grammar, with what is looked up in it once.
type Grammar struct {
	language *sitter.Language
	kinds    []string
	named    []bool
	fields   []string
}

// Load reads a grammar.
func Load(ptr unsafe.Pointer) *Grammar {
	g := &Grammar{language: sitter.NewLanguage(ptr)}
	for id := range g.language.NodeKindCount() {
		g.kinds = append(g.kinds, g.language.NodeKindForId(uint16(id)))
		g.named = append(g.named, g.language.NodeKindIsNamed(uint16(id)))
	}
	for id := range g.language.FieldCount() + 1 {
		g.fields = append(g.fields, g.language.FieldNameForId(uint16(id)))
	}
	return g
}

// Options say how a text is read.
type Options struct {
	// Place gives the offsets of a node from those in the text; nil leaves them.
	Place func(from, to int) (int, int)
	// Comment is told of each comment, which is in no tree; it may be nil.
	Comment func(from, to int)
}

// Parse gives the trees of what stands at the top of a text, one by one, so that no
// more than one of them need be held at a time. It fails with flow.TooDeep.
func (g *Grammar) Parse(text []byte, opt Options, visit func(*Node)) error {
	p := sitter.NewParser()
	defer p.Close()
	if err := p.SetLanguage(g.language); err != nil {
		return err
	}
	tree := p.Parse(text, nil)
	defer tree.Close()
	c := tree.Walk()
	defer c.Close()
	if !c.GotoFirstChild() {
		return nil
	}
	for {
		n, err := g.read(c, &opt, 1)
		if err != nil {
			return err
		}
		if !nothing(n.Kind) {
			visit(&n)
		}
		if !c.GotoNextSibling() {
			return nil
		}
	}
}

// nothing tells whether a node is no part of a program: a comment, or a line break that does
// not count.
func nothing(kind string) bool { return comments[kind] || kind == "line_continuation" }

// comments are the kinds of nodes that are comments, in all grammars.
var comments = map[string]bool{"comment": true, "line_comment": true, "block_comment": true}

// Fits tells whether a text fits the grammar.
func (g *Grammar) Fits(text []byte) bool {
	p := sitter.NewParser()
	defer p.Close()
	if p.SetLanguage(g.language) != nil {
		return false
	}
	tree := p.Parse(text, nil)
	defer tree.Close()
	return !tree.RootNode().HasError()
}

// read reads the node at the cursor and all below it, so many levels deep.
func (g *Grammar) read(c *sitter.TreeCursor, opt *Options, level int) (Node, error) {
	at := c.Node()
	if level > flow.Deepest {
		return Node{}, &flow.TooDeep{Line: int(at.StartPosition().Row) + 1}
	}
	id := at.KindId()
	n := Node{From: int(at.StartByte()), To: int(at.EndByte()), Field: g.fields[c.FieldId()]}
	if int(id) >= len(g.kinds) {
		n.Kind = "ERROR"
	} else {
		n.Kind, n.Named = g.kinds[id], g.named[id]
	}
	n.Missing = n.From == n.To && at.IsMissing()
	if opt.Comment != nil && comments[n.Kind] {
		opt.Comment(n.From, n.To)
	}
	if opt.Place != nil {
		n.From, n.To = opt.Place(n.From, n.To)
	}
	if c.GotoFirstChild() {
		for {
			k, err := g.read(c, opt, level+1)
			if err != nil {
				return Node{}, err
			}
			if !nothing(k.Kind) {
				n.Kids = append(n.Kids, k)
			}
			if !c.GotoNextSibling() {
				break
			}
		}
		c.GotoParent()
	}
	return n, nil
}
