package origin

import "thrush/internal/core/site"

// Tools that put modules together leave out functions that nothing calls. Such a function
// was not there to run, so it did not. That it was left out, and not put in the place of
// its calls, is only taken for certain if nothing in the output leads into it and nothing
// that is in the output names it.

// removed gives the functions of the source that the tool left out.
func (m *match) removed(named map[string]bool) map[int]bool {
	t := m.source.Table
	var at []site.Pos
	for _, i := range m.part.links {
		at = append(at, m.links[i].From)
	}
	_, in := m.source.around(at)
	alive := map[int]bool{}
	for _, g := range in {
		alive[g] = true
	}
	out := map[int]bool{}
	for g, f := range t.Functions {
		if f.Span != (site.Span{}) && m.functions[g] < 0 && !alive[g] && f.Name != "" && !named[lastWord(f.Name)] {
			out[g] = true
		}
	}
	// What has something in it that is there, or stands in something that is, is no proof.
	for g := range out {
		for other := range t.Functions {
			if other != g && !out[other] && holds(t.Functions[g].Span, t.Functions[other].Span) {
				delete(out, g)
				break
			}
		}
	}
	return out
}

// lastWord is the word that code calls a function by.
func lastWord(name string) string {
	to := len(name)
	for to > 0 && !isWord(name[to-1]) {
		to--
	}
	from := to
	for from > 0 && isWord(name[from-1]) {
		from--
	}
	return name[from:to]
}

// names adds the words in the statements of the source of which anything is in the output.
func (m *match) names(to map[string]bool) {
	there := map[int]bool{}
	for _, p := range m.own {
		there[p.statement] = true
	}
	for y := range m.statements {
		if !there[y] {
			continue
		}
		s := own(m.source.Table.Statements[y])
		text := m.source.text(s.Start, s.End)
		for i := 0; i < len(text); i++ {
			from := i
			for i < len(text) && isWord(text[i]) {
				i++
			}
			if i > from {
				to[string(text[from:i])] = true
			}
		}
	}
}
