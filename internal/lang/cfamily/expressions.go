package cfamily

import (
	"strconv"
	"strings"

	"thrush/internal/flow"
	"thrush/internal/lang/tree"
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
func (r *reader) expressions(n *tree.Node, s *flow.Stmt) {
	switch {
	case unevaluated[n.Kind]:
		if n.Kind == "field_declaration_list" {
			r.literals(n, s)
		}
		return
	case n.Kind == "lambda_expression", n.Kind == "function_definition":
		r.literal(n, s)
		return
	case n.Kind == "declaration" && r.fixed(n):
		r.literals(n, s)
		return
	case n.Kind == "array_declarator":
		if d := n.Child("declarator"); d != nil {
			r.expressions(d, s)
		}
		return
	case n.Kind == "call_expression" && r.folded(n):
		return
	case n.Kind == "compound_statement":
		s.Inner = append(s.Inner, r.inner(n))
		return
	case n.Kind == "binary_expression" && !r.deciding[n]:
		if _, ok := r.operator(n); ok {
			s.Values = append(s.Values, r.decides(n))
		}
	case n.Kind == "conditional_expression":
		r.chooses(n, s)
	}
	for i := range n.Kids {
		r.expressions(&n.Kids[i], s)
	}
}

// inner reads a block that stands in an expression.
func (r *reader) inner(n *tree.Node) *flow.Block {
	hidden := r.hidden
	r.hidden = hidden || r.place.system(n.From)
	b := r.block(n)
	r.hidden = hidden
	return b
}

// chooses notes an expression that chooses between two values.
func (r *reader) chooses(n *tree.Node, s *flow.Stmt) {
	value := n.Child("condition")
	mark := n.First("?")
	if value == nil || n.Child("consequence") == nil || mark == nil || r.fromSystem(mark) || isLiteral(value) {
		return
	}
	l := r.decides(value)
	l.Pos, l.Kind = r.place.start(n.From), "?:"
	s.Values = append(s.Values, l)
}

// fixed tells whether a declaration's values are worked out by the compiler.
func (r *reader) fixed(n *tree.Node) bool {
	end := n.To
	for i := range n.Kids {
		if n.Kids[i].Field == "declarator" {
			end = n.Kids[i].From
			break
		}
	}
	return hasWord(string(r.text[n.From:end]), "static", "constexpr", "constinit", "extern", "typedef")
}

// folded tells whether a call is one that the compiler itself answers.
func (r *reader) folded(n *tree.Node) bool {
	f := n.Child("function")
	if f == nil {
		return false
	}
	switch string(r.text[f.From:f.To]) {
	case "__builtin_constant_p", "__builtin_choose_expr", "__builtin_object_size", "__builtin_classify_type", "__builtin_dynamic_object_size":
		return true
	}
	return false
}

// literals notes the functions inside a type or an expression.
func (r *reader) literals(n *tree.Node, s *flow.Stmt) {
	n.Each(func(n *tree.Node) bool {
		if n.Kind == "lambda_expression" || n.Kind == "function_definition" {
			r.literal(n, s)
			return false
		}
		return !unevaluated[n.Kind] || n.Kind == "field_declaration_list"
	})
}

func (r *reader) literal(n *tree.Node, s *flow.Stmt) {
	if r.hidden {
		return
	}
	var f *flow.Function
	if n.Kind == "lambda_expression" {
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
func (r *reader) acts(n *tree.Node) bool {
	static := r.fixed(n)
	if static && (r.opt.Language == C || !hasWord(string(r.text[n.From:n.To]), "static")) {
		return false
	}
	for i := range n.Kids {
		k := &n.Kids[i]
		if k.Field == "declarator" && (k.Kind == "init_declarator" || r.sized(k)) {
			return true
		}
	}
	return r.opt.Language == CPP && r.isObject(n)
}

// sized tells whether a declarator is an array whose size is worked out.
func (r *reader) sized(n *tree.Node) bool {
	if n.Kind != "array_declarator" {
		return false
	}
	size := n.Child("size")
	return size != nil && size.Kind == "identifier" && strings.ToUpper(string(r.text[size.From:size.To])) != string(r.text[size.From:size.To])
}

// isObject tells whether a declaration may run a constructor: its type is a name
// that is none of a number's, and what it declares is no pointer.
func (r *reader) isObject(n *tree.Node) bool {
	t := n.Child("type")
	if t == nil || r.isNumber(t) {
		return false
	}
	switch t.Kind {
	case "struct_specifier", "class_specifier", "union_specifier":
	case "type_identifier", "qualified_identifier", "template_type", "dependent_type", "placeholder_type_specifier", "auto", "decltype":
	default:
		return false
	}
	for i := range n.Kids {
		k := &n.Kids[i]
		if k.Field != "declarator" {
			continue
		}
		if k.Kind == "init_declarator" {
			k = k.Child("declarator")
		}
		if k != nil && k.Kind != "pointer_declarator" && k.Kind != "reference_declarator" && k.Kind != "function_declarator" {
			return true
		}
	}
	return false
}
