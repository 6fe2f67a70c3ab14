package golang

import (
	"go/ast"
	"go/token"
)

func isConstant(e ast.Expr) bool {
	_, ok := e.(*ast.BasicLit)
	return ok
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
	if r.isBuiltin(c, "len", "cap", "append") || r.isBuiltin(c, basicTypes...) {
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
