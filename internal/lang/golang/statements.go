package golang

import (
	"fmt"
	"go/ast"
	"go/token"
	"maps"
	"slices"
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/flow"
)

// naming hands out names to the function literals of a function.
type naming struct {
	name string
	n    int
}

func (n *naming) next() string {
	n.n++
	if strings.Contains(n.name, ".func") {
		return fmt.Sprintf("%s.%d", n.name, n.n)
	}
	return fmt.Sprintf("%s.func%d", n.name, n.n)
}

// scope is what is known while the body of one function is read.
type scope struct {
	naming
	labels  map[string]*flow.Label
	targets []target
	facts   facts
	vars    map[string]*variable
	node    ast.Node // the function declaration or literal
}

// target is a statement that breaks or continues may name or mean.
type target struct {
	node  flow.Node
	label *flow.Label
	loop  bool
}

func (r *reader) function(d *ast.FuncDecl) *flow.Function {
	name := d.Name.Name
	if d.Recv != nil && len(d.Recv.List) > 0 {
		name = receiver(d.Recv.List[0].Type) + "." + name
	}
	return r.body(name, d, d.Recv, d.Type, d.Body)
}

func receiver(t ast.Expr) string {
	switch t := t.(type) {
	case *ast.StarExpr:
		return "(*" + receiver(t.X) + ")"
	case *ast.ParenExpr:
		return receiver(t.X)
	case *ast.IndexExpr:
		return receiver(t.X)
	case *ast.IndexListExpr:
		return receiver(t.X)
	case *ast.Ident:
		return t.Name
	}
	return "?"
}

func (r *reader) body(name string, n ast.Node, recv *ast.FieldList, t *ast.FuncType, body *ast.BlockStmt) *flow.Function {
	outer := r.fn
	r.fn = &scope{naming: naming{name: name}, labels: map[string]*flow.Label{}, facts: facts{}, node: n}
	if outer != nil {
		// A literal sees the variables around it, but not when it runs.
		r.fn.vars = outer.vars
	} else {
		r.fn.vars = r.variables(n, t, recv, body)
	}
	ast.Inspect(body, func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.FuncLit:
			return false
		case *ast.LabeledStmt:
			r.fn.labels[n.Label.Name] = &flow.Label{Name: n.Label.Name}
		}
		return true
	})
	f := &flow.Function{Name: name, Span: r.span(n), Body: r.block(body)}
	r.fn = outer
	return f
}

// literals reads the function literals in nodes that hold no statements of the
// function at hand.
func (r *reader) literals(outer *naming, nodes ...ast.Node) []*flow.Function {
	var out []*flow.Function
	for _, n := range nodes {
		if isNil(n) || !r.has(r.lits, n) {
			continue
		}
		ast.Inspect(n, func(n ast.Node) bool {
			lit, ok := n.(*ast.FuncLit)
			if !ok {
				return true
			}
			out = append(out, r.body(outer.next(), lit, nil, lit.Type, lit.Body))
			return false
		})
	}
	return out
}

// has tells whether one of a list of places, in order, lies in a node.
func (r *reader) has(places []token.Pos, n ast.Node) bool {
	i, _ := slices.BinarySearch(places, n.Pos())
	return i < len(places) && places[i] < n.End()
}

func isNil(n ast.Node) bool {
	switch n := n.(type) {
	case nil:
		return true
	case *ast.BlockStmt:
		return n == nil
	}
	return false
}

func (r *reader) block(b *ast.BlockStmt) *flow.Block {
	r.blocks = append(r.blocks, site.Block{Line: r.pos(b.Lbrace).Line, EndLine: r.pos(b.Rbrace).Line})
	return &flow.Block{Open: r.offset(b.Lbrace) + 1, Close: r.offset(b.Rbrace), Nodes: r.list(b.List)}
}

func (r *reader) list(stmts []ast.Stmt) []flow.Node {
	nodes := make([]flow.Node, 0, len(stmts))
	for _, s := range stmts {
		nodes = append(nodes, r.statement(s, r.offset(s.Pos()), nil))
	}
	return nodes
}

// endsAway tells whether control never gets past the end of a block.
func endsAway(b *ast.BlockStmt) bool {
	if len(b.List) == 0 {
		return false
	}
	switch b.List[len(b.List)-1].(type) {
	case *ast.ReturnStmt:
		return true
	case *ast.BranchStmt:
		return true
	}
	return false
}

// head fills in what all statements have; parts are those in which function
// literals may stand.
func (r *reader) head(s ast.Stmt, at int, parts ...ast.Node) flow.Stmt {
	return flow.Stmt{At: at, Span: r.span(s), Head: r.headEnd(s), Counted: true, Literals: r.literals(&r.fn.naming, parts...), Values: r.values(parts...)}
}

// headEnd is where the statement's own text ends.
func (r *reader) headEnd(s ast.Stmt) site.Pos {
	switch s := s.(type) {
	case *ast.IfStmt:
		return r.pos(s.Body.Lbrace)
	case *ast.ForStmt:
		return r.pos(s.Body.Lbrace)
	case *ast.RangeStmt:
		return r.pos(s.Body.Lbrace)
	case *ast.SwitchStmt:
		return r.pos(s.Body.Lbrace)
	case *ast.TypeSwitchStmt:
		return r.pos(s.Body.Lbrace)
	case *ast.SelectStmt:
		return r.pos(s.Body.Lbrace)
	}
	return r.pos(s.End())
}

func (r *reader) statement(s ast.Stmt, at int, label *flow.Label) flow.Node {
	switch s := s.(type) {
	case *ast.EmptyStmt:
		return &flow.Plain{Stmt: flow.Stmt{At: at, Span: r.span(s)}}
	case *ast.BlockStmt:
		n := &flow.Nested{Stmt: flow.Stmt{At: at, Span: r.span(s)}}
		r.inside(s, nil, func() { n.Body = r.block(s) })
		return n
	case *ast.DeclStmt:
		n := &flow.Plain{Stmt: r.head(s, at, s)}
		n.Counted = s.Decl.(*ast.GenDecl).Tok == token.VAR
		n.Leaves = r.leaves(s)
		return n
	case *ast.ReturnStmt:
		return r.jump(s, at, flow.Away)
	case *ast.BranchStmt:
		return r.branchStmt(s, at)
	case *ast.ExprStmt:
		if r.isBuiltin(s.X, "panic") {
			return r.jump(s, at, flow.Away)
		}
	case *ast.IfStmt:
		return r.ifStmt(s, at, true)
	case *ast.ForStmt:
		n := &flow.Loop{Cond: r.decides(s.Cond), Endless: s.Cond == nil, End: r.offset(s.End())}
		n.Stmt = r.head(s, at, orNil(s.Init), orNilExpr(s.Cond), orNil(s.Post))
		return r.loop(s, n, s.Body, label)
	case *ast.RangeStmt:
		n := &flow.Loop{Stmt: r.head(s, at, orNilExpr(s.Key), orNilExpr(s.Value), s.X), End: r.offset(s.End())}
		calls := r.kindOfValue(s.X).shape == unknown
		out := r.loop(s, n, s.Body, label)
		n.Body.Leaves = calls // it may range over a function, which goes on after a jump out of the body
		return out
	case *ast.SwitchStmt:
		n := &flow.Choice{Stmt: r.head(s, at, orNil(s.Init), orNilExpr(s.Tag)), Kind: "switch", Misses: true}
		return r.choice(s, n, s.Body, label)
	case *ast.TypeSwitchStmt:
		n := &flow.Choice{Stmt: r.head(s, at, orNil(s.Init), s.Assign), Kind: "type switch", Misses: true}
		return r.choice(s, n, s.Body, label)
	case *ast.SelectStmt:
		n := &flow.Choice{Stmt: r.head(s, at), Kind: "select"}
		return r.choice(s, n, s.Body, label)
	case *ast.LabeledStmt:
		l := r.fn.labels[s.Label.Name]
		l.Stmt = flow.Stmt{At: at, Span: r.span(s)}
		l.After = r.offset(s.Colon) + 1
		clear(r.fn.facts) // control may come from elsewhere
		l.Inner = r.statement(s.Stmt, at, l)
		return l
	}
	n := &flow.Plain{Stmt: r.head(s, at, s)}
	n.Leaves = r.leaves(s)
	return n
}

func orNil(s ast.Stmt) ast.Node {
	if s == nil {
		return nil
	}
	return s
}

func orNilExpr(e ast.Expr) ast.Node {
	if e == nil {
		return nil
	}
	return e
}

func (r *reader) jump(s ast.Stmt, at int, kind flow.JumpKind) *flow.Jump {
	return &flow.Jump{Stmt: r.head(s, at, s), Kind: kind, From: r.offset(s.Pos()), End: r.offset(s.End())}
}

func (r *reader) branchStmt(s *ast.BranchStmt, at int) flow.Node {
	n := r.jump(s, at, flow.Away)
	if s.Label != nil {
		n.Label = r.fn.labels[s.Label.Name]
	}
	if s.Tok == token.GOTO {
		n.Kind = flow.Goto
		if n.Label != nil {
			n.Label.Gotos = append(n.Label.Gotos, n)
		}
		return n
	}
	for i := len(r.fn.targets) - 1; i >= 0; i-- {
		t := r.fn.targets[i]
		if s.Tok == token.CONTINUE && !t.loop || n.Label != nil && t.label != n.Label {
			continue
		}
		n.Target = t.node
		break
	}
	switch {
	case n.Target == nil && s.Tok != token.FALLTHROUGH:
		// Not valid Go; the compiler will say so.
	case s.Tok == token.BREAK:
		n.Kind = flow.Break
		if n.Label != nil {
			n.Label.Breaks++
		}
	case s.Tok == token.CONTINUE:
		n.Kind = flow.Continue
		if n.Label != nil {
			n.Label.Continues++
		}
	}
	return n
}

func (r *reader) ifStmt(s *ast.IfStmt, at int, listed bool) *flow.Branch {
	n := &flow.Branch{
		Cond:       r.decides(s.Cond),
		Stmt:       r.head(s, at, orNil(s.Init), s.Cond),
		CondAt:     r.pos(s.Pos()),
		CondLeaves: r.leaves(orNil(s.Init), s.Cond),
		From:       r.offset(s.Pos()),
		End:        r.offset(s.End()),
		Listed:     listed,
	}
	// What a branch starts with holds whatever the branch itself changes later.
	start := maps.Clone(r.fn.facts)
	branch := func(known facts, read func()) {
		r.fn.facts = maps.Clone(start)
		maps.Copy(r.fn.facts, known)
		read()
	}
	branch(r.notNil(compared(s.Cond, token.NEQ)), func() { n.Then = r.block(s.Body) })
	switch e := s.Else.(type) {
	case *ast.BlockStmt:
		branch(r.notNil(compared(s.Cond, token.EQL)), func() { n.Else = r.block(e) })
	case *ast.IfStmt:
		branch(r.notNil(compared(s.Cond, token.EQL)), func() { n.ElseIf = r.ifStmt(e, r.offset(e.Pos()), false) })
	}
	r.fn.facts = start
	if s.Else == nil && endsAway(s.Body) {
		maps.Copy(r.fn.facts, r.notNil(compared(s.Cond, token.EQL)))
	}
	if len(r.fn.facts) > 0 {
		r.fn.facts.after(r.changes(s))
	}
	return n
}

func (r *reader) loop(s ast.Stmt, n *flow.Loop, body *ast.BlockStmt, label *flow.Label) flow.Node {
	r.fn.targets = append(r.fn.targets, target{n, label, true})
	r.inside(s, r.inBounds(s), func() { n.Body = r.block(body) })
	r.fn.targets = r.fn.targets[:len(r.fn.targets)-1]
	return n
}

func (r *reader) choice(s ast.Stmt, n *flow.Choice, body *ast.BlockStmt, label *flow.Label) flow.Node {
	n.Close = r.offset(body.Rbrace)
	r.fn.targets = append(r.fn.targets, target{n, label, false})
	for i, c := range body.List {
		var list []ast.Stmt
		arm := &flow.Arm{Pos: r.pos(c.Pos())}
		var colon token.Pos
		switch c := c.(type) {
		case *ast.CaseClause:
			if sw, ok := s.(*ast.SwitchStmt); ok && sw.Tag == nil {
				arm.Cond = r.decides(c.List...)
			}
			for _, e := range c.List {
				n.Values = append(n.Values, r.values(e)...)
				n.Literals = append(n.Literals, r.literals(&r.fn.naming, e)...)
			}
			list, colon = c.Body, c.Colon
			if c.List == nil {
				n.Misses = false
			}
		case *ast.CommClause:
			n.Values = append(n.Values, r.values(orNil(c.Comm))...)
			n.Literals = append(n.Literals, r.literals(&r.fn.naming, orNil(c.Comm))...)
			list, colon = c.Body, c.Colon
		}
		arm.Label = flow.Caption(r.source[r.offset(c.Pos()):r.offset(colon)])
		end := body.Rbrace
		if i+1 < len(body.List) {
			end = body.List[i+1].Pos()
		}
		r.blocks = append(r.blocks, site.Block{Line: arm.Pos.Line, EndLine: max(arm.Pos.Line, r.pos(end).Line-1)})
		arm.Open, arm.Close = r.offset(colon)+1, r.offset(c.End())
		r.inside(s, nil, func() { arm.Nodes = r.list(list) })
		n.Arms = append(n.Arms, arm)
	}
	r.fn.targets = r.fn.targets[:len(r.fn.targets)-1]
	linkFalls(body, n)
	return n
}

// linkFalls tells each fallthrough which arm it leads into.
func linkFalls(body *ast.BlockStmt, n *flow.Choice) {
	for i, c := range body.List {
		c, ok := c.(*ast.CaseClause)
		if !ok || len(c.Body) == 0 || i+1 >= len(n.Arms) {
			continue
		}
		last, node := c.Body[len(c.Body)-1], n.Arms[i].Nodes[len(c.Body)-1]
		for {
			l, ok := last.(*ast.LabeledStmt)
			if !ok {
				break
			}
			last, node = l.Stmt, node.(*flow.Label).Inner
		}
		if b, ok := last.(*ast.BranchStmt); ok && b.Tok == token.FALLTHROUGH {
			j := node.(*flow.Jump)
			j.Kind, j.Into = flow.Fall, n.Arms[i+1]
			n.Arms[i+1].FallenInto = true
		}
	}
}
