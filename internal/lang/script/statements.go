package script

import (
	"fmt"
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// list reads statements that stand one after another.
func (r *reader) list(kids []tree.Node) []flow.Node {
	var out []flow.Node
	for i := range kids {
		if n := &kids[i]; n.Named && n.Kind != "hash_bang_line" {
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

// silent is a statement that does nothing when it runs, but may hold functions.
func (r *reader) silent(n *tree.Node) *flow.Plain {
	p := &flow.Plain{Stmt: r.head(n, nil, n)}
	p.Counted = false
	p.Leaves = len(p.Literals) > 0
	return p
}

// declarations are those of TypeScript that only types need.
var declarations = map[string]bool{
	"interface_declaration": true, "type_alias_declaration": true, "ambient_declaration": true, "function_signature": true, "empty_statement": true,
}

// statement reads a statement, which may give several nodes.
func (r *reader) statement(n *tree.Node) []flow.Node {
	if declarations[n.Kind] {
		return nil
	}
	switch n.Kind {
	case "if_statement":
		return []flow.Node{r.branch(n, true)}
	case "for_statement", "for_in_statement", "while_statement", "do_statement":
		return []flow.Node{r.loop(n, n.From, "")}
	case "labeled_statement":
		return r.labeled(n)
	case "switch_statement":
		return []flow.Node{r.switched(n, n.From, "")}
	case "try_statement":
		return []flow.Node{r.try(n)}
	case "statement_block":
		return []flow.Node{&flow.Nested{Stmt: flow.Stmt{At: n.From, Span: r.span(n)}, Body: r.block(n)}}
	case "with_statement":
		body := n.Child("body")
		p := &flow.Plain{Stmt: r.head(n, body, n.Child("object"))}
		p.Leaves = true
		return []flow.Node{p, &flow.Nested{Stmt: flow.Stmt{At: n.From, Span: p.Span}, Body: r.under(body)}}
	case "return_statement", "throw_statement":
		return []flow.Node{&flow.Jump{Stmt: r.head(n, nil, n), Kind: flow.Away, From: n.From, End: n.To}}
	case "break_statement", "continue_statement":
		return []flow.Node{r.jump(n)}
	case "function_declaration", "generator_function_declaration":
		return []flow.Node{r.silent(n)}
	case "import_statement", "import_alias":
		return nil // done before anything runs
	case "export_statement":
		return r.export(n)
	case "lexical_declaration", "variable_declaration":
		if r.isBare(n) {
			return []flow.Node{r.silent(n)}
		}
		p := &flow.Plain{Stmt: r.head(n, nil, n)}
		p.Leaves = r.declarationLeaves(n)
		return []flow.Node{p}
	case "expression_statement":
		if e := n.Only(); e != nil && e.Kind == "internal_module" {
			return r.namespace(n, e)
		}
		p := &flow.Plain{Stmt: r.head(n, nil, n)}
		p.Leaves = !r.safe(n.Only())
		return []flow.Node{p}
	case "internal_module", "module":
		return r.namespace(n, n)
	}
	p := &flow.Plain{Stmt: r.head(n, nil, n)}
	p.Leaves = true
	return []flow.Node{p}
}

// isBare tells whether a declaration only gives names.
func (r *reader) isBare(n *tree.Node) bool {
	if r.text.Bytes[n.From] == 'c' {
		return false
	}
	for i := range n.Kids {
		if n.Kids[i].Kind == "variable_declarator" && n.Kids[i].Child("value") != nil {
			return false
		}
	}
	return true
}

func (r *reader) declarationLeaves(n *tree.Node) bool {
	for i := range n.Kids {
		if k := &n.Kids[i]; k.Kind == "variable_declarator" {
			name, v := k.Child("name"), k.Child("value")
			if name == nil || name.Kind != "identifier" || v != nil && !r.safe(v) {
				return true
			}
		}
	}
	return false
}

// export reads what a module gives to others. A list of names is nothing that runs.
func (r *reader) export(n *tree.Node) []flow.Node {
	d := n.Child("declaration")
	switch {
	case d != nil && (declarations[d.Kind] || d.Kind == "import_alias"):
		return nil
	case d != nil && d.Kind == "internal_module":
		return r.namespace(n, d)
	case d != nil && strings.HasSuffix(d.Kind, "function_declaration"):
		return []flow.Node{r.silent(n)}
	case d != nil && (d.Kind == "lexical_declaration" || d.Kind == "variable_declaration") && r.isBare(d):
		return []flow.Node{r.silent(n)}
	case d == nil && n.Child("value") == nil && n.First("export_clause") != nil, n.Child("source") != nil:
		return nil
	}
	p := &flow.Plain{Stmt: r.head(n, nil, n)}
	p.Leaves = d == nil || d.Kind != "lexical_declaration" || r.declarationLeaves(d)
	return []flow.Node{p}
}

// namespace reads a namespace of TypeScript, whose body runs at once.
func (r *reader) namespace(n, m *tree.Node) []flow.Node {
	body := m.Child("body")
	if body == nil {
		return nil
	}
	p := &flow.Plain{Stmt: flow.Stmt{At: n.From, Span: r.span(n), Head: r.text.Pos(body.From), Counted: true, Leaves: true}}
	b := r.block(body)
	b.Leaves = true
	return []flow.Node{p, &flow.Nested{Stmt: flow.Stmt{At: n.From, Span: p.Span}, Body: b}}
}

func (r *reader) jump(n *tree.Node) flow.Node {
	j := &flow.Jump{Stmt: r.head(n, nil), Kind: flow.Away, From: n.From, End: n.To}
	label := ""
	if l := n.Child("label"); l != nil {
		label = r.text.Word(l)
	}
	r.fn.targets.Lead(j, label, n.Kind == "continue_statement")
	return j
}

// labeled reads a statement with a label. Of what is no loop, control may come to the end
// from anywhere inside.
func (r *reader) labeled(n *tree.Node) []flow.Node {
	label, body := r.text.Word(n.Child("label")), n.Child("body")
	switch body.Kind {
	case "for_statement", "for_in_statement", "while_statement", "do_statement":
		return []flow.Node{r.loop(body, n.From, label)}
	case "function_declaration":
		return []flow.Node{r.silent(n)}
	}
	b := &flow.Block{Open: body.From, Close: body.To, Bare: true, Leaves: true}
	r.fn.targets.Within(flow.Target{Label: label}, func() { b.Nodes = r.statement(body) })
	return []flow.Node{&flow.Nested{Stmt: flow.Stmt{At: n.From, Span: r.span(n)}, Body: b}}
}

func (r *reader) noteBlock(n *tree.Node) {
	from, to := r.text.Pos(n.From).Line, r.text.Pos(n.To).Line
	r.flow.Blocks = append(r.flow.Blocks, site.Block{Line: from, EndLine: max(from, to)})
}

// block reads statements between braces.
func (r *reader) block(n *tree.Node) *flow.Block {
	r.noteBlock(n)
	return &flow.Block{Open: n.From + 1, Close: n.To - 1, Nodes: r.list(n.Kids)}
}

// under reads a statement that hangs on another, with or without braces.
func (r *reader) under(n *tree.Node) *flow.Block {
	switch n.Kind {
	case "statement_block":
		return r.block(n)
	case "function_declaration", "generator_function_declaration":
		r.odd = fmt.Errorf("line %d declares a function where only a statement may stand", r.text.Pos(n.From).Line)
	}
	return &flow.Block{Open: n.From, Close: n.To, Bare: true, Nodes: r.statement(n)}
}

func (r *reader) branch(n *tree.Node, listed bool) *flow.Branch {
	cond, then := n.Child("condition"), n.Child("consequence")
	b := &flow.Branch{CondAt: r.text.Pos(n.From), From: n.From, End: n.To, Listed: listed, Settled: isLiteral(cond)}
	if !b.Settled {
		b.Cond = r.decides(cond, false)
	}
	b.Stmt = r.head(n, then)
	r.expressions(cond, &b.Stmt, true)
	b.CondLeaves = r.testLeaves(cond)
	b.Then = r.under(then)
	if e := n.Child("alternative"); e != nil {
		if k := e.Only(); k != nil && k.Kind == "if_statement" {
			b.ElseIf = r.branch(k, false)
		} else if k != nil {
			b.Else = r.under(k)
		}
	}
	return b
}

func (r *reader) loop(n *tree.Node, at int, label string) flow.Node {
	l := &flow.Loop{End: n.To}
	body, cond := n.Child("body"), n.Child("condition")
	if cond != nil && cond.Kind == "expression_statement" {
		cond = cond.Only()
	} else if cond != nil && (cond.Kind == "empty_statement" || !cond.Named) {
		cond = nil
	}
	switch {
	case n.Kind == "for_in_statement":
	case cond == nil, n.Kind != "do_statement" && isLiteral(cond) && isTrue(r.text.Word(bare(cond))):
		l.Endless = true
	case isLiteral(cond):
		l.Settled, l.Once = true, n.Kind == "do_statement" && !isTrue(r.text.Word(bare(cond)))
		l.Endless = n.Kind == "do_statement" && !l.Once
	default:
		l.Cond = r.decides(cond, false)
		l.Tested, l.Late = true, n.Kind == "do_statement"
	}
	l.Stmt = r.head(n, body, n.Child("initializer"), n.Child("increment"), n.Child("right"))
	if cond != nil {
		r.expressions(cond, &l.Stmt, true)
	}
	l.At = at
	r.fn.targets.Within(flow.Target{Label: label, Node: l}, func() { l.Body = r.under(body) })
	if over := n.Child("operator"); over != nil && over.Kind == "of" {
		l.Body.Leaves = true // a jump out of it closes what it goes through, which may throw
	}
	return l
}

func (r *reader) switched(n *tree.Node, at int, label string) flow.Node {
	body := n.Child("body")
	w := &flow.Switch{Stmt: r.head(n, body, n.Child("value")), Misses: true}
	w.At = at
	r.noteBlock(body)
	r.fn.targets.Within(flow.Target{Label: label, Node: w}, func() {
		w.Body = &flow.Block{Open: body.From + 1, Close: body.To - 1}
		var labels []*tree.Node
		for i := range body.Kids {
			k := &body.Kids[i]
			if k.Kind != "switch_case" && k.Kind != "switch_default" {
				continue
			}
			if v := k.Child("value"); v != nil {
				r.expressions(v, &w.Stmt, false)
			}
			if labels = append(labels, k); k.Child("body") != nil || i == len(body.Kids)-2 {
				w.Body.Nodes = append(w.Body.Nodes, r.cases(w, labels)...)
				labels = nil
			}
		}
	})
	return w
}

// cases reads labels of a switch that lead to the same place, and what follows them.
func (r *reader) cases(w *flow.Switch, labels []*tree.Node) []flow.Node {
	c := &flow.Case{Of: w, Pos: r.text.Pos(labels[0].From), Stmt: flow.Stmt{At: labels[0].From}}
	var words []string
	var rest []tree.Node
	for _, n := range labels {
		for i := range n.Kids {
			if n.Kids[i].Kind == ":" {
				c.After, rest = n.Kids[i].To, n.Kids[i+1:]
				break
			}
		}
		if v := n.Child("value"); v != nil {
			words = append(words, "case "+r.text.Word(v))
		} else {
			words = append(words, "default")
			w.Misses = false
		}
	}
	for i := range words[1:] {
		if words[0] != "default" {
			words[i+1] = strings.TrimPrefix(words[i+1], "case ")
		}
	}
	c.Label = flow.Caption([]byte(strings.Join(words, ", ")))
	w.Labels++
	return append([]flow.Node{c}, r.list(rest)...)
}

func (r *reader) try(n *tree.Node) flow.Node {
	t := &flow.Try{Stmt: flow.Stmt{At: n.From, Span: r.span(n)}}
	t.Body = r.block(n.Child("body"))
	if h := n.Child("handler"); h != nil {
		if p := h.Child("parameter"); p != nil {
			r.expressions(p, &t.Stmt, false)
		}
		t.Handlers = append(t.Handlers, r.block(h.Child("body")))
	}
	if f := n.Child("finalizer"); f != nil {
		t.Finally = r.block(f.Child("body"))
	}
	return t
}
