package term

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"thrush/internal/core/compare"
	"thrush/internal/core/coverage"
	"thrush/internal/report/documents"
	"thrush/internal/report/prose"
)

// Compare draws what moved: the totals, then what was lost, what is new and never ran,
// and what runs now.
func (o *Out) Compare(d *documents.CompareDocument, most int, source func(path string, line int) string) {
	about := ""
	if before, now := compared(d.Before), compared(d.Now); before != "" && now != "" {
		about = Faint(before + " → " + now)
	}
	o.line("%s  %s", Strong(d.Before.ID+" → "+d.Now.ID), about)
	for _, m := range coverage.Metrics {
		was, now := d.Before.Totals.Of(m.Metric), d.Now.Totals.Of(m.Metric)
		if now.Total == 0 && was.Total == 0 {
			continue
		}
		change := Change(was, now)
		if change == "" && was.Total > 0 && now.Total > 0 {
			change = Faint("unchanged")
		}
		o.line("  %-12s %8s %s → %8s %s  %s", m.Metric, prose.Percent(was), Pad(prose.Of(was), 9), prose.Percent(now), Pad(prose.Of(now), 9), change)
	}
	if len(d.Files) == 0 {
		fmt.Fprintln(o, "  nothing moved: every line and every outcome is as it was")
		return
	}
	for _, part := range []struct {
		head  string
		paint func(string) string
		is    func(compare.Item) bool
	}{
		{"lost, though the code there did not change: look at the tests", Bad, func(i compare.Item) bool { return i.Change == compare.Lost && i.Because == compare.Tests }},
		{"lost where the code changed", Bad, func(i compare.Item) bool { return i.Change == compare.Lost && i.Because == compare.Code }},
		{"new, and not run yet", Bad, func(i compare.Item) bool { return i.Change == compare.Added && !i.Ran }},
		{"runs now", Good, func(i compare.Item) bool { return i.Change == compare.Covered }},
	} {
		var list []compare.Item
		for _, f := range d.Files {
			for _, i := range f.Told() {
				if part.is(i) {
					list = append(list, i)
				}
			}
		}
		o.items(part.head, part.paint, list, most, source)
	}
	if d.Lines.Lost()+d.Outcomes.Lost() == 0 {
		fmt.Fprintln(o, Good("nothing was lost"))
	}
	o.moves(d, most)
}

func compared(c documents.Compared) string {
	if len(c.Labels) > 0 {
		return prose.Safe(strings.Join(c.Labels, ", "))
	}
	text := prose.Safe(c.Commit[:min(8, len(c.Commit))])
	if c.Dirty {
		text += "+"
	}
	return text
}

func (o *Out) items(head string, paint func(string) string, list []compare.Item, most int, source func(path string, line int) string) {
	if len(list) == 0 {
		return
	}
	fmt.Fprintf(o, "%s %s\n", paint(head), Faint("· "+prose.Plural(len(list), "place", "places")))
	for _, i := range list[:min(most, len(list))] {
		text := strings.TrimSpace(prose.Expand(prose.Safe(source(i.Path, i.Line))))
		at := Strong(fmt.Sprintf("%s:%d", prose.Safe(i.Path), i.Line))
		o.line("  %s  %s  %s", at, Faint(prose.Safe(i.Function)), prose.Safe(prose.Brief(i.What, text)))
		if text != "" {
			fmt.Fprintf(o, "      %s\n", Cut(text, o.Width-6))
		}
	}
	if len(list) > most {
		o.line("  %s", Faint(fmt.Sprintf("and %d more: --all lists them", len(list)-most)))
	}
}

// moves lists the files that moved, the most lost first.
func (o *Out) moves(d *documents.CompareDocument, most int) {
	files := slices.Clone(d.Files)
	rank := func(f *compare.File) int {
		l, _ := f.Count()
		return l.Lost() + l.AddedNot
	}
	slices.SortStableFunc(files, func(a, b *compare.File) int { return cmp.Compare(rank(b), rank(a)) })
	width := 4
	for _, f := range files[:min(most, len(files))] {
		width = max(width, Width(prose.Safe(f.Path)))
	}
	width = min(width, max(20, o.Width-62))
	fmt.Fprintln(o, Faint(fmt.Sprintf("%s  %-7s  %8s  %8s  %7s  %7s  %4s  %3s  %4s", Pad("file", width), "source", "before", "now", "moved", "run now", "lost", "new", "gone")))
	for _, f := range files[:min(most, len(files))] {
		l, _ := f.Count()
		o.line("%s  %-7s  %8s  %8s  %s  %7s  %4s  %3s  %4s", Pad(Middle(prose.Safe(f.Path), width), width), f.Source, prose.Percent(f.Was.Of(coverage.Lines)), prose.Percent(f.Now.Of(coverage.Lines)),
			PadLeft(cmp.Or(Change(f.Was.Of(coverage.Lines), f.Now.Of(coverage.Lines)), " "), 7), some(l.Covered), some(l.Lost()), some(l.AddedRan+l.AddedNot), some(l.Removed+l.RemovedNo))
	}
	if len(files) > most {
		o.line("%s", Faint(fmt.Sprintf("and %s more", prose.Plural(len(files)-most, "file", "files"))))
	}
}

// some writes a number, or nothing for none.
func some(n int) string {
	if n == 0 {
		return ""
	}
	return fmt.Sprint(n)
}
