package cfamily

import (
	"strings"

	"thrush/internal/core/logic"
	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// asksCompiler tells whether an if asks if the compiler is working the function out, and
// whether it asks the opposite.
func (r *reader) asksCompiler(n *tree.Node) (asks, not bool) {
	then := n.Child("consequence")
	if r.opt.Language == C || then == nil {
		return false, false
	}
	if value, _ := condition(n); value == nil || value.To-value.From > 3 {
		return false, false
	}
	head := string(r.text[n.From:then.From])
	return hasWord(head, "consteval"), hasWord(head, "not", "!")
}

// running reads what of such an if runs when the program does. The rest is the compiler's,
// and no code.
func (r *reader) running(n *tree.Node, at int, not bool) flow.Node {
	then := n.Child("consequence")
	if not {
		return &flow.Nested{Stmt: flow.Stmt{At: at, Span: r.place.span(n)}, Body: r.under(n, then)}
	}
	if e := n.Child("alternative"); e != nil {
		for i := range e.Kids {
			if k := &e.Kids[i]; k.Named {
				return &flow.Nested{Stmt: flow.Stmt{At: at, Span: r.place.span(n)}, Body: r.under(e, k)}
			}
		}
	}
	return &flow.Plain{Stmt: flow.Stmt{At: at, Span: r.place.span(n), Head: r.place.end(n.To)}}
}

// isLiteral tells whether an expression is a number or a boolean word, so that there
// is nothing to decide.
func isLiteral(n *tree.Node) bool {
	for n != nil {
		switch n.Kind {
		case "number_literal", "true", "false":
			return true
		case "parenthesized_expression", "unary_expression":
			var inner *tree.Node
			for i := range n.Kids {
				if n.Kids[i].Named {
					inner = &n.Kids[i]
				}
			}
			if inner == nil {
				return false
			}
			n = inner
		default:
			return false
		}
	}
	return false
}

// isTrue tells whether the text of a literal, maybe negated, is true.
func isTrue(text []byte) bool {
	value := true
	for _, c := range text {
		switch {
		case c == '!':
			value = !value
		case c == 'f' || c == '0':
			return !value
		case isWord(c):
			return value
		}
	}
	return value
}

// decides reads a boolean expression that leads a statement.
func (r *reader) decides(n *tree.Node) *flow.Logic {
	if n == nil {
		return nil
	}
	l := &flow.Logic{Pos: r.place.start(n.From)}
	l.Formula = r.formula(n, l)
	return l
}

// formula reads an expression and notes its conditions.
func (r *reader) formula(n *tree.Node, to *flow.Logic) *logic.Formula {
	r.deciding[n] = true
	switch n.Kind {
	case "parenthesized_expression", "extension_expression":
		if k := n.Only(); k != nil && k.Kind != "compound_statement" {
			return r.formula(k, to)
		}
	case "comma_expression":
		if k := n.Child("right"); k != nil {
			return r.formula(k, to)
		}
	case "unary_expression":
		if x, op := n.Child("argument"), n.Child("operator"); x != nil && op != nil && (op.Kind == "!" || op.Kind == "not") && !r.fromSystem(op) {
			return &logic.Formula{Op: logic.Not, X: r.formula(x, to)}
		}
	case "binary_expression":
		if op, ok := r.operator(n); ok {
			x := r.formula(n.Child("left"), to)
			return &logic.Formula{Op: op, X: x, Y: r.formula(n.Child("right"), to)}
		}
	case "call_expression":
		if x := r.expected(n); x != nil {
			return r.formula(x, to)
		}
	}
	c := flow.Condition{Pos: r.place.start(n.From), From: n.From, End: n.To}
	c.Text = flow.Caption(r.place.written(n.From, n.To))
	to.Conditions = append(to.Conditions, c)
	return &logic.Formula{Op: logic.Leaf, Condition: len(to.Conditions) - 1}
}

// fromSystem tells whether the project's file did not write a mark itself.
func (r *reader) fromSystem(n *tree.Node) bool {
	return r.hidden || r.place.system(n.From) || r.place.file(n.From) != r.fn.file
}

// operator tells which boolean operator an expression has, if the project wrote it.
func (r *reader) operator(n *tree.Node) (logic.Op, bool) {
	op := n.Child("operator")
	if op == nil || n.Child("left") == nil || n.Child("right") == nil || r.fromSystem(op) {
		return 0, false
	}
	switch op.Kind {
	case "&&", "and":
		return logic.And, true
	case "||", "or":
		return logic.Or, true
	}
	return 0, false
}

// expected gives the expression that a hint to the compiler is about.
func (r *reader) expected(n *tree.Node) *tree.Node {
	f, args := n.Child("function"), n.Child("arguments")
	if f == nil || args == nil || !strings.HasPrefix(string(r.text[f.From:f.To]), "__builtin_expect") {
		return nil
	}
	for i := range args.Kids {
		if args.Kids[i].Named {
			return &args.Kids[i]
		}
	}
	return nil
}
