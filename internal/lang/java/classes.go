package java

import (
	"bytes"
	"regexp"
	"slices"
	"sort"
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// class is what is known while the body of a class is read.
type class struct {
	name    string
	outer   *class
	fields  map[string]field
	methods map[string]bool // without parameters: whether it gives nothing
	types   map[string]bool // names of type parameters
	nested  map[string]*class
	around  []local // variables of the function that it stands in
}

// field is a variable of a class.
type field struct {
	kind     kind
	constant bool // its value may be known when it is compiled
}

// called is the name of a class; nothing for what stands at the top of a file.
func (c *class) called() string {
	if c == nil {
		return ""
	}
	return c.name
}

func within(scope, name string) string {
	if scope == "" {
		return name
	}
	return scope + "." + name
}

// within gives the name of something in what is being read.
func (r *reader) within(name string) string {
	if r.fn.name != "" {
		return within(r.fn.name, name)
	}
	if r.class != nil {
		return within(r.class.name, name)
	}
	return name
}

// declare looks at what a class declares before its body is read.
func declare(r *reader, name string, outer *class, n, body *tree.Node) *class {
	c := &class{name: name, outer: outer, fields: map[string]field{}, methods: map[string]bool{}, types: map[string]bool{}, nested: map[string]*class{}}
	if p := n.Child("type_parameters"); p != nil {
		r.typeNames(p, c.types)
	}
	for _, m := range membersOf(body) {
		switch m.Kind {
		case "field_declaration", "constant_declaration":
			for i := range m.Kids {
				if d := &m.Kids[i]; d.Field == "declarator" {
					c.fields[r.text.Word(d.Child("name"))] = field{kindOf(r.text.Word(m.Child("type")), d), r.mayBeConstant(m, d)}
				}
			}
		case "method_declaration":
			if t, params := m.Child("type"), m.Child("parameters"); t != nil && params != nil && params.Only() == nil && len(params.Kids) == 2 {
				c.methods[r.text.Word(m.Child("name"))] = t.Kind == "void_type"
			}
		case "class_declaration", "enum_declaration", "record_declaration", "interface_declaration":
			if b, id := m.Child("body"), m.Child("name"); b != nil && id != nil {
				c.nested[r.text.Word(id)] = declare(r, within(name, r.text.Word(id)), c, m, b)
			}
		}
	}
	if params := n.Child("parameters"); n.Kind == "record_declaration" && params != nil {
		for i := range params.Kids {
			if p := &params.Kids[i]; p.Kind == "formal_parameter" {
				c.fields[r.text.Word(p.Child("name"))] = field{kindOf(r.text.Word(p.Child("type")), p), false}
			}
		}
	}
	return c
}

func (r *reader) typeNames(params *tree.Node, to map[string]bool) {
	for i := range params.Kids {
		if id := params.Kids[i].First("type_identifier"); id != nil {
			to[r.text.Word(id)] = true
		}
	}
}

// mayBeConstant tells whether a field may be a constant to the compiler.
func (r *reader) mayBeConstant(n, declarator *tree.Node) bool {
	v := declarator.Child("value")
	return v != nil && (n.Kind == "constant_declaration" || r.isFinal(n)) && r.isConstant(v)
}

func (r *reader) isFinal(n *tree.Node) bool { return r.has(n, "final") }

// has tells whether a declaration has a modifier.
func (r *reader) has(n *tree.Node, modifier string) bool {
	m := n.First("modifiers")
	return m != nil && m.First(modifier) != nil
}

// membersOf are the members of the body of a class, of an enum after its constants.
func membersOf(body *tree.Node) []*tree.Node {
	var out []*tree.Node
	for i := range body.Kids {
		k := &body.Kids[i]
		if k.Kind == "enum_body_declarations" {
			out = append(out, membersOf(k)...)
		} else if k.Named {
			out = append(out, k)
		}
	}
	return out
}

// typeDeclarations are the declarations of classes of all kinds.
var typeDeclarations = map[string]bool{
	"class_declaration": true, "record_declaration": true, "interface_declaration": true, "enum_declaration": true, "annotation_type_declaration": true,
}

// typeDeclaration reads the declaration of a class.
func (r *reader) typeDeclaration(n *tree.Node, holds *flow.Stmt) {
	body, id := n.Child("body"), n.Child("name")
	if body == nil || id == nil {
		return
	}
	defer r.declaring(n)()
	r.inClass(r.text.Word(id), n, body, holds)
}

// inClass reads the body of a class.
func (r *reader) inClass(name string, n, body *tree.Node, holds *flow.Stmt) {
	outer, fn := r.class, r.fn
	r.class = declare(r, r.within(name), outer, n, body)
	r.class.around = fn.locals
	r.fn = &scope{types: fn.types}
	r.noteBlock(body)
	r.members(body, holds)
	r.class, r.fn = outer, fn
}

// members reads what stands in the body of a class, or at the top of a file. Functions are
// put into holds; what the class does when it, or an object of it, is made is in two
// functions that nobody calls.
func (r *reader) members(body *tree.Node, holds *flow.Stmt) {
	ofClass := &flow.Function{Among: flow.OfClass, Constant: true, Body: &flow.Block{}}
	ofObject := &flow.Function{Among: flow.OfObject, Constant: true, Body: &flow.Block{}}
	for _, m := range membersOf(body) {
		done := r.declaring(m)
		switch m.Kind {
		case "method_declaration", "constructor_declaration", "compact_constructor_declaration":
			r.method(m, holds)
		case "block":
			holds.Literals = append(holds.Literals, r.initializer(m))
		case "static_initializer":
			holds.Literals = append(holds.Literals, r.initializer(m.First("block")))
		case "field_declaration":
			to := ofObject
			if r.has(m, "static") {
				to = ofClass
			}
			r.field(m, to)
		case "constant_declaration", "enum_constant", "local_variable_declaration":
			// Nothing may stand between them, but something may in them.
			p := &flow.Plain{Stmt: flow.Stmt{At: m.From, Span: r.span(m), Placeless: true}}
			if m.Kind == "enum_constant" {
				r.creation(m, &p.Stmt)
			} else {
				r.expressionsIn(m, &p.Stmt)
			}
			ofClass.Body.Nodes = append(ofClass.Body.Nodes, p)
		default:
			if typeDeclarations[m.Kind] {
				r.typeDeclaration(m, holds)
			}
		}
		done()
	}
	for _, f := range []*flow.Function{ofClass, ofObject} {
		if len(f.Body.Nodes) > 0 {
			holds.Literals = append(holds.Literals, f)
		}
	}
}

// initializer reads a block among the members of a class.
func (r *reader) initializer(n *tree.Node) *flow.Function {
	outer := r.fn
	defer func() { r.fn = outer }()
	r.fn = &scope{name: r.class.called(), types: outer.types}
	r.fn.locals = r.survey(n)
	return &flow.Function{Name: r.class.called(), Constant: true, Body: r.block(n)}
}

// field reads fields that are declared together. If they get a value that is not known
// beforehand, they are a statement.
func (r *reader) field(n *tree.Node, to *flow.Function) {
	constant := true
	for i := range n.Kids {
		if d := &n.Kids[i]; d.Field == "declarator" && d.Child("value") != nil && !r.isConstant(d.Child("value")) {
			constant = false
		}
	}
	if constant {
		return
	}
	p := &flow.Plain{Stmt: flow.Stmt{At: r.documented(n), Span: r.span(n), Counted: !r.moved(n), Leaves: true, Placeless: true}}
	p.Head = p.Span.End
	r.expressionsIn(n, &p.Stmt)
	to.Name = r.class.called()
	to.Body.Nodes = append(to.Body.Nodes, p)
}

// documented is where the comment begins that documents a declaration, or it itself if there
// is none: a probe in between would take the comment from it.
func (r *reader) documented(n *tree.Node) int {
	at := n.From
	i := sort.Search(len(r.comments), func(i int) bool { return r.comments[i][0] >= at })
	for i--; i >= 0 && len(bytes.TrimSpace(r.text.Bytes[r.comments[i][1]:at])) == 0; i-- {
		at = r.comments[i][0]
		if bytes.HasPrefix(r.text.Bytes[at:], []byte("/**")) {
			return at
		}
	}
	return n.From
}

// elsewhere are annotations of Lombok by which the value of a field is worked out at another
// time than when the object is made, or not at all.
var elsewhere = regexp.MustCompile(`^@\s*(lombok\s*\.\s*)?(Builder\s*\.\s*Default$|Default$|Getter\s*\(.*\blazy\b)`)

// moved tells whether a program that reads annotations moves the value of a field.
func (r *reader) moved(n *tree.Node) bool {
	m := n.First("modifiers")
	return m != nil && slices.ContainsFunc(m.Kids, func(k tree.Node) bool {
		return isAnnotation(&k) && elsewhere.Match(r.text.Bytes[k.From:k.To])
	})
}

// expressionsIn reads the expressions in a declaration.
func (r *reader) expressionsIn(n *tree.Node, s *flow.Stmt) {
	for i := range n.Kids {
		r.expressions(&n.Kids[i], s, false)
	}
}

// method reads a method or a constructor.
func (r *reader) method(n *tree.Node, holds *flow.Stmt) {
	body := n.Child("body")
	if body == nil {
		return
	}
	outer := r.fn
	defer func() { r.fn = outer }()
	name := r.text.Word(n.Child("name"))
	r.fn = &scope{name: name, types: map[string]bool{}}
	if r.class != nil {
		r.fn.name = within(r.class.name, name)
	}
	if p := n.Child("type_parameters"); p != nil {
		r.typeNames(p, r.fn.types)
	}
	r.fn.locals = r.survey(n)
	f := &flow.Function{Name: r.fn.name, Span: r.span(n), Constant: true}
	f.Body = r.block(body)
	if n.Kind == "constructor_declaration" {
		r.constructor(f.Body, body)
	}
	holds.Literals = append(holds.Literals, f)
}

// constructor has a constructor that begins by calling another one count within that call,
// since nothing may stand before it; where that cannot be, after it.
func (r *reader) constructor(b *flow.Block, body *tree.Node) {
	call := body.First("explicit_constructor_invocation")
	if call == nil {
		return
	}
	b.Open = call.To
	if x := r.firstOf(call.Child("arguments")); x != nil {
		b.Entry = operand(x)
	} else if p, ok := b.Nodes[0].(*flow.Plain); ok {
		p.At, p.Leaves = call.To, false
	}
}

func operand(n *tree.Node) *flow.Operand {
	return &flow.Operand{From: n.From, End: n.To, Null: isNull(n)}
}

// lambda reads a lambda expression. It tells whether it is a function of its own: one that
// is only a call may give a value or none, and where the text does not tell which, and has
// no place for a probe, the call belongs to the statement around it.
func (r *reader) lambda(n *tree.Node, s *flow.Stmt) bool {
	body := n.Child("body")
	outer := r.fn
	defer func() { r.fn = outer }()
	r.fn = &scope{name: r.within("lambda"), types: outer.types, locals: append(r.survey(n), outer.locals...)}
	f := &flow.Function{Name: r.fn.name, Span: r.span(n), Constant: true}
	if body.Kind == "block" {
		f.Body = r.block(body)
		s.Literals = append(s.Literals, f)
		return true
	}
	j := &flow.Jump{Stmt: flow.Stmt{At: body.From, Span: r.span(body), Counted: true, Placeless: mayStand[body.Kind]}, Kind: flow.Away}
	j.Head = j.Span.End
	f.Body = &flow.Block{Open: body.From, Close: body.To, Nodes: []flow.Node{j}}
	switch x, void := r.firstOf(body), r.void(body); {
	case !mayStand[body.Kind]:
		f.Body.Bare = true
	case x != nil:
		f.Body.Entry = operand(x)
	case void == givesNothing:
		f.Body.Bare, f.Body.Silent = true, true
	case void == givesValue:
		f.Body.Entry = operand(body)
	default:
		r.expressions(body, s, false)
		return false
	}
	r.expressions(body, &j.Stmt, false)
	s.Literals = append(s.Literals, f)
	return true
}

// mayStand are the expressions that may stand as statements: a lambda expression of one may
// give its value or none.
var mayStand = map[string]bool{"method_invocation": true, "object_creation_expression": true, "assignment_expression": true, "update_expression": true}

// gives says what a call gives.
type gives uint8

const (
	givesUnknown gives = iota
	givesNothing
	givesValue
)

// void tells what an expression gives, as far as the text tells: a method without
// parameters that the class itself has can only be overridden by one that gives the same.
func (r *reader) void(n *tree.Node) gives {
	if n.Kind != "method_invocation" {
		return givesValue
	}
	c, object := r.class, n.Child("object")
	if args := n.Child("arguments"); c == nil || args == nil || len(args.Kids) != 2 {
		return givesUnknown
	}
	if object != nil && object.Kind == "identifier" && !r.isVariable(object) {
		c = c.find(r.text.Word(object))
	} else if object != nil && object.Kind != "this" {
		return givesUnknown
	}
	if c == nil {
		return givesUnknown
	}
	void, ok := c.methods[r.text.Word(n.Child("name"))]
	switch {
	case !ok:
		return givesUnknown
	case void:
		return givesNothing
	}
	return givesValue
}

// find looks for a class by its name, as code in a class sees it.
func (c *class) find(name string) *class {
	for ; c != nil; c = c.outer {
		if n := c.nested[name]; n != nil {
			return n
		}
		if c.name == name || strings.HasSuffix(c.name, "."+name) {
			return c
		}
	}
	return nil
}

func (r *reader) noteBlock(n *tree.Node) {
	from, to := r.text.Pos(n.From).Line, r.text.Pos(n.To).Line
	r.flow.Blocks = append(r.flow.Blocks, site.Block{Line: from, EndLine: max(from, to)})
}
