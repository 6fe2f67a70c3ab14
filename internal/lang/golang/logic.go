package golang

import (
	"go/ast"
	"go/token"

	"thrush/internal/core/logic"
	"thrush/internal/flow"
)

// decides reads the boolean expressions of which the first that is true decides:
// one, or those of a case.
func (r *reader) decides(list ...ast.Expr) *flow.Logic {
	var out *flow.Logic
	for _, e := range list {
		if e == nil {
			return nil
		}
		r.deciding[e] = true
		if out == nil {
			out = &flow.Logic{Pos: r.pos(e.Pos())}
			out.Formula = r.formula(e, out)
			continue
		}
		out.Formula = &logic.Formula{Op: logic.Or, X: out.Formula, Y: r.formula(e, out)}
	}
	return out
}

// formula reads an expression and notes its conditions.
func (r *reader) formula(e ast.Expr, to *flow.Logic) *logic.Formula {
	switch e := e.(type) {
	case *ast.ParenExpr:
		return r.formula(e.X, to)
	case *ast.UnaryExpr:
		if e.Op == token.NOT {
			return &logic.Formula{Op: logic.Not, X: r.formula(e.X, to)}
		}
	case *ast.BinaryExpr:
		if op, ok := operator(e); ok {
			x := r.formula(e.X, to)
			return &logic.Formula{Op: op, X: x, Y: r.formula(e.Y, to)}
		}
	}
	to.Conditions = append(to.Conditions, flow.Condition{
		Pos: r.pos(e.Pos()), From: r.offset(e.Pos()), End: r.offset(e.End()),
	})
	return &logic.Formula{Condition: len(to.Conditions) - 1}
}

func operator(e *ast.BinaryExpr) (logic.Op, bool) {
	switch e.Op {
	case token.LAND:
		return logic.And, true
	case token.LOR:
		return logic.Or, true
	}
	return 0, false
}

// values reads the boolean expressions with operators whose values are used in
// nodes, outside of function literals.
func (r *reader) values(nodes ...ast.Node) []*flow.Logic {
	var out []*flow.Logic
	var look func(n ast.Node) bool
	// within looks into the conditions of an expression that is known already.
	var within func(e ast.Expr)
	within = func(e ast.Expr) {
		switch x := e.(type) {
		case *ast.ParenExpr:
			within(x.X)
			return
		case *ast.UnaryExpr:
			if x.Op == token.NOT {
				within(x.X)
				return
			}
		case *ast.BinaryExpr:
			if _, ok := operator(x); ok {
				within(x.X)
				within(x.Y)
				return
			}
		}
		ast.Inspect(e, look)
	}
	look = func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.FuncLit:
			return false
		case *ast.GenDecl:
			return n.Tok == token.VAR
		case *ast.BinaryExpr:
			if _, ok := operator(n); ok {
				l := &flow.Logic{Pos: r.pos(n.Pos())}
				l.Formula = r.formula(n, l)
				out = append(out, l)
				within(n)
				return false
			}
		}
		return true
	}
	for _, n := range nodes {
		if isNil(n) || !r.has(r.operators, n) {
			continue
		}
		if e, ok := n.(ast.Expr); ok && r.deciding[e] {
			within(e)
			continue
		}
		ast.Inspect(n, look)
	}
	return out
}
