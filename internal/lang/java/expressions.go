package java

import (
	"strings"

	"thrush/internal/core/logic"
	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// typeOnly are the kinds of nodes in which nothing runs.
var typeOnly = map[string]bool{
	"modifiers": true, "marker_annotation": true, "annotation": true, "type_arguments": true, "generic_type": true, "class_literal": true,
	"formal_parameters": true, "superclass": true, "super_interfaces": true, "switch_label": true,
}

// expressions notes what the expressions in a node hold: functions, decisions about values,
// and blocks. tested says that only whether it is true matters.
func (r *reader) expressions(n *tree.Node, s *flow.Stmt, tested bool) {
	if n == nil || typeOnly[n.Kind] {
		return
	}
	switch n.Kind {
	case "lambda_expression":
		r.lambda(n, s)
		return
	case "switch_expression":
		r.given(n, s)
		return
	case "object_creation_expression", "enum_constant":
		r.creation(n, s)
		return
	case "binary_expression":
		r.binary(n, s, tested)
		return
	case "ternary_expression":
		r.ternary(n, s)
		return
	case "unary_expression":
		if x := n.Child("operand"); x != nil && r.text.Bytes[n.From] == '!' {
			r.expressions(x, s, true)
			return
		}
	case "parenthesized_expression":
		if k := n.Only(); k != nil {
			r.expressions(k, s, tested)
			return
		}
	}
	for i := range n.Kids {
		if n.Kids[i].Named {
			r.expressions(&n.Kids[i], s, false)
		}
	}
}

// creation reads what makes an object, maybe one of a class without a name.
func (r *reader) creation(n *tree.Node, s *flow.Stmt) {
	for i := range n.Kids {
		k := &n.Kids[i]
		if k.Kind != "class_body" {
			r.expressions(k, s, false)
			continue
		}
		name := "anonymous"
		if id := n.Child("name"); id != nil && n.Kind == "enum_constant" {
			name = r.text.Word(id)
		}
		r.inClass(name, n, k, s)
	}
}

func (r *reader) ternary(n *tree.Node, s *flow.Stmt) {
	cond := n.Child("condition")
	if l := r.decides(cond); l != nil && !r.isConstant(cond) && l.Weaves() {
		l.Kind, l.Pos = "?:", r.text.Pos(n.From)
		s.Values = append(s.Values, l)
	}
	r.expressions(cond, s, true)
	r.expressions(n.Child("consequence"), s, false)
	r.expressions(n.Child("alternative"), s, false)
}

// binary notes the decisions of operators that may leave their right side out.
func (r *reader) binary(n *tree.Node, s *flow.Stmt, tested bool) {
	if _, ok := tree.Operator(n); !ok {
		tested = false
	} else if !r.deciding[n] {
		if l := r.decides(n); l != nil && !r.isConstant(n) && l.Weaves() {
			s.Values = append(s.Values, l)
		}
	}
	r.expressions(n.Child("left"), s, tested)
	r.expressions(n.Child("right"), s, tested)
}

// decides reads a boolean expression.
func (r *reader) decides(n *tree.Node) *flow.Logic {
	if n == nil {
		return nil
	}
	l := &flow.Logic{Pos: r.text.Pos(tree.Bare(n).From)}
	l.Formula = r.formula(n, l)
	return l
}

// formula reads an expression and notes its conditions.
func (r *reader) formula(n *tree.Node, to *flow.Logic) *logic.Formula {
	n = tree.Bare(n)
	r.deciding[n] = true
	if x := n.Child("operand"); n.Kind == "unary_expression" && x != nil && r.text.Bytes[n.From] == '!' {
		return &logic.Formula{Op: logic.Not, X: r.formula(x, to)}
	}
	if op, ok := tree.Operator(n); ok {
		x := r.formula(n.Child("left"), to)
		return &logic.Formula{Op: op, X: x, Y: r.formula(n.Child("right"), to)}
	}
	c := flow.Condition{Pos: r.text.Pos(n.From), From: n.From, End: n.To, Text: flow.Caption(r.text.Bytes[n.From:n.To])}
	if n.Kind == "instanceof_expression" {
		c.Names = r.named(n)
	}
	to.Conditions = append(to.Conditions, c)
	return &logic.Formula{Op: logic.Leaf, Condition: len(to.Conditions) - 1}
}

// named reads a test for a type that gives the value a name.
func (r *reader) named(n *tree.Node) *flow.Naming {
	if n.Child("pattern") != nil {
		return &flow.Naming{}
	}
	value, t := n.Child("left"), n.Child("right")
	if n.Child("name") == nil || value == nil || t == nil {
		return nil
	}
	out := &flow.Naming{From: value.From, End: value.To}
	text := r.text.Word(t)
	if at := strings.IndexByte(text, '<'); at >= 0 {
		text = text[:at] + strings.TrimLeft(text[strings.LastIndexByte(text, '>')+1:], " \t\r\n")
	}
	if r.isTypeParameter(strings.TrimRight(text, "[] \t")) || t.Kind == "annotated_type" || strings.ContainsAny(text, "<>@\n\r") {
		return out
	}
	out.Type = text
	return out
}

func (r *reader) isTypeParameter(name string) bool {
	if r.fn.types[name] {
		return true
	}
	for c := r.class; c != nil; c = c.outer {
		if c.types[name] {
			return true
		}
	}
	return false
}

// firstOf gives, in an expression, the one that is worked out before all others and that
// can stand in the brackets of a call without another meaning: a variable, say, or a
// literal. Where nobody can tell, there is none.
func (r *reader) firstOf(n *tree.Node) *tree.Node {
	if n == nil {
		return nil
	}
	switch n.Kind {
	case "argument_list":
		for i := range n.Kids {
			if k := &n.Kids[i]; k.Named {
				return r.firstValue(k)
			}
		}
		return nil
	case "method_invocation":
		object, args := n.Child("object"), n.Child("arguments")
		switch {
		case object == nil, object.Kind == "this", object.Kind == "super":
			return r.firstOf(args)
		case object.Kind == "identifier" && r.local(object) != nil:
			return object
		case object.Kind == "identifier":
			return r.firstOf(args)
		case object.Kind == "field_access":
			return r.firstName(object, args)
		}
		return r.firstValue(object)
	case "field_access":
		if root := n.Child("object"); root != nil && root.Kind == "identifier" && r.local(root) != nil {
			return root
		} else if root != nil && root.Kind != "identifier" && root.Kind != "field_access" && root.Kind != "this" && root.Kind != "super" {
			return r.firstValue(root)
		}
		return nil
	case "binary_expression", "instanceof_expression":
		return r.firstValue(n.Child("left"))
	case "ternary_expression":
		return r.firstValue(n.Child("condition"))
	case "cast_expression":
		return r.firstValue(n.Child("value"))
	case "unary_expression":
		return r.firstValue(n.Child("operand"))
	case "array_access":
		return r.firstValue(n.Child("array"))
	case "parenthesized_expression":
		return r.firstValue(n.Only())
	}
	return nil
}

// firstName is as firstOf, for a call on what a name with dots stands for: a type, or
// fields of something.
func (r *reader) firstName(n, args *tree.Node) *tree.Node {
	for root := n; root != nil; root = root.Child("object") {
		switch root.Kind {
		case "field_access":
			if f := root.Child("field"); f == nil || f.Kind != "identifier" || len(root.Kids) != 3 {
				return nil
			}
			continue
		case "identifier":
			if r.local(root) != nil {
				return root
			}
		case "this":
			if n.Child("object") == root {
				return r.firstOf(args)
			}
			return nil
		default:
			return r.firstValue(root)
		}
		if namesType(strings.Split(r.text.Word(n), ".")) {
			return r.firstOf(args)
		}
		return nil
	}
	return nil
}

// namesType tells whether names are such as types have, or those of a variable of a type's:
// that can be had without anything being thrown.
func namesType(names []string) bool {
	for i, name := range names {
		upper := name != "" && name[0] >= 'A' && name[0] <= 'Z'
		if !upper && (i == 0 || i < len(names)-1) {
			return false
		}
	}
	return true
}

// firstValue is as firstOf, where the expression itself may do.
func (r *reader) firstValue(n *tree.Node) *tree.Node {
	if n == nil {
		return nil
	}
	switch n.Kind {
	case "identifier", "array_creation_expression", "class_literal", "null_literal":
		return n
	case "object_creation_expression":
		if t := n.Child("type"); t != nil && !strings.HasSuffix(strings.ReplaceAll(r.text.Word(t), " ", ""), "<>") {
			return n
		}
		return nil
	case "field_access":
		if o := n.Child("object"); o != nil && o.Kind == "this" && len(n.Kids) == 3 {
			return n
		}
	}
	if isLiteral(n) {
		return n
	}
	return r.firstOf(n)
}
