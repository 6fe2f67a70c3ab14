package cfamily

import (
	"bytes"

	"thrush/internal/core/site"
	"thrush/internal/flow"
	"thrush/internal/lang/tree"
)

// Parsers and scanners are made of a grammar or of patterns, with a piece of C for each: its
// action. The programs that make them put all actions into one large function of a file that
// does not count, and say by #line where each was written. An action is read as a function
// of its own, in the file in which it was written.

// actions reads the actions in the body of such a function.
func (r *reader) actions(body *tree.Node, function string) {
	read := map[int]bool{} // regions
	r.actionsIn(body, function, read)
	for i, at := range r.place.regions {
		if at.file < 0 || at.from < body.From || at.to > body.To || at.system || read[i] || !r.opens(at) {
			continue
		}
		f := r.files[at.file]
		f.Unread = append(f.Unread, Unread{Line: at.line, Name: "action of " + function, Why: unreadable})
	}
}

// opens tells whether the text of a region begins with a piece of C in braces.
func (r *reader) opens(at region) bool {
	scan := scanner{text: r.text[:at.to], at: at.from}
	t, ok := scan.next()
	return ok && r.text[t.from] == '{' && r.place.isWritten(t.from)
}

func (r *reader) actionsIn(n *tree.Node, function string, read map[int]bool) {
	list := n.Kind == "compound_statement" || n.Kind == "case_statement"
	for i := 0; i < len(n.Kids); i++ {
		k := &n.Kids[i]
		last := i
		if at := r.begins(k); at >= 0 && (list || k.Kind == "compound_statement") {
			for list && k.Kind != "compound_statement" && last+1 < len(n.Kids) && r.continues(at, &n.Kids[last+1]) {
				last++
			}
			read[at] = true
			r.action(n.Kids[i:last+1], function)
			i = last
			continue
		}
		r.actionsIn(k, function, read)
	}
}

// begins gives the region of which a statement is the beginning, if something of it was
// written there; or -1.
func (r *reader) begins(n *tree.Node) int {
	i := regionAt(r.place.regions, n.From)
	if !n.Named || i < 0 {
		return -1
	}
	at := r.place.regions[i]
	if at.file < 0 || at.system || n.Kind == "case_statement" || n.Kind == "labeled_statement" || len(n.Kids) < 2 ||
		len(bytes.TrimSpace(r.text[at.from:n.From])) > 0 || n.Broken() {
		return -1
	}
	for _, t := range tokensOf(r.text[:min(n.To, at.to)], n.From) {
		if r.place.isWritten(t.from) {
			return i
		}
	}
	return -1
}

// continues tells whether a statement goes on with what begins a region: it is on the same
// line, or it and its whole line were written.
func (r *reader) continues(region int, n *tree.Node) bool {
	at := r.place.regions[region]
	if !n.Named || n.From >= at.to || n.Kind == "case_statement" || n.Broken() || !r.place.isWritten(n.From) {
		return false
	}
	row := r.place.rowAt(n.From)
	line := r.place.rows[row].line
	if line == at.line {
		return true
	}
	source := r.place.sources[at.file]
	written := source.lines(line, line+1)
	made := tokensOf(r.text[:r.place.rows[row].to], r.place.rows[row].from)
	return len(written) > 0 && len(made) > 0 && r.place.start(made[0].from) == source.pos(written[0].from)
}

// action reads the statements of an action.
func (r *reader) action(list []tree.Node, function string) {
	first, last := &list[0], &list[len(list)-1]
	i := r.place.file(first.From)
	f := r.files[i]
	outer, hidden, deciding := r.fn, r.hidden, r.deciding
	name := "action of " + function
	if !hasPatterns(f.Path) && !isGrammar(f.Path) {
		name = "part of " + function
	}
	r.fn = &scope{name: name, file: i, labels: map[string]*flow.Label{}}
	r.hidden, r.deciding = false, map[*tree.Node]bool{}
	whole := &tree.Node{Kind: "action", From: first.From, To: last.To, Kids: list}
	r.survey(whole, whole)
	out := &flow.Function{Name: r.fn.name, Span: site.Span{Start: r.place.start(first.From), End: r.place.end(last.To)}}
	if len(list) == 1 && first.Kind == "compound_statement" {
		out.Body = r.block(first)
	} else {
		// There are statements around it, so it needs no braces; and what it declares may be
		// for the actions after it.
		out.Body = &flow.Block{Open: first.From, Close: last.To, Nodes: r.list(list, first.From)}
	}
	r.fn, r.hidden, r.deciding = outer, hidden, deciding
	f.Flow.Functions = append(f.Flow.Functions, out)
}
