package term

import (
	"fmt"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
	"thrush/internal/recording"
	"thrush/internal/report/words"
)

// ExplainFile shows what a file's totals are made of.
func (o *Out) ExplainFile(f *coverage.File) {
	fmt.Fprintln(o, Strong(words.Safe(f.Path)))
	t := f.Totals
	fmt.Fprintf(o, "  lines      %8s  %d of %d lines on which a statement or a function begins ran\n", words.Percent(t.Lines), t.Lines.Covered, t.Lines.Total)
	if t.Branches.Total > 0 {
		fmt.Fprintf(o, "  branches   %8s  %d of %d outcomes of %s were taken\n", words.Percent(t.Branches), t.Branches.Covered, t.Branches.Total,
			words.Plural(len(f.Decisions), "decision", "decisions"))
	}
	if t.Conditions.Total > 0 {
		fmt.Fprintf(o, "  conditions %8s  %d of %d: each counts once for true and once for false\n", words.Percent(t.Conditions), t.Conditions.Covered, t.Conditions.Total)
		fmt.Fprintf(o, "  independence %6s  %d of %d conditions were seen to decide an outcome on their own\n", words.Percent(t.Independence), t.Independence.Covered, t.Independence.Total)
	}
	fmt.Fprintf(o, "  functions  %8s  %d of %d were called, function literals included\n", words.Percent(t.Functions), t.Functions.Covered, t.Functions.Total)
	for _, w := range f.Waivers {
		fmt.Fprintf(o, "  waived     %s: %s\n", lines(w.Line, w.EndLine), words.Safe(w.Reason))
	}
	for _, fn := range f.Named() {
		what := words.Plural(int(min(fn.Count, 1<<53)), "call", "calls")
		if fn.Count == 0 {
			what = Bad(gaps.NotCalled)
		}
		fmt.Fprintf(o, "  %6d  %s  %s\n", fn.Span.Start.Line, Pad(words.Safe(fn.Name), 32), what)
	}
}

func lines(from, to int) string {
	if from == to {
		return fmt.Sprintf("line %d", from)
	}
	return fmt.Sprintf("lines %d-%d", from, to)
}

// ExplainLine shows all that counts on a line.
func (o *Out) ExplainLine(f *coverage.File, line int, source string) {
	fmt.Fprintf(o, "%s  %s\n", Strong(fmt.Sprintf("%s:%d", words.Safe(f.Path), line)), strings.TrimSpace(words.Safe(source)))
	l, code := f.At(line)
	if !code {
		by, ok := f.SpeaksFor(line)
		if !ok {
			fmt.Fprintln(o, "  not code: no statement and no function begins here, and none reaches over it")
			return
		}
		fmt.Fprintf(o, "  nothing begins here; the line continues what begins on line %d, which %s\n", by.Number, words.Times(by.Count))
		line, l = by.Number, by
	}
	fmt.Fprintf(o, "  %s %s\n", Mark(l.State), words.State(f, l))
	by := func(set uint32) string {
		if f.Sets == nil || set == 0 || len(f.Sets.Labels) < 2 {
			return ""
		}
		return Faint(", by " + words.Safe(words.By(f.Sets.Names(set))))
	}
	for _, fn := range f.Named() {
		if fn.Span.Start.Line == line {
			called := "called " + words.Often(fn.Count)
			if fn.Count == 0 {
				called = gaps.NotCalled
			}
			fmt.Fprintf(o, "  function   column %-3d %s: %s%s\n", fn.Span.Start.Column, words.Safe(fn.Name), called, by(fn.By))
		}
	}
	for _, s := range f.Statements {
		if s.Span.Start.Line == line {
			reach := ""
			if s.Span.LastLine() > line {
				reach = fmt.Sprintf(", up to line %d", s.Span.LastLine())
			}
			fmt.Fprintf(o, "  statement  column %-3d %s%s%s\n", s.Span.Start.Column, words.Began(s.Count), reach, by(s.By))
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
			fmt.Fprintf(o, "             %s %s  %s\n", mark, Pad(words.Safe(x.Label), 24), words.Often(x.Count)+by(x.By))
		}
		for _, l := range d.Logic {
			if len(l.Conditions) > 1 {
				o.truthTable(words.Table(l))
			}
		}
	}
	for _, w := range f.Waivers {
		if w.Line <= line && line <= w.EndLine {
			fmt.Fprintf(o, "  waived     %s: %s\n", lines(w.Line, w.EndLine), words.Safe(w.Reason))
		}
	}
}

// mostParts is how many recordings of a merge are listed.
const mostParts = 12

// Origin says which recording facts come from, and what it was merged of.
func (o *Out) Origin(info recording.Info, id string, loaded bool) {
	if !info.Merged() {
		fmt.Fprintln(o, "  "+Faint("from recording "+id+origin(info.Part)))
	} else {
		fmt.Fprintln(o, "  "+Faint(fmt.Sprintf("from %s, merged of %s:", id, words.Plural(len(info.Parts), "recording", "recordings"))))
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
		text += " (" + words.Safe(strings.Join(p.Labels, ", ")) + ")"
	}
	text += fmt.Sprintf(": %s, %s, %s kept at level %s", words.Safe(strings.Join(p.Command, " ")),
		words.Plural(p.Processes, "process", "processes"), p.Keep, p.Level)
	if p.Commit != "" {
		text += ", commit " + words.Safe(p.Commit[:min(12, len(p.Commit))])
		if p.Dirty {
			text += " with changes"
		}
	}
	return text
}

// truthTable draws a boolean expression: its conditions, and the ways through it.
func (o *Out) truthTable(t words.TruthTable) {
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
		fmt.Fprintf(o, "%s%s\n", indent, Faint("and "+words.Plural(t.Hidden, "way", "ways")+" neither taken nor needed"))
	}
	fmt.Fprintf(o, "%s%s\n", indent, t.More)
}
