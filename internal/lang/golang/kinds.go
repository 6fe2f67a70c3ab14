package golang

import (
	"go/ast"
	"go/token"
)

// shape is what can be known of a type without type checking.
type shape uint8

const (
	unknown  shape = iota
	basic          // number, string or boolean
	unsigned       // a basic type whose values are never negative
	slice
	array
	mapping
	pointer // to a struct declared in this file
	structure
)

// kind is the shape of a type and, for structs and pointers to them, its name.
type kind struct {
	shape shape
	name  string
	key   shape    // of a map
	elem  ast.Expr // the type of what a slice, an array or a map holds
}

// types are the structs that a file declares, with the kinds of the fields that
// are their own. A field that is missing here may come from an embedded
// pointer, through which control may leave.
type types map[string]map[string]kind

func (r *reader) declaredTypes(f *ast.File) {
	r.types = types{}
	var structs []*ast.TypeSpec
	for _, d := range f.Decls {
		g, ok := d.(*ast.GenDecl)
		if !ok {
			continue
		}
		for _, s := range g.Specs {
			switch s := s.(type) {
			case *ast.TypeSpec:
				if _, ok := s.Type.(*ast.StructType); ok && s.Assign == token.NoPos {
					r.types[s.Name.Name] = map[string]kind{}
					structs = append(structs, s)
				}
			case *ast.ValueSpec:
				if g.Tok == token.CONST {
					for _, n := range s.Names {
						r.constants[n.Name] = true
					}
				}
			}
		}
	}
	for _, s := range structs {
		for _, field := range s.Type.(*ast.StructType).Fields.List {
			for _, n := range field.Names {
				r.types[s.Name.Name][n.Name] = r.kindOfType(field.Type)
			}
		}
	}
}

func (r *reader) kindOfType(t ast.Expr) kind {
	switch t := t.(type) {
	case *ast.ParenExpr:
		return r.kindOfType(t.X)
	case *ast.Ident:
		if r.types[t.Name] != nil && !r.shadowed(t.Name) {
			return kind{shape: structure, name: t.Name}
		}
		return kind{shape: r.basicShape(t.Name)}
	case *ast.IndexExpr:
		if id, ok := t.X.(*ast.Ident); ok && r.types[id.Name] != nil && !r.shadowed(id.Name) {
			return kind{shape: structure, name: id.Name}
		}
	case *ast.ArrayType:
		if t.Len == nil {
			return kind{shape: slice, elem: t.Elt}
		}
		return kind{shape: array, elem: t.Elt}
	case *ast.Ellipsis:
		return kind{shape: slice, elem: t.Elt}
	case *ast.MapType:
		return kind{shape: mapping, key: r.kindOfType(t.Key).shape, elem: t.Value}
	case *ast.StarExpr:
		if to := r.kindOfType(t.X); to.shape == structure {
			return kind{shape: pointer, name: to.name}
		}
	}
	return kind{}
}

// shadowed tells whether a type's name is declared again inside a function.
func (r *reader) shadowed(name string) bool { return r.inner[name] }

func (r *reader) basicShape(name string) shape {
	if r.names[name] {
		return unknown
	}
	switch name {
	case "byte", "uint", "uint8", "uint16", "uint32", "uint64", "uintptr":
		return unsigned
	case "bool", "complex64", "complex128", "float32", "float64", "int", "int8", "int16", "int32", "int64", "rune", "string":
		return basic
	}
	return unknown
}

// variable is a name that a function declares once, in it or in a literal
// inside it.
type variable struct {
	kind kind
	// steady says that only plain assignments in the function or literal that
	// declares it change it.
	steady   bool
	owner    ast.Node // that function or literal
	from, to token.Pos
}

// variable gives what is known of a name where it is used. Another function
// literal than the declaring one may run at any time, so there nothing is.
func (r *reader) variable(id *ast.Ident) *variable {
	v := r.fn.vars[id.Name]
	if v == nil || id.Pos() < v.from || id.Pos() >= v.to {
		return nil
	}
	return v
}

// surveyor finds what is known of the names that a function declares.
type surveyor struct {
	*reader
	vars     map[string]*variable
	unsteady map[string]bool
	open     []ast.Node // the nodes that the one at hand lies in
}

// variables surveys a function and the function literals inside it.
func (r *reader) variables(fn ast.Node, t *ast.FuncType, recv *ast.FieldList, body *ast.BlockStmt) map[string]*variable {
	s := &surveyor{reader: r, vars: map[string]*variable{}, unsteady: map[string]bool{}, open: []ast.Node{fn}}
	outer := r.fn
	r.fn = &scope{vars: s.vars}
	for _, l := range []*ast.FieldList{recv, t.Params, t.Results} {
		s.fields(l, body)
	}
	ast.Inspect(body, func(n ast.Node) bool {
		if n == nil {
			s.open = s.open[:len(s.open)-1]
			return true
		}
		s.visit(n)
		s.open = append(s.open, n)
		return true
	})
	r.fn = outer
	for name := range s.unsteady {
		if v := s.vars[name]; v != nil {
			v.steady = false
		}
	}
	return s.vars
}

// owner is the innermost function or literal around the node at hand.
func (s *surveyor) owner() ast.Node {
	for i := len(s.open) - 1; i > 0; i-- {
		if lit, ok := s.open[i].(*ast.FuncLit); ok {
			return lit
		}
	}
	return s.open[0]
}

// end is where the block ends that the node at hand stands in.
func (s *surveyor) end() token.Pos {
	for i := len(s.open) - 1; i > 0; i-- {
		switch n := s.open[i].(type) {
		case *ast.BlockStmt, *ast.CaseClause, *ast.CommClause, *ast.IfStmt, *ast.ForStmt, *ast.RangeStmt,
			*ast.SwitchStmt, *ast.TypeSwitchStmt, *ast.FuncLit:
			return n.End()
		}
	}
	return s.open[0].End()
}

func (s *surveyor) declare(id *ast.Ident, k kind, from, to token.Pos) {
	if v := s.vars[id.Name]; v != nil {
		// Two variables of one name: nothing is said of either.
		*v = variable{from: s.open[0].Pos(), to: s.open[0].End()}
		return
	}
	s.vars[id.Name] = &variable{kind: k, steady: true, owner: s.owner(), from: from, to: to}
}

func (s *surveyor) fields(l *ast.FieldList, body ast.Node) {
	if l == nil {
		return
	}
	for _, f := range l.List {
		for _, n := range f.Names {
			s.declare(n, s.kindOfType(f.Type), body.Pos(), body.End())
		}
	}
}

// assigned notes an assignment in another function than the declaring one. A
// definition of a new name is none.
func (s *surveyor) assigned(e ast.Expr, defines bool) {
	id := root(e)
	if id == nil {
		return
	}
	if v := s.vars[id.Name]; v == nil && !defines || v != nil && v.owner != s.owner() {
		s.unsteady[id.Name] = true
	}
}

func (s *surveyor) visit(n ast.Node) {
	switch n := n.(type) {
	case *ast.FuncLit:
		s.open = append(s.open, n)
		s.fields(n.Type.Params, n.Body)
		s.fields(n.Type.Results, n.Body)
		s.open = s.open[:len(s.open)-1]
	case *ast.UnaryExpr:
		if id := root(n.X); id != nil && n.Op == token.AND {
			s.unsteady[id.Name] = true
		}
	case *ast.CallExpr:
		// A method may take the address of what it is called on.
		if f, ok := n.Fun.(*ast.SelectorExpr); ok {
			if id := root(f.X); id != nil && s.kindOfValue(id).shape != pointer {
				s.unsteady[id.Name] = true
			}
		}
	case *ast.IncDecStmt:
		s.assigned(n.X, false)
	case *ast.AssignStmt:
		for i, e := range n.Lhs {
			s.assigned(e, n.Tok == token.DEFINE)
			if id, ok := e.(*ast.Ident); ok && n.Tok == token.DEFINE {
				k := kind{}
				if len(n.Lhs) == len(n.Rhs) {
					k = s.kindOfValue(n.Rhs[i])
				}
				s.declare(id, k, n.End(), s.end())
			}
		}
	case *ast.RangeStmt:
		over := s.kindOfValue(n.X)
		for _, e := range []ast.Expr{n.Key, n.Value} {
			s.assigned(e, n.Tok == token.DEFINE)
			id, ok := e.(*ast.Ident)
			if !ok || n.Tok != token.DEFINE {
				continue
			}
			k := kind{}
			switch {
			case over.elem != nil && e == n.Value:
				k = s.kindOfType(over.elem)
			case over.shape == slice || over.shape == array:
				k = kind{shape: basic}
			}
			s.declare(id, k, n.Body.Pos(), n.End())
		}
	case *ast.ValueSpec:
		for _, id := range n.Names {
			s.declare(id, s.kindOfType(n.Type), n.End(), s.end())
		}
	case *ast.TypeSpec:
		s.declare(n.Name, kind{}, n.End(), s.end())
	}
}

// root is the variable that an operand of & is a part of, if no pointer lies
// between: its own name, as far as syntax can tell.
func root(e ast.Expr) *ast.Ident {
	switch e := e.(type) {
	case *ast.Ident:
		return e
	case nil:
		return nil
	case *ast.ParenExpr:
		return root(e.X)
	case *ast.SelectorExpr:
		return root(e.X)
	case *ast.IndexExpr:
		return root(e.X)
	}
	return nil
}

// kindOfValue is the kind of an expression.
func (r *reader) kindOfValue(e ast.Expr) kind {
	switch e := e.(type) {
	case *ast.ParenExpr:
		return r.kindOfValue(e.X)
	case *ast.BasicLit:
		return kind{shape: basic}
	case *ast.Ident:
		if v := r.variable(e); v != nil {
			return v.kind
		}
		if r.constants[e.Name] && !r.inner[e.Name] || (e.Name == "true" || e.Name == "false") && !r.names[e.Name] {
			return kind{shape: basic}
		}
	case *ast.BinaryExpr:
		// Operands of arithmetic are numbers or strings; comparisons give booleans.
		return kind{shape: basic}
	case *ast.UnaryExpr:
		switch e.Op {
		case token.AND:
			if to := r.kindOfValue(e.X); to.shape == structure {
				return kind{shape: pointer, name: to.name}
			}
		case token.SUB, token.ADD, token.XOR, token.NOT:
			return kind{shape: basic}
		}
	case *ast.CompositeLit:
		if e.Type != nil {
			return r.kindOfType(e.Type)
		}
	case *ast.CallExpr:
		if r.isBuiltin(e, "len", "cap") {
			return kind{shape: basic}
		}
		if r.isBuiltin(e, "append") && len(e.Args) > 0 {
			return r.kindOfValue(e.Args[0])
		}
		if r.isBuiltin(e, basicTypes...) {
			return kind{shape: r.basicShape(e.Fun.(*ast.Ident).Name)}
		}
		if r.isBuiltin(e, "make", "new") && len(e.Args) > 0 {
			k := r.kindOfType(e.Args[0])
			if e.Fun.(*ast.Ident).Name == "make" {
				return k
			}
			if k.shape == structure {
				return kind{shape: pointer, name: k.name}
			}
		}
		if t, ok := e.Fun.(*ast.ArrayType); ok {
			return r.kindOfType(t)
		}
	case *ast.SelectorExpr:
		x := r.kindOfValue(e.X)
		if x.shape == structure || x.shape == pointer {
			return r.types[x.name][e.Sel.Name]
		}
	case *ast.SliceExpr:
		if x := r.kindOfValue(e.X); x.shape == slice || x.shape == array {
			return kind{shape: slice, elem: x.elem}
		}
	case *ast.IndexExpr:
		if x := r.kindOfValue(e.X); x.elem != nil {
			return r.kindOfType(x.elem)
		}
	case *ast.StarExpr:
		if x := r.kindOfValue(e.X); x.shape == pointer {
			return kind{shape: structure, name: x.name}
		}
	}
	return kind{}
}

// own tells whether a field is a struct's own, not reached through what it
// embeds.
func (r *reader) own(k kind, field string) bool {
	_, ok := r.types[k.name][field]
	return ok
}
