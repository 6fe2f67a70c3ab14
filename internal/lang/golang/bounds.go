package golang

import (
	"go/ast"
	"go/token"
	"maps"
)

// inside reads what lies inside a statement: what was known before it holds
// there and after it, but for what the statement may change. known is what holds
// inside besides.
func (r *reader) inside(s ast.Stmt, known facts, read func()) {
	before := r.fn.facts
	if len(before) > 0 {
		before.after(r.changes(s))
	}
	r.fn.facts = maps.Clone(before)
	maps.Copy(r.fn.facts, known)
	read()
	r.fn.facts = before
}

// compared gives the operand of a comparison with nil.
func compared(e ast.Expr, op token.Token) ast.Expr {
	if b, ok := e.(*ast.BinaryExpr); ok && b.Op == op {
		if id, ok := b.Y.(*ast.Ident); ok && id.Name == "nil" {
			return b.X
		}
	}
	return nil
}

// notNil is the fact that a pointer is not nil.
func (r *reader) notNil(e ast.Expr) facts {
	if e == nil {
		return nil
	}
	l := &look{reader: r, learned: facts{}}
	l.need("nil "+l.text(e), e)
	return l.learned
}

// inBounds is what the head of a loop says of an index: it stays within what is
// ranged over, or below its length.
func (r *reader) inBounds(s ast.Stmt) facts {
	var list, index ast.Expr
	switch s := s.(type) {
	case *ast.RangeStmt:
		if s.Tok == token.DEFINE {
			list, index = s.X, s.Key
		}
	case *ast.ForStmt:
		list, index = countsUp(s)
	}
	x, ok := list.(*ast.Ident)
	i, named := index.(*ast.Ident)
	if !ok || !named || r.names["len"] {
		return nil
	}
	if k := r.kindOfValue(x); k.shape != slice {
		return nil
	}
	l := &look{reader: r, learned: facts{}}
	var f fact
	// The index is new in the loop's head, where its variable is in scope.
	v := r.fn.vars[i.Name]
	if v == nil || !v.steady || v.owner != r.fn.node || !l.describe(x, &f) || changedIn(s, x.Name) {
		return nil
	}
	if loop, ok := s.(*ast.ForStmt); ok && changedIn(loop.Body, i.Name) {
		return nil
	}
	f.names = append(f.names, i.Name)
	return facts{"index " + x.Name + " at " + i.Name: f}
}

func changedIn(n ast.Node, name string) bool {
	found := false
	ast.Inspect(n, func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.AssignStmt:
			for _, e := range n.Lhs {
				if id := root(e); id != nil && id.Name == name {
					_, whole := e.(*ast.Ident)
					found = found || whole
				}
			}
		case *ast.IncDecStmt:
			if id, ok := n.X.(*ast.Ident); ok && id.Name == name {
				found = true
			}
		case *ast.RangeStmt:
			for _, e := range []ast.Expr{n.Key, n.Value} {
				if id, ok := e.(*ast.Ident); ok && id.Name == name {
					found = true
				}
			}
		}
		return !found
	})
	return found
}

// countsUp gives list and index of a loop like
//
//	for i := 0; i < len(list); i++
func countsUp(s *ast.ForStmt) (list, index ast.Expr) {
	init, ok := s.Init.(*ast.AssignStmt)
	if !ok || init.Tok != token.DEFINE || len(init.Lhs) != 1 || len(init.Rhs) != 1 {
		return nil, nil
	}
	if _, ok := init.Rhs[0].(*ast.BasicLit); !ok {
		return nil, nil
	}
	i, ok := init.Lhs[0].(*ast.Ident)
	post, up := s.Post.(*ast.IncDecStmt)
	cond, compares := s.Cond.(*ast.BinaryExpr)
	if !ok || !up || post.Tok != token.INC || !compares || cond.Op != token.LSS {
		return nil, nil
	}
	stepped, ok := post.X.(*ast.Ident)
	below, same := cond.X.(*ast.Ident)
	length, calls := cond.Y.(*ast.CallExpr)
	if !ok || !same || !calls || stepped.Name != i.Name || below.Name != i.Name || len(length.Args) != 1 {
		return nil, nil
	}
	if fn, ok := length.Fun.(*ast.Ident); !ok || fn.Name != "len" {
		return nil, nil
	}
	return length.Args[0], i
}
