package term

import (
	"fmt"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/report/highlight"
	"thrush/internal/report/prose"
)

// SourceOptions say what of a file to draw.
type SourceOptions struct {
	From, To int  // lines; 0 for all
	Gaps     bool // only what did not run, with a few lines around
	Around   int  // lines around, with Gaps
	Changed  func(line int) bool
	Tables   bool // the conditions of each decision, below its line
}

// Source draws a file with what ran beside each line. On a terminal it is
// coloured; otherwise each line begins with its state in words, so that it can
// be searched:
//
//	none    fare/fare.go:14  0  | 	return 0
func (o *Out) Source(f *coverage.File, text string, opt SourceOptions) {
	text = strings.TrimPrefix(text, "\ufeff")
	lines := strings.Split(strings.TrimSuffix(text, "\n"), "\n")
	for i, l := range lines {
		lines[i] = strings.TrimSuffix(l, "\r")
	}
	notes := prose.Notes(f)
	show := visible(f, notes, len(lines), opt)
	if !o.Terminal {
		o.plainSource(f, lines, notes, show, opt.Tables)
		return
	}
	fmt.Fprintf(o, "%s  %s %s  %s\n", Strong(prose.Safe(f.Path)), Gauge(f.Totals.Of(coverage.Lines), gaugeWidth), prose.Percent(f.Totals.Of(coverage.Lines)),
		Faint(fmt.Sprintf("lines %s · branches %s · functions %s", prose.Of(f.Totals.Of(coverage.Lines)), prose.Of(f.Totals.Of(coverage.Branches)), prose.Of(f.Totals.Of(coverage.Functions)))))
	bodies := shaded(f.Path, lines)
	width := len(fmt.Sprint(len(lines)))
	skipped := false
	for i := range lines {
		n := i + 1
		if !show(n) {
			skipped = true
			continue
		}
		if skipped {
			fmt.Fprintln(o, Faint(PadLeft("⋮", width)))
			skipped = false
		}
		l, code := f.At(n)
		count, mark, body := "", " ", bodies[i]
		if code {
			count, mark = prose.Count(f, l), Mark(l.State)
			switch l.State {
			case coverage.None:
				body = Bad(prose.Expand(prose.Safe(lines[i])))
			case coverage.Waived:
				body = Faint(prose.Expand(prose.Safe(lines[i])))
			}
		}
		gutter := " "
		if opt.Changed != nil && opt.Changed(n) {
			gutter = Edge("┃")
		}
		fmt.Fprintf(o, "%s%s%s %s %s\n", Faint(PadLeft(fmt.Sprint(n), width)), gutter, Faint(PadLeft(count, 6)), mark, body)
		o.notes(notes[n], lines[i], width+10)
		if opt.Tables {
			o.tables(f, n)
		}
	}
}

// notes draws what is said of a line, each in a row of its own, from the column on of what it
// is about. Source text begins so many columns from the left.
func (o *Out) notes(list []prose.Note, source string, left int) {
	const least = 24 // columns for what is said
	for _, n := range list {
		at := len(source) - len(strings.TrimLeft(source, " \t"))
		if n.Column > 1 {
			at = min(n.Column-1, len(source))
		}
		lead := left + Width(prose.Expand(prose.Safe(source[:at])))
		lead = max(left, min(lead, o.Width-least))
		says := o.Wrap(prose.Safe(prose.Brief(n.Text, source)), lead+2)
		style := Half
		if n.Waiver {
			style = Faint
		}
		for i, line := range strings.Split(says, "\n") {
			if i == 0 {
				line = strings.Repeat(" ", lead) + style("╰ "+line)
			} else {
				line = strings.Repeat(" ", lead+2) + style(strings.TrimLeft(line, " "))
			}
			fmt.Fprintln(o, line)
		}
	}
}

// tables draws the boolean expressions that begin on a line.
func (o *Out) tables(f *coverage.File, line int) {
	for _, d := range f.Decisions {
		for _, l := range d.Logic {
			if l.Pos.Line == line && len(l.Conditions) > 1 {
				o.truthTable(prose.Table(l))
			}
		}
	}
}

func (o *Out) plainSource(f *coverage.File, lines []string, notes map[int][]prose.Note, show func(int) bool, tables bool) {
	path := prose.Safe(f.Path)
	for i, text := range lines {
		n := i + 1
		if !show(n) {
			continue
		}
		state, count := "-", ""
		if l, ok := f.At(n); ok {
			state, count = l.State.String(), fmt.Sprint(l.Count)
		}
		fmt.Fprintf(o, "%-7s %s:%d  %s\t| %s\n", state, path, n, count, prose.Safe(text))
		for _, note := range notes[n] {
			fmt.Fprintf(o, "%-7s %s:%d  %s\n", "note", path, n, prose.Safe(note.Text))
		}
		if tables {
			o.tables(f, n)
		}
	}
}

// visible tells which lines to draw.
func visible(f *coverage.File, notes map[int][]prose.Note, last int, opt SourceOptions) func(int) bool {
	in := func(n int) bool { return (opt.From == 0 || n >= opt.From) && (opt.To == 0 || n <= opt.To) }
	if !opt.Gaps {
		return in
	}
	near := make([]bool, last+2)
	for _, l := range f.Lines {
		if l.State == coverage.None || len(notes[l.Number]) > 0 {
			for n := max(1, l.Number-opt.Around); n <= min(last, l.Number+opt.Around); n++ {
				near[n] = true
			}
		}
	}
	return func(n int) bool { return in(n) && near[n] }
}

// shaded colours source lines by the syntax of their language. It colours
// little: what did not run is to stand out.
func shaded(path string, lines []string) []string {
	out := make([]string, len(lines))
	for i, l := range lines {
		out[i] = prose.Expand(prose.Safe(l))
	}
	for i, pieces := range highlight.Lines(path, out) {
		var b strings.Builder
		for _, p := range pieces {
			switch p.Class {
			case highlight.Comment:
				b.WriteString(comment.Render(p.Text))
			case highlight.Keyword:
				b.WriteString(Strong(p.Text))
			default:
				b.WriteString(p.Text)
			}
		}
		out[i] = b.String()
	}
	return out
}
