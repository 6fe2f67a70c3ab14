package python

import (
	"thrush/internal/core/logic"
	"thrush/internal/core/site"
	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// expressions notes what the expressions in a node hold: function literals, and
// decisions about values. tested says that only whether it is true matters.
func (r *reader) expressions(n *tree.Node, s *flow.Stmt, tested bool) {
	switch n.Kind {
	case "lambda":
		r.lambda(n, s)
		return
	case "block", "type", "type_parameter", "interpolation", "format_specifier":
		// The interpreter gives no usable places for what stands in a string.
		return
	case "boolean_operator":
		if !r.deciding[n] {
			s.Values = append(s.Values, r.value(n, !tested))
		}
	case "conditional_expression":
		if cond := part(n, 1); cond != nil && !isLiteral(cond) {
			l := r.decides(cond, false)
			l.Kind, l.Pos = "if else", r.text.Pos(n.From)
			s.Values = append(s.Values, l)
			r.expressions(part(n, 0), s, false)
			r.expressions(cond, s, true)
			r.expressions(part(n, 2), s, false)
			return
		}
	case "if_clause":
		if cond := n.Only(); cond != nil && !isLiteral(cond) {
			l := r.decides(cond, false)
			l.Kind = "filter"
			s.Values = append(s.Values, l)
			r.expressions(cond, s, true)
			return
		}
	case "parenthesized_expression":
		if k := n.Only(); k != nil {
			r.expressions(k, s, tested)
			return
		}
	case "not_operator":
		if k := n.Child("argument"); k != nil {
			r.expressions(k, s, true)
			return
		}
	}
	for i := range n.Kids {
		r.expressions(&n.Kids[i], s, n.Kind == "boolean_operator" && tested)
	}
}

// lambda reads a function that is an expression.
func (r *reader) lambda(n *tree.Node, s *flow.Stmt) {
	body := n.Child("body")
	if p := n.Child("parameters"); p != nil {
		r.expressions(p, s, false)
	}
	e := tree.Bare(body)
	at := r.expressionAt(e)
	outer := r.fn
	r.fn = &scope{name: within(outer.name, "lambda")}
	f := &flow.Function{Name: r.fn.name, Span: r.span(n)}
	j := &flow.Jump{Stmt: flow.Stmt{At: at, Span: r.span(e), Counted: true}}
	j.Head = j.Span.End
	r.expressions(body, &j.Stmt, false)
	f.Body = &flow.Block{Open: at, Close: at, Nodes: []flow.Node{j}}
	r.fn = outer
	s.Literals = append(s.Literals, f)
}

// part is a named child of a node, counted from 0.
func part(n *tree.Node, i int) *tree.Node {
	for k := range n.Kids {
		if n.Kids[k].Named {
			if i == 0 {
				return &n.Kids[k]
			}
			i--
		}
	}
	return nil
}

// decides reads a boolean expression; kept says that its value goes on as it is.
func (r *reader) decides(n *tree.Node, kept bool) *flow.Logic {
	l := &flow.Logic{Pos: r.text.Pos(tree.Bare(n).From)}
	l.Formula = r.formula(n, l, kept)
	return l
}

// value reads a boolean expression whose value is used. Where the truth of its last
// operand is fixed, as in name or "nobody", only what stands before it decides: which of
// the two is the value.
func (r *reader) value(n *tree.Node, kept bool) *flow.Logic {
	right, op := n.Child("right"), n.Child("operator")
	if !kept || right == nil || op == nil || !isFixed(right) {
		return r.decides(n, kept)
	}
	r.deciding[n] = true
	l := r.decides(n.Child("left"), kept)
	l.Pos = r.text.Pos(n.From)
	l.True, l.False = site.FirstOperand, site.LastOperand
	if op.Kind == "and" {
		l.True, l.False = l.False, l.True
	}
	return l
}

// isFixed tells whether the truth of an expression can be told by looking at it.
func isFixed(n *tree.Node) bool {
	switch n = tree.Bare(n); n.Kind {
	case "string", "concatenated_string", "list", "dictionary", "tuple", "set", "lambda", "float", "ellipsis":
		return true
	case "unary_operator":
		return n.Child("argument") != nil && isFixed(n.Child("argument"))
	}
	return isLiteral(n)
}

// formula reads an expression and notes its conditions; kept says that its value goes on
// as it is.
func (r *reader) formula(n *tree.Node, to *flow.Logic, kept bool) *logic.Formula {
	n = tree.Bare(n)
	r.deciding[n] = true
	switch n.Kind {
	case "not_operator":
		if x := n.Child("argument"); x != nil {
			return &logic.Formula{Op: logic.Not, X: r.formula(x, to, false)}
		}
	case "boolean_operator":
		op := logic.And
		if o := n.Child("operator"); o != nil && o.Kind == "or" {
			op = logic.Or
		}
		x := r.formula(n.Child("left"), to, kept)
		return &logic.Formula{Op: op, X: x, Y: r.formula(n.Child("right"), to, kept)}
	}
	at := r.expressionAt(n)
	to.Conditions = append(to.Conditions, flow.Condition{Pos: r.text.Pos(n.From), From: at, End: at, Text: flow.Caption(r.text.Bytes[n.From:n.To]), Kept: kept})
	return &logic.Formula{Op: logic.Leaf, Condition: len(to.Conditions) - 1}
}

// isLiteral tells whether an expression is a constant, so that there is nothing to
// decide.
func isLiteral(n *tree.Node) bool {
	switch n = tree.Bare(n); n.Kind {
	case "true", "false", "none", "integer":
		return true
	case "not_operator":
		return n.Child("argument") != nil && isLiteral(n.Child("argument"))
	}
	return false
}

// isTrue tells whether the text of a constant is true.
func isTrue(word string) bool {
	switch word {
	case "False", "None", "0", "not True", "not 1":
		return false
	}
	return true
}

// isTypeOnly tells whether a condition holds for type checkers alone.
func (r *reader) isTypeOnly(n *tree.Node) bool {
	switch n = tree.Bare(n); n.Kind {
	case "identifier":
		return r.text.Word(n) == "TYPE_CHECKING"
	case "attribute":
		a := n.Child("attribute")
		return a != nil && r.text.Word(a) == "TYPE_CHECKING"
	}
	return false
}

// leaves tells whether control may leave while a statement that is an expression runs.
// In Python nearly everything may raise.
func (r *reader) leaves(n *tree.Node) bool {
	e := n.Only()
	if e == nil {
		return true
	}
	if e.Kind != "assignment" {
		return !r.safe(e)
	}
	left, right := e.Child("left"), e.Child("right")
	return left == nil || left.Kind != "identifier" || right == nil || !r.safe(right)
}

// safe tells whether an expression cannot raise.
func (r *reader) safe(n *tree.Node) bool {
	switch n = tree.Bare(n); n.Kind {
	case "true", "false", "none", "integer", "float", "ellipsis", "lambda":
		return true
	case "string":
		return n.First("interpolation") == nil
	case "identifier":
		return r.fn.params[r.text.Word(n)]
	case "tuple", "list", "expression_list", "conditional_expression":
		if n.Kind == "conditional_expression" && r.testLeaves(part(n, 1)) {
			return false
		}
		for i := range n.Kids {
			if n.Kids[i].Named && !r.safe(&n.Kids[i]) {
				return false
			}
		}
		return true
	case "dictionary":
		return len(n.Kids) == 2
	}
	return !r.testLeaves(n)
}

// testLeaves tells whether control may leave while an expression is worked out and
// asked for its truth.
func (r *reader) testLeaves(n *tree.Node) bool {
	switch n = tree.Bare(n); n.Kind {
	case "true", "false", "none", "integer":
		return false
	case "not_operator":
		return n.Child("argument") == nil || r.testLeaves(n.Child("argument"))
	case "boolean_operator":
		return r.testLeaves(n.Child("left")) || r.testLeaves(n.Child("right"))
	case "comparison_operator":
		for i := range n.Kids {
			switch k := &n.Kids[i]; {
			case k.Named && !r.safe(k), !k.Named && k.Kind != "is" && k.Kind != "is not":
				return true
			}
		}
		return false
	}
	return true
}
