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
