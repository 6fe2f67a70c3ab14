package java

import (
	"strings"

	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// scope is what is known while the body of one function is read.
type scope struct {
	name    string
	types   map[string]bool // names of type parameters
	locals  []local
	targets flow.Targets // what breaks may lead out of, outermost first
}

// local is a variable of a function, from where it is declared to where it ends.
type local struct {
	name     string
	kind     kind
	constant bool
	from, to int
}

// kind is what is known of the type of a variable.
type kind uint8

const (
	unknown   kind = iota
	reference      // it may be null
	number         // a number or a character
	truth          // true or false
)

// kindOf tells the kind of a variable declared with a type.
func kindOf(name string, declarator *tree.Node) kind {
	if declarator.Child("dimensions") != nil {
		return reference
	}
	switch name {
	case "int", "long", "short", "byte", "char", "float", "double":
		return number
	case "boolean":
		return truth
	case "var":
		return unknown
	}
	return reference
}

// survey finds the variables that are declared in a function, but not in classes in it.
func (r *reader) survey(n *tree.Node) []local {
	var out []local
	var visit func(n *tree.Node, end int)
	add := func(id *tree.Node, k kind, constant bool, end int) {
		if id != nil {
			out = append(out, local{r.text.Word(id), k, constant, id.From, end})
		}
	}
	visit = func(n *tree.Node, end int) {
		switch n.Kind {
		case "class_body", "enum_body", "interface_body", "annotation_type_body":
			return
		case "block", "constructor_body", "for_statement", "enhanced_for_statement", "try_with_resources_statement", "catch_clause", "lambda_expression",
			"switch_block_statement_group", "switch_rule", "method_declaration", "constructor_declaration":
			end = n.To
		case "local_variable_declaration":
			for i := range n.Kids {
				if d := &n.Kids[i]; d.Field == "declarator" {
					v := d.Child("value")
					add(d.Child("name"), kindOf(r.text.Word(n.Child("type")), d), v != nil && r.isFinal(n) && r.isConstant(v), end)
				}
			}
		case "formal_parameter", "resource":
			if t := n.Child("type"); t != nil {
				add(n.Child("name"), kindOf(r.text.Word(t), n), false, end)
			}
		case "spread_parameter", "catch_formal_parameter":
			id := n.Child("name")
			if d := n.First("variable_declarator"); d != nil {
				id = d.Child("name")
			}
			add(id, reference, false, end)
		case "inferred_parameters":
			for i := range n.Kids {
				if n.Kids[i].Kind == "identifier" {
					add(&n.Kids[i], unknown, false, end)
				}
			}
		case "instanceof_expression":
			add(n.Child("name"), unknown, false, end)
		case "type_pattern", "record_pattern_component":
			if k := len(n.Kids); k > 1 {
				add(&n.Kids[k-1], unknown, false, end)
			}
		}
		if n.Kind == "enhanced_for_statement" {
			add(n.Child("name"), kindOf(r.text.Word(n.Child("type")), n), false, end)
		}
		if p := n.Child("parameters"); n.Kind == "lambda_expression" && p != nil && p.Kind == "identifier" {
			add(p, unknown, false, end)
		}
		for i := range n.Kids {
			visit(&n.Kids[i], end)
		}
	}
	visit(n, n.To)
	return out
}

// local gives the variable of the function that a name stands for, or nil.
func (r *reader) local(n *tree.Node) *local { return named(r.text.Word(n), n, r.fn.locals) }

// named gives the innermost variable of a name, of those that there are at a place, or nil.
func named(name string, n *tree.Node, among []local) *local {
	var found *local
	for i := range among {
		if l := &among[i]; l.name == name && l.from <= n.From && n.To <= l.to && (found == nil || found.from < l.from) {
			found = l
		}
	}
	return found
}

// isVariable tells whether a name surely is one of a variable.
func (r *reader) isVariable(n *tree.Node) bool {
	if r.local(n) != nil {
		return true
	}
	for c := r.class; c != nil; c = c.outer {
		if _, ok := c.fields[r.text.Word(n)]; ok {
			return true
		}
	}
	return false
}

// kind tells the kind of an expression that stands for a variable of the function or a
// field of the object or class at hand, so that it can be had without anything running.
func (r *reader) kind(n *tree.Node) (kind, bool) {
	id := n
	if n.Kind == "field_access" {
		if o := n.Child("object"); o == nil || o.Kind != "this" || len(n.Kids) != 3 {
			return unknown, false
		}
		id = n.Child("field")
	} else if l := r.local(n); n.Kind == "identifier" && l != nil {
		return l.kind, true
	}
	if id == nil || id.Kind != "identifier" || r.class == nil {
		return unknown, false
	}
	f, ok := r.class.fields[r.text.Word(id)]
	return f.kind, ok
}

// isConstant tells whether an expression may be a constant to the compiler. A name that
// nothing here declares may be one.
func (r *reader) isConstant(n *tree.Node) bool {
	switch n = tree.Bare(n); n.Kind {
	case "null_literal", "class_literal":
		return true
	case "identifier":
		if r.fn != nil {
			if l := r.local(n); l != nil {
				return l.constant
			}
		}
		for c := r.class; c != nil; c = c.outer {
			if f, ok := c.fields[r.text.Word(n)]; ok {
				return f.constant
			}
			if l := named(r.text.Word(n), n, c.around); l != nil {
				return l.constant
			}
		}
		return true
	case "field_access":
		root := n
		for root.Kind == "field_access" && root.Child("object") != nil {
			root = root.Child("object")
		}
		return root.Kind == "identifier" && !r.isVariable(root)
	case "binary_expression", "ternary_expression", "unary_expression", "cast_expression":
		for i := range n.Kids {
			if k := &n.Kids[i]; k.Named && k.Field != "type" && !r.isConstant(k) {
				return false
			}
		}
		return true
	}
	return isLiteral(n)
}

// isLiteral tells whether an expression is a value written out.
func isLiteral(n *tree.Node) bool {
	switch n.Kind {
	case "true", "false", "string_literal", "character_literal":
		return true
	}
	return strings.HasSuffix(n.Kind, "_literal") && n.Kind != "class_literal" && n.Kind != "null_literal"
}

// plain tells whether an expression is a number or a truth that can be had without anything
// running or being thrown.
func (r *reader) plain(n *tree.Node) bool {
	if n == nil {
		return false
	}
	switch n = tree.Bare(n); n.Kind {
	case "identifier", "field_access":
		k, ok := r.kind(n)
		return ok && k >= number
	case "unary_expression":
		return r.plain(n.Child("operand"))
	case "update_expression":
		return r.plain(n.Only())
	case "cast_expression":
		t := n.Child("type")
		return t != nil && kindOf(r.text.Word(t), n) >= number && r.plain(n.Child("value"))
	case "ternary_expression":
		return r.plain(n.Child("condition")) && r.plain(n.Child("consequence")) && r.plain(n.Child("alternative"))
	case "assignment_expression":
		return r.plain(n.Child("left")) && r.plain(n.Child("right")) && r.reckons(n)
	case "binary_expression":
		if left, right := n.Child("left"), n.Child("right"); isNull(left) && r.safe(right) || isNull(right) && r.safe(left) {
			return true
		}
		return r.plain(n.Child("left")) && r.plain(n.Child("right")) && r.reckons(n)
	}
	return isLiteral(n) && n.Kind != "string_literal"
}

func isNull(n *tree.Node) bool { return n != nil && n.Kind == "null_literal" }

// reckons tells whether an operation on numbers cannot throw: a division may.
func (r *reader) reckons(n *tree.Node) bool {
	op := n.Child("operator")
	if op == nil {
		return false
	}
	switch strings.TrimSuffix(op.Kind, "=") {
	case "/", "%":
		by := n.Child("right")
		return isLiteral(by) && strings.Trim(r.text.Word(by), "0xXbBlL_.") != ""
	}
	return true
}

// safe tells whether an expression cannot throw.
func (r *reader) safe(n *tree.Node) bool {
	if n == nil {
		return false
	}
	switch n = tree.Bare(n); n.Kind {
	case "identifier", "field_access":
		_, ok := r.kind(n)
		return ok
	case "null_literal", "this", "string_literal", "class_literal":
		return true
	case "assignment_expression":
		left, op := n.Child("left"), n.Child("operator")
		if k, ok := r.kind(left); !ok || k != reference || op.Kind != "=" {
			return r.plain(n)
		}
		return r.refers(n.Child("right"))
	}
	return r.plain(n)
}

// refers tells whether an expression is a reference, or null, that is there already.
func (r *reader) refers(n *tree.Node) bool {
	switch n = tree.Bare(n); n.Kind {
	case "identifier", "field_access":
		k, ok := r.kind(n)
		return ok && k == reference
	case "null_literal", "this", "string_literal", "class_literal":
		return true
	}
	return false
}
