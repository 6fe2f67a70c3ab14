package cfamily

import (
	"slices"

	"thrush/internal/lang/tree"
)

// In C++ the text `T a(n);` declares an object that is made from n, or a function that
// takes an n, by what n names: a value or a type (the grammar's famous ambiguity, ISO C++
// [dcl.ambig.res]). A grammar without names takes it for a function. In a function's body
// it is nearly always an object, and it is read as one unless what is known says otherwise.

// names is what is known of the names of a text so far.
type names struct {
	types, values map[string]bool // a name may be in both
}

// learn notes the types and values that a node declares.
func (k *names) learn(r *reader, n *tree.Node) {
	n.Each(func(n *tree.Node) bool {
		switch n.Kind {
		case "class_specifier", "struct_specifier", "union_specifier", "enum_specifier", "alias_declaration", "type_parameter_declaration",
			"optional_type_parameter_declaration", "variadic_type_parameter_declaration":
			name := n.Child("name")
			if name == nil {
				name = n.First("type_identifier")
			}
			if name != nil {
				k.types[string(r.text[name.From:name.To])] = true
			}
		case "type_definition":
			for i := range n.Kids {
				if d := &n.Kids[i]; d.Field == "declarator" {
					k.types[declaredName(r, d)] = true
				}
			}
		case "declaration", "field_declaration", "parameter_declaration", "optional_parameter_declaration", "enumerator", "init_declarator", "for_range_loop", "structured_binding_declarator":
			for i := range n.Kids {
				if d := &n.Kids[i]; d.Field == "declarator" || d.Field == "name" || d.Kind == "identifier" {
					k.values[declaredName(r, d)] = true
				}
			}
		}
		return true
	})
}

// declaredName is the name inside a declarator, or empty.
func declaredName(r *reader, n *tree.Node) string {
	for n != nil {
		switch n.Kind {
		case "identifier", "field_identifier", "type_identifier":
			return string(r.text[n.From:n.To])
		}
		next := n.Child("declarator")
		if next == nil {
			next = n.Only()
		}
		n = next
	}
	return ""
}

// objects gives the offsets of the parentheses, in pairs, that stand in the bodies of
// functions, seem to hold parameters, and hold values.
func (r *reader) objects(n *tree.Node) (pairs []int) {
	if r.opt.Language != CPP {
		return nil
	}
	r.names.learn(r, n)
	var visit func(n *tree.Node, inBody bool)
	visit = func(n *tree.Node, inBody bool) {
		switch n.Kind {
		case "compound_statement":
			inBody = true
		case "class_specifier", "struct_specifier", "union_specifier":
			inBody = false
		case "declaration":
			if inBody {
				pairs = append(pairs, r.made(n)...)
			}
		}
		for i := range n.Kids {
			visit(&n.Kids[i], inBody)
		}
	}
	visit(n, false)
	return pairs
}

// made gives the parentheses of a declaration that hold values.
func (r *reader) made(n *tree.Node) (pairs []int) {
	t := n.Child("type")
	if t == nil || string(r.text[t.From:t.To]) == "void" || hasWord(string(r.text[n.From:t.From]), "extern", "typedef", "friend") {
		return nil
	}
	for i := range n.Kids {
		d := &n.Kids[i]
		if d.Field != "declarator" || d.Kind != "function_declarator" {
			continue
		}
		name, list := d.Child("declarator"), d.Child("parameters")
		if name == nil || name.Kind != "identifier" || list == nil || list.To != d.To || !r.holdsValues(list) {
			continue
		}
		pairs = append(pairs, list.From, list.To-1)
	}
	return pairs
}

// holdsValues tells whether what looks like parameters are values.
func (r *reader) holdsValues(list *tree.Node) bool {
	any := false
	for i := range list.Kids {
		k := &list.Kids[i]
		if !k.Named {
			if k.Kind == "..." {
				return false
			}
			continue
		}
		if any = true; k.Kind != "parameter_declaration" || !r.isValue(k) {
			return false
		}
	}
	return any
}

// isValue tells whether what looks like the declaration of a parameter is a value.
func (r *reader) isValue(n *tree.Node) bool {
	t, d := n.Child("type"), n.Child("declarator")
	if t == nil {
		return false
	}
	for i := range n.Kids {
		if k := &n.Kids[i]; k.Named && k != t && k != d {
			return false // it is const, or such
		}
	}
	word := string(r.text[t.From:t.To])
	switch t.Kind {
	case "type_identifier":
		if r.names.types[word] && !r.names.values[word] || numbers[word] {
			return false
		}
	case "qualified_identifier":
		last := t
		for last.Child("name") != nil {
			last = last.Child("name")
		}
		// What has arguments for a template is a type, unless it is called.
		if last.Kind != "type_identifier" && last.Kind != "identifier" && (d == nil || d.Kind != "abstract_function_declarator") ||
			r.names.types[string(r.text[last.From:last.To])] || numbers[string(r.text[last.From:last.To])] || slices.Contains(standardTypes, word) {
			return false
		}
	case "template_type", "dependent_type":
		if d == nil || d.Kind != "abstract_function_declarator" {
			return false
		}
	default:
		return false
	}
	if d == nil {
		return true
	}
	switch d.Kind {
	case "abstract_function_declarator", "abstract_array_declarator", "function_declarator", "array_declarator", "abstract_parenthesized_declarator", "parenthesized_declarator":
		return true
	case "pointer_declarator", "reference_declarator":
		return r.names.values[word] // a * b, a & b, a && b
	}
	return false
}

// standardTypes are the commonest of the library's that parameters have.
var standardTypes = []string{"std::string", "std::string_view", "std::ostream", "std::istream", "std::size_t", "std::nullptr_t", "std::exception", "std::wstring", "std::byte", "std::thread", "std::mutex"}
