package cfamily

import (
	"bytes"
	"strings"

	"thrush/internal/flow"
	"thrush/internal/lang/tree"
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
func (r *reader) survey(n, body *tree.Node) {
	r.fn.plain = r.variables(n)
	body.Each(func(n *tree.Node) bool {
		switch n.Kind {
		case "lambda_expression", "class_specifier":
			return false
		case "labeled_statement":
			if l := n.Child("label"); l != nil {
				name := string(r.text[l.From:l.To])
				r.fn.labels[name] = &flow.Label{Name: name}
			}
		case "goto_statement":
			l := n.Child("label")
			r.fn.taken = r.fn.taken || l == nil || r.text[l.From] == '*' || // a jump to an address
				r.place.file(n.From) != r.fn.file // or from a piece of another file
		case "pointer_expression":
			// What takes a label's address was two marks.
			r.fn.taken = r.fn.taken || strings.HasPrefix(string(r.text[n.From:n.To]), "&&")
		case "call_expression":
			if f := n.Child("function"); f != nil && f.To-f.From == 3 && isAssembly(r.text[f.From:f.To]) {
				r.fn.taken = r.fn.taken || strings.Contains(string(r.text[n.From:n.To]), "goto")
			}
		}
		return true
	})
}

func isAssembly(word []byte) bool { return string(word) == "asm" || string(word) == "__a" }

// list reads statements that stand one after another. at is where the text before
// the first of them ends.
func (r *reader) list(kids []tree.Node, at int) []flow.Node {
	var out []flow.Node
	for i := 0; i < len(kids); i++ {
		n := &kids[i]
		switch {
		case !n.Named:
			continue
		case n.Kind == "case_statement":
			last := i
			for isLabelOnly(&kids[last]) && last+1 < len(kids) && kids[last+1].Kind == "case_statement" {
				last++
			}
			out = append(out, r.caseLabels(kids[i:last+1])...)
			at, i = kids[last].To, last
			continue
		}
		if last := r.foreign(kids, i); last >= i {
			// It is of another file, and counts there; here it is one piece that may leave.
			r.action(kids[i:last+1], r.fn.name)
			out = append(out, &flow.Plain{Stmt: flow.Stmt{At: kids[i].From, Span: r.place.span(&kids[i]), Head: r.place.end(kids[last].To), Leaves: true}})
			i, at = last, kids[last].To
			continue
		}
		from, omp := r.before(at, n)
		node := r.statement(n, from)
		if loop, ok := node.(*flow.Loop); ok && omp {
			loop.Tested, loop.Cond = false, nil // such loops must look as they do
		}
		out = append(out, node)
		at = n.To
	}
	return out
}

// foreign gives the last of the statements, from one on, that another file puts into the
// middle of this function and that can be read as a function there; -1 if there is none.
func (r *reader) foreign(kids []tree.Node, i int) int {
	n := &kids[i]
	if r.hidden || !n.Named || r.place.file(n.From) < 0 || r.place.file(n.From) == r.fn.file {
		return -1
	}
	at := r.begins(n)
	if at < 0 {
		return -1
	}
	last := i
	for n.Kind != "compound_statement" && last+1 < len(kids) && r.continues(at, &kids[last+1]) {
		last++
	}
	for k := i; k <= last; k++ {
		if joined(&kids[k], false, false) {
			return -1
		}
	}
	return last
}

// before is where what runs before a statement may stand: not between it and a pragma
// above it. at is where the text before ends. omp tells whether it is one of OpenMP's.
func (r *reader) before(at int, n *tree.Node) (from int, omp bool) {
	if at >= n.From || !bytes.Contains(r.text[at:n.From], []byte("#pragma")) {
		return n.From, false
	}
	return at, bytes.Contains(r.text[at:n.From], []byte("omp"))
}

// head fills in what all statements have; parts are those in which expressions may
// stand, and from body on its own text ends.
func (r *reader) head(n *tree.Node, at int, body *tree.Node, parts ...*tree.Node) flow.Stmt {
	s := flow.Stmt{At: at, Span: r.place.span(n), Counted: !r.hidden && r.place.file(n.From) == r.fn.file}
	s.Head = s.Span.End
	if body != nil {
		s.Head = r.place.start(body.From)
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
func (r *reader) statement(n *tree.Node, at int) flow.Node {
	if !r.hidden && r.place.file(n.From) != r.fn.file {
		return r.included(n, at)
	}
	if r.hidden && r.place.file(n.From) == r.fn.file && r.place.isWritten(n.From) && !r.place.system(n.From) {
		// What a macro of the system's has around it, the project wrote itself.
		r.hidden = false
		defer func() { r.hidden = true }()
		return r.visible(n, at)
	}
	if r.hidden || !r.place.system(n.From) || n.Kind == "expression_statement" || n.Kind == "declaration" || n.Kind == "return_statement" {
		return r.visible(n, at)
	}
	counted := r.place.file(n.From) == r.fn.file
	r.hidden = true
	out := r.visible(n, at)
	r.hidden = false
	return &flow.Nested{Stmt: flow.Stmt{At: at}, Body: &flow.Block{Open: at, Close: n.To, Nodes: []flow.Node{
		&flow.Plain{Stmt: flow.Stmt{At: at, Span: r.place.span(n), Head: r.place.end(n.To), Counted: counted}}, out}}}
}

// included reads a statement that another file puts into the middle of a function. It
// is left out, as are its decisions: the function's file does not have them.
func (r *reader) included(n *tree.Node, at int) flow.Node {
	if i := r.place.file(n.From); i >= 0 && r.place.isWritten(n.From) {
		f := r.files[i]
		f.Unread = append(f.Unread, Unread{Line: r.place.start(n.From).Line, Name: r.fn.name, Why: "its text is included into the middle of that function"})
	}
	return r.unseen(n, at)
}

// unseen reads a statement that counts nothing and decides nothing here.
func (r *reader) unseen(n *tree.Node, at int) flow.Node {
	hidden := r.hidden
	r.hidden = true
	defer func() { r.hidden = hidden }()
	return r.visible(n, at)
}

func (r *reader) visible(n *tree.Node, at int) flow.Node {
	switch n.Kind {
	case "compound_statement":
		return &flow.Nested{Stmt: flow.Stmt{At: at, Span: r.place.span(n)}, Body: r.block(n)}
	case "attributed_statement":
		for i := range n.Kids {
			if k := &n.Kids[i]; k.Named && k.Kind != "attribute_declaration" && k.Kind != "attribute_specifier" {
				return r.statement(k, at)
			}
		}
	case "expression_statement":
		p := &flow.Plain{Stmt: r.head(n, at, nil, n)}
		p.Leaves = r.leaves(n)
		p.Counted = p.Counted && len(n.Kids) > 1
		return p
	case "declaration":
		p := &flow.Plain{Stmt: r.head(n, at, nil, n)}
		p.Leaves = r.leaves(n)
		p.Counted = p.Counted && r.acts(n)
		return p
	case "return_statement", "co_return_statement", "throw_statement":
		return &flow.Jump{Stmt: r.head(n, at, nil, n), Kind: flow.Away, From: n.From, End: n.To}
	case "break_statement", "continue_statement":
		return r.jump(n, at)
	case "goto_statement":
		j := &flow.Jump{Stmt: r.head(n, at, nil, n), Kind: flow.Goto, From: n.From, End: n.To}
		if l := n.Child("label"); l != nil {
			if j.Label = r.fn.labels[string(r.text[l.From:l.To])]; j.Label != nil {
				j.Label.Gotos = append(j.Label.Gotos, j)
			}
		}
		return j
	case "labeled_statement":
		return r.labeled(n, at)
	case "if_statement":
		if while, not := r.asksCompiler(n); while {
			return r.running(n, at, not)
		}
		return r.takenDown(n, at, r.branch(n, at, true))
	case "switch_statement":
		return r.takenDown(n, at, r.switched(n, at))
	case "while_statement", "do_statement", "for_statement", "for_range_loop":
		return r.takenDown(n, at, r.loop(n, at))
	case "try_statement":
		return r.try(n, at)
	case "case_statement":
		return &flow.Nested{Stmt: flow.Stmt{At: at}, Body: &flow.Block{Open: n.From, Close: n.To, Nodes: r.caseLabels([]tree.Node{*n})}}
	}
	// A type, a directive of the language, or a function inside a function.
	p := &flow.Plain{Stmt: flow.Stmt{At: at, Span: r.place.span(n), Head: r.place.end(n.To), Leaves: true}}
	r.literals(n, &p.Stmt)
	return p
}

func (r *reader) jump(n *tree.Node, at int) flow.Node {
	j := &flow.Jump{Stmt: r.head(n, at, nil), Kind: flow.Away, From: n.From, End: n.To}
	for i := len(r.fn.targets) - 1; i >= 0; i-- {
		_, loop := r.fn.targets[i].(*flow.Loop)
		switch {
		case n.Kind == "break_statement":
			j.Kind, j.Target = flow.Break, r.fn.targets[i]
			return j
		case loop:
			j.Kind, j.Target = flow.Continue, r.fn.targets[i]
			return j
		}
	}
	return j
}

// condition gives the expression in the parentheses of a statement, and what else
// stands there.
func condition(n *tree.Node) (value, before *tree.Node) {
	c := n.Child("condition")
	if c == nil || c.Kind != "condition_clause" {
		return c, nil
	}
	return c.Child("value"), c.Child("initializer")
}

func (r *reader) branch(n *tree.Node, at int, listed bool) *flow.Branch {
	b := &flow.Branch{CondAt: r.place.start(n.From), From: n.From, End: n.To, Listed: listed}
	value, before := condition(n)
	then := n.Child("consequence")
	b.Settled = r.hidden || n.First("constexpr") != nil || isLiteral(value)
	if !b.Settled {
		b.Cond = r.decides(value)
	}
	parts := []*tree.Node{before, value}
	if n.First("constexpr") != nil {
		parts = nil
	}
	b.Stmt = r.head(n, at, then, parts...)
	b.CondLeaves = r.leaves(before) || r.leaves(value) || r.converts(value)
	b.Then = r.under(n, then)
	if e := n.Child("alternative"); e != nil {
		for i := range e.Kids {
			switch k := &e.Kids[i]; {
			case !k.Named:
			case k.Kind == "if_statement":
				b.ElseIf = r.branch(k, k.From, false)
			default:
				b.Else = r.under(e, k)
			}
		}
	}
	return b
}

func (r *reader) loop(n *tree.Node, at int) flow.Node {
	l := &flow.Loop{End: n.To, Settled: r.hidden}
	body := n.Child("body")
	value, before := condition(n)
	parts := []*tree.Node{before, n.Child("initializer"), value, n.Child("update")}
	head := body
	switch {
	case n.Kind == "for_range_loop":
		parts = []*tree.Node{n.Child("initializer"), n.Child("right")}
	case n.Kind == "for_statement" && value == nil, isLiteral(value) && isTrue(r.text[value.From:value.To]):
		l.Endless = true
	case n.Kind == "do_statement" && isLiteral(value):
		l.Once = true
	default:
		l.Cond = r.decides(value)
		l.Tested = value.Kind != "declaration"
		l.Late = n.Kind == "do_statement"
	}
	l.Stmt = r.head(n, at, head, parts...)
	r.pushed(l, func() { l.Body = r.under(n, body) })
	return l
}

func (r *reader) try(n *tree.Node, at int) flow.Node {
	t := &flow.Try{Stmt: flow.Stmt{At: at, Span: r.place.span(n)}}
	for i := range n.Kids {
		switch k := &n.Kids[i]; k.Kind {
		case "compound_statement":
			t.Body = r.block(k)
		case "catch_clause":
			if body := k.Child("body"); body != nil {
				h := r.block(body)
				h.Leaves = true // what was thrown is taken down
				t.Handlers = append(t.Handlers, h)
			}
		}
	}
	if t.Body == nil {
		t.Body = &flow.Block{Open: n.To, Close: n.To}
	}
	return t
}
