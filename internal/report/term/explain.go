package term

import (
	"fmt"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
	"thrush/internal/core/site"
	"thrush/internal/recording"
	"thrush/internal/report/prose"
)

// ExplainFile shows what a file's totals are made of.
func (o *Out) ExplainFile(f *coverage.File) {
	fmt.Fprintln(o, Strong(prose.Safe(f.Path)))
	for _, d := range coverage.Metrics {
		if r := f.Totals.Of(d.Metric); r.Total > 0 || d.Level == site.Lines {
			o.told(string(d.Metric), r, d.Told(f))
		}
	}
	for _, w := range f.Waivers {
		fmt.Fprintf(o, "  waived     %s: %s\n", lines(w.Line, w.EndLine), prose.Safe(w.Reason))
	}
	for _, fn := range f.Named() {
		what := prose.Plural(int(min(fn.Count, 1<<53)), "call", "calls")
		if fn.Count == 0 {
			what = Bad(gaps.NotCalled)
		}
		names := min(32, max(o.Width-26, 8))
		fmt.Fprintf(o, "  %6d  %s  %s\n", fn.Span.Start.Line, Pad(Middle(prose.Safe(fn.Name), names), names), what)
	}
}

// told writes a total and what it is of.
func (o *Out) told(name string, r coverage.Ratio, of string) {
	const left = 24 // columns before the words
	what := fmt.Sprintf("%d of "+of, r.Covered, r.Total)
	fmt.Fprintf(o, "  %-10s %s  %s\n", name, PadLeft(prose.Percent(r), 19-max(10, len(name))), o.Wrap(what, left))
}

func lines(from, to int) string {
	if from == to {
		return fmt.Sprintf("line %d", from)
	}
	return fmt.Sprintf("lines %d-%d", from, to)
}

// ExplainLine shows all that counts on a line.
func (o *Out) ExplainLine(f *coverage.File, line int, source string) {
	place := fmt.Sprintf("%s:%d", prose.Safe(f.Path), line)
	fmt.Fprintf(o, "%s  %s\n", Strong(place), o.Wrap(strings.TrimSpace(prose.Safe(source)), min(Width(place)+2, 24)))
	l, code := f.At(line)
	if !code {
		by, ok := f.SpeaksFor(line)
		if !ok {
			fmt.Fprintln(o, "  not code: no statement and no function begins here, and none reaches over it")
			return
		}
		fmt.Fprintf(o, "  nothing begins here; the line continues what begins on line %d, which %s\n", by.Number, prose.Times(by.Count))
		line, l = by.Number, by
	}
	fmt.Fprintf(o, "  %s %s\n", Mark(l.State), o.Wrap(prose.State(f, l), 4))
	by := func(set uint32) string {
		if f.Sets == nil || set == 0 || len(f.Sets.Labels) < 2 {
			return ""
		}
		return Faint(", by " + prose.Safe(prose.By(f.Sets.Names(set))))
	}
	for _, fn := range f.Named() {
		if fn.Span.Start.Line == line {
			called := "called " + prose.Often(fn.Count)
			if fn.Count == 0 {
				called = gaps.NotCalled
			}
			fmt.Fprintf(o, "  function   column %-3d %s: %s%s\n", fn.Span.Start.Column, prose.Safe(fn.Name), called, by(fn.By))
		}
	}
	for _, s := range f.Statements {
		if s.Span.Start.Line == line {
			reach := ""
			if s.Span.LastLine() > line {
				reach = fmt.Sprintf(", up to line %d", s.Span.LastLine())
			}
			fmt.Fprintf(o, "  statement  column %-3d %s%s%s\n", s.Span.Start.Column, prose.Began(s.Count), reach, by(s.By))
		}
	}
	for _, d := range f.Decisions {
		if d.Pos.Line != line {
			continue
		}
		fmt.Fprintf(o, "  decision   column %-3d %s\n", d.Pos.Column, d.Kind)
		for _, x := range d.Outcomes {
			mark := Mark(coverage.Full)
			if x.Count == 0 {
				mark = Mark(coverage.None)
			}
			fmt.Fprintf(o, "             %s %s  %s\n", mark, Pad(prose.Safe(gaps.Label(x.Way)), 24), prose.Often(x.Count)+by(x.By))
		}
		for _, l := range d.Logic {
			if len(l.Conditions) > 1 {
				o.truthTable(prose.Table(l))
			}
		}
	}
	for _, w := range f.Waivers {
		if w.Line <= line && line <= w.EndLine {
			fmt.Fprintf(o, "  waived     %s: %s\n", lines(w.Line, w.EndLine), prose.Safe(w.Reason))
		}
	}
}

// mostParts is how many recordings of a merge are listed.
const mostParts = 12

// Origin says which recording facts come from, and what it was merged of.
func (o *Out) Origin(info recording.Info, id string, loaded bool) {
	if !info.Merged() {
		fmt.Fprintln(o, "  "+o.Wrap(Faint("from recording "+id+origin(info.Part)), 2))
	} else {
		fmt.Fprintln(o, "  "+Faint(fmt.Sprintf("from %s, merged of %s:", id, prose.Plural(len(info.Parts), "recording", "recordings"))))
		for _, p := range info.Parts[:min(mostParts, len(info.Parts))] {
			fmt.Fprintln(o, "    "+Faint(p.ID[:min(8, len(p.ID))]+origin(p)))
		}
		if more := len(info.Parts) - mostParts; more > 0 {
			fmt.Fprintln(o, "    "+Faint(fmt.Sprintf("and %d more", more)))
		}
	}
	if !loaded {
		fmt.Fprintln(o, "  "+Faint("no program that ran had this file in it"))
	}
}

func origin(p recording.Part) string {
	text := ""
	if len(p.Labels) > 0 {
		text += " (" + prose.Safe(strings.Join(p.Labels, ", ")) + ")"
	}
	text += fmt.Sprintf(": %s, %s, %s kept at level %s", prose.Safe(strings.Join(p.Command, " ")),
		prose.Plural(p.Processes, "process", "processes"), p.Keep, p.Level)
	if p.Commit != "" {
		text += ", commit " + prose.Safe(p.Commit[:min(12, len(p.Commit))])
		if p.Dirty {
			text += " with changes"
		}
	}
	return text
}

// truthTable draws a boolean expression: its conditions, and the ways through it.
func (o *Out) truthTable(t prose.TruthTable) {
	const indent = "             "
	fmt.Fprintf(o, "%s%s\n", indent, Strong(t.Formula))
	width := 0
	for _, c := range t.Conditions {
		width = max(width, Width(c.Text))
	}
	width = min(width, 40)
	for _, c := range t.Conditions {
		mark, says := Mark(coverage.Full), Faint(c.Says)
		if !c.Shown {
			mark, says = Mark(coverage.Part), Half(c.Says)
		}
		fmt.Fprintf(o, "%s%s %-3s %s  true %s, false %s  %s\n", indent, mark, c.Name, Pad(Cut(c.Text, width), width), c.True, c.False, says)
	}
	head := indent + "  way"
	for _, c := range t.Conditions {
		head += fmt.Sprintf("  %-5s", c.Name)
	}
	if len(t.Ways) > 0 {
		fmt.Fprintln(o, Faint(head+"  result  taken         shows"))
	}
	for _, w := range t.Ways {
		line := fmt.Sprintf("%s%5d", indent, w.Number)
		for _, v := range w.Values {
			if v == "" {
				v = "·"
			}
			line += fmt.Sprintf("  %-5s", v)
		}
		line += fmt.Sprintf("  %-6s  %-12s  %s", w.Result, w.Taken, w.Proves)
		if w.Taken == "never" {
			line = Faint(strings.TrimRight(line, " "))
		}
		o.line("%s", line)
	}
	if t.Hidden > 0 {
		fmt.Fprintf(o, "%s%s\n", indent, Faint("and "+prose.Plural(t.Hidden, "way", "ways")+" neither taken nor needed"))
	}
	fmt.Fprintf(o, "%s%s\n", indent, t.More)
}
