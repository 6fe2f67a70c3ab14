package golang

import (
	"go/ast"
	"go/token"
	"maps"
	"slices"
)

// facts are conditions known to hold at a place, since what depends on them has
// worked before on the way there: that a pointer is not nil, that an index is
// within bounds. What no fact covers may make control leave.
type facts map[string]fact

// fact says what must not change for a condition to go on holding.
type fact struct {
	names  []string // variables it is about
	memory bool     // it is also about something in memory
}

// changes are what a stretch of code may change.
type changes struct {
	names  []string
	memory bool
}

func (c *changes) add(names ...string) {
	for _, n := range names {
		if !slices.Contains(c.names, n) {
			c.names = append(c.names, n)
		}
	}
}

// after removes the facts that changes may have broken.
func (f facts) after(c changes) facts {
	maps.DeleteFunc(f, func(_ string, x fact) bool {
		if x.memory && c.memory {
			return true
		}
		for _, n := range x.names {
			if slices.Contains(c.names, n) {
				return true
			}
		}
		return false
	})
	return f
}

// changes finds what a stretch of code may change, at any depth. What it finds
// of statements with others inside is kept, so that all is gone through once.
func (r *reader) changes(n ast.Node) changes {
	kept, compound := n.(ast.Stmt)
	if compound {
		if c, ok := r.changed[kept]; ok {
			return c
		}
	}
	c := r.lookForChanges(n)
	if compound {
		r.changed[kept] = c
	}
	return c
}

// nests tells whether other statements lie inside a node.
func nests(n ast.Node) bool {
	switch n.(type) {
	case *ast.IfStmt, *ast.ForStmt, *ast.RangeStmt, *ast.SwitchStmt, *ast.TypeSwitchStmt, *ast.SelectStmt, *ast.BlockStmt:
		return true
	}
	return false
}

func (r *reader) lookForChanges(whole ast.Node) changes {
	var c changes
	set := func(e ast.Expr) {
		for {
			p, ok := e.(*ast.ParenExpr)
			if !ok {
				break
			}
			e = p.X
		}
		switch e := e.(type) {
		case nil:
		case *ast.Ident:
			c.add(e.Name)
		case *ast.SelectorExpr, *ast.IndexExpr, *ast.StarExpr:
			c.memory = true
			if id := root(e); id != nil {
				// A field of a struct, an element of an array.
				if v := r.variable(id); v == nil || v.kind.shape != slice && v.kind.shape != pointer && v.kind.shape != mapping {
					c.add(id.Name)
				}
			}
		default:
			c.memory = true
		}
	}
	ast.Inspect(whole, func(n ast.Node) bool {
		if n != whole && nests(n) {
			inner := r.changes(n)
			c.add(inner.names...)
			c.memory = c.memory || inner.memory
			return false
		}
		switch n := n.(type) {
		case *ast.AssignStmt:
			for _, e := range n.Lhs {
				set(e)
			}
		case *ast.IncDecStmt:
			set(n.X)
		case *ast.RangeStmt:
			set(n.Key)
			set(n.Value)
			c.memory = true
		case *ast.ValueSpec:
			for _, id := range n.Names {
				c.add(id.Name)
			}
		case *ast.CallExpr:
			c.memory = c.memory || !r.harmless(n) || r.isBuiltin(n, "append")
		case *ast.SendStmt, *ast.GoStmt, *ast.DeferStmt, *ast.SelectStmt, *ast.FuncLit:
			c.memory = true
		case *ast.UnaryExpr:
			c.memory = c.memory || n.Op == token.ARROW
		}
		return true
	})
	return c
}
