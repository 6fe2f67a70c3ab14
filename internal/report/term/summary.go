package term

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
	"thrush/internal/core/tally"
	"thrush/internal/recording"
	"thrush/internal/report/prose"
)

// Summary is what is said after a command was recorded.
type Summary struct {
	Info      recording.Info
	ID        string
	Totals    coverage.Totals
	Was       *coverage.Totals // of the last recording that is like this one
	Against   string           // what that is, in words
	Items     []tally.Item
	Gaps      []gaps.Gap
	NotLoaded int // files that no process had in it
	// Asides are folders of code that tests are seldom about, if nobody has said yet whether it
	// is to count.
	Asides []string
}

// Summary prints a few lines: the totals, what moved, the least tested files
// and what to do next.
func (o *Out) Summary(s Summary) {
	label := ""
	if len(s.Info.Labels) > 0 {
		label = " · " + prose.Safe(strings.Join(s.Info.Labels, ", "))
	}
	fmt.Fprintln(o)
	did, of := "recorded", prose.Plural(s.Info.Processes, "process", "processes")
	if s.Info.Merged() {
		did, of = "merged", prose.Plural(len(s.Info.Parts), "recording", "recordings")+", "+of
	}
	fmt.Fprintf(o, "%s %s %s%s %s\n", Strong("thrush"), did, s.ID, label, Faint("· "+of))
	names := len("functions ")
	for _, d := range coverage.Metrics {
		if s.Totals.Of(d.Metric).Total > 0 {
			names = max(names, len(d.Metric))
		}
	}
	row := func(name string, now coverage.Ratio, was coverage.Ratio) {
		if now.Total == 0 {
			return
		}
		change := ""
		if s.Was != nil {
			change = Change(was, now)
			if change == "" && was.Total > 0 {
				change = Faint("unchanged")
			}
		}
		gauge := Gauge(now, 20) + " "
		if o.Terminal && o.Width < 72 {
			gauge = ""
		}
		o.line("  %-*s %s%8s  %s  %s", names, name, gauge, prose.Percent(now), Pad(prose.Of(now), 11), change)
	}
	was := coverage.Totals{}
	if s.Was != nil {
		was = *s.Was
	}
	for _, d := range coverage.Metrics {
		row(string(d.Metric), s.Totals.Of(d.Metric), was.Of(d.Metric))
	}
	if s.Was != nil {
		fmt.Fprintln(o, "  "+Faint(o.Wrap("compared with "+prose.Safe(s.Against), 2)))
	}
	o.leastTested(s.Items)
	for _, n := range aside(s) {
		fmt.Fprintln(o, "  "+Faint(o.Wrap(n, 2)))
	}
	o.next(s)
}

// leastTested names the files with the most lines that did not run.
func (o *Out) leastTested(items []tally.Item) {
	items = slices.Clone(items)
	slices.SortStableFunc(items, func(a, b tally.Item) int {
		return cmp.Or(cmp.Compare(len(gaps.Aside(a.Path)), 0)-cmp.Compare(len(gaps.Aside(b.Path)), 0),
			cmp.Compare(b.Totals.Of(coverage.Lines).Missing(), a.Totals.Of(coverage.Lines).Missing()), strings.Compare(a.Path, b.Path))
	})
	items = slices.DeleteFunc(items[:min(3, len(items))], func(i tally.Item) bool { return i.Totals.Of(coverage.Lines).Missing() == 0 })
	if len(items) == 0 {
		return
	}
	width := 0
	for _, i := range items {
		width = max(width, Width(prose.Safe(i.Path)))
	}
	width = min(width, max(16, o.Width-36))
	fmt.Fprintln(o, "  "+Faint("most left to test"))
	for _, i := range items {
		fmt.Fprintf(o, "    %s  %8s  %s\n", Pad(Middle(prose.Safe(i.Path), width), width), prose.Percent(i.Totals.Of(coverage.Lines)),
			prose.Plural(i.Totals.Of(coverage.Lines).Missing(), "line", "lines")+" not run yet")
	}
}

// mostGenerated is how many files are named that say they are generated.
const mostGenerated = 3

// aside says what the totals do not hold.
func aside(s Summary) []string {
	var out []string
	if s.NotLoaded > 0 {
		out = append(out, prose.Plural(s.NotLoaded, "file was", "files were")+" never loaded; all "+map[bool]string{true: "its", false: "their"}[s.NotLoaded == 1]+" lines count as not run")
	}
	if n := s.Info.UnmeasuredFiles(); n > 0 {
		out = append(out, prose.Plural(n, "file is", "files are")+" unmeasured: thrush tally --unmeasured says why")
	}
	var left []string
	for _, l := range []struct {
		n         int
		one, many string
	}{
		{s.Info.LeftOut.Tests, "test file", "test files"},
		{s.Info.LeftOut.Generated, "generated or vendored file", "generated or vendored files"},
		{s.Info.LeftOut.Skipped, "skipped file", "skipped files"},
	} {
		if l.n > 0 {
			left = append(left, prose.Plural(l.n, l.one, l.many))
		}
	}
	for i, g := range s.Info.Generated {
		if i == mostGenerated {
			out = append(out, fmt.Sprintf("and %d more; thrush tally --unmeasured lists all", len(s.Info.Generated)-i))
			break
		}
		out = append(out, prose.Safe(g.Path)+" is not counted: "+prose.Safe(g.Reason))
	}
	if len(s.Asides) > 0 {
		out = append(out, fmt.Sprintf("%s: tests are seldom about such code; skip in thrush.toml leaves it out (thrush init proposes it)", prose.Safe(strings.Join(s.Asides, ", "))))
	}
	if len(left) > 0 {
		out = append(out, "left out of the totals: "+strings.Join(left, ", "))
	}
	return out
}

// next says what to do now.
func (o *Out) next(s Summary) {
	if len(s.Gaps) == 0 {
		fmt.Fprintln(o, "  "+Good("everything ran")+Faint(" · thrush gate judges it against your rules"))
		return
	}
	g := s.Gaps[0]
	what := fmt.Sprintf("next: %s:%d, in %s, %s", prose.Safe(g.Path), g.Line, prose.Safe(g.Function), prose.Safe(prose.About(g, "")))
	fmt.Fprintln(o, "  "+o.Wrap(what+" "+Faint("(thrush gaps lists more)"), 4))
}
