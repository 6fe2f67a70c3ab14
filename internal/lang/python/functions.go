package python

import (
	"thrush/internal/core/site"
	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// definition reads a function. Making it is no statement, unless decorators run then.
func (r *reader) definition(whole, n *tree.Node) []flow.Node {
	s := flow.Stmt{At: r.statementAt(n), Span: r.span(whole), Head: r.text.Pos(n.From), Counted: whole != n}
	for i := range whole.Kids {
		if whole.Kids[i].Kind == "decorator" {
			r.expressions(&whole.Kids[i], &s, false)
		}
	}
	if params := n.Child("parameters"); params != nil {
		r.expressions(params, &s, false)
	}
	if whole != n {
		r.flow.Blocks = append(r.flow.Blocks, site.Block{Line: s.Span.Start.Line, EndLine: s.Span.End.Line})
	}
	if f := r.function(n); f != nil {
		s.Literals = append(s.Literals, f)
	}
	return []flow.Node{&flow.Plain{Stmt: func() flow.Stmt { s.Leaves = true; return s }()}}
}

// class reads a class, whose body runs at once.
func (r *reader) class(whole, n *tree.Node) []flow.Node {
	body := n.Child("body")
	s := flow.Stmt{At: r.statementAt(n), Span: r.span(whole), Head: r.text.Pos(body.From), Counted: true, Leaves: true}
	for i := range whole.Kids {
		if whole.Kids[i].Kind == "decorator" {
			r.expressions(&whole.Kids[i], &s, false)
		}
	}
	if bases := n.Child("superclasses"); bases != nil {
		r.expressions(bases, &s, false)
	}
	outer := *r.fn
	r.fn.name, r.fn.targets = within(outer.name, r.text.Word(n.Child("name"))), nil
	b := r.block(n, body)
	b.Leaves = true
	r.fn.name, r.fn.targets = outer.name, outer.targets
	return []flow.Node{&flow.Plain{Stmt: s}, &flow.Nested{Stmt: flow.Stmt{At: s.At, Span: s.Span}, Body: b}}
}

func within(scope, name string) string {
	if scope == "" {
		return name
	}
	return scope + "." + name
}

// function reads the body of a function. One that holds nothing but its description, or
// an ellipsis, only declares something.
func (r *reader) function(n *tree.Node) *flow.Function {
	body := n.Child("body")
	name := within(r.fn.name, r.text.Word(n.Child("name")))
	outer := r.fn
	r.fn = &scope{name: name, params: r.parameters(n.Child("parameters"), body)}
	defer func() { r.fn = outer }()
	var first *tree.Node
	empty := true
	for i := range body.Kids {
		k := &body.Kids[i]
		if !k.Named || first == nil && isDocstring(k) && i == 0 {
			continue
		}
		if first == nil {
			first = k
		}
		empty = empty && k.Kind == "expression_statement" && len(k.Kids) == 1 && k.Kids[0].Kind == "ellipsis"
	}
	if empty {
		return nil
	}
	f := &flow.Function{Name: name, Span: r.span(n), Body: r.block(n, body)}
	f.Body.Open = r.opening(first)
	return f
}

// parameters are the names of a function's parameters, unless it deletes names.
func (r *reader) parameters(n, body *tree.Node) map[string]bool {
	deletes := false
	body.Each(func(n *tree.Node) bool {
		deletes = deletes || n.Kind == "delete_statement" || n.Kind == "as_pattern"
		return !deletes
	})
	if deletes || n == nil {
		return nil
	}
	out := map[string]bool{}
	for i := range n.Kids {
		k := &n.Kids[i]
		if name := k.Child("name"); name != nil {
			k = name
		} else if k.Kind == "typed_parameter" && len(k.Kids) > 0 {
			k = &k.Kids[0]
		}
		if k.Kind == "identifier" {
			out[r.text.Word(k)] = true
		}
	}
	return out
}
