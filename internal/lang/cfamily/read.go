// Package cfamily reads C and C++ into flow, from the text that a compiler's own
// preprocessor gives.
//
// Only what stands in the project's files is looked at. What macros put in counts
// where their names stand; what macros of the system put in is no decision of the
// project's.
package cfamily

import (
	"bytes"
	"cmp"
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/core/waiver"
	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// Options say how a text is to be read.
type Options struct {
	Language Language
	// Faults says that control may leave at a fault, such as through a bad pointer: the
	// compiler leaves statements in their order.
	Faults bool
	// Constant says that a function can tell whether the compiler works it out.
	Constant bool
}

// Unit is one translation unit.
type Unit struct {
	Files []*File  // those that have functions
	Empty []string // paths of those that have none
}

// File is a project file as far as the unit has it.
type File struct {
	Path   string
	Flow   *flow.File
	Source []byte
	// Unread are the functions that are left as they are.
	Unread []Unread
	// Shared says that a function of it may be defined in other units too, so it may
	// refer to nothing that only this unit has.
	Shared bool

	source *source
}

// Unread is a function that cannot be woven.
type Unread struct {
	Line int
	Name string
	Why  string
}

// Read reads preprocessed text. open gives the path and text of the file that a
// line marker names; ok is false for files that do not count.
func Read(text []byte, opt Options, open func(name string) (path string, text []byte, ok bool)) (*Unit, error) {
	r := newReader(text, opt)
	byPath := map[string]int{}
	regions := divide(text, func(name string) int {
		path, source, ok := open(name)
		if !ok {
			return -1
		}
		if i, known := byPath[path]; known {
			return i
		}
		byPath[path] = len(r.files)
		r.files = append(r.files, newFile(path, source))
		return len(r.files) - 1
	})
	return r.read(regions)
}

// ReadPlain reads a file as it was written, for want of anything better: it was
// never compiled. Directives are passed over, so that of alternatives all are read.
func ReadPlain(path string, source []byte, l Language) (*File, error) {
	r := newReader(withoutDirectives(source), Options{Language: l, Constant: true})
	f := newFile(path, source)
	r.files = []*File{f}
	_, err := r.read([]region{{to: len(source), line: 1}})
	return f, err
}

func withoutDirectives(source []byte) []byte {
	out := bytes.Clone(source)
	done := 0
	scan := scanner{text: source, directives: true, fresh: true}
	for {
		t, ok := scan.next()
		to := t.from
		if !ok {
			to = len(source)
		}
		for i := done; i < to; i++ {
			if out[i] != '\n' {
				out[i] = ' '
			}
		}
		if done = t.to; !ok {
			return out
		}
	}
}

func newFile(path string, text []byte) *File {
	f := &File{Path: path, Source: text, Flow: &flow.File{}}
	if hasPatterns(path) {
		f.source = newPatterns(text, f.comment)
	} else {
		f.source = newSource(text, f.comment)
	}
	f.Flow.Lines = len(f.source.starts)
	for _, t := range f.source.tokens {
		if !strings.ContainsRune("})],;", rune(text[t.from])) {
			line := uint32(f.source.pos(t.from).Line)
			if n := len(f.Flow.Code); n == 0 || f.Flow.Code[n-1] != line {
				f.Flow.Code = append(f.Flow.Code, line)
			}
		}
	}
	f.settleNotes()
	return f
}

// comment keeps what comments say to Thrush. Lines are filled in later.
func (f *File) comment(from, to int) {
	text := string(f.Source[from:to])
	text = strings.TrimSuffix(strings.TrimPrefix(strings.TrimPrefix(text, "//"), "/*"), "*/")
	if strings.HasPrefix(strings.TrimSpace(text), "thrush:") {
		f.Flow.Notes = append(f.Flow.Notes, waiver.Note{Line: from, Next: to, Text: text})
	}
}

// settleNotes turns the offsets of notes into lines.
func (f *File) settleNotes() {
	for i := range f.Flow.Notes {
		n := &f.Flow.Notes[i]
		from, to := n.Line, n.Next
		lineStart := bytes.LastIndexByte(f.Source[:from], '\n') + 1
		n.Alone = len(bytes.TrimSpace(f.Source[lineStart:from])) == 0
		n.Line, n.Next = f.source.pos(from).Line, f.source.pos(max(to-1, 0)).Line+1
		n.Top = len(f.source.tokens) == 0 || f.source.tokens[0].from > from
		for n.Next <= len(f.source.starts) && isComment(f.Source[f.source.starts[n.Next-1]:]) {
			n.Next++
		}
	}
}

// isComment tells whether a line holds nothing but a comment.
func isComment(text []byte) bool {
	line, _, _ := bytes.Cut(text, newline)
	line = bytes.TrimSpace(line)
	return bytes.HasPrefix(line, []byte("//")) || bytes.HasPrefix(line, []byte("/*")) && bytes.HasSuffix(line, []byte("*/"))
}

var newline = []byte{'\n'}

// reader turns the syntax trees of a unit into flow.
type reader struct {
	text   []byte
	opt    Options
	place  *placer
	files  []*File
	fn     *scope
	hidden bool // in what a macro of the system's put in
	names  names
	settled
	// deciding are the boolean expressions that lead a statement, by their offsets.
	deciding map[*tree.Node]bool
}

func newReader(text []byte, opt Options) *reader {
	return &reader{
		text: text, opt: opt,
		names:   names{types: map[string]bool{}, values: map[string]bool{}},
		settled: settled{bodies: map[int]bool{}, holders: map[int]bool{}},
	}
}

func (r *reader) read(regions []region) (*Unit, error) {
	r.place = newPlacer(r.text, regions)
	for _, f := range r.files {
		r.place.sources = append(r.place.sources, f.source)
	}
	if len(r.place.rows) == 0 {
		return &Unit{}, nil
	}
	e := newExcerpt(r.text, regions)
	quiet(e.text, r.opt.Language)
	e = e.with(e.heads(r.opt.Language))
	var failed error
	err := parse(e, r.opt.Language, func(n *tree.Node) {
		if pairs := r.objects(n); len(pairs) == 0 {
			r.outside(n, "")
		} else if err := r.again(e, n, pairs); err != nil {
			failed = err
		}
	})
	if err := cmp.Or(err, failed); err != nil {
		return nil, err
	}
	r.account(e)
	u := &Unit{}
	for _, f := range r.files {
		if len(f.Flow.Functions) > 0 || len(f.Unread) > 0 {
			u.Files = append(u.Files, f)
		} else {
			u.Empty = append(u.Empty, f.Path)
		}
	}
	return u, nil
}

// again reads a node once more, with parentheses turned into braces, in which only values
// can stand.
func (r *reader) again(e *excerpt, n *tree.Node, parentheses []int) error {
	part := e.part(n.From, n.To)
	for i, at := range parentheses {
		if j := part.at(at); j >= 0 {
			part.text[j] = "{}"[i%2]
		}
	}
	return parse(part, r.opt.Language, func(n *tree.Node) { r.outside(n, "") })
}

// outside looks for functions in what stands outside them.
func (r *reader) outside(n *tree.Node, scope string) {
	r.hold(n)
	switch n.Kind {
	case "function_definition":
		r.function(n, scope)
		return
	case "lambda_expression":
		r.lambda(n, scope)
		return
	case "namespace_definition", "class_specifier", "struct_specifier", "union_specifier":
		if name := n.Child("name"); name != nil {
			scope = within(scope, r.squeezed(name))
		}
	case "template_argument_list", "requires_clause", "requires_expression", "decltype", "sizeof_expression", "static_assert_declaration", "concept_definition":
		r.unevaluated(n)
		return
	}
	for i := range n.Kids {
		r.outside(&n.Kids[i], scope)
	}
}

func within(scope, name string) string {
	if scope == "" {
		return name
	}
	return scope + "::" + name
}

// squeezed is the text of a node without blanks.
func (r *reader) squeezed(n *tree.Node) string {
	words := strings.Fields(string(r.text[n.From:n.To]))
	out := ""
	for _, w := range words {
		if out != "" && isWord(out[len(out)-1]) && isWord(w[0]) {
			out += " "
		}
		out += w
	}
	return out
}

const unreadable = "its text does not fit the grammar that Thrush knows"

// function reads a function with a body.
func (r *reader) function(n *tree.Node, scope string) *flow.Function {
	body, handlers := bodyOf(n)
	if body == nil {
		return nil
	}
	r.bodies[body.From] = true
	for _, h := range handlers {
		r.bodies[h.From] = true
	}
	name := within(scope, r.nameOf(n))
	head := string(r.text[n.From:body.From])
	constant := hasWord(head, "constexpr")
	if hasWord(head, "consteval") {
		return nil // it never runs
	}
	why := ""
	switch {
	case body.Broken():
		why = unreadable
	case strings.Contains(head, "naked"):
		why = "it is naked: it may hold nothing but assembly"
	case constant && !r.opt.Constant:
		why = "in C++ before 2014 no probe can stand in a constexpr function"
	}
	shared := r.opt.Language == C && hasWord(head, "inline", "__inline", "__inline__") && !hasWord(head, "static")
	for _, h := range handlers {
		if h.Broken() {
			why = unreadable
		}
	}
	return r.body(n, body, handlers, name, constant, shared, why)
}

// bodyOf gives the body of a function, and the handlers of what is thrown in all of it.
func bodyOf(n *tree.Node) (body *tree.Node, handlers []*tree.Node) {
	body = n.Child("body")
	tried := body
	if body == nil {
		tried = n.First("try_statement")
	}
	if tried == nil {
		tried = n.First("constructor_try_statement")
	}
	if tried != nil && (tried.Kind == "try_statement" || tried.Kind == "constructor_try_statement") {
		body = tried.First("compound_statement")
		for i := range tried.Kids {
			if k := &tried.Kids[i]; k.Kind == "catch_clause" {
				if b := k.Child("body"); b != nil {
					handlers = append(handlers, b)
				}
			}
		}
	}
	if body == nil || len(body.Kids) == 0 || body.Kind != "compound_statement" {
		return nil, nil
	}
	return body, handlers
}

// lambda reads a function literal that stands outside functions, or in one.
func (r *reader) lambda(n *tree.Node, scope string) *flow.Function {
	body := n.Child("body")
	if body == nil || body.Kind != "compound_statement" {
		return nil
	}
	r.bodies[body.From] = true
	why := ""
	if body.Broken() {
		why = unreadable
	}
	return r.body(n, body, nil, within(scope, "lambda"), r.opt.Constant, false, why)
}

// body reads the body of a function, and keeps the function if it stands outside
// others.
func (r *reader) body(n, body *tree.Node, handlers []*tree.Node, name string, constant, shared bool, why string) *flow.Function {
	i := r.place.file(body.From)
	if i < 0 && r.place.context(body.From) {
		r.actions(body, name)
		return nil
	}
	if i < 0 || r.place.system(body.From) {
		return nil
	}
	if r.place.file(body.To-1) != i || r.place.file(n.From) != i {
		why = "its text is in more than one file"
	}
	f := r.files[i]
	if why != "" {
		f.Unread = append(f.Unread, Unread{Line: r.place.start(n.From).Line, Name: name, Why: why})
		return nil
	}
	f.Shared = f.Shared || shared
	outer, hidden, deciding := r.fn, r.hidden, r.deciding
	r.fn = &scope{name: name, file: i, labels: map[string]*flow.Label{}}
	r.hidden, r.deciding = false, map[*tree.Node]bool{}
	r.survey(n, body)
	out := &flow.Function{Name: name, Span: r.place.span(n), Constant: constant, ByEnd: r.place.isWritten(n.To - 1)}
	out.Body = r.block(body)
	if len(handlers) > 0 {
		tried := &flow.Try{Stmt: flow.Stmt{At: out.Body.Open}, Body: out.Body}
		for _, h := range handlers {
			tried.Handlers = append(tried.Handlers, r.block(h))
		}
		out.Body = &flow.Block{Open: out.Body.Open, Close: out.Body.Close, Nodes: []flow.Node{tried}}
	}
	r.fn, r.hidden, r.deciding = outer, hidden, deciding
	if outer == nil {
		f.Flow.Functions = append(f.Flow.Functions, out)
	}
	return out
}

// nameOf is the name of a function as its definition gives it.
func (r *reader) nameOf(n *tree.Node) string {
	d := n.Child("declarator")
	for d != nil {
		switch d.Kind {
		case "function_declarator":
			inner := d.Child("declarator")
			if inner == nil {
				return r.squeezed(d)
			}
			if inner.Child("declarator") == nil && inner.Kind != "parenthesized_declarator" {
				return r.squeezed(inner)
			}
			d = inner
		case "parenthesized_declarator", "reference_declarator", "attributed_declarator":
			next := (*tree.Node)(nil)
			for i := range d.Kids {
				if d.Kids[i].Named {
					next = &d.Kids[i]
					break
				}
			}
			d = next
		case "operator_cast":
			text, _, _ := strings.Cut(r.squeezed(d), "(")
			return text
		default:
			next := d.Child("declarator")
			if next == nil {
				return r.squeezed(d)
			}
			d = next
		}
	}
	return "?"
}

func hasWord(text string, words ...string) bool {
	scan := scanner{text: []byte(text)}
	for {
		t, ok := scan.next()
		if !ok {
			return false
		}
		for _, w := range words {
			if text[t.from:t.to] == w {
				return true
			}
		}
	}
}

// block reads a compound statement.
func (r *reader) block(n *tree.Node) *flow.Block {
	r.noteBlock(n)
	if r.text[n.From] != '{' {
		// The braces were added.
		return &flow.Block{Open: n.From, Close: n.To, Bare: true, Nodes: r.list(n.Kids, n.From)}
	}
	open := r.pastLabels(n.From + 1)
	b := &flow.Block{Open: open, Close: n.To - 1}
	b.Nodes = r.list(n.Kids, open)
	b.Leaves = r.declaresObjects(n)
	return b
}

// pastLabels is where statements may begin in a block: after the declarations of its own
// labels, which are GNU's.
func (r *reader) pastLabels(at int) int {
	scan := scanner{text: r.text, at: at}
	for {
		t, ok := scan.next()
		if !ok || string(r.text[t.from:t.to]) != "__label__" {
			return at
		}
		for ok && r.text[t.from] != ';' {
			t, ok = scan.next()
		}
		at = scan.at
	}
}

func (r *reader) noteBlock(n *tree.Node) {
	f := r.files[r.fn.file].Flow
	from, to := r.place.start(n.From).Line, r.place.end(n.To).Line
	f.Blocks = append(f.Blocks, site.Block{Line: from, EndLine: max(from, to)})
}

// under reads a statement that hangs on another, with or without braces.
func (r *reader) under(parent, n *tree.Node) *flow.Block {
	if n.Kind == "compound_statement" {
		return r.block(n)
	}
	at := n.From
	for i := range parent.Kids {
		if k := &parent.Kids[i]; k.To <= n.From {
			at = k.To
		}
	}
	from, _ := r.before(at, n)
	return &flow.Block{Open: from, Close: n.To, Bare: true, Nodes: r.list([]tree.Node{*n}, from)}
}
