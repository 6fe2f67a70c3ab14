package cfamily

import (
	"strings"

	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// joined tells whether control may go on from within a statement to a loop or a switch around
// it, or come into its middle: then it is no piece by itself.
func joined(n *tree.Node, inLoop, inSwitch bool) bool {
	switch n.Kind {
	case "break_statement":
		return !inLoop && !inSwitch
	case "continue_statement":
		return !inLoop
	case "case_statement":
		if !inSwitch {
			return true
		}
	case "labeled_statement":
		return true
	case "while_statement", "do_statement", "for_statement", "for_range_loop":
		inLoop = true
	case "switch_statement":
		inSwitch = true
	case "lambda_expression", "function_definition":
		return false
	}
	for i := range n.Kids {
		if joined(&n.Kids[i], inLoop, inSwitch) {
			return true
		}
	}
	return false
}

// isLabelOnly tells whether nothing stands after a case before the next.
func isLabelOnly(n *tree.Node) bool {
	for i := range n.Kids {
		if n.Kids[i].Kind == ":" {
			for _, k := range n.Kids[i+1:] {
				if k.Named {
					return false
				}
			}
		}
	}
	return true
}

// caseLabels reads labels of a switch that lead to the same place, and what follows
// them.
func (r *reader) caseLabels(labels []tree.Node) []flow.Node {
	var of *flow.Switch
	for i := len(r.fn.targets) - 1; i >= 0 && of == nil; i-- {
		of, _ = r.fn.targets[i].(*flow.Switch)
	}
	c := &flow.Case{Of: of, Pos: r.place.start(labels[0].From)}
	c.Stmt = flow.Stmt{At: labels[0].From}
	var words []string
	var rest []tree.Node
	for i := range labels {
		n := &labels[i]
		colon := 0
		for j := range n.Kids {
			if n.Kids[j].Kind == ":" && colon == 0 {
				colon = n.Kids[j].To
				rest = n.Kids[j+1:]
			}
		}
		c.After = colon
		if v := n.Child("value"); v != nil {
			words = append(words, "case "+string(r.place.written(v.From, v.To)))
			continue
		}
		words = append(words, "default")
		if of != nil {
			of.Misses = false
		}
	}
	for i := range words[1:] {
		if !strings.HasPrefix(words[0], "default") {
			words[i+1] = strings.TrimPrefix(words[i+1], "case ")
		}
	}
	c.Label = flow.Caption([]byte(strings.Join(words, ", ")))
	out := r.list(rest, c.After)
	if of == nil {
		return out
	}
	of.Labels++
	return append([]flow.Node{c}, out...)
}

func (r *reader) labeled(n *tree.Node, at int) flow.Node {
	l := r.fn.labels[string(r.text[n.Child("label").From:n.Child("label").To])]
	l.Stmt = flow.Stmt{At: at, Span: r.place.span(n)}
	l.Taken = r.fn.taken
	var inner *tree.Node
	for i := range n.Kids {
		k := &n.Kids[i]
		switch {
		case k.Kind == ":" && l.After == 0:
			l.After = k.To
		case l.After > 0 && k.Named:
			inner = k
		}
	}
	if inner == nil {
		l.Inner = &flow.Plain{Stmt: flow.Stmt{At: l.After, Span: l.Span, Head: l.Span.End}}
		return l
	}
	l.Inner = r.statement(inner, inner.From)
	return l
}

// pushed reads what lies in a statement that breaks may name.
func (r *reader) pushed(target flow.Node, read func()) {
	r.fn.targets = append(r.fn.targets, target)
	read()
	r.fn.targets = r.fn.targets[:len(r.fn.targets)-1]
}

func (r *reader) switched(n *tree.Node, at int) flow.Node {
	value, before := condition(n)
	body := n.Child("body")
	w := &flow.Switch{Stmt: r.head(n, at, body, before, value), Misses: true, Settled: r.hidden}
	r.pushed(w, func() { w.Body = r.under(n, body) })
	w.Declares = declares(body)
	return w
}
