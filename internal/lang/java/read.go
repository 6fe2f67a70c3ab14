// Package java reads Java into flow.
package java

import (
	"fmt"
	"sync"

	grammar "github.com/tree-sitter/tree-sitter-java/bindings/go"

	"thrush/internal/core/site"
	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

var load = sync.OnceValue(func() *tree.Grammar { return tree.Load(grammar.Language()) })

// Read reads a source file. It fails for a text that does not fit the grammar.
func Read(source []byte) (*flow.File, error) {
	r := &reader{text: tree.NewText(source), flow: &flow.File{}, deciding: map[*tree.Node]bool{}}
	top, err := r.parse()
	if err != nil {
		return nil, err
	}
	r.flow.Lines = r.text.Lines()
	r.program(top)
	r.flow.Notes = r.text.Notes(r.comments, r.codeFrom(top), tree.SaidInSlashes)
	return r.flow, nil
}

// Fits tells whether a text fits the grammar.
func Fits(text []byte) bool {
	text = masked(text)
	return load().Fits(text) || load().Fits(maskedMore(text))
}

// parse gives the trees of what stands at the top of the text.
func (r *reader) parse() (top []tree.Node, err error) {
	text := masked(r.text.Bytes)
	for range 2 {
		top, r.comments = nil, nil
		if err := load().Parse(text, tree.Options{Comment: r.comment}, func(n *tree.Node) { top = append(top, *n) }); err != nil {
			return nil, err
		}
		line := r.broken(top)
		if line == 0 {
			return top, r.escapes(top)
		}
		err = fmt.Errorf("line %d does not fit the grammar that Thrush knows", line)
		text = maskedMore(text)
	}
	return nil, err
}

func (r *reader) broken(top []tree.Node) (line int) {
	for i := range top {
		top[i].Each(func(n *tree.Node) bool {
			if line == 0 && (n.Kind == "ERROR" || n.Missing) {
				line = r.text.Pos(n.From).Line
			}
			return line == 0
		})
	}
	return line
}

// reader turns a syntax tree into flow.
type reader struct {
	text     *tree.Text
	flow     *flow.File
	comments [][2]int
	class    *class
	fn       *scope
	holder   *tree.Node // innermost declaration around, of a class or of a member, that may have annotations
	// deciding are the boolean expressions that belong to a decision already.
	deciding map[*tree.Node]bool
}

func (r *reader) comment(from, to int) { r.comments = append(r.comments, [2]int{from, to}) }

func (r *reader) span(n *tree.Node) site.Span {
	return site.Span{Start: r.text.Pos(header(n)), End: r.text.Pos(n.To)}
}

// header is where a declaration itself begins, after annotations.
func header(n *tree.Node) int {
	for i := range n.Kids {
		k := &n.Kids[i]
		if k.Kind != "modifiers" {
			return k.From
		}
		for j := range k.Kids {
			if !isAnnotation(&k.Kids[j]) {
				return k.Kids[j].From
			}
		}
	}
	return n.From
}

func isAnnotation(n *tree.Node) bool {
	return n.Kind == "marker_annotation" || n.Kind == "annotation"
}

// uncounted are the declarations in which nothing runs.
var uncounted = map[string]bool{"package_declaration": true, "import_declaration": true, "module_declaration": true}

// program reads a whole file.
func (r *reader) program(top []tree.Node) {
	whole := func(n *tree.Node) bool { return n.Kind == "string_literal" || n.Kind == "character_literal" }
	r.flow.Code = r.text.Code(top, whole, func(n *tree.Node) bool { return uncounted[n.Kind] || isAnnotation(n) })
	r.fn = &scope{}
	var holds flow.Stmt
	r.members(&tree.Node{Kind: "program", Kids: top}, &holds)
	r.flow.Functions = holds.Literals
}

// codeFrom is where code begins, or the end of a text without any.
func (r *reader) codeFrom(top []tree.Node) int {
	if len(top) == 0 {
		return len(r.text.Bytes)
	}
	return top[0].From
}
