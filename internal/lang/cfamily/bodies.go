package cfamily

import (
	"thrush/internal/lang/tree"
)

// settled are offsets at which braces open whose text is understood: bodies of functions,
// which are read or listed, and what may hold such, as types and namespaces do.
type settled struct {
	bodies, holders map[int]bool
}

// holders are the kinds of nodes in whose braces declarations stand, or nothing that runs.
var holders = map[string]bool{
	"field_declaration_list": true, "declaration_list": true, "enumerator_list": true,
	"requires_expression": true, "requirement_seq": true,
}

// account lists each text in braces that looks like statements, and that no function was
// found for: its head does not fit the grammar, so what is in it would be missing without a
// word.
func (r *reader) account(e *excerpt) {
	scan := scanner{text: e.text}
	type open struct {
		from       int  // offset in the excerpt
		statements bool // there is a statement in it
		holder     bool
	}
	var stack []open
	var head, last token
	for {
		t, ok := scan.next()
		if !ok {
			return
		}
		switch c := e.text[t.from]; {
		case c == '{' && r.settled.bodies[e.whole(t.from)]:
			scan.at = pastBraces(e.text, t.from)
			t.to = scan.at
		case c == '{':
			stack = append(stack, open{from: t.from, holder: r.settled.holders[e.whole(t.from)]})
			if len(stack) == 1 || stack[len(stack)-2].holder {
				head = last
			}
		case c == ';' && len(stack) > 0:
			stack[len(stack)-1].statements = true
		case c == '}' && len(stack) > 0:
			top := stack[len(stack)-1]
			stack = stack[:len(stack)-1]
			switch {
			case top.holder || !top.statements:
			case len(stack) > 0 && !stack[len(stack)-1].holder:
				stack[len(stack)-1].statements = true
			default:
				r.unaccounted(e, top.from, head)
			}
		}
		last = t
	}
}

// unaccounted lists the text in braces that opens at an offset.
func (r *reader) unaccounted(e *excerpt, at int, before token) {
	from := e.whole(at)
	i := r.place.file(from)
	if i < 0 || r.place.system(from) {
		return
	}
	f := r.files[i]
	f.Unread = append(f.Unread, Unread{Line: r.place.start(from).Line, Name: headName(e.text[:before.to]), Why: unreadable})
}

// headName is the word before the last parenthesis of the text before a body.
func headName(text []byte) string {
	depth := 0
	for i := len(text) - 1; i >= 0 && i > len(text)-4096; i-- {
		switch c := text[i]; {
		case c == ')':
			depth++
		case c == '(' && depth > 0:
			if depth--; depth > 0 {
				continue
			}
			to := i
			for to > 0 && (text[to-1] == ' ' || text[to-1] == '\n' || text[to-1] == '\t') {
				to--
			}
			from := to
			for from > 0 && isWord(text[from-1]) {
				from--
			}
			if from < to {
				return string(text[from:to])
			}
		case depth == 0 && (c == ';' || c == '}' || c == '{'):
			return "?"
		}
	}
	return "?"
}

// pastBraces is the offset after the brace that closes the one at an offset.
func pastBraces(text []byte, at int) int {
	scan := scanner{text: text, at: at}
	depth := 0
	for {
		t, ok := scan.next()
		if !ok {
			return len(text)
		}
		switch text[t.from] {
		case '{':
			depth++
		case '}':
			if depth--; depth <= 0 {
				return t.to
			}
		}
	}
}

// unevaluated notes where braces open in a node of which nothing runs.
func (r *reader) unevaluated(n *tree.Node) {
	n.Each(func(n *tree.Node) bool {
		if n.Kind == "{" {
			r.bodies[n.From] = true
		}
		return true
	})
}

// hold notes where the braces of a node open, if it may hold declarations.
func (r *reader) hold(n *tree.Node) {
	if holders[n.Kind] {
		for i := range n.Kids {
			if k := &n.Kids[i]; k.Kind == "{" {
				r.settled.holders[k.From] = true
			}
		}
	}
}
