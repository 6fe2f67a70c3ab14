package cfamily

import (
	"strings"

	"thrush/internal/lang/tree"
)

// kind is what is known of a variable in C++, where operators of objects are calls.
type kind uint8

const (
	unknown  kind = iota
	number        // an arithmetic type, an enumeration or a pointer
	pointer       // a pointer to numbers, or an array of them
	whatever      // declared in more than one way
)

// kinds are those of a function's variables.
type kinds map[string]kind

var numbers = map[string]bool{
	"size_t": true, "ssize_t": true, "ptrdiff_t": true, "intptr_t": true, "uintptr_t": true, "intmax_t": true, "uintmax_t": true,
	"int8_t": true, "int16_t": true, "int32_t": true, "int64_t": true, "uint8_t": true, "uint16_t": true, "uint32_t": true, "uint64_t": true,
}

func (r *reader) isNumber(t *tree.Node) bool {
	switch t.Kind {
	case "primitive_type", "sized_type_specifier":
		return true
	case "type_identifier", "qualified_identifier":
		return numbers[strings.TrimPrefix(r.squeezed(t), "std::")]
	}
	return false
}

// variables gathers what is known of a function's own variables.
func (r *reader) variables(n *tree.Node) kinds {
	if r.opt.Language == C {
		return nil
	}
	out := kinds{}
	note := func(name string, k kind) {
		if old, ok := out[name]; ok && old != k {
			k = whatever
		}
		out[name] = k
	}
	n.Each(func(n *tree.Node) bool {
		switch n.Kind {
		case "declaration", "parameter_declaration", "optional_parameter_declaration", "for_range_loop", "field_declaration":
			t := n.Child("type")
			for i := range n.Kids {
				if k := &n.Kids[i]; k.Field == "declarator" {
					r.declared(k, t != nil && r.isNumber(t), note)
				}
			}
		case "structured_binding_declarator", "lambda_capture_initializer":
			n.Each(func(n *tree.Node) bool {
				if n.Kind == "identifier" {
					note(string(r.text[n.From:n.To]), whatever)
				}
				return true
			})
		}
		return true
	})
	return out
}

func (r *reader) declared(n *tree.Node, ofNumbers bool, note func(string, kind)) {
	pointers := 0
	for {
		switch n.Kind {
		case "identifier", "field_identifier":
			k := whatever
			switch {
			case pointers == 0 && ofNumbers || pointers > 1:
				k = number
			case pointers == 1 && ofNumbers:
				k = pointer
			case pointers == 1:
				k = number
			}
			note(string(r.text[n.From:n.To]), k)
			return
		case "pointer_declarator", "array_declarator":
			pointers++
		case "init_declarator", "reference_declarator", "parenthesized_declarator":
		default:
			return
		}
		next := n.Child("declarator")
		if next == nil {
			next = n.Only()
		}
		if next == nil {
			return
		}
		n = next
	}
}

// harmless are calls that compilers answer, or that never leave.
var harmless = map[string]bool{
	"__builtin_expect": true, "__builtin_constant_p": true, "__builtin_object_size": true, "__builtin_clz": true, "__builtin_ctz": true,
	"__builtin_popcount": true, "__builtin_bswap16": true, "__builtin_bswap32": true, "__builtin_bswap64": true, "__builtin_va_arg": true,
	"__builtin_va_start": true, "__builtin_va_end": true, "__builtin_va_copy": true, "__builtin_clzll": true, "__builtin_ctzll": true,
	"static_cast": true, "reinterpret_cast": true, "const_cast": true,
}

// leaves tells whether control may leave while what a node holds is worked out: by a
// call, by what may be one, or by a fault.
func (r *reader) leaves(n *tree.Node) bool {
	if n == nil {
		return false
	}
	found := false
	n.Each(func(n *tree.Node) bool {
		if found || unevaluated[n.Kind] || n.Kind == "function_definition" {
			return false
		}
		found = r.mayLeave(n)
		return !found && n.Kind != "lambda_expression"
	})
	return found
}

func (r *reader) mayLeave(n *tree.Node) bool {
	switch n.Kind {
	case "call_expression":
		return !r.isHarmless(n)
	case "return_statement", "goto_statement", "break_statement", "continue_statement", "co_return_statement", "labeled_statement":
		return true // in a block that stands in an expression
	case "new_expression", "delete_expression", "co_await_expression", "co_yield_statement", "throw_statement", "gnu_asm_expression", "user_defined_literal":
		return true
	case "pointer_expression":
		if op := n.Child("operator"); op == nil || op.Kind != "*" {
			return false
		}
		return r.opt.Faults || r.calls(n)
	case "subscript_expression":
		return r.opt.Faults || r.calls(n)
	case "field_expression":
		return n.First("->") != nil && (r.opt.Faults || r.converts(n.Child("argument")))
	case "binary_expression":
		op := n.Child("operator")
		return r.opt.Faults && op != nil && (op.Kind == "/" || op.Kind == "%") || r.calls(n)
	case "assignment_expression":
		op := n.Child("operator")
		return r.opt.Faults && op != nil && (op.Kind == "/=" || op.Kind == "%=") || r.calls(n)
	case "unary_expression", "update_expression", "compound_literal_expression":
		return r.calls(n)
	case "init_declarator":
		return r.converts(n.Child("value"))
	case "declaration":
		return r.opt.Language == CPP && (r.isObject(n) || r.refersTo(n))
	case "lambda_expression":
		return true
	}
	return false
}

// refersTo tells whether a declaration may make the object that a reference of it is bound
// to, by a constructor of the type that it names.
func (r *reader) refersTo(n *tree.Node) bool {
	t := n.Child("type")
	if t == nil || r.isNumber(t) || t.Kind == "placeholder_type_specifier" || t.Kind == "auto" || t.Kind == "decltype" {
		return false
	}
	for i := range n.Kids {
		if k := &n.Kids[i]; k.Kind == "init_declarator" {
			if d := k.Child("declarator"); d != nil && d.Kind == "reference_declarator" {
				return true
			}
		}
	}
	return false
}

func (r *reader) isHarmless(n *tree.Node) bool {
	f := n.Child("function")
	if f == nil {
		return false
	}
	name, _, _ := strings.Cut(string(r.text[f.From:f.To]), "<")
	return harmless[strings.TrimSpace(name)]
}

// calls tells whether an operator may be a call, since its operand may be an object.
func (r *reader) calls(n *tree.Node) bool {
	if r.opt.Language == C || n == nil {
		return false
	}
	for i := range n.Kids {
		if k := &n.Kids[i]; k.Named && r.kindOf(k) == unknown {
			return true
		}
	}
	return !n.Named
}

// converts tells whether using a value may call, since it may be an object.
func (r *reader) converts(n *tree.Node) bool {
	return r.opt.Language == CPP && n != nil && r.kindOf(n) == unknown
}

// kindOf is what is known of an expression.
func (r *reader) kindOf(n *tree.Node) kind {
	switch n.Kind {
	case "number_literal", "char_literal", "true", "false", "null", "this", "sizeof_expression", "alignof_expression", "cast_type", "string_literal", "concatenated_string":
		return number
	case "type_descriptor", "template_argument_list":
		return number
	case "identifier":
		if k := r.fn.plain[string(r.text[n.From:n.To])]; k == number || k == pointer {
			return k
		}
	case "parenthesized_expression":
		if k := n.Only(); k != nil {
			return r.kindOf(k)
		}
	case "pointer_expression":
		a, op := n.Child("argument"), n.Child("operator")
		if a != nil && op != nil && (op.Kind == "&" && r.kindOf(a) != unknown || op.Kind == "*" && r.kindOf(a) == pointer) {
			return number
		}
	case "subscript_expression":
		if a := n.Child("argument"); a != nil && r.kindOf(a) == pointer {
			return number
		}
	case "binary_expression", "unary_expression", "update_expression", "assignment_expression", "conditional_expression":
		out := number
		for i := range n.Kids {
			if k := &n.Kids[i]; k.Named {
				switch r.kindOf(k) {
				case unknown, whatever:
					return unknown
				case pointer:
					out = pointer
				}
			}
		}
		return out
	case "cast_expression":
		if t := n.Child("type"); t != nil && len(t.Kids) == 1 && r.isNumber(&t.Kids[0]) {
			return number
		}
	case "call_expression":
		f := n.Child("function")
		if f != nil && r.isHarmless(n) && f.Kind == "template_function" {
			if args := f.Child("arguments"); args != nil {
				if t := args.Only(); t != nil && len(t.Kids) == 1 && r.isNumber(&t.Kids[0]) {
					return number
				}
			}
		}
	}
	return unknown
}
