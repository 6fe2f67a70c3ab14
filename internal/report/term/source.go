package term

import (
	"fmt"
	"strings"

	"github.com/alecthomas/chroma/v2"
	"github.com/alecthomas/chroma/v2/formatters"
	"github.com/alecthomas/chroma/v2/lexers"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
)

// SourceOptions say what of a file to draw.
type SourceOptions struct {
	From, To int  // lines; 0 for all
	Gaps     bool // only what did not run, with a few lines around
	Around   int  // lines around, with Gaps
	Changed  func(line int) bool
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
	notes := Notes(f)
	show := visible(f, notes, len(lines), opt)
	if !o.Terminal {
		o.plainSource(f, lines, notes, show)
		return
	}
	fmt.Fprintf(o, "%s  %s %s  %s\n", Strong(Safe(f.Path)), Gauge(f.Totals.Lines, gaugeWidth), Percent(f.Totals.Lines),
		Faint(fmt.Sprintf("lines %s · branches %s · functions %s", Of(f.Totals.Lines), Of(f.Totals.Branches), Of(f.Totals.Functions))))
	shaded := shade(f.Path, lines)
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
		count, mark, body := "", " ", shaded[i]
		if code {
			count, mark = countText(f, l), Mark(l.State)
			switch l.State {
			case coverage.None:
				body = Bad(expand(Safe(lines[i])))
			case coverage.Waived:
				body = Faint(expand(Safe(lines[i])))
			}
		}
		gutter := " "
		if opt.Changed != nil && opt.Changed(n) {
			gutter = Edge("┃")
		}
		note := ""
		if len(notes[n]) > 0 {
			for _, words := range notes[n] {
				note += "   " + Half("‹ "+Safe(brief(words, lines[i])))
			}
		}
		fmt.Fprintf(o, "%s%s%s %s %s%s\n", Faint(PadLeft(fmt.Sprint(n), width)), gutter, Faint(PadLeft(count, 6)), mark, body, note)
	}
}

// countText is a line's count as it is drawn.
func countText(f *coverage.File, l coverage.Line) string {
	switch {
	case l.Count == 0:
		return "0"
	case f.Keep.String() == "hits":
		return "ran"
	}
	return Short(l.Count)
}

func (o *Out) plainSource(f *coverage.File, lines []string, notes map[int][]string, show func(int) bool) {
	path := Safe(f.Path)
	for i, text := range lines {
		n := i + 1
		if !show(n) {
			continue
		}
		state, count := "-", ""
		if l, ok := f.At(n); ok {
			state, count = l.State.String(), fmt.Sprint(l.Count)
		}
		fmt.Fprintf(o, "%-7s %s:%d  %s\t| %s\n", state, path, n, count, Safe(text))
		for _, note := range notes[n] {
			fmt.Fprintf(o, "%-7s %s:%d  %s\n", "note", path, n, Safe(note))
		}
	}
}

// visible tells which lines to draw.
func visible(f *coverage.File, notes map[int][]string, last int, opt SourceOptions) func(int) bool {
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

// Notes are the words beside lines: outcomes never taken of decisions that were
// reached, functions never called, waivers.
func Notes(f *coverage.File) map[int][]string {
	notes := map[int][]string{}
	for _, fn := range f.Functions {
		if n := fn.Span.Start.Line; fn.Count == 0 && !fn.Waived {
			what := "never called"
			if fn.Literal {
				what = fn.Name + " never called"
			}
			notes[n] = append(notes[n], what)
		}
	}
	for _, d := range f.Decisions {
		if d.Waived || !gaps.Reached(d) {
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
	for _, w := range f.Waivers {
		notes[w.Line] = append(notes[w.Line], "waived: "+w.Reason)
	}
	return notes
}

// shade colours source lines by the syntax of their language.
func shade(path string, lines []string) []string {
	out := make([]string, len(lines))
	for i, l := range lines {
		out[i] = expand(Safe(l))
	}
	lexer := lexers.Match(path)
	if lexer == nil {
		return out
	}
	tokens, err := chroma.Coalesce(lexer).Tokenise(nil, strings.Join(out, "\n")+"\n")
	if err != nil {
		return out
	}
	shaded := make([]string, 0, len(lines))
	for _, line := range chroma.SplitTokensIntoLines(tokens.Tokens()) {
		var b strings.Builder
		if formatters.TTY16m.Format(&b, quiet, chroma.Literator(line...)) != nil {
			return out
		}
		shaded = append(shaded, strings.TrimRight(strings.ReplaceAll(b.String(), "\n", ""), " "))
	}
	for len(shaded) < len(out) {
		shaded = append(shaded, "")
	}
	return shaded
}

// quiet colours little: what did not run is to stand out.
var quiet = chroma.MustNewStyle("thrush", chroma.StyleEntries{
	chroma.Comment: "italic",
	chroma.Keyword: "bold",
})

// expand turns tabs into blanks, so that columns do not depend on the terminal.
func expand(s string) string {
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
