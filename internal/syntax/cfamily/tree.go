package cfamily

import (
	"sync"
	"unsafe"

	sitter "github.com/tree-sitter/go-tree-sitter"
	grammarc "github.com/tree-sitter/tree-sitter-c/bindings/go"
	grammarcpp "github.com/tree-sitter/tree-sitter-cpp/bindings/go"
)

// Language is one of the two languages of the family.
type Language uint8

// The languages.
const (
	C Language = iota
	CPP
)

func (l Language) String() string {
	if l == CPP {
		return "c++"
	}
	return "c"
}

// node is a node of a syntax tree.
type node struct {
	kind     string // of the grammar; "ERROR" where the text does not fit it
	field    string // of its parent that it fills, or empty
	from, to int    // byte offsets
	named    bool
	missing  bool // the grammar wants it, but it is not in the text
	kids     []node
}

// child gives the child that fills a field, or nil.
func (n *node) child(field string) *node {
	for i := range n.kids {
		if n.kids[i].field == field {
			return &n.kids[i]
		}
	}
	return nil
}

// first gives the first child of a kind, or nil.
func (n *node) first(kind string) *node {
	for i := range n.kids {
		if n.kids[i].kind == kind {
			return &n.kids[i]
		}
	}
	return nil
}

// broken tells whether the text of a node does not fit the grammar.
func (n *node) broken() bool {
	if n.kind == "ERROR" || n.missing {
		return true
	}
	for i := range n.kids {
		if n.kids[i].broken() {
			return true
		}
	}
	return false
}

// each visits a node and all below it, as long as visit says to go deeper.
func (n *node) each(visit func(*node) bool) {
	if !visit(n) {
		return
	}
	for i := range n.kids {
		n.kids[i].each(visit)
	}
}

// grammar is what is looked up in a language's grammar once.
type grammar struct {
	language *sitter.Language
	kinds    []string
	named    []bool
	fields   []string
}

var grammars = [2]func() *grammar{
	C:   sync.OnceValue(func() *grammar { return load(grammarc.Language()) }),
	CPP: sync.OnceValue(func() *grammar { return load(grammarcpp.Language()) }),
}

func load(ptr unsafe.Pointer) *grammar {
	g := &grammar{language: sitter.NewLanguage(ptr)}
	for id := range g.language.NodeKindCount() {
		g.kinds = append(g.kinds, g.language.NodeKindForId(uint16(id)))
		g.named = append(g.named, g.language.NodeKindIsNamed(uint16(id)))
	}
	for id := range g.language.FieldCount() + 1 {
		g.fields = append(g.fields, g.language.FieldNameForId(uint16(id)))
	}
	return g
}

// parse gives the trees of what stands at the top of a text, one by one, so that no
// more than one of them is held at a time. Their offsets are those of the whole text.
func parse(e *excerpt, l Language, visit func(*node)) error {
	g := grammars[l]()
	p := sitter.NewParser()
	defer p.Close()
	if err := p.SetLanguage(g.language); err != nil {
		return err
	}
	tree := p.Parse(e.text, nil)
	defer tree.Close()
	c := tree.Walk()
	defer c.Close()
	if !c.GotoFirstChild() {
		return nil
	}
	for {
		n := g.read(c, e)
		visit(&n)
		if !c.GotoNextSibling() {
			return nil
		}
	}
}

// read reads the node at the cursor and all below it.
func (g *grammar) read(c *sitter.TreeCursor, e *excerpt) node {
	at := c.Node()
	id := at.KindId()
	from, to := int(at.StartByte()), int(at.EndByte())
	n := node{from: e.whole(from), to: e.end(from, to), field: g.fields[c.FieldId()]}
	if int(id) >= len(g.kinds) {
		n.kind = "ERROR"
	} else {
		n.kind, n.named = g.kinds[id], g.named[id]
	}
	n.missing = from == to && at.IsMissing()
	if c.GotoFirstChild() {
		for {
			if k := g.read(c, e); k.kind != "comment" {
				n.kids = append(n.kids, k)
			}
			if !c.GotoNextSibling() {
				break
			}
		}
		c.GotoParent()
	}
	return n
}
