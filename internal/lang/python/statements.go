package python

import (
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// list reads statements that stand one after another.
func (r *reader) list(kids []tree.Node) []flow.Node {
	var out []flow.Node
	for i := range kids {
		n := &kids[i]
		if !n.Named || i == 0 && isDocstring(n) {
			continue
		}
		out = append(out, r.statement(n)...)
	}
	return out
}

// head fills in what all statements have; parts are those in which expressions stand,
// and from body on its own text ends.
func (r *reader) head(n, body *tree.Node, parts ...*tree.Node) flow.Stmt {
	s := flow.Stmt{At: r.statementAt(n), Span: r.span(n), Counted: true}
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

func (r *reader) plain(n *tree.Node) *flow.Plain {
	return &flow.Plain{Stmt: r.head(n, nil, n)}
}

// statement reads a statement, which may give several nodes.
func (r *reader) statement(n *tree.Node) []flow.Node {
	switch n.Kind {
	case "if_statement":
		return []flow.Node{r.branch(n, n.Child("condition"), n.Child("consequence"), alternatives(n), true)}
	case "for_statement", "while_statement":
		return []flow.Node{r.loop(n)}
	case "try_statement":
		return []flow.Node{r.try(n)}
	case "with_statement":
		return r.with(n)
	case "match_statement":
		return []flow.Node{r.match(n)}
	case "function_definition":
		return r.definition(n, n)
	case "class_definition":
		return r.class(n, n)
	case "decorated_definition":
		if d := n.Child("definition"); d != nil && d.Kind == "class_definition" {
			return r.class(n, d)
		} else if d != nil {
			return r.definition(n, d)
		}
	case "return_statement", "raise_statement":
		return []flow.Node{&flow.Jump{Stmt: r.head(n, nil, n), Kind: flow.Away}}
	case "break_statement", "continue_statement":
		return []flow.Node{r.jump(n)}
	case "global_statement", "nonlocal_statement", "type_alias_statement", "future_import_statement":
		p := &flow.Plain{Stmt: flow.Stmt{At: r.statementAt(n), Span: r.span(n), Leaves: n.Kind == "type_alias_statement"}}
		p.Head = p.Span.End
		return []flow.Node{p}
	case "pass_statement":
		return []flow.Node{r.plain(n)}
	case "expression_statement":
		p := r.plain(n)
		p.Counted = r.acts(n)
		p.Leaves = p.Counted && r.leaves(n)
		return []flow.Node{p}
	}
	p := r.plain(n)
	p.Leaves = true
	return []flow.Node{p}
}

// acts tells whether an expression that stands as a statement does anything: constants
// and annotations alone do not.
func (r *reader) acts(n *tree.Node) bool {
	if len(n.Kids) != 1 {
		return true
	}
	switch e := &n.Kids[0]; e.Kind {
	case "string", "concatenated_string":
		return !isDocstring(n)
	case "integer", "float", "true", "false", "none", "ellipsis":
		return false
	case "assignment":
		return e.Child("right") != nil
	}
	return true
}

func (r *reader) jump(n *tree.Node) flow.Node {
	j := &flow.Jump{Stmt: r.head(n, nil), Kind: flow.Break}
	if n.Kind == "continue_statement" {
		j.Kind = flow.Continue
	}
	if t := r.fn.targets; len(t) > 0 {
		j.Target = t[len(t)-1]
	} else {
		j.Kind = flow.Away
	}
	return j
}

// block reads the statements below a header.
func (r *reader) block(of, n *tree.Node) *flow.Block {
	if n == nil {
		return nil
	}
	r.flow.Blocks = append(r.flow.Blocks, site.Block{Line: r.text.Pos(of.From).Line, EndLine: r.text.Pos(end(n)).Line})
	b := &flow.Block{}
	for i := range n.Kids {
		if n.Kids[i].Named {
			b.Open = r.opening(&n.Kids[i])
			break
		}
	}
	b.Nodes = r.list(n.Kids)
	return b
}

// opening is the anchor of the first statement of a block. What decorates a definition
// stands before the place that the interpreter gives it.
func (r *reader) opening(n *tree.Node) int {
	if d := n.Child("definition"); n.Kind == "decorated_definition" && d != nil {
		return r.statementAt(d)
	}
	return r.statementAt(n)
}

// alternatives are the clauses that hang on an if.
func alternatives(n *tree.Node) []*tree.Node {
	var out []*tree.Node
	for i := range n.Kids {
		if n.Kids[i].Field == "alternative" {
			out = append(out, &n.Kids[i])
		}
	}
	return out
}

// branch reads an if, or an elif that hangs on one. Its end is its anchor: what comes
// after it is put in by that.
func (r *reader) branch(n, cond, then *tree.Node, others []*tree.Node, listed bool) *flow.Branch {
	b := &flow.Branch{CondAt: r.text.Pos(n.From), Listed: listed, Settled: isLiteral(cond) || r.isTypeOnly(cond)}
	if !b.Settled {
		b.Cond = r.decides(cond, false)
	}
	b.Stmt = flow.Stmt{At: r.statementAt(n), Span: r.span(n), Head: r.text.Pos(then.From), Counted: true}
	if len(others) > 0 {
		b.Span.End = r.text.Pos(end(others[len(others)-1]))
	}
	r.expressions(cond, &b.Stmt, true)
	b.From, b.End = b.At, b.At
	b.CondLeaves = r.testLeaves(cond)
	if r.isTypeOnly(cond) {
		b.Then = &flow.Block{Open: r.opening(&then.Kids[0])}
	} else {
		b.Then = r.block(n, then)
	}
	if len(others) == 0 {
		return b
	}
	switch o := others[0]; o.Kind {
	case "elif_clause":
		b.ElseIf = r.branch(o, o.Child("condition"), o.Child("consequence"), others[1:], false)
	default:
		b.Else = r.block(o, o.Child("body"))
	}
	return b
}

func (r *reader) loop(n *tree.Node) flow.Node {
	body := n.Child("body")
	l := &flow.Loop{Clause: true}
	cond := n.Child("condition")
	switch {
	case n.Kind == "for_statement":
	case isLiteral(cond) && isTrue(r.text.Word(cond)):
		l.Endless = true
	case isLiteral(cond):
		l.Settled = true
	default:
		l.Cond = r.decides(cond, false)
	}
	if cond != nil {
		l.Stmt = r.head(n, body)
		r.expressions(cond, &l.Stmt, true)
	} else {
		l.Stmt = r.head(n, body, n.Child("left"), n.Child("right"))
	}
	l.End = l.At
	r.fn.targets = append(r.fn.targets, l)
	l.Body = r.block(n, body)
	r.fn.targets = r.fn.targets[:len(r.fn.targets)-1]
	if e := n.Child("alternative"); e != nil {
		l.Else = r.block(e, e.Child("body"))
	}
	return l
}

func (r *reader) try(n *tree.Node) flow.Node {
	t := &flow.Try{Stmt: flow.Stmt{At: r.statementAt(n), Span: r.span(n)}}
	t.Body = r.block(n, n.Child("body"))
	for i := range n.Kids {
		k := &n.Kids[i]
		switch k.Kind {
		case "except_clause", "except_group_clause":
			if v := k.Child("value"); v != nil {
				r.expressions(v, &t.Stmt, false)
			}
			t.Handlers = append(t.Handlers, r.block(k, k.First("block")))
		case "else_clause":
			t.Else = r.block(k, k.Child("body"))
		case "finally_clause":
			t.Finally = r.block(k, k.First("block"))
		}
	}
	return t
}

// with reads a statement whose managers run before and after its body, and may stop
// what is raised in it.
func (r *reader) with(n *tree.Node) []flow.Node {
	body := n.Child("body")
	p := &flow.Plain{Stmt: r.head(n, body, n.First("with_clause"))}
	p.Leaves = true
	b := r.block(n, body)
	b.Leaves = true
	return []flow.Node{p, &flow.Nested{Stmt: flow.Stmt{At: p.At, Span: p.Span}, Body: b}}
}

func (r *reader) match(n *tree.Node) flow.Node {
	body := n.Child("body")
	c := &flow.Choice{Kind: "match", Misses: true}
	c.Stmt = r.head(n, body)
	for i := range n.Kids {
		if n.Kids[i].Field == "subject" {
			r.expressions(&n.Kids[i], &c.Stmt, false)
		}
	}
	c.Close = c.At
	for i := range body.Kids {
		k := &body.Kids[i]
		if k.Kind != "case_clause" {
			continue
		}
		guard, last := k.Child("guard"), k.Child("consequence")
		from, to := k.Kids[0].To, last.From
		if colon := k.First(":"); colon != nil {
			to = colon.From // comments may follow it
		}
		if guard != nil {
			to = guard.From
			if e := guard.Only(); e != nil {
				l := r.decides(e, false)
				l.Kind, l.Pos = "guard", r.text.Pos(e.From)
				c.Values = append(c.Values, l)
				r.expressions(e, &c.Stmt, true)
			}
		}
		pattern := strings.TrimSpace(string(r.text.Bytes[from:to]))
		a := &flow.Arm{Label: "case " + flow.Caption([]byte(pattern)), Pos: r.text.Pos(k.From)}
		a.Block = *r.block(k, last)
		if guard == nil && isIrrefutable(pattern) {
			c.Misses = false
		}
		c.Arms = append(c.Arms, a)
	}
	return c
}

// isIrrefutable tells whether a pattern matches everything: a name, or several of which
// the last is one.
func isIrrefutable(pattern string) bool {
	words := strings.Split(pattern, "|")
	last := strings.TrimSpace(words[len(words)-1])
	for strings.HasPrefix(last, "(") && strings.HasSuffix(last, ")") {
		last = strings.TrimSpace(last[1 : len(last)-1])
	}
	if before, _, ok := strings.Cut(last, " as "); ok {
		last = strings.TrimSpace(before)
	}
	switch last {
	case "None", "True", "False", "":
		return false
	}
	return !strings.ContainsFunc(last, func(c rune) bool { return c < 0x80 && !isWord(byte(c)) }) && (last[0] < '0' || last[0] > '9')
}

func isWord(c byte) bool {
	return c == '_' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= '0' && c <= '9'
}
