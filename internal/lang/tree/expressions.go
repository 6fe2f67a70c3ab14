package tree

import "thrush/internal/core/logic"

// Bare is an expression without the parentheses around it.
func Bare(n *Node) *Node {
	for n.Kind == "parenthesized_expression" {
		k := n.Only()
		if k == nil {
			return n
		}
		n = k
	}
	return n
}

// Operator tells whether an expression is && or ||, as grammars of languages like C have them.
func Operator(n *Node) (op logic.Op, ok bool) {
	sign := n.Child("operator")
	if n.Kind != "binary_expression" || sign == nil {
		return 0, false
	}
	switch sign.Kind {
	case "&&":
		return logic.And, true
	case "||":
		return logic.Or, true
	}
	return 0, false
}
