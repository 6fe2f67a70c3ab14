package cfamily

import (
	"bytes"

	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// takenDown says of a statement whose head declares objects that control may leave at its
// end, where they are taken down.
func (r *reader) takenDown(n *tree.Node, at int, is flow.Node) flow.Node {
	if !r.declaresInHead(n) {
		return is
	}
	return &flow.Nested{Stmt: flow.Stmt{At: at}, Body: &flow.Block{Open: at, Close: n.To, Nodes: []flow.Node{is}, Leaves: true}}
}

// declaresInHead tells whether the head of a statement declares objects, or one makes an
// object that it goes through.
func (r *reader) declaresInHead(n *tree.Node) bool {
	if n.Kind == "for_range_loop" {
		return r.isTakenDown(n) || !isPlace(n.Child("right"))
	}
	value, before := condition(n)
	for _, part := range []*tree.Node{value, before, n.Child("initializer")} {
		if part != nil && (r.isTakenDown(part) || r.declaresObjects(part)) {
			return true
		}
	}
	if e := n.Child("alternative"); e != nil {
		for i := range e.Kids {
			if k := &e.Kids[i]; k.Kind == "if_statement" && r.declaresInHead(k) {
				return true
			}
		}
	}
	return false
}

// declaresObjects tells whether a block declares what is taken down at its end.
func (r *reader) declaresObjects(n *tree.Node) bool {
	for i := range n.Kids {
		switch k := &n.Kids[i]; k.Kind {
		case "declaration":
			if r.isTakenDown(k) {
				return true
			}
		case "case_statement", "labeled_statement":
			if r.declaresObjects(k) {
				return true
			}
		}
	}
	return false
}

// isTakenDown tells whether code may run where the scope of a declaration ends: a destructor,
// of an object or of one that was made for a reference, or what the attribute cleanup names.
func (r *reader) isTakenDown(n *tree.Node) bool {
	if r.opt.Language == C {
		return bytes.Contains(r.text[n.From:n.To], []byte("cleanup"))
	}
	if t := n.Child("type"); t == nil || r.isNumber(t) {
		return false
	}
	if r.isObject(n) || r.refersTo(n) {
		return true
	}
	for i := range n.Kids {
		if k := &n.Kids[i]; k.Kind == "init_declarator" {
			if d := k.Child("declarator"); d != nil && d.Kind == "reference_declarator" && !isPlace(k.Child("value")) {
				return true
			}
		}
	}
	return false
}

// isPlace tells whether an expression names an object that is there anyway.
func isPlace(n *tree.Node) bool {
	if n == nil {
		return true
	}
	switch n.Kind {
	case "identifier", "qualified_identifier", "this", "field_expression", "subscript_expression", "pointer_expression", "number_literal", "string_literal":
		return true
	case "parenthesized_expression":
		return isPlace(n.Only())
	}
	return false
}

// declares tells whether the body of a switch itself declares anything after its first label.
func declares(body *tree.Node) bool {
	for i := range body.Kids {
		k := &body.Kids[i]
		if k.Kind != "case_statement" {
			continue
		}
		for j := range k.Kids {
			if k.Kids[j].Kind == "declaration" {
				return true
			}
		}
		if declares(k) {
			return true
		}
	}
	return false
}
