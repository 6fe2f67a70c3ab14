package cfamily

import (
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// function reads a function with a body.
func (r *reader) function(n *tree.Node, scope string) *flow.Function {
	body, handlers := bodyOf(n)
	if body == nil {
		return nil
	}
	r.bodies[body.From] = true
	for _, h := range handlers {
		r.bodies[h.From] = true
	}
	name := within(scope, r.nameOf(n))
	head := string(r.text[n.From:body.From])
	constant := hasWord(head, "constexpr")
	if hasWord(head, "consteval") {
		return nil // it never runs
	}
	why := ""
	switch {
	case body.Broken():
		why = unreadable
	case strings.Contains(head, "naked"):
		why = "it is naked: it may hold nothing but assembly"
	case constant && !r.opt.Constant:
		why = "in C++ before 2014 no probe can stand in a constexpr function"
	}
	shared := r.opt.Language == C && hasWord(head, "inline", "__inline", "__inline__") && !hasWord(head, "static")
	for _, h := range handlers {
		if h.Broken() {
			why = unreadable
		}
	}
	return r.body(n, body, handlers, name, constant, shared, why)
}

// bodyOf gives the body of a function, and the handlers of what is thrown in all of it.
func bodyOf(n *tree.Node) (body *tree.Node, handlers []*tree.Node) {
	body = n.Child("body")
	tried := body
	if body == nil {
		tried = n.First("try_statement")
	}
	if tried == nil {
		tried = n.First("constructor_try_statement")
	}
	if tried != nil && (tried.Kind == "try_statement" || tried.Kind == "constructor_try_statement") {
		body = tried.First("compound_statement")
		for i := range tried.Kids {
			if k := &tried.Kids[i]; k.Kind == "catch_clause" {
				if b := k.Child("body"); b != nil {
					handlers = append(handlers, b)
				}
			}
		}
	}
	if body == nil || len(body.Kids) == 0 || body.Kind != "compound_statement" {
		return nil, nil
	}
	return body, handlers
}

// lambda reads a function literal that stands outside functions, or in one.
func (r *reader) lambda(n *tree.Node, scope string) *flow.Function {
	body := n.Child("body")
	if body == nil || body.Kind != "compound_statement" {
		return nil
	}
	r.bodies[body.From] = true
	why := ""
	if body.Broken() {
		why = unreadable
	}
	return r.body(n, body, nil, within(scope, "lambda"), r.opt.Constant, false, why)
}

// body reads the body of a function, and keeps the function if it stands outside
// others.
func (r *reader) body(n, body *tree.Node, handlers []*tree.Node, name string, constant, shared bool, why string) *flow.Function {
	i := r.place.file(body.From)
	if i < 0 && r.place.context(body.From) {
		r.actions(body, name)
		return nil
	}
	if i < 0 || r.place.system(body.From) {
		return nil
	}
	if r.place.file(body.To-1) != i || r.place.file(n.From) != i {
		why = "its text is in more than one file"
	}
	f := r.files[i]
	if why != "" {
		f.Unread = append(f.Unread, Unread{Line: r.place.start(n.From).Line, Name: name, Why: why})
		return nil
	}
	f.Shared = f.Shared || shared
	outer, hidden, deciding := r.fn, r.hidden, r.deciding
	r.fn = &scope{name: name, file: i, labels: map[string]*flow.Label{}}
	r.hidden, r.deciding = false, map[*tree.Node]bool{}
	r.survey(n, body)
	out := &flow.Function{Name: name, Span: r.place.span(n), Constant: constant, ByEnd: r.place.isWritten(n.To - 1)}
	out.Body = r.block(body)
	if len(handlers) > 0 {
		tried := &flow.Try{Stmt: flow.Stmt{At: out.Body.Open}, Body: out.Body}
		for _, h := range handlers {
			tried.Handlers = append(tried.Handlers, r.block(h))
		}
		out.Body = &flow.Block{Open: out.Body.Open, Close: out.Body.Close, Nodes: []flow.Node{tried}}
	}
	r.fn, r.hidden, r.deciding = outer, hidden, deciding
	if outer == nil {
		f.Flow.Functions = append(f.Flow.Functions, out)
	}
	return out
}

// nameOf is the name of a function as its definition gives it.
func (r *reader) nameOf(n *tree.Node) string {
	d := n.Child("declarator")
	for d != nil {
		switch d.Kind {
		case "function_declarator":
			inner := d.Child("declarator")
			if inner == nil {
				return r.squeezed(d)
			}
			if inner.Child("declarator") == nil && inner.Kind != "parenthesized_declarator" {
				return r.squeezed(inner)
			}
			d = inner
		case "parenthesized_declarator", "reference_declarator", "attributed_declarator":
			next := (*tree.Node)(nil)
			for i := range d.Kids {
				if d.Kids[i].Named {
					next = &d.Kids[i]
					break
				}
			}
			d = next
		case "operator_cast":
			text, _, _ := strings.Cut(r.squeezed(d), "(")
			return text
		default:
			next := d.Child("declarator")
			if next == nil {
				return r.squeezed(d)
			}
			d = next
		}
	}
	return "?"
}

func hasWord(text string, words ...string) bool {
	scan := scanner{text: []byte(text)}
	for {
		t, ok := scan.next()
		if !ok {
			return false
		}
		for _, w := range words {
			if text[t.from:t.to] == w {
				return true
			}
		}
	}
}

// block reads a compound statement.
func (r *reader) block(n *tree.Node) *flow.Block {
	r.noteBlock(n)
	if r.text[n.From] != '{' {
		// The braces were added.
		return &flow.Block{Open: n.From, Close: n.To, Bare: true, Nodes: r.list(n.Kids, n.From)}
	}
	open := r.pastLabels(n.From + 1)
	b := &flow.Block{Open: open, Close: n.To - 1}
	b.Nodes = r.list(n.Kids, open)
	b.Leaves = r.declaresObjects(n)
	return b
}

// pastLabels is where statements may begin in a block: after the declarations of its own
// labels, which are GNU's.
func (r *reader) pastLabels(at int) int {
	scan := scanner{text: r.text, at: at}
	for {
		t, ok := scan.next()
		if !ok || string(r.text[t.from:t.to]) != "__label__" {
			return at
		}
		for ok && r.text[t.from] != ';' {
			t, ok = scan.next()
		}
		at = scan.at
	}
}

func (r *reader) noteBlock(n *tree.Node) {
	f := r.files[r.fn.file].Flow
	from, to := r.place.start(n.From).Line, r.place.end(n.To).Line
	f.Blocks = append(f.Blocks, site.Block{Line: from, EndLine: max(from, to)})
}

// under reads a statement that hangs on another, with or without braces.
func (r *reader) under(parent, n *tree.Node) *flow.Block {
	if n.Kind == "compound_statement" {
		return r.block(n)
	}
	at := n.From
	for i := range parent.Kids {
		if k := &parent.Kids[i]; k.To <= n.From {
			at = k.To
		}
	}
	from, _ := r.before(at, n)
	return &flow.Block{Open: from, Close: n.To, Bare: true, Nodes: r.list([]tree.Node{*n}, from)}
}
