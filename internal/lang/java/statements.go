package java

import (
	"strings"

	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// list reads statements that stand one after another.
func (r *reader) list(kids []tree.Node) []flow.Node {
	var out []flow.Node
	for i := range kids {
		if n := &kids[i]; n.Named {
			out = append(out, r.statement(n)...)
		}
	}
	return out
}

// head fills in what all statements have; parts are those in which expressions stand,
// and from body on its own text ends.
func (r *reader) head(n, body *tree.Node, parts ...*tree.Node) flow.Stmt {
	s := flow.Stmt{At: n.From, Span: r.span(n), Counted: true}
	s.Head = s.Span.End
	if body != nil {
		s.Head = r.text.Pos(body.From)
	}
	for _, p := range parts {
		if p != nil {
			r.expressions(p, &s, false)
		}
	}
	return s
}

// statement reads a statement, which may give several nodes.
func (r *reader) statement(n *tree.Node) []flow.Node {
	switch n.Kind {
	case "if_statement":
		return []flow.Node{r.branch(n, true)}
	case "for_statement", "enhanced_for_statement", "while_statement", "do_statement":
		return []flow.Node{r.loop(n, n.From, "")}
	case "labeled_statement":
		return r.labeled(n)
	case "switch_expression":
		return []flow.Node{r.switched(n, n.From, "", false)}
	case "try_statement", "try_with_resources_statement":
		return r.try(n)
	case "block":
		return []flow.Node{&flow.Nested{Stmt: flow.Stmt{At: n.From, Span: r.span(n)}, Body: r.block(n)}}
	case "synchronized_statement":
		body := n.Child("body")
		p := &flow.Plain{Stmt: r.head(n, body, n.First("parenthesized_expression"))}
		p.Leaves = true
		return []flow.Node{p, &flow.Nested{Stmt: flow.Stmt{At: n.From, Span: p.Span}, Body: r.block(body)}}
	case "return_statement", "throw_statement", "yield_statement":
		return []flow.Node{&flow.Jump{Stmt: r.head(n, nil, n), Kind: flow.Away, From: n.From, End: n.To}}
	case "break_statement", "continue_statement":
		return []flow.Node{r.jump(n)}
	case "local_variable_declaration":
		p := &flow.Plain{Stmt: r.head(n, nil, n)}
		p.Counted, p.Leaves = r.declared(n)
		return []flow.Node{p}
	case "expression_statement":
		if k := n.Only(); k != nil && k.Kind == "switch_expression" {
			// It is a statement, though an empty one follows.
			return []flow.Node{r.switched(k, n.From, "", false)}
		}
		p := &flow.Plain{Stmt: r.head(n, nil, n)}
		p.Leaves = !r.safe(n.Only())
		return []flow.Node{p}
	case "explicit_constructor_invocation":
		p := &flow.Plain{Stmt: flow.Stmt{At: n.From, Span: r.span(n), Counted: true, Leaves: true, Placeless: true}}
		p.Head = p.Span.End
		r.expressionsIn(n, &p.Stmt)
		return []flow.Node{p}
	case "import_declaration", "package_declaration":
		return nil
	}
	if typeDeclarations[n.Kind] {
		p := &flow.Plain{Stmt: flow.Stmt{At: n.From, Span: r.span(n)}}
		r.typeDeclaration(n, &p.Stmt)
		return []flow.Node{p}
	}
	p := &flow.Plain{Stmt: r.head(n, nil, n)}
	p.Leaves = true
	return []flow.Node{p}
}

// declared tells whether a declaration gives variables a value, and whether control may leave
// while it does.
func (r *reader) declared(n *tree.Node) (counted, leaves bool) {
	t := r.text.Word(n.Child("type"))
	for i := range n.Kids {
		d := &n.Kids[i]
		v := d.Child("value")
		if d.Field != "declarator" || v == nil {
			continue
		}
		counted = true
		switch kindOf(t, d) {
		case reference:
			leaves = leaves || !r.refers(v)
		case unknown:
			leaves = leaves || !r.refers(v) && !r.plain(v)
		default:
			leaves = leaves || !r.plain(v)
		}
	}
	return counted, leaves
}

func (r *reader) jump(n *tree.Node) flow.Node {
	j := &flow.Jump{Stmt: r.head(n, nil), Kind: flow.Away, From: n.From, End: n.To}
	label := ""
	if l := n.Only(); l != nil {
		label = r.text.Word(l)
	}
	r.fn.targets.Lead(j, label, n.Kind == "continue_statement")
	return j
}

// labeled reads a statement with a label. Of what is no loop, control may come to the end
// from anywhere inside.
func (r *reader) labeled(n *tree.Node) []flow.Node {
	var label string
	var body *tree.Node
	for i := range n.Kids {
		switch k := &n.Kids[i]; {
		case k.Named && label == "":
			label = r.text.Word(k)
		case k.Named || k.Kind == ";":
			body = k
		}
	}
	if body == nil {
		return nil
	}
	switch body.Kind {
	case "for_statement", "enhanced_for_statement", "while_statement", "do_statement":
		return []flow.Node{r.loop(body, n.From, label)}
	}
	b := &flow.Block{Open: body.From, Close: body.To, Bare: true, Leaves: true}
	r.fn.targets.Within(flow.Target{Label: label}, func() { b.Nodes = r.statement(body) })
	return []flow.Node{&flow.Nested{Stmt: flow.Stmt{At: n.From, Span: r.span(n)}, Body: b}}
}

// block reads statements between braces.
func (r *reader) block(n *tree.Node) *flow.Block {
	r.noteBlock(n)
	return &flow.Block{Open: n.From + 1, Close: n.To - 1, Nodes: r.list(n.Kids)}
}

// under reads a statement that hangs on another, with or without braces.
func (r *reader) under(n *tree.Node) *flow.Block {
	if n.Kind == "block" {
		return r.block(n)
	}
	return &flow.Block{Open: n.From, Close: n.To, Bare: true, Nodes: r.statement(n)}
}

// whole gives a boolean expression all of whose operands can be woven into, or nil.
func (r *reader) whole(n *tree.Node) *flow.Logic {
	if l := r.decides(n); l != nil && l.Weaves() {
		return l
	}
	return nil
}

func (r *reader) branch(n *tree.Node, listed bool) *flow.Branch {
	cond, then := n.Child("condition"), n.Child("consequence")
	b := &flow.Branch{CondAt: r.text.Pos(n.From), From: n.From, End: n.To, Listed: listed, Settled: isLiteral(tree.Bare(cond))}
	if !b.Settled {
		b.Cond = r.whole(cond)
	}
	b.Stmt = r.head(n, then)
	r.expressions(cond, &b.Stmt, true)
	b.CondLeaves = !r.plain(cond)
	b.Then = r.under(then)
	switch e := n.Child("alternative"); {
	case e == nil:
	case e.Kind == "if_statement":
		b.ElseIf = r.branch(e, false)
	default:
		b.Else = r.under(e)
	}
	return b
}

func (r *reader) loop(n *tree.Node, at int, label string) flow.Node {
	l := &flow.Loop{End: n.To}
	body, cond := n.Child("body"), n.Child("condition")
	late := n.Kind == "do_statement"
	var parts []*tree.Node
	for i := range n.Kids {
		switch k := &n.Kids[i]; k.Field {
		case "init", "update", "value":
			parts = append(parts, k)
		}
	}
	switch {
	case n.Kind == "enhanced_for_statement":
	case cond == nil, tree.Bare(cond).Kind == "true":
		l.Endless = true
	case tree.Bare(cond).Kind == "false":
		l.Settled, l.Once = true, late
	case r.isConstant(cond):
		l.Settled = true // whether it ever ends is for the compiler to know
	default:
		l.Cond = r.whole(cond)
		l.Late, l.Settled = late, late && l.Cond == nil
	}
	l.Stmt = r.head(n, body, parts...)
	if late {
		l.Head = r.text.Pos(body.From)
	}
	if cond != nil {
		r.expressions(cond, &l.Stmt, true)
	}
	l.At = at
	r.fn.targets.Within(flow.Target{Label: label, Node: l}, func() { l.Body = r.under(body) })
	return l
}

// try reads a statement with handlers. What resources do when they are closed comes after
// the body.
func (r *reader) try(n *tree.Node) []flow.Node {
	var out []flow.Node
	t := &flow.Try{Stmt: flow.Stmt{At: n.From, Span: r.span(n)}}
	body := n.Child("body")
	if res := n.Child("resources"); res != nil {
		p := &flow.Plain{Stmt: r.head(n, body, res)}
		p.Leaves = true
		out = append(out, p)
	}
	t.Body = r.block(body)
	t.Body.Leaves = len(out) > 0
	for i := range n.Kids {
		switch k := &n.Kids[i]; k.Kind {
		case "catch_clause":
			t.Handlers = append(t.Handlers, r.block(k.Child("body")))
		case "finally_clause":
			t.Finally = r.block(k.First("block"))
		}
	}
	return append(out, t)
}

// given reads a switch that gives a value.
func (r *reader) given(n *tree.Node, s *flow.Stmt) {
	body := n.Child("body")
	b := &flow.Block{Open: body.From, Close: body.To}
	w := r.switched(n, n.From, "", true)
	if w, ok := w.(*flow.Switch); ok {
		// What control runs from one label into the next by needs a variable.
		w.Settled = s.Placeless
	}
	b.Nodes = []flow.Node{w}
	s.Inner = append(s.Inner, b)
}

// switched reads a switch; value says that it gives one, so that control cannot fall past
// it.
func (r *reader) switched(n *tree.Node, at int, label string, value bool) flow.Node {
	body := n.Child("body")
	s := r.head(n, body, n.Child("condition"))
	s.At, s.Counted = at, !value
	r.noteBlock(body)
	if body.First("switch_rule") != nil {
		return r.ruled(s, body, label, value)
	}
	w := &flow.Switch{Stmt: s, Misses: !value, Permit: r.permit()}
	r.fn.targets.Within(flow.Target{Label: label, Node: w}, func() {
		w.Body = &flow.Block{Open: body.From + 1, Close: body.To - 1}
		for i := range body.Kids {
			if k := &body.Kids[i]; k.Kind == "switch_block_statement_group" {
				w.Body.Nodes = append(w.Body.Nodes, r.group(w, k)...)
			}
		}
	})
	return w
}

// group reads labels of a switch that lead to the same place, and what follows them.
func (r *reader) group(w *flow.Switch, n *tree.Node) []flow.Node {
	c := &flow.Case{Of: w, Pos: r.text.Pos(n.From), Stmt: flow.Stmt{At: n.From}}
	var labels []*tree.Node
	rest := n.Kids
	for i := range n.Kids {
		if n.Kids[i].Kind == "switch_label" {
			labels = append(labels, &n.Kids[i])
		}
		if n.Kids[i].Kind == ":" {
			c.After, rest = n.Kids[i].To, n.Kids[i+1:]
		}
	}
	var all bool
	c.Label, all = r.labels(labels, &w.Stmt)
	w.Misses = w.Misses && !all
	w.Labels++
	return append([]flow.Node{c}, r.list(rest)...)
}

// ruled reads a switch with arrows.
func (r *reader) ruled(s flow.Stmt, body *tree.Node, label string, value bool) flow.Node {
	c := &flow.Choice{Kind: "switch", Stmt: s, Misses: !value, Close: body.To - 1}
	r.fn.targets.Within(flow.Target{Label: label, Node: c}, func() {
		for i := range body.Kids {
			k := &body.Kids[i]
			if k.Kind != "switch_rule" {
				continue
			}
			a := &flow.Arm{Pos: r.text.Pos(k.From)}
			var all bool
			a.Label, all = r.labels([]*tree.Node{&k.Kids[0]}, &c.Stmt)
			c.Misses = c.Misses && !all
			to := &k.Kids[len(k.Kids)-1]
			a.Block = *r.under(to)
			if value && to.Kind == "expression_statement" {
				j := &flow.Jump{Stmt: r.head(to, nil, to), Kind: flow.Away, From: to.From, End: to.To}
				a.Block = flow.Block{Open: to.From, Close: to.To, Bare: true, Yields: true, Nodes: []flow.Node{j}}
			}
			c.Arms = append(c.Arms, a)
		}
	})
	return c
}

// labels gives the words of labels, and whether they are such that control cannot fall past
// all of the switch: there is a default, or the compiler wants all cases to be there. Guards
// decide by themselves.
func (r *reader) labels(labels []*tree.Node, s *flow.Stmt) (words string, all bool) {
	var out []string
	for _, l := range labels {
		guard := l.First("guard")
		text := r.text.Bytes[l.From:l.To]
		if guard != nil {
			text = r.text.Bytes[l.From:guard.From]
			if e := guard.Only(); e != nil {
				if g := r.whole(e); g != nil && !r.isConstant(e) {
					g.Kind, g.Pos = "guard", r.text.Pos(e.From)
					s.Values = append(s.Values, g)
				}
				r.expressions(e, s, true)
			}
		}
		word := strings.Join(strings.Fields(string(text)), " ")
		if len(out) > 0 && out[0] != "default" {
			word = strings.TrimPrefix(word, "case ")
		}
		out = append(out, word)
		all = all || strings.HasSuffix(word, "default") || l.First("pattern") != nil || strings.HasPrefix(strings.TrimPrefix(word, "case "), "null")
	}
	return flow.Caption([]byte(strings.Join(out, ", "))), all
}
