package prose

import (
	"slices"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
	"thrush/internal/core/site"
)

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

// Note is something said of what stands on a line.
type Note struct {
	Column int // in bytes, from 1, at which what it is about begins
	Text   string
	Waiver bool
}

// Notes are what is said of lines, in the order of their columns: outcomes not taken of
// decisions that were reached, conditions that were not shown, functions not called, waivers.
func Notes(f *coverage.File) map[int][]Note {
	notes := map[int][]Note{}
	say := func(at site.Pos, text string) {
		notes[at.Line] = append(notes[at.Line], Note{Column: at.Column, Text: text})
	}
	for _, fn := range f.Named() {
		if fn.Count == 0 && !fn.Waived {
			what := gaps.NotCalled
			if fn.Literal {
				what = fn.Name + ": " + what
			}
			say(fn.Span.Start, what)
		}
	}
	for _, d := range f.Decisions {
		if d.Waived {
			continue
		}
		reached := gaps.Reached(f, d)
		for i, o := range d.Outcomes {
			if reached && o.Count == 0 {
				say(o.Pos, gaps.Says(f, d, i))
			}
		}
		for _, l := range d.Logic {
			for i, m := range gaps.Conditions(l) {
				if m.What != "" {
					say(l.Conditions[i].Pos, gaps.Of(l.Conditions[i].Text, m.Says(l)))
				}
			}
		}
	}
	for _, w := range f.Waivers {
		notes[w.Line] = append(notes[w.Line], Note{Column: 1, Text: "waived: " + w.Reason, Waiver: true})
	}
	for _, list := range notes {
		slices.SortStableFunc(list, func(a, b Note) int { return a.Column - b.Column })
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

// State says what the state of a line means. That decisions went every way is only said where
// there are some and it was asked.
func State(f *coverage.File, l coverage.Line) string {
	decides := slices.ContainsFunc(f.Decisions, func(d coverage.Decision) bool { return d.Pos.Line == l.Number && !d.Waived })
	switch {
	case l.State == coverage.Full && decides:
		return "full: all that begins here ran, and each decision went every way"
	case l.State == coverage.Full:
		return "full: all that begins here ran"
	case l.State == coverage.Part:
		return "part: it counts as a line that ran, but not all of it did, or not every way"
	case l.State == coverage.None:
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
		return "did not begin"
	}
	return "began " + Often(n)
}

func Times(n uint64) string {
	if n == 0 {
		return "did not run"
	}
	return "ran " + Often(n)
}

// About says what is missing at a gap, and of what: "this if: only false so far".
func About(g gaps.Gap, source string) string {
	what := Brief(g.What, source)
	if g.Construct == "" {
		return what
	}
	if what != g.What {
		return "this case: " + what // which the line itself names
	}
	if g.Kind == gaps.Condition {
		return "in this " + g.Construct + ", " + what
	}
	return "this " + g.Construct + ": " + what
}

// Nothing says that there are no gaps among what was asked for, and what that was: nothing is
// said of what was not looked at.
func Nothing(level site.Level, conditions bool, idle int) string {
	switch {
	case conditions && idle > 0:
		return "no operand is left to test in the decisions that were reached; " + Plural(idle, "other gap is", "other gaps are") + " listed by thrush gaps"
	case conditions:
		return "no operand is left to test: each was true, was false, and decided the outcome on its own"
	case level == site.Lines:
		return "nothing is left to test at the level of lines: all of them ran. Which ways decisions went was not recorded (--level branches)"
	}
	return "nothing is left to test: all lines ran, and all decisions went every way"
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
		parts = append(parts, "reached "+times)
	}
	return strings.Join(parts, ", ")
}
