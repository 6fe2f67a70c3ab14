package origin

import (
	"bytes"
	"strings"

	"thrush/internal/core/site"
)

func (m *match) matchFunctions() {
	t, o := m.source.Table, m.output.Table
	m.functions = fill(len(t.Functions))
	byPlace := map[site.Pos]int{} // functions of the source by where the text before their parameters stands
	for g, f := range t.Functions {
		if f.Span != (site.Span{}) {
			for _, at := range m.source.header(f.Span.Start) {
				if _, taken := byPlace[at]; !taken {
					byPlace[at] = g
				}
			}
		}
	}
	for _, f := range m.part.functions {
		for _, from := range m.from(o.Functions[f].Span.Start) {
			if g, ok := byPlace[from]; ok && m.functions[g] < 0 {
				m.functions[g] = f
			}
		}
	}
	m.byStatements()
	// A function is the one that has all that is left of its statements.
	for _, p := range m.own {
		if p.statement < 0 || p.outStatement < 0 {
			continue
		}
		g := t.Statements[p.statement].Function
		if f := m.functions[g]; f >= 0 && t.Functions[g].Span != (site.Span{}) && !holds(o.Functions[f].Span, o.Statements[p.outStatement].Span) {
			m.functions[g] = -1
		}
	}
}

// byStatements matches functions that begin in other words: all statements of the one are
// those of the other.
func (m *match) byStatements() {
	t, o := m.source.Table, m.output.Table
	of := map[int]int{} // functions of the output, by those of the source; -1 for several
	to := map[int]int{} // and the other way round
	put := func(in map[int]int, key, value int) {
		if old, ok := in[key]; ok && old != value {
			value = -1
		}
		in[key] = value
	}
	for y, x := range m.statements {
		if x >= 0 {
			put(of, t.Statements[y].Function, o.Statements[x].Function)
			put(to, o.Statements[x].Function, t.Statements[y].Function)
		}
	}
	for g, f := range of {
		if m.functions[g] < 0 && f >= 0 && to[f] == g && t.Functions[g].Span != (site.Span{}) && o.Functions[f].Span != (site.Span{}) {
			m.functions[g] = f
		}
	}
}

// header gives the places at which a function may be said to begin: each word before its
// parameters, and words before it that say that it is for others.
func (x *index) header(at site.Pos) []site.Pos {
	out := []site.Pos{at}
	from := x.offset(at)
	line := x.Source[from:]
	if i := bytes.IndexByte(line, '\n'); i >= 0 {
		line = line[:i]
	}
	word := true
	for i, c := range line {
		if c == ' ' || c == '\t' || c == '*' || c == '#' {
			word = false
			continue
		}
		if !isWord(c) {
			break
		}
		if !word {
			out = append(out, site.Pos{Line: at.Line, Column: at.Column + i})
		}
		word = true
	}
	before := string(x.Source[x.lines[at.Line-1]:from])
	words := strings.TrimLeft(before, " \t")
	for {
		trimmed := strings.TrimRight(words, " \t")
		cut := strings.LastIndexAny(trimmed, " \t;{}") + 1
		if w := trimmed[cut:]; w != "export" && w != "default" {
			return out
		}
		words = trimmed[:cut]
		out = append(out, site.Pos{Line: at.Line, Column: len(before) - len(strings.TrimLeft(before, " \t")) + cut + 1})
	}
}

func isWord(c byte) bool {
	return c == '_' || c == '$' || c >= 0x80 || '0' <= c && c <= '9' || 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z'
}
