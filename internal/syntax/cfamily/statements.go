package cfamily

import (
	"bytes"
	"strings"

	"thrush/internal/core/logic"
	"thrush/internal/syntax/flow"
)

// scope is what is known while the body of one function is read.
type scope struct {
	name    string
	file    int
	labels  map[string]*flow.Label
	taken   bool // jumps lead to labels without naming them
	targets []flow.Node
	literal int // how many literals it has so far
	plain   kinds
}

// survey looks through a function before it is read: for its labels, and for what is
// known of its variables.
func (r *reader) survey(n, body *node) {
	r.fn.plain = r.variables(n)
	body.each(func(n *node) bool {
		switch n.kind {
		case "lambda_expression", "class_specifier":
			return false
		case "labeled_statement":
			if l := n.child("label"); l != nil {
				name := string(r.text[l.from:l.to])
				r.fn.labels[name] = &flow.Label{Name: name}
			}
		case "goto_statement":
			l := n.child("label")
			r.fn.taken = r.fn.taken || l == nil || r.text[l.from] == '*' // a jump to an address
		case "pointer_expression":
			// What takes a label's address was two marks.
			r.fn.taken = r.fn.taken || strings.HasPrefix(string(r.text[n.from:n.to]), "&&")
		case "call_expression":
			if f := n.child("function"); f != nil && f.to-f.from == 3 && isAssembly(r.text[f.from:f.to]) {
				r.fn.taken = r.fn.taken || strings.Contains(string(r.text[n.from:n.to]), "goto")
			}
		}
		return true
	})
}

func isAssembly(word []byte) bool { return string(word) == "asm" || string(word) == "__a" }

// list reads statements that stand one after another. at is where the text before
// the first of them ends.
func (r *reader) list(kids []node, at int) []flow.Node {
	var out []flow.Node
	for i := 0; i < len(kids); i++ {
		n := &kids[i]
		switch {
		case !n.named:
			continue
		case n.kind == "case_statement":
			last := i
			for isLabelOnly(&kids[last]) && last+1 < len(kids) && kids[last+1].kind == "case_statement" {
				last++
			}
			out = append(out, r.caseLabels(kids[i:last+1])...)
			at, i = kids[last].to, last
			continue
		}
		from, omp := r.before(at, n)
		node := r.statement(n, from)
		if loop, ok := node.(*flow.Loop); ok && omp {
			loop.Tested, loop.Cond = false, nil // such loops must look as they do
		}
		out = append(out, node)
		at = n.to
	}
	return out
}

// before is where what runs before a statement may stand: not between it and a pragma
// above it. at is where the text before ends. omp tells whether it is one of OpenMP's.
func (r *reader) before(at int, n *node) (from int, omp bool) {
	if at >= n.from || !bytes.Contains(r.text[at:n.from], []byte("#pragma")) {
		return n.from, false
	}
	return at, bytes.Contains(r.text[at:n.from], []byte("omp"))
}

// isLabelOnly tells whether nothing stands after a case before the next.
func isLabelOnly(n *node) bool {
	for i := range n.kids {
		if n.kids[i].kind == ":" {
			for _, k := range n.kids[i+1:] {
				if k.named {
					return false
				}
			}
		}
	}
	return true
}

// caseLabels reads labels of a switch that lead to the same place, and what follows
// them.
func (r *reader) caseLabels(labels []node) []flow.Node {
	var of *flow.Switch
	for i := len(r.fn.targets) - 1; i >= 0 && of == nil; i-- {
		of, _ = r.fn.targets[i].(*flow.Switch)
	}
	c := &flow.Case{Of: of, Pos: r.place.start(labels[0].from)}
	c.Stmt = flow.Stmt{At: labels[0].from}
	var words []string
	var rest []node
	for i := range labels {
		n := &labels[i]
		colon := 0
		for j := range n.kids {
			if n.kids[j].kind == ":" && colon == 0 {
				colon = n.kids[j].to
				rest = n.kids[j+1:]
			}
		}
		c.After = colon
		if v := n.child("value"); v != nil {
			words = append(words, "case "+string(r.place.written(v.from, v.to)))
			continue
		}
		words = append(words, "default")
		if of != nil {
			of.Misses = false
		}
	}
	for i := range words[1:] {
		if !strings.HasPrefix(words[0], "default") {
			words[i+1] = strings.TrimPrefix(words[i+1], "case ")
		}
	}
	c.Label = flow.Caption([]byte(strings.Join(words, ", ")))
	out := r.list(rest, c.After)
	if of == nil {
		return out
	}
	of.Labels++
	return append([]flow.Node{c}, out...)
}

// head fills in what all statements have; parts are those in which expressions may
// stand, and from body on its own text ends.
func (r *reader) head(n *node, at int, body *node, parts ...*node) flow.Stmt {
	s := flow.Stmt{At: at, Span: r.place.span(n), Counted: !r.hidden && r.place.file(n.from) == r.fn.file}
	s.Head = s.Span.End
	if body != nil {
		s.Head = r.place.start(body.from)
	}
	for _, p := range parts {
		if p != nil {
			r.expressions(p, &s)
		}
	}
	return s
}

// statement reads a statement. What a macro of the system's put in counts as one, and
// decides nothing.
func (r *reader) statement(n *node, at int) flow.Node {
	if !r.hidden && r.place.file(n.from) != r.fn.file {
		return r.included(n, at)
	}
	if r.hidden || !r.place.system(n.from) || n.kind == "expression_statement" || n.kind == "declaration" || n.kind == "return_statement" {
		return r.visible(n, at)
	}
	counted := r.place.file(n.from) == r.fn.file
	r.hidden = true
	out := r.visible(n, at)
	r.hidden = false
	return &flow.Nested{Stmt: flow.Stmt{At: at}, Body: &flow.Block{Open: at, Close: n.to, Nodes: []flow.Node{
		&flow.Plain{Stmt: flow.Stmt{At: at, Span: r.place.span(n), Head: r.place.end(n.to), Counted: counted}}, out}}}
}

// included reads a statement that another file puts into the middle of a function. It
// is left out, as are its decisions: the function's file does not have them.
func (r *reader) included(n *node, at int) flow.Node {
	if i := r.place.file(n.from); i >= 0 {
		f := r.files[i]
		f.Unread = append(f.Unread, Unread{Line: r.place.start(n.from).Line, Name: r.fn.name, Why: "its text is included into the middle of that function"})
	}
	r.hidden = true
	defer func() { r.hidden = false }()
	return r.visible(n, at)
}

func (r *reader) visible(n *node, at int) flow.Node {
	switch n.kind {
	case "compound_statement":
		return &flow.Nested{Stmt: flow.Stmt{At: at, Span: r.place.span(n)}, Body: r.block(n)}
	case "attributed_statement":
		for i := range n.kids {
			if k := &n.kids[i]; k.named && k.kind != "attribute_declaration" && k.kind != "attribute_specifier" {
				return r.statement(k, at)
			}
		}
	case "expression_statement":
		p := &flow.Plain{Stmt: r.head(n, at, nil, n)}
		p.Leaves = r.leaves(n)
		p.Counted = p.Counted && len(n.kids) > 1
		return p
	case "declaration":
		p := &flow.Plain{Stmt: r.head(n, at, nil, n)}
		p.Leaves = r.leaves(n)
		p.Counted = p.Counted && r.acts(n)
		return p
	case "return_statement", "co_return_statement", "throw_statement":
		return &flow.Jump{Stmt: r.head(n, at, nil, n), Kind: flow.Away, From: n.from, End: n.to}
	case "break_statement", "continue_statement":
		return r.jump(n, at)
	case "goto_statement":
		j := &flow.Jump{Stmt: r.head(n, at, nil, n), Kind: flow.Goto, From: n.from, End: n.to}
		if l := n.child("label"); l != nil {
			if j.Label = r.fn.labels[string(r.text[l.from:l.to])]; j.Label != nil {
				j.Label.Gotos = append(j.Label.Gotos, j)
			}
		}
		return j
	case "labeled_statement":
		return r.labeled(n, at)
	case "if_statement":
		return r.branch(n, at, true)
	case "switch_statement":
		return r.switched(n, at)
	case "while_statement", "do_statement", "for_statement", "for_range_loop":
		return r.loop(n, at)
	case "try_statement":
		return r.try(n, at)
	case "case_statement":
		return &flow.Nested{Stmt: flow.Stmt{At: at}, Body: &flow.Block{Open: n.from, Close: n.to, Nodes: r.caseLabels([]node{*n})}}
	}
	// A type, a directive of the language, or a function inside a function.
	p := &flow.Plain{Stmt: flow.Stmt{At: at, Span: r.place.span(n), Head: r.place.end(n.to), Leaves: true}}
	r.literals(n, &p.Stmt)
	return p
}

func (r *reader) jump(n *node, at int) flow.Node {
	j := &flow.Jump{Stmt: r.head(n, at, nil), Kind: flow.Away, From: n.from, End: n.to}
	for i := len(r.fn.targets) - 1; i >= 0; i-- {
		_, loop := r.fn.targets[i].(*flow.Loop)
		switch {
		case n.kind == "break_statement":
			j.Kind, j.Target = flow.Break, r.fn.targets[i]
			return j
		case loop:
			j.Kind, j.Target = flow.Continue, r.fn.targets[i]
			return j
		}
	}
	return j
}

func (r *reader) labeled(n *node, at int) flow.Node {
	l := r.fn.labels[string(r.text[n.child("label").from:n.child("label").to])]
	l.Stmt = flow.Stmt{At: at, Span: r.place.span(n)}
	l.Taken = r.fn.taken
	var inner *node
	for i := range n.kids {
		k := &n.kids[i]
		switch {
		case k.kind == ":" && l.After == 0:
			l.After = k.to
		case l.After > 0 && k.named:
			inner = k
		}
	}
	if inner == nil {
		l.Inner = &flow.Plain{Stmt: flow.Stmt{At: l.After, Span: l.Span, Head: l.Span.End}}
		return l
	}
	l.Inner = r.statement(inner, inner.from)
	return l
}

// pushed reads what lies in a statement that breaks may name.
func (r *reader) pushed(target flow.Node, read func()) {
	r.fn.targets = append(r.fn.targets, target)
	read()
	r.fn.targets = r.fn.targets[:len(r.fn.targets)-1]
}

// condition gives the expression in the parentheses of a statement, and what else
// stands there.
func condition(n *node) (value, before *node) {
	c := n.child("condition")
	if c == nil || c.kind != "condition_clause" {
		return c, nil
	}
	return c.child("value"), c.child("initializer")
}

func (r *reader) branch(n *node, at int, listed bool) *flow.Branch {
	b := &flow.Branch{CondAt: r.place.start(n.from), From: n.from, End: n.to, Listed: listed}
	value, before := condition(n)
	then := n.child("consequence")
	b.Settled = r.hidden || n.first("constexpr") != nil || isLiteral(value)
	if !b.Settled {
		b.Cond = r.decides(value)
	}
	parts := []*node{before, value}
	if n.first("constexpr") != nil {
		parts = nil
	}
	b.Stmt = r.head(n, at, then, parts...)
	b.CondLeaves = r.leaves(before) || r.leaves(value) || r.converts(value)
	b.Then = r.under(n, then)
	if e := n.child("alternative"); e != nil {
		for i := range e.kids {
			switch k := &e.kids[i]; {
			case !k.named:
			case k.kind == "if_statement":
				b.ElseIf = r.branch(k, k.from, false)
			default:
				b.Else = r.under(e, k)
			}
		}
	}
	return b
}

func (r *reader) switched(n *node, at int) flow.Node {
	value, before := condition(n)
	body := n.child("body")
	w := &flow.Switch{Stmt: r.head(n, at, body, before, value), Misses: true, Settled: r.hidden}
	r.pushed(w, func() { w.Body = r.under(n, body) })
	return w
}

func (r *reader) loop(n *node, at int) flow.Node {
	l := &flow.Loop{End: n.to, Settled: r.hidden}
	body := n.child("body")
	value, before := condition(n)
	parts := []*node{before, n.child("initializer"), value, n.child("update")}
	head := body
	switch {
	case n.kind == "for_range_loop":
		parts = []*node{n.child("initializer"), n.child("right")}
	case n.kind == "for_statement" && value == nil, isLiteral(value) && isTrue(r.text[value.from:value.to]):
		l.Endless = true
	case n.kind == "do_statement" && isLiteral(value):
		l.Once = true
	default:
		l.Cond = r.decides(value)
		l.Tested = value.kind != "declaration"
		l.Late = n.kind == "do_statement"
	}
	l.Stmt = r.head(n, at, head, parts...)
	r.pushed(l, func() { l.Body = r.under(n, body) })
	return l
}

func (r *reader) try(n *node, at int) flow.Node {
	t := &flow.Try{Stmt: flow.Stmt{At: at, Span: r.place.span(n)}}
	for i := range n.kids {
		switch k := &n.kids[i]; k.kind {
		case "compound_statement":
			t.Body = r.block(k)
		case "catch_clause":
			if body := k.child("body"); body != nil {
				t.Handlers = append(t.Handlers, r.block(body))
			}
		}
	}
	if t.Body == nil {
		t.Body = &flow.Block{Open: n.to, Close: n.to}
	}
	return t
}

// isLiteral tells whether an expression is a number or a boolean word, so that there
// is nothing to decide.
func isLiteral(n *node) bool {
	for n != nil {
		switch n.kind {
		case "number_literal", "true", "false":
			return true
		case "parenthesized_expression", "unary_expression":
			var inner *node
			for i := range n.kids {
				if n.kids[i].named {
					inner = &n.kids[i]
				}
			}
			if inner == nil {
				return false
			}
			n = inner
		default:
			return false
		}
	}
	return false
}

// isTrue tells whether the text of a literal, maybe negated, is true.
func isTrue(text []byte) bool {
	value := true
	for _, c := range text {
		switch {
		case c == '!':
			value = !value
		case c == 'f' || c == '0':
			return !value
		case isWord(c):
			return value
		}
	}
	return value
}

// decides reads a boolean expression that leads a statement.
func (r *reader) decides(n *node) *flow.Logic {
	if n == nil {
		return nil
	}
	l := &flow.Logic{Pos: r.place.start(n.from)}
	l.Formula = r.formula(n, l)
	return l
}

// formula reads an expression and notes its conditions.
func (r *reader) formula(n *node, to *flow.Logic) *logic.Formula {
	r.deciding[n] = true
	switch n.kind {
	case "parenthesized_expression", "extension_expression":
		if k := onlyNamed(n); k != nil && k.kind != "compound_statement" {
			return r.formula(k, to)
		}
	case "comma_expression":
		if k := n.child("right"); k != nil {
			return r.formula(k, to)
		}
	case "unary_expression":
		if x, op := n.child("argument"), n.child("operator"); x != nil && op != nil && (op.kind == "!" || op.kind == "not") && !r.fromSystem(op) {
			return &logic.Formula{Op: logic.Not, X: r.formula(x, to)}
		}
	case "binary_expression":
		if op, ok := r.operator(n); ok {
			x := r.formula(n.child("left"), to)
			return &logic.Formula{Op: op, X: x, Y: r.formula(n.child("right"), to)}
		}
	case "call_expression":
		if x := r.expected(n); x != nil {
			return r.formula(x, to)
		}
	}
	c := flow.Condition{Pos: r.place.start(n.from), From: n.from, End: n.to}
	c.Text = flow.Caption(r.place.written(n.from, n.to))
	to.Conditions = append(to.Conditions, c)
	return &logic.Formula{Op: logic.Leaf, Condition: len(to.Conditions) - 1}
}

// fromSystem tells whether the project's file did not write a mark itself.
func (r *reader) fromSystem(n *node) bool {
	return r.hidden || r.place.system(n.from) || r.place.file(n.from) != r.fn.file
}

// operator tells which boolean operator an expression has, if the project wrote it.
func (r *reader) operator(n *node) (logic.Op, bool) {
	op := n.child("operator")
	if op == nil || n.child("left") == nil || n.child("right") == nil || r.fromSystem(op) {
		return 0, false
	}
	switch op.kind {
	case "&&", "and":
		return logic.And, true
	case "||", "or":
		return logic.Or, true
	}
	return 0, false
}

// expected gives the expression that a hint to the compiler is about.
func (r *reader) expected(n *node) *node {
	f, args := n.child("function"), n.child("arguments")
	if f == nil || args == nil || !strings.HasPrefix(string(r.text[f.from:f.to]), "__builtin_expect") {
		return nil
	}
	for i := range args.kids {
		if args.kids[i].named {
			return &args.kids[i]
		}
	}
	return nil
}

func onlyNamed(n *node) *node {
	var out *node
	for i := range n.kids {
		if n.kids[i].named {
			if out != nil {
				return nil
			}
			out = &n.kids[i]
		}
	}
	return out
}
