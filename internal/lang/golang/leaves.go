package golang

import (
	"go/ast"
	"go/token"
	"maps"
)

// look goes through code that is worked out in order and finds whether control
// may leave in it: by a call, a run-time panic, or waiting for ever. Without
// type checking it must assume the worst of what it does not know.
type look struct {
	*reader
	leaves  bool
	learned facts // what holds once the code has been worked out
	maybe   bool  // it may not be worked out at all: nothing is learned
}

// leaves tells whether control may leave within parts of a statement, which are
// worked out one after the other. What is learned from them, and what they
// change, is taken into the facts.
func (r *reader) leaves(parts ...ast.Node) bool {
	l := &look{reader: r, learned: facts{}}
	for _, p := range parts {
		if !isNil(p) {
			l.node(p)
		}
	}
	maps.Copy(r.fn.facts, l.learned)
	for _, p := range parts {
		if isNil(p) {
			continue
		}
		if len(r.fn.facts) > 0 {
			r.fn.facts.after(r.changes(p))
		}
		maps.Copy(r.fn.facts, r.fresh(p))
	}
	return l.leaves
}

// fresh gives the fact that a variable is not nil which was just given an
// address.
func (r *reader) fresh(n ast.Node) facts {
	s, ok := n.(*ast.AssignStmt)
	if !ok || len(s.Lhs) != 1 || len(s.Rhs) != 1 {
		return nil
	}
	id, named := s.Lhs[0].(*ast.Ident)
	address, taken := s.Rhs[0].(*ast.UnaryExpr)
	if !named || id.Name == "_" || !taken || address.Op != token.AND {
		return nil
	}
	// Where it is declared, its name is not in scope yet.
	if v := r.fn.vars[id.Name]; v == nil || !v.steady || v.owner != r.fn.node {
		return nil
	}
	return facts{"nil " + id.Name: {names: []string{id.Name}}}
}

// need says that code works only under a condition.
func (l *look) need(condition string, parts ...ast.Expr) {
	if _, holds := l.fn.facts[condition]; !holds {
		l.leaves = true
	}
	if l.maybe {
		return
	}
	f := fact{}
	for _, p := range parts {
		if !l.describe(p, &f) {
			return
		}
	}
	l.learned[condition] = f
}

// describe finds what the value of an expression depends on. It gives up on all
// but names, constants, fields, indexes and arithmetic.
func (l *look) describe(e ast.Expr, f *fact) bool {
	switch e := e.(type) {
	case *ast.BasicLit:
		return true
	case *ast.ParenExpr:
		return l.describe(e.X, f)
	case *ast.Ident:
		if l.constants[e.Name] && !l.inner[e.Name] {
			return true
		}
		v := l.variable(e)
		if v == nil || !v.steady || v.owner != l.fn.node {
			return false
		}
		f.names = append(f.names, e.Name)
		return true
	case *ast.SelectorExpr:
		f.memory = true
		return l.describe(e.X, f)
	case *ast.IndexExpr:
		f.memory = true
		return l.describe(e.X, f) && l.describe(e.Index, f)
	case *ast.StarExpr:
		f.memory = true
		return l.describe(e.X, f)
	case *ast.BinaryExpr:
		return l.describe(e.X, f) && l.describe(e.Y, f)
	}
	return false
}

func (l *look) text(e ast.Expr) string {
	return string(l.source[l.offset(e.Pos()):l.offset(e.End())])
}

func (l *look) kind(e ast.Expr) kind { return l.kindOfValue(e) }

func (l *look) exprs(list ...ast.Expr) {
	for _, e := range list {
		if e != nil {
			l.node(e)
		}
	}
}

// perhaps looks at what may not be worked out.
func (l *look) perhaps(e ast.Expr) {
	was := l.maybe
	l.maybe = true
	l.node(e)
	l.maybe = was
}

func (l *look) node(n ast.Node) {
	switch n := n.(type) {
	case *ast.FuncLit, *ast.FuncType, *ast.StructType, *ast.InterfaceType, *ast.MapType, *ast.ChanType, *ast.ArrayType,
		*ast.Ident, *ast.BasicLit, *ast.EmptyStmt, *ast.BranchStmt:
	case *ast.DeclStmt:
		for _, s := range n.Decl.(*ast.GenDecl).Specs {
			if v, ok := s.(*ast.ValueSpec); ok {
				l.exprs(v.Values...)
			}
		}
	case *ast.ExprStmt:
		l.node(n.X)
	case *ast.ReturnStmt:
		l.exprs(n.Results...)
	case *ast.IncDecStmt:
		l.target(n.X)
	case *ast.AssignStmt:
		l.assign(n)
	case *ast.DeferStmt:
		l.exprs(append([]ast.Expr{n.Call.Fun}, n.Call.Args...)...)
	case *ast.GoStmt:
		l.exprs(append([]ast.Expr{n.Call.Fun}, n.Call.Args...)...)
	case *ast.ParenExpr:
		l.node(n.X)
	case *ast.KeyValueExpr:
		l.exprs(n.Key, n.Value)
	case *ast.CompositeLit:
		l.literal(n)
	case *ast.UnaryExpr:
		l.node(n.X)
		l.leaves = l.leaves || n.Op == token.ARROW
	case *ast.BinaryExpr:
		l.binary(n)
	case *ast.SelectorExpr:
		l.selector(n)
	case *ast.IndexExpr:
		l.index(n)
	case *ast.StarExpr:
		l.node(n.X)
		l.need("nil "+l.text(n.X), n.X)
	case *ast.SliceExpr:
		l.exprs(n.X, n.Low, n.High, n.Max)
		l.leaves = l.leaves || !l.slices(n)
	case *ast.CallExpr:
		l.exprs(n.Fun)
		if l.isBuiltin(n, "len", "cap") || l.harmless(n) && !l.isBuiltin(n, "append") {
			// The length of an array is known without looking at it.
			for _, a := range n.Args {
				l.perhaps(a)
			}
			return
		}
		l.exprs(n.Args...)
		if !l.harmless(n) {
			l.leaves = true
		}
	default:
		l.leaves = true
	}
}

func (l *look) assign(n *ast.AssignStmt) {
	if len(n.Lhs) == 2 && len(n.Rhs) == 1 {
		// The forms that say whether it worked do not panic.
		switch x := n.Rhs[0].(type) {
		case *ast.TypeAssertExpr:
			l.node(x.X)
			l.targets(n)
			return
		case *ast.IndexExpr:
			l.exprs(x.X, x.Index)
			if !concrete(l.kind(x.Index).shape) {
				l.leaves = true
			}
			l.targets(n)
			return
		}
	}
	l.exprs(n.Rhs...)
	switch n.Tok {
	case token.QUO_ASSIGN, token.REM_ASSIGN:
		l.leaves = l.leaves || !isLiteral(n.Rhs[0])
	case token.SHL_ASSIGN, token.SHR_ASSIGN:
		l.shift(n.Rhs[0])
	}
	l.targets(n)
}

func (l *look) targets(n *ast.AssignStmt) {
	for _, e := range n.Lhs {
		l.target(e)
	}
}

// target looks at what is assigned to.
func (l *look) target(e ast.Expr) {
	if x, ok := e.(*ast.IndexExpr); ok {
		if k := l.kind(x.X).shape; k != slice && k != array {
			// A nil map can be read but not written to.
			l.exprs(x.X, x.Index)
			l.leaves = true
			if !l.maybe {
				f := fact{}
				if l.describe(x.X, &f) && l.describe(x.Index, &f) {
					l.learned[l.indexed(x)] = f
				}
			}
			return
		}
	}
	l.node(e)
}

func (l *look) literal(n *ast.CompositeLit) {
	_, isMap := n.Type.(*ast.MapType)
	for _, e := range n.Elts {
		kv, ok := e.(*ast.KeyValueExpr)
		if !ok {
			l.node(e)
			continue
		}
		if id, ok := kv.Key.(*ast.Ident); !ok || isMap {
			l.node(kv.Key)
			if isMap && !concrete(l.kind(kv.Key).shape) {
				l.leaves = true // a key that cannot be hashed
			}
			_ = id
		}
		l.node(kv.Value)
	}
}

// concrete tells whether values of a shape are certainly no interfaces.
func concrete(s shape) bool { return s == basic || s == unsigned }

func (l *look) binary(n *ast.BinaryExpr) {
	l.node(n.X)
	switch n.Op {
	case token.LAND, token.LOR:
		l.perhaps(n.Y)
		return
	case token.QUO, token.REM:
		l.leaves = l.leaves || !isLiteral(n.Y)
	case token.SHL, token.SHR:
		l.shift(n.Y)
	case token.EQL, token.NEQ:
		// Two interfaces of one type that cannot be compared.
		if !isPlain(n.X) && !isPlain(n.Y) && !concrete(l.kind(n.X).shape) && !concrete(l.kind(n.Y).shape) {
			l.leaves = true
		}
	}
	l.node(n.Y)
}

// shift looks at how far is shifted: a negative count panics.
func (l *look) shift(by ast.Expr) {
	if id, ok := by.(*ast.Ident); ok && l.constants[id.Name] && !l.inner[id.Name] {
		return
	}
	if _, ok := by.(*ast.BasicLit); !ok && l.kind(by).shape != unsigned {
		l.leaves = true
	}
}

func (l *look) selector(n *ast.SelectorExpr) {
	if l.isPackage(n.X) {
		return
	}
	l.node(n.X)
	switch k := l.kind(n.X); {
	case k.shape == structure && l.own(k, n.Sel.Name):
	case k.shape == pointer && l.own(k, n.Sel.Name):
		l.need("nil "+l.text(n.X), n.X)
	default:
		// Perhaps through an embedded pointer, which memory may change.
		l.need("field "+l.text(n), n)
	}
}

// slices tells whether slicing cannot but work: there are no bounds, or there is
// one, which is known to be a good index.
func (l *look) slices(n *ast.SliceExpr) bool {
	if k := l.kind(n.X).shape; k != slice && !concrete(k) || n.Max != nil || n.Low != nil && n.High != nil {
		return false
	}
	bound := n.Low
	if bound == nil {
		bound = n.High
	}
	if bound == nil {
		return true
	}
	_, good := l.fn.facts["index "+l.text(n.X)+" at "+l.text(bound)]
	return good
}

func (l *look) indexed(n *ast.IndexExpr) string {
	return "index " + l.text(n.X) + " at " + l.text(n.Index)
}

func (l *look) index(n *ast.IndexExpr) {
	l.exprs(n.X, n.Index)
	k := l.kind(n.X)
	switch {
	case k.shape == mapping && concrete(k.key):
	case k.shape == array && isConstant(n.Index):
	case k.shape == slice || k.shape == array || concrete(k.shape):
		// A slice's length goes with the variable, so only naming it anew
		// changes what is within its bounds.
		l.need(l.indexed(n), n.X, n.Index)
	default:
		l.need(l.indexed(n), n, n.X)
	}
}
