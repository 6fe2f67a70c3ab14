package golang

import (
	"go/ast"
	"go/token"
)

// facts are expressions known to work, since they already did in the straight
// run of statements at hand.
type facts struct{}

func (f *facts) forget() {}

// leaves tells whether control may leave within a statement or an expression:
// by a call, a run-time panic, or waiting for ever. Without types it must
// assume the worst of what it does not know. Function literals do nothing when
// they are made.
func (r *reader) leaves(n ast.Node) bool {
	found := false
	ast.Inspect(n, func(n ast.Node) bool {
		if found {
			return false
		}
		switch n := n.(type) {
		case nil, *ast.FuncLit, *ast.FuncType, *ast.StructType, *ast.InterfaceType, *ast.MapType, *ast.ChanType:
			return false
		case *ast.ArrayType:
			return false
		case *ast.CompositeLit:
			found = found || mayNotHash(n)
			return true
		case *ast.ParenExpr, *ast.Ident, *ast.BasicLit, *ast.KeyValueExpr,
			*ast.DeclStmt, *ast.GenDecl, *ast.ValueSpec, *ast.CommentGroup, *ast.Comment,
			*ast.EmptyStmt:
			return true
		case *ast.TypeSpec:
			return false
		case *ast.ExprStmt, *ast.IncDecStmt:
			return true
		case *ast.DeferStmt:
			found = found || r.callPartsLeave(n.Call)
			return false
		case *ast.GoStmt:
			found = found || r.callPartsLeave(n.Call)
			return false
		case *ast.AssignStmt:
			switch n.Tok {
			case token.QUO_ASSIGN, token.REM_ASSIGN, token.SHL_ASSIGN, token.SHR_ASSIGN:
				found = found || !isLiteral(n.Rhs[0])
			}
			return true
		case *ast.UnaryExpr:
			found = found || n.Op == token.ARROW
			return true
		case *ast.BinaryExpr:
			switch n.Op {
			case token.QUO, token.REM, token.SHL, token.SHR:
				found = found || !isLiteral(n.Y)
			case token.EQL, token.NEQ:
				// Two interfaces of one type that cannot be compared.
				found = found || !isPlain(n.X) && !isPlain(n.Y)
			}
			return true
		case *ast.SelectorExpr:
			found = found || !r.isPackage(n.X)
			return false
		case *ast.CallExpr:
			found = found || !r.harmless(n)
			return true
		}
		found = true
		return false
	})
	return found
}

// callPartsLeave tells the same of a call that is put off: only its parts are
// worked out now.
func (r *reader) callPartsLeave(c *ast.CallExpr) bool {
	for _, a := range c.Args {
		if r.leaves(a) {
			return true
		}
	}
	return r.leaves(c.Fun)
}

// mayNotHash tells whether a map literal has keys that could be interfaces.
func mayNotHash(c *ast.CompositeLit) bool {
	if _, ok := c.Type.(*ast.MapType); !ok {
		return false
	}
	for _, e := range c.Elts {
		if kv, ok := e.(*ast.KeyValueExpr); ok && !isPlain(kv.Key) {
			return true
		}
	}
	return false
}

// isLiteral tells whether e is a number written out that is not zero.
func isLiteral(e ast.Expr) bool {
	switch e := e.(type) {
	case *ast.ParenExpr:
		return isLiteral(e.X)
	case *ast.BasicLit:
		if e.Kind != token.INT && e.Kind != token.FLOAT && e.Kind != token.CHAR {
			return false
		}
		for _, c := range e.Value {
			if c >= '1' && c <= '9' {
				return true
			}
		}
	}
	return false
}

// isPlain tells whether e is a literal, nil, true or false, with which
// everything can be compared.
func isPlain(e ast.Expr) bool {
	switch e := e.(type) {
	case *ast.BasicLit:
		return true
	case *ast.Ident:
		return e.Name == "nil" || e.Name == "true" || e.Name == "false"
	case *ast.UnaryExpr:
		return isPlain(e.X)
	case *ast.ParenExpr:
		return isPlain(e.X)
	}
	return false
}

func (r *reader) isPackage(e ast.Expr) bool {
	id, ok := e.(*ast.Ident)
	return ok && r.paths[id.Name] != "" && !r.names[id.Name]
}

// isBuiltin tells whether e calls one of Go's built-in functions.
func (r *reader) isBuiltin(e ast.Expr, names ...string) bool {
	call, ok := e.(*ast.CallExpr)
	if !ok {
		return false
	}
	id, ok := call.Fun.(*ast.Ident)
	if !ok || r.names[id.Name] {
		return false
	}
	for _, n := range names {
		if id.Name == n {
			return true
		}
	}
	return false
}

var basicTypes = []string{
	"bool", "byte", "complex64", "complex128", "float32", "float64", "int", "int8", "int16", "int32", "int64",
	"rune", "string", "uint", "uint8", "uint16", "uint32", "uint64", "uintptr",
}

// harmless tells whether a call is none, or cannot but return: a conversion to
// a basic type, a built-in function, or a function of the standard library
// that only computes.
func (r *reader) harmless(c *ast.CallExpr) bool {
	if r.isBuiltin(c, "len", "cap", "append", "copy", "new", "real", "imag", "complex") || r.isBuiltin(c, basicTypes...) {
		return true
	}
	switch f := c.Fun.(type) {
	case *ast.ArrayType:
		return f.Len == nil
	case *ast.SelectorExpr:
		if !r.isPackage(f.X) {
			return false
		}
		switch r.paths[f.X.(*ast.Ident).Name] {
		case "unsafe":
			return f.Sel.Name == "Pointer" || f.Sel.Name == "Sizeof"
		case "math/bits":
			switch f.Sel.Name {
			case "Div", "Div32", "Div64", "Rem", "Rem32", "Rem64":
				return false
			}
			return true
		case "math":
			return true
		}
	}
	return false
}
