package script

import (
	"thrush/internal/core/logic"
	"thrush/internal/core/site"
	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// typeOnly are the kinds of nodes that are gone when a program runs.
var typeOnly = map[string]bool{
	"type_annotation": true, "type_arguments": true, "type_parameters": true, "type_predicate_annotation": true, "asserts_annotation": true,
	"implements_clause": true, "index_signature": true, "method_signature": true, "abstract_method_signature": true, "property_signature": true,
	"function_signature": true, "interface_declaration": true, "type_alias_declaration": true, "ambient_declaration": true,
}

// expressions notes what the expressions in a node hold: functions, and decisions about
// values. tested says that only whether it is true matters.
func (r *reader) expressions(n *tree.Node, s *flow.Stmt, tested bool) {
	if typeOnly[n.Kind] {
		return
	}
	if n.Kind == "call_expression" || n.Kind == "new_expression" {
		r.passes(n)
	}
	switch n.Kind {
	case "function_declaration", "generator_function_declaration", "function_expression", "generator_function", "arrow_function", "method_definition":
		r.function(n, r.passed[n.From], s)
		return
	case "class", "class_declaration", "abstract_class_declaration":
		r.class(n, s)
		return
	case "variable_declarator", "pair", "assignment_expression", "field_definition", "public_field_definition":
		if r.named(n, s) {
			return
		}
	case "class_static_block":
		if b := n.Child("body"); b != nil {
			block := r.block(b)
			block.Leaves = true
			s.Inner = append(s.Inner, block)
		}
		return
	case "binary_expression":
		r.binary(n, s, tested)
		return
	case "ternary_expression":
		if cond := n.Child("condition"); cond != nil && !isLiteral(cond) {
			l := r.decides(cond, false)
			l.Kind, l.Pos = "?:", r.text.Pos(n.From)
			if r.output {
				r.rewritten(n, l)
			}
			s.Values = append(s.Values, l)
			r.expressions(cond, s, true)
			r.expressions(n.Child("consequence"), s, false)
			r.expressions(n.Child("alternative"), s, false)
			return
		}
	case "unary_expression":
		if x := n.Child("argument"); x != nil && r.text.Bytes[n.From] == '!' {
			r.expressions(x, s, true)
			return
		}
	case "parenthesized_expression":
		if k := n.Only(); k != nil {
			r.expressions(k, s, tested)
			return
		}
	case "member_expression", "subscript_expression", "call_expression":
		r.chain(n, s)
	case "assignment_pattern", "object_assignment_pattern":
		r.fallback(n.Child("right"), "default", site.Default, s)
	case "required_parameter", "optional_parameter":
		if v := n.Child("value"); v != nil {
			r.fallback(v, "default", site.Default, s)
		}
	case "augmented_assignment_expression":
		if op := n.Child("operator"); op != nil && (op.Kind == "||=" || op.Kind == "&&=" || op.Kind == "??=") {
			r.fallback(n.Child("right"), op.Kind, site.Assigned, s)
		}
	case "extends_clause", "class_heritage":
	}
	for i := range n.Kids {
		if n.Kids[i].Named {
			r.expressions(&n.Kids[i], s, false)
		}
	}
}

// binary notes the decisions of operators that may leave their right side out.
func (r *reader) binary(n *tree.Node, s *flow.Stmt, tested bool) {
	op := n.Child("operator")
	left, right := n.Child("left"), n.Child("right")
	if op != nil && op.Kind == "??" {
		s.Picks = append(s.Picks, &flow.Pick{Kind: "??", Pos: r.text.Pos(n.From), From: left.From, End: left.To, There: site.FirstOperand, Missing: site.LastOperand})
		r.expressions(left, s, false)
		r.expressions(right, s, tested)
		return
	}
	if _, ok := tree.Operator(n); !ok {
		tested = false
	} else if !r.deciding[n] {
		s.Values = append(s.Values, r.value(n, !tested))
	}
	if left != nil {
		r.expressions(left, s, tested)
	}
	if right != nil {
		r.expressions(right, s, tested)
	}
}

// chain notes a link of an optional chain. A method that may be missing is called on its
// object, which cannot be set apart from it.
func (r *reader) chain(n *tree.Node, s *flow.Stmt) {
	if n.Child("optional_chain") == nil {
		return
	}
	object := n.Child("object")
	if n.Kind == "call_expression" {
		if object = n.Child("function"); object == nil || object.Kind != "identifier" || r.text.Word(object) == "eval" {
			return
		}
	}
	if object == nil || object.Kind == "super" {
		return
	}
	s.Picks = append(s.Picks, &flow.Pick{Kind: "?.", Pos: r.text.Pos(n.From), From: object.From, End: object.To, There: site.Present, Missing: site.Absent})
}

// fallback notes an expression that runs only if something else gave no value. That
// something did is nothing that runs.
func (r *reader) fallback(n *tree.Node, kind string, way site.Code, s *flow.Stmt) {
	if n != nil {
		s.Picks = append(s.Picks, &flow.Pick{Kind: kind, Pos: r.text.Pos(n.From), From: n.From, End: n.To, Missing: way})
	}
}

// bare is an expression without parentheses and without what is said of its type.
func bare(n *tree.Node) *tree.Node {
	for {
		switch n.Kind {
		case "parenthesized_expression":
			k := n.Only()
			if k == nil || k.Kind == "sequence_expression" {
				return n
			}
			n = k
		case "non_null_expression", "as_expression", "satisfies_expression":
			n = &n.Kids[0]
		default:
			return n
		}
	}
}

// decides reads a boolean expression; kept says that its value goes on as it is.
func (r *reader) decides(n *tree.Node, kept bool) *flow.Logic {
	l := &flow.Logic{Pos: r.text.Pos(bare(n).From)}
	l.Formula = r.formula(n, l, kept)
	return l
}

// value reads a boolean expression whose value is used. Where the truth of its last
// operand is fixed, as in name || "nobody", only what stands before it decides: which of
// the two is the value.
func (r *reader) value(n *tree.Node, kept bool) *flow.Logic {
	if !kept || !isFixed(n.Child("right")) {
		return r.decides(n, kept)
	}
	r.deciding[n] = true
	l := r.decides(n.Child("left"), kept)
	l.Pos = r.text.Pos(n.From)
	l.True, l.False = site.FirstOperand, site.LastOperand
	if op, _ := tree.Operator(n); op == logic.And {
		l.True, l.False = l.False, l.True
	}
	return l
}

// rewritten names a choice that tools write for ?? and ?. after these.
func (r *reader) rewritten(n *tree.Node, l *flow.Logic) {
	cond, then := bare(n.Child("condition")), bare(n.Child("consequence"))
	op, absent := "", ""
	if o := cond.Child("operator"); o != nil && cond.Kind == "binary_expression" {
		op = o.Kind
	}
	if op == "&&" || op == "||" {
		a, b := bare(cond.Child("left")), bare(cond.Child("right"))
		if a.Kind != "binary_expression" || b.Kind != "binary_expression" || !r.compares(a, "null") || !r.compares(b, "void 0") {
			return
		}
		absent = map[string]string{"&&!==": "no", "||===": "yes"}[op+a.Child("operator").Kind]
		if a.Child("operator").Kind != b.Child("operator").Kind {
			return
		}
	} else if cond.Kind == "binary_expression" && r.compares(cond, "null") {
		absent = map[string]string{"!=": "no", "==": "yes"}[op]
	}
	switch {
	case absent == "no":
		l.Kind, l.True, l.False = "??", site.FirstOperand, site.LastOperand
	case absent == "yes" && r.text.Word(then) == "void 0":
		l.Kind, l.True, l.False = "?.", site.Absent, site.Present
	}
}

// compares tells whether the right side of a comparison is a text.
func (r *reader) compares(n *tree.Node, with string) bool {
	right := n.Child("right")
	return right != nil && n.Child("operator") != nil && r.text.Word(bare(right)) == with
}

// isFixed tells whether the truth of an expression can be told by looking at it.
func isFixed(n *tree.Node) bool {
	switch n = bare(n); n.Kind {
	case "string", "template_string", "object", "array", "arrow_function", "function_expression", "class", "regex", "new_expression",
		"jsx_element", "jsx_self_closing_element":
		return true
	}
	return isLiteral(n)
}

// formula reads an expression and notes its conditions; kept says that its value goes on
// as it is.
func (r *reader) formula(n *tree.Node, to *flow.Logic, kept bool) *logic.Formula {
	n = bare(n)
	r.deciding[n] = true
	if x := n.Child("argument"); n.Kind == "unary_expression" && x != nil && r.text.Bytes[n.From] == '!' {
		return &logic.Formula{Op: logic.Not, X: r.formula(x, to, false)}
	}
	if op, ok := tree.Operator(n); ok {
		x := r.formula(n.Child("left"), to, kept)
		return &logic.Formula{Op: op, X: x, Y: r.formula(n.Child("right"), to, kept)}
	}
	to.Conditions = append(to.Conditions, flow.Condition{Pos: r.text.Pos(n.From), From: n.From, End: n.To, Text: flow.Caption(r.text.Bytes[n.From:n.To]), Kept: kept})
	return &logic.Formula{Op: logic.Leaf, Condition: len(to.Conditions) - 1}
}

// isLiteral tells whether an expression is a constant, so that there is nothing to
// decide.
func isLiteral(n *tree.Node) bool {
	switch n = bare(n); n.Kind {
	case "true", "false", "null", "undefined", "number":
		return true
	case "unary_expression":
		x := n.Child("argument")
		return x != nil && isLiteral(x)
	}
	return false
}

// isTrue tells whether the text of a constant is true.
func isTrue(word string) bool {
	switch word {
	case "false", "null", "undefined", "0", "!true", "!1", "void 0":
		return false
	}
	return true
}

// safe tells whether an expression cannot throw.
func (r *reader) safe(n *tree.Node) bool {
	if n == nil {
		return false
	}
	switch n = bare(n); n.Kind {
	case "true", "false", "null", "undefined", "number", "string", "regex", "arrow_function", "function_expression", "generator_function":
		return true
	case "identifier":
		return r.isLocal(n) || r.fn.params[r.text.Word(n)]
	case "update_expression":
		return r.reckons(n.Child("argument"))
	case "augmented_assignment_expression":
		op := n.Child("operator")
		return op != nil && op.Kind != "||=" && op.Kind != "&&=" && op.Kind != "??=" && r.reckons(n.Child("left")) && r.reckons(n.Child("right"))
	case "assignment_expression":
		left := n.Child("left")
		return left != nil && left.Kind == "identifier" && r.isLocal(left) && r.safe(n.Child("right"))
	case "array", "sequence_expression", "ternary_expression":
		for i := range n.Kids {
			if k := &n.Kids[i]; k.Named && (k.Kind == "spread_element" || !r.safe(k)) {
				return false
			}
		}
		return true
	case "object":
		return len(n.Kids) == 2
	}
	return !r.testLeaves(n)
}

// reckons tells whether a value can be had, and reckoned with or compared, without any
// code running or anything being thrown.
func (r *reader) reckons(n *tree.Node) bool {
	return n != nil && r.isPlain(n, r.fn.locals) && r.safe(n)
}

// isLocal tells whether a name stands for a variable of the function's that has a value.
func (r *reader) isLocal(n *tree.Node) bool {
	l, ok := r.fn.locals[r.text.Word(n)]
	return ok && l.from <= n.From && n.To <= l.to
}

// testLeaves tells whether control may leave while an expression is worked out. That it
// is asked for its truth does nothing.
func (r *reader) testLeaves(n *tree.Node) bool {
	switch n = bare(n); n.Kind {
	case "unary_expression":
		x, op := n.Child("argument"), n.Child("operator")
		if x == nil || op == nil {
			return true
		}
		return op.Kind != "typeof" && (op.Kind != "!" || r.testLeaves(x)) || op.Kind == "typeof" && x.Kind != "identifier"
	case "binary_expression":
		left, op, right := n.Child("left"), n.Child("operator"), n.Child("right")
		if left == nil || op == nil || right == nil {
			return true
		}
		switch op.Kind {
		case "===", "!==", "&&", "||", "??":
			return !r.safe(left) || !r.safe(right)
		case "in", "instanceof":
			return true
		}
		return !r.reckons(left) || !r.reckons(right)
	case "identifier", "true", "false", "null", "undefined", "number", "string":
		return !r.safe(n)
	}
	return true
}
