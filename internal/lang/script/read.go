// Package script reads JavaScript and TypeScript into flow.
package script

import (
	"cmp"
	"fmt"
	"path"
	"regexp"
	"sync"
	"unicode/utf8"

	grammarjs "github.com/tree-sitter/tree-sitter-javascript/bindings/go"
	grammarts "github.com/tree-sitter/tree-sitter-typescript/bindings/go"

	"thrush/internal/core/site"
	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

var (
	javascript = sync.OnceValue(func() *tree.Grammar { return tree.Load(grammarjs.Language()) })
	typescript = sync.OnceValue(func() *tree.Grammar { return tree.Load(grammarts.LanguageTypescript()) })
	tsx        = sync.OnceValue(func() *tree.Grammar { return tree.Load(grammarts.LanguageTSX()) })
)

func grammarOf(name string) *tree.Grammar {
	switch path.Ext(name) {
	case ".ts", ".mts", ".cts":
		return typescript()
	case ".tsx":
		return tsx()
	}
	return javascript()
}

// LanguageOf gives the language of a path.
func LanguageOf(name string) string {
	switch path.Ext(name) {
	case ".ts", ".mts", ".cts", ".tsx":
		return "typescript"
	}
	return "javascript"
}

// Read reads a source file; its name tells the language. It fails for a text that does
// not fit the grammar.
func Read(name string, source []byte) (*flow.File, error) { return read(name, source, false) }

// ReadOutput reads what a tool made of sources: what it writes in place of operators that
// older languages lack counts as these.
func ReadOutput(name string, source []byte) (*flow.File, error) { return read(name, source, true) }

func read(name string, source []byte, output bool) (*flow.File, error) {
	if !utf8.Valid(source) {
		return nil, fmt.Errorf("it is not UTF-8 text")
	}
	r := &reader{text: tree.NewText(source), flow: &flow.File{}, deciding: map[*tree.Node]bool{}, passed: map[int]string{}, output: output}
	var top []tree.Node
	if err := grammarOf(name).Parse(readable(source), tree.Options{Comment: r.comment}, func(n *tree.Node) { top = append(top, *n) }); err != nil {
		return nil, err
	}
	for i := range top {
		if line, broken := r.broken(&top[i]); broken {
			return nil, fmt.Errorf("line %d does not fit the grammar that Thrush knows", line)
		}
	}
	r.flow.Module = path.Ext(name) == ".mjs" || path.Ext(name) == ".mts"
	r.flow.Lines = r.text.Lines()
	r.program(top)
	if r.odd != nil {
		return nil, r.odd
	}
	r.flow.Notes = r.text.Notes(r.comments, r.codeFrom(top), tree.SaidInSlashes)
	return r.flow, nil
}

var using = regexp.MustCompile(`\busing(\s*:)`)

// readable gives the text as the grammar reads it: it takes the word "using" for the
// beginning of a declaration, even where it is a label.
func readable(text []byte) []byte { return using.ReplaceAll(text, []byte("usin_$1")) }

// Check tells whether a text fits the grammar of the language that its name tells.
func Check(name string, text []byte) error {
	text = readable(text)
	if grammarOf(name).Fits(text) {
		return nil // as nearly all do; else where it does not has to be found
	}
	r := &reader{text: tree.NewText(text)}
	var found error
	err := grammarOf(name).Parse(text, tree.Options{}, func(n *tree.Node) {
		if line, broken := r.broken(n); broken && found == nil {
			found = fmt.Errorf("line %d", line)
		}
	})
	return cmp.Or(err, found)
}

// reader turns a syntax tree into flow.
type reader struct {
	passed   map[int]string // what functions are passed to, by where they begin
	text     *tree.Text
	flow     *flow.File
	comments [][2]int
	fn       *scope
	// deciding are the boolean expressions that belong to a decision already.
	deciding map[*tree.Node]bool
	odd      error // why the file cannot be woven
	output   bool  // a tool made the text
}

// scope is what is known while the body of one function is read.
type scope struct {
	name    string
	params  map[string]bool // names that always have a value
	locals  map[string]local
	targets flow.Targets // what breaks may lead out of, outermost first
}

func (r *reader) comment(from, to int) { r.comments = append(r.comments, [2]int{from, to}) }

// namesOnly are statements of lists of names and of types, in which nothing is woven.
var namesOnly = map[string]bool{"import_statement": true, "interface_declaration": true, "type_alias_declaration": true, "ambient_declaration": true}

// broken tells whether a statement does not fit the grammar where that matters.
func (r *reader) broken(n *tree.Node) (line int, broken bool) {
	if d := n.Child("declaration"); namesOnly[n.Kind] || n.Kind == "export_statement" && (n.First("export_clause") != nil || d != nil && namesOnly[d.Kind]) {
		return 0, false
	}
	n.Each(func(n *tree.Node) bool {
		if !broken && (n.Kind == "ERROR" || n.Missing) {
			line, broken = r.text.Pos(n.From).Line, true
		}
		return !broken
	})
	return line, broken
}

func (r *reader) span(n *tree.Node) site.Span {
	return site.Span{Start: r.text.Pos(n.From), End: r.text.Pos(n.To)}
}

// program reads what stands outside all functions, which runs when the file is loaded.
func (r *reader) program(top []tree.Node) {
	whole := func(n *tree.Node) bool { return n.Kind == "string" || n.Kind == "template_string" }
	r.flow.Code = r.text.Code(top, whole, func(*tree.Node) bool { return false })
	r.fn = &scope{}
	for len(top) > 0 && (top[0].Kind == "hash_bang_line" || isDirective(&top[0])) {
		top = top[1:]
	}
	for i := range top {
		if k := top[i].Kind; k == "import_statement" || k == "export_statement" {
			r.flow.Module = true
		}
	}
	if len(top) == 0 {
		return
	}
	f := &flow.Function{Name: "the module", Constant: true, Body: &flow.Block{Open: top[0].From, Close: top[len(top)-1].To}}
	f.Body.Nodes = r.list(top)
	r.flow.Functions = []*flow.Function{f}
}

// isDirective tells whether a statement is a string that speaks to the engine.
func isDirective(n *tree.Node) bool {
	return n.Kind == "expression_statement" && len(n.Kids) > 0 && n.Kids[0].Kind == "string"
}

// codeFrom is where code begins, or the end of a text without any.
func (r *reader) codeFrom(top []tree.Node) int {
	for i := range top {
		if top[i].Kind != "hash_bang_line" {
			return top[i].From
		}
	}
	return len(r.text.Bytes)
}
