package script

import "thrush/internal/lang/tree"

// local is a variable of a function's own.
type local struct {
	from, to int // offsets between which it surely has a value
	// plain says that it never holds an object, a symbol or a big integer: reckoning with
	// it and comparing it run no code and do not throw.
	plain bool
}

// isFunction tells whether a node has a scope of its own for variables.
func isFunction(n *tree.Node) bool {
	switch n.Kind {
	case "function_declaration", "generator_function_declaration", "function_expression", "generator_function", "arrow_function", "method_definition", "class_static_block":
		return true
	}
	return false
}

// survey finds a function's variables before it is read. A name that stands for more than
// one thing is left out. What stands outside functions may be changed from elsewhere, so
// nothing is known of it.
func (r *reader) survey(f, body *tree.Node) map[string]local {
	s := &surveyor{reader: r, found: map[string]local{}, times: map[string]int{}, given: map[string][]*tree.Node{},
		odd: map[string]bool{}, fixed: map[string]bool{}, changed: map[string]bool{}}
	s.declared(body, body.To, false)
	f.Each(s.assigned)
	for name := range s.found {
		if s.times[name] > 1 || s.odd[name] || s.fixed[name] && s.changed[name] || s.unclear {
			delete(s.found, name)
		}
	}
	for changed := true; changed; {
		changed = false
		for name, l := range s.found {
			for _, e := range s.given[name] {
				if l.plain && !r.isPlain(e, s.found) {
					l.plain, changed = false, true
					s.found[name] = l
				}
			}
		}
	}
	return s.found
}

type surveyor struct {
	*reader
	found   map[string]local
	times   map[string]int          // how often a name is declared, in functions inside as well
	given   map[string][]*tree.Node // the expressions that a name is assigned
	odd     map[string]bool         // names that get values in ways that are not followed
	fixed   map[string]bool         // names of constants, and those that something changes
	changed map[string]bool
	unclear bool // code that is not to be seen may assign names
}

// declared notes what is declared in a function itself, up to the end of the block at
// hand; in the cases of a switch a declaration may be jumped over.
func (s *surveyor) declared(n *tree.Node, end int, skipped bool) {
	switch {
	case isFunction(n), n.Kind == "ambient_declaration", n.Kind == "internal_module":
		return
	case n.Kind == "statement_block" || n.Kind == "for_statement":
		end, skipped = n.To, false
	case n.Kind == "switch_body":
		skipped = true
	case n.Kind == "lexical_declaration" || n.Kind == "variable_declaration":
		for i := range n.Kids {
			name := n.Kids[i].Child("name")
			if n.Kids[i].Kind != "variable_declarator" || name == nil || name.Kind != "identifier" {
				continue
			}
			l := local{n.Kids[i].To, end, true}
			if n.Kind == "variable_declaration" {
				l.from, l.to = 0, len(s.text.Bytes)
			}
			if !skipped {
				s.found[s.text.Word(name)] = l
				s.fixed[s.text.Word(name)] = s.text.Bytes[n.From] == 'c'
			}
		}
	}
	for i := range n.Kids {
		s.declared(&n.Kids[i], end, skipped)
	}
}

// assigned notes what names are given, anywhere.
func (s *surveyor) assigned(n *tree.Node) bool {
	names := func(n *tree.Node) {
		n.Each(func(n *tree.Node) bool {
			if n.Kind == "identifier" || n.Kind == "shorthand_property_identifier_pattern" {
				s.odd[s.text.Word(n)] = true
			}
			return true
		})
	}
	switch n.Kind {
	case "variable_declarator":
		name := n.Child("name")
		if name.Kind != "identifier" {
			names(name)
			break
		}
		s.times[s.text.Word(name)]++
		if v := n.Child("value"); v != nil {
			s.given[s.text.Word(name)] = append(s.given[s.text.Word(name)], v)
		}
	case "assignment_expression":
		if left := n.Child("left"); left.Kind == "identifier" {
			s.changed[s.text.Word(left)] = true
			s.given[s.text.Word(left)] = append(s.given[s.text.Word(left)], n.Child("right"))
		} else if left.Kind != "member_expression" && left.Kind != "subscript_expression" {
			names(left)
		}
	case "augmented_assignment_expression":
		// Of a plain value and any other, only a plain one can be made.
		op := n.Child("operator")
		s.changed[s.text.Word(n.Child("left"))] = true
		if left := n.Child("left"); left.Kind == "identifier" && (op.Kind == "||=" || op.Kind == "&&=" || op.Kind == "??=") {
			s.given[s.text.Word(left)] = append(s.given[s.text.Word(left)], n.Child("right"))
		}
	case "update_expression":
		s.changed[s.text.Word(n.Child("argument"))] = true
	case "for_in_statement":
		if left := n.Child("left"); left != nil && left.Kind != "member_expression" && left.Kind != "subscript_expression" {
			names(left)
		}
	case "formal_parameters":
		names(n)
	case "arrow_function", "catch_clause":
		if p := n.Child("parameter"); p != nil {
			names(p)
		}
	case "function_declaration", "generator_function_declaration", "class_declaration", "function_expression", "class", "enum_declaration", "internal_module":
		if name := n.Child("name"); name != nil {
			names(name)
		}
	case "with_statement":
		s.unclear = true
	case "call_expression":
		if f := n.Child("function"); f != nil && s.text.Word(f) == "eval" {
			s.unclear = true
		}
	}
	return true
}

// isPlain tells whether a value surely is no object, symbol or big integer. Operators
// that reckon give such a value if one side is one: with a big integer on the other they
// throw.
func (r *reader) isPlain(n *tree.Node, locals map[string]local) bool {
	if n == nil {
		return false
	}
	switch n = bare(n); n.Kind {
	case "number":
		return r.text.Bytes[n.To-1] != 'n'
	case "string", "template_string", "true", "false", "null", "undefined":
		return true
	case "identifier":
		return locals[r.text.Word(n)].plain
	case "update_expression":
		x := n.Child("argument")
		return x != nil && r.isPlain(x, locals)
	case "unary_expression":
		op, x := n.Child("operator"), n.Child("argument")
		if op == nil || x == nil {
			return false
		}
		return op.Kind == "!" || op.Kind == "typeof" || op.Kind == "void" || op.Kind == "+" || (op.Kind == "-" || op.Kind == "~") && r.isPlain(x, locals)
	case "ternary_expression":
		return r.isPlain(n.Child("consequence"), locals) && r.isPlain(n.Child("alternative"), locals)
	case "binary_expression":
		op, left, right := n.Child("operator"), n.Child("left"), n.Child("right")
		if op == nil || left == nil || right == nil {
			return false
		}
		switch op.Kind {
		case "&&", "||", "??":
			return r.isPlain(left, locals) && r.isPlain(right, locals)
		case "==", "!=", "===", "!==", "<", ">", "<=", ">=", "in", "instanceof", ">>>":
			return true
		}
		return r.isPlain(left, locals) || r.isPlain(right, locals)
	}
	return false
}
