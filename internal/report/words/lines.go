package words

import (
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
)

// Margin shortens a note for the margin: which values a test needs is told where
// there is room for it.
func Margin(note string) string {
	const most = 76
	if short, _, ok := strings.Cut(note, ": needs "); ok && len(note) > most {
		return short
	}
	return note
}

// Brief leaves out of words about a case what the source line beside them says.
func Brief(words, source string) string {
	if rest, ok := strings.CutPrefix(words, strings.TrimSuffix(strings.TrimSpace(source), ":")+" "); ok && source != "" {
		return rest
	}
	return words
}

// Count is a line's count as it is drawn.
func Count(f *coverage.File, l coverage.Line) string {
	switch {
	case l.Count == 0:
		return "0"
	case f.Keep.String() == "hits":
		return "ran"
	}
	return Short(l.Count)
}

// Notes are the words beside lines: outcomes never taken of decisions that were
// reached, functions never called, waivers.
func Notes(f *coverage.File) map[int][]string {
	notes := map[int][]string{}
	for _, fn := range f.Named() {
		if n := fn.Span.Start.Line; fn.Count == 0 && !fn.Waived {
			what := "never called"
			if fn.Literal {
				what = fn.Name + " never called"
			}
			notes[n] = append(notes[n], what)
		}
	}
	for _, d := range f.Decisions {
		if d.Waived || !gaps.Reached(f, d) {
			continue
		}
		for i, o := range d.Outcomes {
			if o.Count == 0 {
				at := d.Pos.Line
				if o.Pos != d.Pos {
					at = o.Pos.Line
				}
				notes[at] = append(notes[at], gaps.Words(d, i))
			}
		}
	}
	for _, d := range f.Decisions {
		for _, l := range d.Logic {
			for i, m := range gaps.Conditions(l) {
				if c := l.Conditions[i]; m.What != "" && !d.Waived {
					notes[c.Pos.Line] = append(notes[c.Pos.Line], c.Text+" "+m.Says(l))
				}
			}
		}
	}
	for _, w := range f.Waivers {
		notes[w.Line] = append(notes[w.Line], "waived: "+w.Reason)
	}
	return notes
}

// Expand turns tabs into blanks, so that columns do not depend on the terminal.
func Expand(s string) string {
	if !strings.Contains(s, "\t") {
		return s
	}
	var b strings.Builder
	column := 0
	for _, c := range s {
		if c == '\t' {
			n := 4 - column%4
			b.WriteString(strings.Repeat(" ", n))
			column += n
			continue
		}
		b.WriteRune(c)
		column++
	}
	return b.String()
}

func State(l coverage.Line) string {
	switch l.State {
	case coverage.Full:
		return "full: all that begins here ran, every way"
	case coverage.Part:
		return "part: it counts as a line that ran, but not all of it did, or not every way"
	case coverage.None:
		return "none: nothing that begins here ran"
	}
	return "waived: it is not in the totals"
}

func Often(n uint64) string {
	switch n {
	case 0:
		return "never"
	case 1:
		return "once"
	}
	return Number(n) + " times"
}

func Began(n uint64) string {
	if n == 0 {
		return "never began"
	}
	return "began " + Often(n)
}

func Times(n uint64) string {
	if n == 0 {
		return "never ran"
	}
	return "ran " + Often(n)
}

// Gain says what a test of the gap would add.
func Gain(g gaps.Gap) string {
	var parts []string
	if g.Lines > 0 {
		parts = append(parts, Plural(g.Lines, "line", "lines"))
	}
	if g.Branches > 0 && g.Kind != gaps.Outcome {
		parts = append(parts, Plural(g.Branches, "outcome", "outcomes"))
	}
	if (g.Kind == gaps.Outcome || g.Kind == gaps.Condition) && g.Reached > 0 {
		times := Number(g.Reached) + " times"
		if g.Reached == 1 {
			times = "once"
		}
		parts = append(parts, "came here "+times)
	}
	return strings.Join(parts, ", ")
}
