package cfamily

import (
	"strconv"
	"strings"

	"thrush/internal/syntax/flow"
)

// unevaluated are the kinds of nodes whose text does not run, or must stay constant.
var unevaluated = map[string]bool{
	"sizeof_expression": true, "alignof_expression": true, "offsetof_expression": true, "decltype": true, "noexcept": true,
	"requires_expression": true, "requires_clause": true, "template_argument_list": true, "type_descriptor": true,
	"static_assert_declaration": true, "enumerator_list": true, "bitfield_clause": true, "fold_expression": true,
	"generic_expression": true, "alignas_qualifier": true, "subscript_designator": true, "concept_definition": true,
	"parameter_list": true, "template_parameter_list": true, "attribute_declaration": true, "field_declaration_list": true,
}

// expressions notes what the expressions in a node hold: function literals, blocks,
// and decisions about values.
func (r *reader) expressions(n *node, s *flow.Stmt) {
	switch {
	case unevaluated[n.kind]:
		if n.kind == "field_declaration_list" {
			r.literals(n, s)
		}
		return
	case n.kind == "lambda_expression", n.kind == "function_definition":
		r.literal(n, s)
		return
	case n.kind == "declaration" && r.fixed(n):
		r.literals(n, s)
		return
	case n.kind == "array_declarator":
		if d := n.child("declarator"); d != nil {
			r.expressions(d, s)
		}
		return
	case n.kind == "call_expression" && r.folded(n):
		return
	case n.kind == "compound_statement":
		s.Inner = append(s.Inner, r.inner(n))
		return
	case n.kind == "binary_expression" && !r.deciding[n]:
		if _, ok := r.operator(n); ok {
			s.Values = append(s.Values, r.decides(n))
		}
	case n.kind == "conditional_expression":
		r.chooses(n, s)
	}
	for i := range n.kids {
		r.expressions(&n.kids[i], s)
	}
}

// inner reads a block that stands in an expression.
func (r *reader) inner(n *node) *flow.Block {
	hidden := r.hidden
	r.hidden = hidden || r.place.system(n.from)
	b := r.block(n)
	r.hidden = hidden
	return b
}

// chooses notes an expression that chooses between two values.
func (r *reader) chooses(n *node, s *flow.Stmt) {
	value := n.child("condition")
	mark := n.first("?")
	if value == nil || n.child("consequence") == nil || mark == nil || r.fromSystem(mark) || isLiteral(value) {
		return
	}
	l := r.decides(value)
	l.Pos, l.Chooses = r.place.start(n.from), true
	s.Values = append(s.Values, l)
}

// fixed tells whether a declaration's values are worked out by the compiler.
func (r *reader) fixed(n *node) bool {
	end := n.to
	for i := range n.kids {
		if n.kids[i].field == "declarator" {
			end = n.kids[i].from
			break
		}
	}
	return hasWord(string(r.text[n.from:end]), "static", "constexpr", "constinit", "extern", "typedef")
}

// folded tells whether a call is one that the compiler itself answers.
func (r *reader) folded(n *node) bool {
	f := n.child("function")
	if f == nil {
		return false
	}
	switch string(r.text[f.from:f.to]) {
	case "__builtin_constant_p", "__builtin_choose_expr", "__builtin_object_size", "__builtin_classify_type", "__builtin_dynamic_object_size":
		return true
	}
	return false
}

// literals notes the functions inside a type or an expression.
func (r *reader) literals(n *node, s *flow.Stmt) {
	n.each(func(n *node) bool {
		if n.kind == "lambda_expression" || n.kind == "function_definition" {
			r.literal(n, s)
			return false
		}
		return !unevaluated[n.kind] || n.kind == "field_declaration_list"
	})
}

func (r *reader) literal(n *node, s *flow.Stmt) {
	if r.hidden {
		return
	}
	var f *flow.Function
	if n.kind == "lambda_expression" {
		r.fn.literal++
		f = r.lambda(n, r.fn.name)
		if f != nil && r.fn.literal > 1 {
			f.Name += " " + strconv.Itoa(r.fn.literal)
		}
	} else {
		f = r.function(n, r.fn.name)
	}
	if f != nil {
		s.Literals = append(s.Literals, f)
	}
}

// acts tells whether a declaration does something when control comes to it.
func (r *reader) acts(n *node) bool {
	static := r.fixed(n)
	if static && (r.opt.Language == C || !hasWord(string(r.text[n.from:n.to]), "static")) {
		return false
	}
	for i := range n.kids {
		k := &n.kids[i]
		if k.field == "declarator" && (k.kind == "init_declarator" || r.sized(k)) {
			return true
		}
	}
	return r.opt.Language == CPP && r.isObject(n)
}

// sized tells whether a declarator is an array whose size is worked out.
func (r *reader) sized(n *node) bool {
	if n.kind != "array_declarator" {
		return false
	}
	size := n.child("size")
	return size != nil && size.kind == "identifier" && strings.ToUpper(string(r.text[size.from:size.to])) != string(r.text[size.from:size.to])
}

// isObject tells whether a declaration may run a constructor: its type is a name
// that is none of a number's, and what it declares is no pointer.
func (r *reader) isObject(n *node) bool {
	t := n.child("type")
	if t == nil || r.isNumber(t) {
		return false
	}
	switch t.kind {
	case "type_identifier", "qualified_identifier", "template_type", "dependent_type", "placeholder_type_specifier", "auto", "decltype":
	default:
		return false
	}
	for i := range n.kids {
		k := &n.kids[i]
		if k.field != "declarator" {
			continue
		}
		if k.kind == "init_declarator" {
			k = k.child("declarator")
		}
		if k != nil && k.kind != "pointer_declarator" && k.kind != "reference_declarator" && k.kind != "function_declarator" {
			return true
		}
	}
	return false
}

// declaresObjects tells whether a block declares what is taken down at its end.
func (r *reader) declaresObjects(n *node) bool {
	if r.opt.Language == C {
		return false
	}
	for i := range n.kids {
		if k := &n.kids[i]; k.kind == "declaration" && r.isObject(k) {
			return true
		}
	}
	return false
}
