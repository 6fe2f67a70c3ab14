package script

import (
	"strings"

	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// named reads a function or class that gets its name from what it is assigned to.
func (r *reader) named(n *tree.Node, s *flow.Stmt) bool {
	v := n.Child("value")
	name := n.Child("name")
	for _, field := range []string{"key", "left", "property"} {
		if name == nil {
			name = n.Child(field)
		}
	}
	if v == nil {
		v = n.Child("right")
	}
	if v == nil || name == nil {
		return false
	}
	switch v.Kind {
	case "function_expression", "generator_function", "arrow_function":
		for i := range n.Kids {
			if k := &n.Kids[i]; k.Named && k.Field != "value" && k.Field != "right" {
				r.expressions(k, s, false)
			}
		}
		label := r.text.Word(name)
		if i := strings.LastIndexByte(label, '.'); name.Kind == "member_expression" && i >= 0 {
			label = label[i+1:]
		}
		r.function(v, strings.Trim(label, `"'`), s)
		return true
	}
	return false
}

func within(scope, name string) string {
	if scope == "" {
		return name
	}
	return scope + "." + name
}

// class reads a class: its methods are functions, and the rest of it runs at once or
// belongs to its constructor.
func (r *reader) class(n *tree.Node, s *flow.Stmt) {
	outer := r.fn
	name := "class"
	if c := n.Child("name"); c != nil {
		name = r.text.Word(c)
	}
	r.fn = &scope{name: within(outer.name, name), params: outer.params, locals: outer.locals}
	for i := range n.Kids {
		if k := &n.Kids[i]; k.Named && k.Field != "name" {
			r.expressions(k, s, false)
		}
	}
	r.fn = outer
}

// passes notes what functions without a name are passed to, by which they can be told apart:
// get("/fares/:name"), say.
func (r *reader) passes(n *tree.Node) {
	callee, args := n.Child("function"), n.Child("arguments")
	if callee == nil {
		callee = n.Child("constructor")
	}
	if callee == nil || args == nil {
		return
	}
	if p := callee.Child("property"); p != nil {
		callee = p
	}
	if callee.Kind != "identifier" && callee.Kind != "property_identifier" {
		return
	}
	name := r.text.Word(callee) + "("
	for i := range args.Kids {
		k := &args.Kids[i]
		if k.Named {
			if k.Kind == "string" {
				name += flow.Caption(r.text.Bytes[k.From:k.To]) + ", "
			}
			break
		}
	}
	for i := range args.Kids {
		if k := &args.Kids[i]; k.Kind == "arrow_function" || k.Kind == "function_expression" || k.Kind == "generator_function" {
			r.passed[k.From] = name + "…)"
		}
	}
}

// function reads a function and notes it.
func (r *reader) function(n *tree.Node, name string, s *flow.Stmt) {
	body := n.Child("body")
	if body == nil {
		return
	}
	if c := n.Child("name"); c != nil {
		name = strings.Trim(flow.Caption(r.text.Bytes[c.From:c.To]), `"'`)
	}
	if name == "" {
		name = "anonymous"
	}
	outer := r.fn
	r.fn = &scope{name: within(outer.name, name), params: r.parameters(n)}
	defer func() { r.fn = outer }()
	f := &flow.Function{Name: r.fn.name, Span: r.span(n), Constant: true}
	f.Hoisted = r.flow.Module && strings.HasSuffix(n.Kind, "function_declaration") && outer.name == ""
	r.flow.Hoists = r.flow.Hoists || f.Hoisted
	for _, field := range []string{"parameters", "parameter"} {
		if p := n.Child(field); p != nil {
			r.fn = outer
			r.expressions(p, s, false)
			r.fn = &scope{name: f.Name, params: r.parameters(n)}
		}
	}
	for i := range n.Kids {
		if k := &n.Kids[i]; k.Kind == "decorator" || k.Field == "name" && k.Kind == "computed_property_name" {
			r.expressions(k, s, false)
		}
	}
	r.fn.locals = r.survey(n, body)
	if body.Kind == "statement_block" {
		f.Body = r.block(body)
		for i := range body.Kids {
			if k := &body.Kids[i]; k.Named && !isDirective(k) {
				f.Body.Open = k.From
				break
			} else if k.Named {
				f.Body.Open = body.To - 1
			}
		}
		f.Body.Nodes = withoutDirectives(f.Body)
	} else {
		j := &flow.Jump{Stmt: flow.Stmt{At: body.From, Span: r.span(body), Counted: true}, Kind: flow.Away}
		j.Head = j.Span.End
		r.expressions(body, &j.Stmt, false)
		f.Body = &flow.Block{Open: body.From, Close: body.To, Bare: true, Nodes: []flow.Node{j}}
	}
	s.Literals = append(s.Literals, f)
}

// withoutDirectives are the statements of a body after those that speak to the engine.
func withoutDirectives(b *flow.Block) []flow.Node {
	for i, n := range b.Nodes {
		if p, ok := n.(*flow.Plain); !ok || p.At >= b.Open {
			return b.Nodes[i:]
		}
	}
	return nil
}

// parameters are the plain names of a function's parameters.
func (r *reader) parameters(n *tree.Node) map[string]bool {
	out := map[string]bool{}
	if p := n.Child("parameter"); p != nil && p.Kind == "identifier" {
		out[r.text.Word(p)] = true
	}
	if p := n.Child("parameters"); p != nil {
		for i := range p.Kids {
			k := &p.Kids[i]
			if pattern := k.Child("pattern"); pattern != nil {
				k = pattern
			}
			if k.Kind == "identifier" {
				out[r.text.Word(k)] = true
			}
		}
	}
	return out
}
