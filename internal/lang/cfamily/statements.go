package cfamily

import (
	"bytes"
	"strings"

	"thrush/internal/core/logic"
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

// joined tells whether control may go on from within a statement to a loop or a switch around
// it, or come into its middle: then it is no piece by itself.
func joined(n *tree.Node, inLoop, inSwitch bool) bool {
	switch n.Kind {
	case "break_statement":
		return !inLoop && !inSwitch
	case "continue_statement":
		return !inLoop
	case "case_statement":
		if !inSwitch {
			return true
		}
	case "labeled_statement":
		return true
	case "while_statement", "do_statement", "for_statement", "for_range_loop":
		inLoop = true
	case "switch_statement":
		inSwitch = true
	case "lambda_expression", "function_definition":
		return false
	}
	for i := range n.Kids {
		if joined(&n.Kids[i], inLoop, inSwitch) {
			return true
		}
	}
	return false
}

// before is where what runs before a statement may stand: not between it and a pragma
// above it. at is where the text before ends. omp tells whether it is one of OpenMP's.
func (r *reader) before(at int, n *tree.Node) (from int, omp bool) {
	if at >= n.From || !bytes.Contains(r.text[at:n.From], []byte("#pragma")) {
		return n.From, false
	}
	return at, bytes.Contains(r.text[at:n.From], []byte("omp"))
}

// isLabelOnly tells whether nothing stands after a case before the next.
func isLabelOnly(n *tree.Node) bool {
	for i := range n.Kids {
		if n.Kids[i].Kind == ":" {
			for _, k := range n.Kids[i+1:] {
				if k.Named {
					return false
				}
			}
		}
	}
	return true
}

// caseLabels reads labels of a switch that lead to the same place, and what follows
// them.
func (r *reader) caseLabels(labels []tree.Node) []flow.Node {
	var of *flow.Switch
	for i := len(r.fn.targets) - 1; i >= 0 && of == nil; i-- {
		of, _ = r.fn.targets[i].(*flow.Switch)
	}
	c := &flow.Case{Of: of, Pos: r.place.start(labels[0].From)}
	c.Stmt = flow.Stmt{At: labels[0].From}
	var words []string
	var rest []tree.Node
	for i := range labels {
		n := &labels[i]
		colon := 0
		for j := range n.Kids {
			if n.Kids[j].Kind == ":" && colon == 0 {
				colon = n.Kids[j].To
				rest = n.Kids[j+1:]
			}
		}
		c.After = colon
		if v := n.Child("value"); v != nil {
			words = append(words, "case "+string(r.place.written(v.From, v.To)))
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

func (r *reader) labeled(n *tree.Node, at int) flow.Node {
	l := r.fn.labels[string(r.text[n.Child("label").From:n.Child("label").To])]
	l.Stmt = flow.Stmt{At: at, Span: r.place.span(n)}
	l.Taken = r.fn.taken
	var inner *tree.Node
	for i := range n.Kids {
		k := &n.Kids[i]
		switch {
		case k.Kind == ":" && l.After == 0:
			l.After = k.To
		case l.After > 0 && k.Named:
			inner = k
		}
	}
	if inner == nil {
		l.Inner = &flow.Plain{Stmt: flow.Stmt{At: l.After, Span: l.Span, Head: l.Span.End}}
		return l
	}
	l.Inner = r.statement(inner, inner.From)
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

// asksCompiler tells whether an if asks if the compiler is working the function out, and
// whether it asks the opposite.
func (r *reader) asksCompiler(n *tree.Node) (asks, not bool) {
	then := n.Child("consequence")
	if r.opt.Language == C || then == nil {
		return false, false
	}
	if value, _ := condition(n); value == nil || value.To-value.From > 3 {
		return false, false
	}
	head := string(r.text[n.From:then.From])
	return hasWord(head, "consteval"), hasWord(head, "not", "!")
}

// running reads what of such an if runs when the program does. The rest is the compiler's,
// and no code.
func (r *reader) running(n *tree.Node, at int, not bool) flow.Node {
	then := n.Child("consequence")
	if not {
		return &flow.Nested{Stmt: flow.Stmt{At: at, Span: r.place.span(n)}, Body: r.under(n, then)}
	}
	if e := n.Child("alternative"); e != nil {
		for i := range e.Kids {
			if k := &e.Kids[i]; k.Named {
				return &flow.Nested{Stmt: flow.Stmt{At: at, Span: r.place.span(n)}, Body: r.under(e, k)}
			}
		}
	}
	return &flow.Plain{Stmt: flow.Stmt{At: at, Span: r.place.span(n), Head: r.place.end(n.To)}}
}

func (r *reader) switched(n *tree.Node, at int) flow.Node {
	value, before := condition(n)
	body := n.Child("body")
	w := &flow.Switch{Stmt: r.head(n, at, body, before, value), Misses: true, Settled: r.hidden}
	r.pushed(w, func() { w.Body = r.under(n, body) })
	w.Declares = declares(body)
	return w
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

// isLiteral tells whether an expression is a number or a boolean word, so that there
// is nothing to decide.
func isLiteral(n *tree.Node) bool {
	for n != nil {
		switch n.Kind {
		case "number_literal", "true", "false":
			return true
		case "parenthesized_expression", "unary_expression":
			var inner *tree.Node
			for i := range n.Kids {
				if n.Kids[i].Named {
					inner = &n.Kids[i]
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
func (r *reader) decides(n *tree.Node) *flow.Logic {
	if n == nil {
		return nil
	}
	l := &flow.Logic{Pos: r.place.start(n.From)}
	l.Formula = r.formula(n, l)
	return l
}

// formula reads an expression and notes its conditions.
func (r *reader) formula(n *tree.Node, to *flow.Logic) *logic.Formula {
	r.deciding[n] = true
	switch n.Kind {
	case "parenthesized_expression", "extension_expression":
		if k := n.Only(); k != nil && k.Kind != "compound_statement" {
			return r.formula(k, to)
		}
	case "comma_expression":
		if k := n.Child("right"); k != nil {
			return r.formula(k, to)
		}
	case "unary_expression":
		if x, op := n.Child("argument"), n.Child("operator"); x != nil && op != nil && (op.Kind == "!" || op.Kind == "not") && !r.fromSystem(op) {
			return &logic.Formula{Op: logic.Not, X: r.formula(x, to)}
		}
	case "binary_expression":
		if op, ok := r.operator(n); ok {
			x := r.formula(n.Child("left"), to)
			return &logic.Formula{Op: op, X: x, Y: r.formula(n.Child("right"), to)}
		}
	case "call_expression":
		if x := r.expected(n); x != nil {
			return r.formula(x, to)
		}
	}
	c := flow.Condition{Pos: r.place.start(n.From), From: n.From, End: n.To}
	c.Text = flow.Caption(r.place.written(n.From, n.To))
	to.Conditions = append(to.Conditions, c)
	return &logic.Formula{Op: logic.Leaf, Condition: len(to.Conditions) - 1}
}

// fromSystem tells whether the project's file did not write a mark itself.
func (r *reader) fromSystem(n *tree.Node) bool {
	return r.hidden || r.place.system(n.From) || r.place.file(n.From) != r.fn.file
}

// operator tells which boolean operator an expression has, if the project wrote it.
func (r *reader) operator(n *tree.Node) (logic.Op, bool) {
	op := n.Child("operator")
	if op == nil || n.Child("left") == nil || n.Child("right") == nil || r.fromSystem(op) {
		return 0, false
	}
	switch op.Kind {
	case "&&", "and":
		return logic.And, true
	case "||", "or":
		return logic.Or, true
	}
	return 0, false
}

// expected gives the expression that a hint to the compiler is about.
func (r *reader) expected(n *tree.Node) *tree.Node {
	f, args := n.Child("function"), n.Child("arguments")
	if f == nil || args == nil || !strings.HasPrefix(string(r.text[f.From:f.To]), "__builtin_expect") {
		return nil
	}
	for i := range args.Kids {
		if args.Kids[i].Named {
			return &args.Kids[i]
		}
	}
	return nil
}
