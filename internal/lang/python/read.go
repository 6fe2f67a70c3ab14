// Package python reads Python source into flow.
//
// Woven Python is not a text: the interpreter's own parser reads the file, and probes
// are put into the tree it gives. So what flow calls byte offsets are numbers of
// anchors here, each the place of a statement or an expression in that tree.
package python

import (
	"errors"
	"fmt"
	"strings"
	"sync"

	grammar "github.com/tree-sitter/tree-sitter-python/bindings/go"

	"thrush/internal/core/site"
	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

var load = sync.OnceValue(func() *tree.Grammar { return tree.Load(grammar.Language()) })

// Anchor is a place in the interpreter's tree. Lines count from 1, columns from 0, in
// bytes of UTF-8, as that tree has them.
type Anchor struct {
	Expression       bool // an expression, which its end tells from others that begin there; else a statement
	Line, Column     int
	ToLine, ToColumn int // of an expression
}

// File is a source file and its anchors.
type File struct {
	Flow    *flow.File
	Anchors []Anchor
	Text    []byte // the source as UTF-8, which places are in
}

// Read reads a source file. It fails for a text that does not fit the grammar, or is
// in an encoding that is not known.
func Read(source []byte) (*File, error) {
	text, err := decode(source)
	if err != nil {
		return nil, err
	}
	r := &reader{text: tree.NewText(text), flow: &flow.File{}}
	var top []tree.Node
	if err := load().Parse(text, tree.Options{Comment: r.comment}, func(n *tree.Node) { top = append(top, *n) }); err != nil {
		return nil, err
	}
	for i := range top {
		if line, broken := r.broken(&top[i]); broken {
			return nil, fmt.Errorf("line %d does not fit the grammar that Thrush knows", line)
		}
	}
	r.flow.Lines = r.text.Lines()
	r.module(top)
	r.flow.Notes = r.text.Notes(r.comments, r.codeFrom(top), said)
	return &File{Flow: r.flow, Anchors: r.anchors, Text: text}, nil
}

var newline = []byte{'\n'}

var errFolded = errors.New("it uses carriage returns alone to end lines")

// reader turns a syntax tree into flow.
type reader struct {
	text     *tree.Text
	flow     *flow.File
	anchors  []Anchor
	comments [][2]int
	fn       *scope
	// deciding are the boolean expressions that belong to a decision already.
	deciding map[*tree.Node]bool
}

// scope is what is known while the body of one function is read.
type scope struct {
	name    string
	params  map[string]bool // names that always have a value
	targets []flow.Node     // loops, outermost first
}

func (r *reader) comment(from, to int) { r.comments = append(r.comments, [2]int{from, to}) }

func (r *reader) broken(n *tree.Node) (line int, broken bool) {
	n.Each(func(n *tree.Node) bool {
		if !broken && (n.Kind == "ERROR" || n.Missing || n.Kind == "print_statement" || n.Kind == "exec_statement") {
			line, broken = r.text.Pos(n.From).Line, true
		}
		return !broken
	})
	return line, broken
}

// span is that of a node without what follows its last statement.
func (r *reader) span(n *tree.Node) site.Span {
	return site.Span{Start: r.text.Pos(n.From), End: r.text.Pos(end(n))}
}

// end is where the last statement or token of a node ends: a block may reach over
// comments below it.
func end(n *tree.Node) int {
	switch n.Kind {
	case "block", "function_definition", "class_definition", "decorated_definition", "if_statement", "elif_clause", "else_clause", "for_statement", "while_statement",
		"try_statement", "except_clause", "except_group_clause", "finally_clause", "with_statement", "match_statement", "case_clause":
		if k := len(n.Kids); k > 0 {
			return end(&n.Kids[k-1])
		}
	}
	return n.To
}

// statementAt gives the anchor of the statement that begins where a node does.
func (r *reader) statementAt(n *tree.Node) int {
	p := r.text.Pos(n.From)
	r.anchors = append(r.anchors, Anchor{Line: p.Line, Column: p.Column - 1})
	return len(r.anchors) - 1
}

// expressionAt gives the anchor of an expression.
func (r *reader) expressionAt(n *tree.Node) int {
	from, to := r.text.Pos(n.From), r.text.Pos(n.To)
	r.anchors = append(r.anchors, Anchor{Expression: true, Line: from.Line, Column: from.Column - 1, ToLine: to.Line, ToColumn: to.Column - 1})
	return len(r.anchors) - 1
}

// module reads what stands outside all functions, which runs when the file is loaded.
func (r *reader) module(top []tree.Node) {
	docs := map[*tree.Node]bool{}
	docstrings(top, docs)
	r.flow.Code = r.text.Code(top, func(n *tree.Node) bool { return n.Kind == "string" }, func(n *tree.Node) bool { return docs[n] })
	r.fn, r.deciding = &scope{}, map[*tree.Node]bool{}
	for len(top) > 0 && (top[0].Kind == "future_import_statement" || isDocstring(&top[0]) || !top[0].Named) {
		top = top[1:]
	}
	if len(top) == 0 {
		return
	}
	f := &flow.Function{Name: "the module", Body: &flow.Block{Open: r.statementAt(&top[0])}}
	f.Body.Nodes = r.list(top)
	r.flow.Functions = []*flow.Function{f}
}

// codeFrom is where code begins, after what documents it, or the end of a text without any.
func (r *reader) codeFrom(top []tree.Node) int {
	if len(top) > 0 && isDocstring(&top[0]) {
		top = top[1:]
	}
	if len(top) == 0 {
		return len(r.text.Bytes)
	}
	return top[0].From
}

// said is what a comment says.
func said(comment string) string { return strings.TrimLeft(comment, "#") }

// docstrings finds the descriptions of modules, classes and functions.
func docstrings(kids []tree.Node, to map[*tree.Node]bool) {
	if len(kids) > 0 && isDocstring(&kids[0]) {
		to[&kids[0]] = true
	}
	for i := range kids {
		kids[i].Each(func(n *tree.Node) bool {
			if n.Kind == "block" && len(n.Kids) > 0 && isDocstring(&n.Kids[0]) {
				to[&n.Kids[0]] = true
			}
			return true
		})
	}
}

// isDocstring tells whether a statement is a plain string alone.
func isDocstring(n *tree.Node) bool {
	if n.Kind != "expression_statement" || len(n.Kids) != 1 {
		return false
	}
	s := &n.Kids[0]
	return s.Kind == "string" && s.First("interpolation") == nil || s.Kind == "concatenated_string"
}
