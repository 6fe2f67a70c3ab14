// Package golang reads Go source text into the flow that the weaver works on.
package golang

import (
	"bytes"
	"fmt"
	"go/ast"
	"go/build/constraint"
	"go/parser"
	"go/token"
	"maps"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"thrush/internal/core/site"
	"thrush/internal/core/waiver"
	"thrush/internal/flow"
)

// generated is the line by which a Go file says that a program wrote it
// (go help generate).
var generated = regexp.MustCompile(`(?m)^// Code generated .* DO NOT EDIT\.\r?$`)

// tooDeep tells where code nests deeper than is looked, if it does anywhere.
func tooDeep(file *ast.File) (at token.Pos, deep bool) {
	level := 0
	ast.Inspect(file, func(n ast.Node) bool {
		if n == nil {
			level--
			return true
		}
		if level++; level > flow.Deepest && !deep {
			at, deep = n.Pos(), true
		}
		return true
	})
	return at, deep
}

// Read parses a Go file. The error says why a file cannot be woven.
func Read(name string, source []byte) (*flow.File, error) {
	if !utf8.Valid(source) {
		return nil, fmt.Errorf("not UTF-8 text")
	}
	fset := token.NewFileSet()
	parsed, err := parser.ParseFile(fset, name, source, parser.ParseComments|parser.SkipObjectResolution)
	if err != nil {
		return nil, fmt.Errorf("does not parse: %s", firstError(err))
	}
	if at, deep := tooDeep(parsed); deep {
		return nil, &flow.TooDeep{Line: fset.Position(at).Line}
	}
	r := &reader{
		source: source,
		file:   fset.File(parsed.FileStart),
		paths:  importPaths(parsed),
	}
	r.lines = r.file.Lines()
	r.survey(parsed)
	slices.Sort(r.operators)
	r.constants = map[string]bool{}
	r.changed = map[ast.Stmt]changes{}
	r.deciding = map[ast.Expr]bool{}
	r.declaredTypes(parsed)
	out := &flow.File{
		Lines:     bytes.Count(source, []byte("\n")),
		Named:     r.paths["C"] != "", // cgo
		Generated: saysGenerated(source[:r.offset(parsed.Package)]),
		Start:     r.pos(parsed.Package),
		StartAt:   r.offset(parsed.Package),
		Imports:   r.offset(parsed.Name.End()),
		Declare:   r.offset(parsed.Name.End()),
		Moved:     hasLineDirective(parsed),
	}
	if len(source) > 0 && source[len(source)-1] != '\n' {
		out.Lines++
	}
	for _, d := range parsed.Decls {
		switch d := d.(type) {
		case *ast.GenDecl:
			if d.Tok == token.IMPORT {
				out.Declare = r.offset(d.End())
			}
			outer := &naming{name: "glob"}
			out.Functions = append(out.Functions, r.literals(outer, d)...)
		case *ast.FuncDecl:
			if d.Body != nil && d.Name.Name != "_" {
				out.Functions = append(out.Functions, r.function(d))
			}
		}
	}
	out.Blocks = r.blocks
	out.Code = r.codeLines(parsed)
	out.FixedTop = bytes.HasPrefix(source, []byte("\ufeff"))
	out.Hides = r.hides(parsed)
	out.Program = parsed.Name.Name == "main"
	r.comments(parsed, out)
	return out, nil
}

func firstError(err error) string {
	text, _, _ := strings.Cut(err.Error(), "\n")
	text = strings.TrimSuffix(text, " (and more errors)")
	if _, rest, ok := strings.Cut(text, ".go:"); ok {
		return "line " + rest
	}
	return text
}

func saysGenerated(head []byte) string {
	return strings.TrimSpace(strings.TrimPrefix(string(generated.Find(head)), "//"))
}

func hasLineDirective(f *ast.File) bool {
	for _, g := range f.Comments {
		for _, c := range g.List {
			if strings.HasPrefix(c.Text, "//line ") || strings.HasPrefix(c.Text, "/*line ") {
				return true
			}
		}
	}
	return false
}

// survey finds where function literals stand and all names the file declares
// anywhere but as methods, so that a built-in function or an import of the same
// name is not mistaken for it.
func (r *reader) survey(f *ast.File) {
	r.innerNames(f)
	names := maps.Clone(r.inner)
	r.names = names
	for _, d := range f.Decls {
		switch d := d.(type) {
		case *ast.FuncDecl:
			if d.Recv == nil {
				names[d.Name.Name] = true
			}
		case *ast.GenDecl:
			for _, s := range d.Specs {
				switch s := s.(type) {
				case *ast.ValueSpec:
					addNames(names, s.Names)
				case *ast.TypeSpec:
					names[s.Name.Name] = true
				}
			}
		}
	}
}

func addNames(to map[string]bool, ids []*ast.Ident) {
	for _, id := range ids {
		to[id.Name] = true
	}
}

// innerNames are the names declared inside functions, with parameters, fields
// and type parameters.
func (r *reader) innerNames(f *ast.File) {
	names := map[string]bool{}
	r.inner = names
	top := map[ast.Node]bool{}
	for _, d := range f.Decls {
		if g, ok := d.(*ast.GenDecl); ok {
			for _, s := range g.Specs {
				top[s] = true
			}
		}
	}
	ast.Inspect(f, func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.FuncLit:
			r.lits = append(r.lits, n.Pos())
		case *ast.BinaryExpr:
			if _, ok := operator(n); ok {
				r.operators = append(r.operators, n.OpPos)
			}
		case *ast.Field:
			addNames(names, n.Names)
		case *ast.ValueSpec:
			if !top[n] {
				addNames(names, n.Names)
			}
		case *ast.TypeSpec:
			if !top[n] {
				names[n.Name.Name] = true
			}
		case *ast.AssignStmt:
			if n.Tok == token.DEFINE {
				for _, e := range n.Lhs {
					if id, ok := e.(*ast.Ident); ok {
						names[id.Name] = true
					}
				}
			}
		case *ast.RangeStmt:
			for _, e := range []ast.Expr{n.Key, n.Value} {
				if id, ok := e.(*ast.Ident); ok {
					names[id.Name] = true
				}
			}
		}
		return true
	})
}

// hides gives a predeclared name that the package declares itself and that
// probes, or what is known of where control may leave, rely on.
func (r *reader) hides(f *ast.File) string {
	for _, name := range append(basicTypes[:len(basicTypes):len(basicTypes)], "append", "cap", "false", "len", "nil", "panic", "true") {
		if r.names[name] && topLevel(f, name) {
			return name
		}
	}
	return ""
}

func topLevel(f *ast.File, name string) bool {
	for _, d := range f.Decls {
		switch d := d.(type) {
		case *ast.FuncDecl:
			if d.Recv == nil && d.Name.Name == name {
				return true
			}
		case *ast.GenDecl:
			for _, s := range d.Specs {
				switch s := s.(type) {
				case *ast.TypeSpec:
					if s.Name.Name == name {
						return true
					}
				case *ast.ValueSpec:
					if slices.ContainsFunc(s.Names, func(id *ast.Ident) bool { return id.Name == name }) {
						return true
					}
				}
			}
		}
	}
	return false
}

// importPaths maps the names under which packages are imported to their paths.
func importPaths(f *ast.File) map[string]string {
	paths := map[string]string{}
	for _, s := range f.Imports {
		path := strings.Trim(s.Path.Value, "`\"")
		name := path[strings.LastIndexByte(path, '/')+1:]
		if s.Name != nil {
			name = s.Name.Name
		}
		paths[name] = path
	}
	return paths
}

// reader turns the syntax tree of one file into flow.
type reader struct {
	source []byte
	file   *token.File
	names  map[string]bool // all that the file declares anywhere
	inner  map[string]bool // those of them that are declared inside functions
	paths  map[string]string
	// What is known of types and constants at the top of the file.
	types     types
	constants map[string]bool
	blocks    []site.Block
	fn        *scope
	lits      []token.Pos // where function literals begin, in order
	operators []token.Pos // where && and || stand, in order
	lines     []int       // offsets at which lines begin
	line      int         // index of the line that was last asked for
	// deciding are the boolean expressions that lead a statement, not used as values.
	deciding map[ast.Expr]bool
	// changed keeps what statements may change.
	changed map[ast.Stmt]changes
}

func (r *reader) offset(p token.Pos) int { return r.file.Offset(p) }

// pos is a place in the file. Most are asked for in the order in which they stand.
func (r *reader) pos(p token.Pos) site.Pos {
	at := r.offset(p)
	if at < r.lines[r.line] || r.line+1 < len(r.lines) && at >= r.lines[r.line+1] {
		i, found := slices.BinarySearch(r.lines, at)
		if !found {
			i--
		}
		r.line = i
	}
	return site.Pos{Line: r.line + 1, Column: at - r.lines[r.line] + 1}
}

func (r *reader) span(n ast.Node) site.Span {
	return site.Span{Start: r.pos(n.Pos()), End: r.pos(n.End())}
}

// comments reads what comments say to Thrush and to the go command.
func (r *reader) comments(f *ast.File, out *flow.File) {
	for _, g := range f.Comments {
		top := g.End() < f.Package
		for _, c := range g.List {
			if top && constraint.IsGoBuild(c.Text) {
				out.Constraint, out.ConstraintAt = strings.TrimRight(c.Text, "\r"), r.offset(c.Pos())
			}
			out.FixedTop = out.FixedTop || top && constraint.IsPlusBuild(c.Text)
			out.Embeds = append(out.Embeds, embedded(c.Text)...)
			text := strings.TrimSuffix(strings.TrimPrefix(strings.TrimPrefix(c.Text, "//"), "/*"), "*/")
			if !strings.HasPrefix(strings.TrimSpace(text), "thrush:") {
				continue
			}
			at := r.offset(c.Pos())
			lineStart := bytes.LastIndexByte(r.source[:at], '\n') + 1
			out.Notes = append(out.Notes, waiver.Note{
				Line:  r.pos(c.Pos()).Line,
				Next:  r.pos(g.End()).Line + 1,
				Alone: len(bytes.TrimSpace(r.source[lineStart:at])) == 0,
				Top:   top,
				Text:  text,
			})
		}
	}
}

// embedded are the patterns of a directive to embed files.
func embedded(comment string) []string {
	rest, ok := strings.CutPrefix(comment, "//go:embed ")
	if !ok {
		return nil
	}
	var out []string
	for rest = strings.TrimSpace(rest); rest != ""; rest = strings.TrimSpace(rest) {
		if q := rest[0]; q == '"' || q == '`' {
			word, after, _ := strings.Cut(rest[1:], string(q))
			out, rest = append(out, word), after
			continue
		}
		word, after, _ := strings.Cut(rest, " ")
		out, rest = append(out, word), after
	}
	return out
}

// codeLines are the lines that carry more than blanks, comments and closing
// brackets.
func (r *reader) codeLines(f *ast.File) []uint32 {
	lines := make([]uint32, 0, len(r.lines))
	note := func(from, to int) { // of text between comments
		for from < to {
			text := r.source[from:to]
			i := bytes.IndexFunc(text, func(c rune) bool { return !strings.ContainsRune(" \t\r\f\v)}],;\n", c) })
			if i < 0 {
				return
			}
			n := r.pos(r.file.Pos(from + i)).Line
			if len(lines) == 0 || lines[len(lines)-1] != uint32(n) {
				lines = append(lines, uint32(n))
			}
			if n == len(r.lines) {
				return
			}
			from = r.lines[n]
		}
	}
	done := 0
	for _, g := range f.Comments {
		for _, c := range g.List {
			note(done, r.offset(c.Pos()))
			done = r.commentEnd(r.offset(c.Pos()))
		}
	}
	note(done, len(r.source))
	return lines
}

// commentEnd is where the comment at an offset ends. The parser's own text of it
// may be shorter, since it leaves carriage returns out.
func (r *reader) commentEnd(at int) int {
	end := "\n"
	if bytes.HasPrefix(r.source[at:], []byte("/*")) {
		at, end = at+2, "*/"
	}
	if i := bytes.Index(r.source[at:], []byte(end)); i >= 0 {
		return at + i + len(end)
	}
	return len(r.source)
}
