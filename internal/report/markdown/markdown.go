// Package markdown writes a report for a comment on a change, or for a page of a
// pipeline: short, with the details folded.
package markdown

import (
	"fmt"
	"html"
	"io"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gate"
	"thrush/internal/judge"
	"thrush/internal/report/output"
	"thrush/internal/report/prose"
)

// Most is how many bytes a report has at the most: comment fields take 65,536
// characters, some of them with what stands around.
const Most = 60_000

// tail is room for what comes after the lists.
const tail = 400

// Format is the format.
var Format = output.Format{Name: "markdown", About: "it as Markdown, for a comment", Judged: true, Write: func(to io.Writer, in output.Input) error {
	_, err := io.WriteString(to, Write(in.Report))
	return err
}}

// Write gives the report.
func Write(r *judge.Report) string {
	w := &writer{}
	head := fmt.Sprintf("%s of %s ran", prose.Number(uint64(r.Totals.Of(coverage.Lines).Covered)), prose.Plural(r.Totals.Of(coverage.Lines).Total, "line", "lines"))
	if text := prose.Headline(r.Count()); text != "" {
		head = text
	}
	w.line("### Thrush: %s", head)
	w.line("")
	w.totals(r)
	if len(r.Rules) > 0 {
		w.line("\nThe change itself changes what it is judged by: %s.", Escape(strings.Join(r.Rules, ", ")))
	}
	for _, v := range r.Verdicts {
		w.verdict(v)
	}
	for _, e := range r.Expired {
		w.line("\n**ENDED** %s, line %d: %s", code(e.Path), e.Line, Escape(cut(prose.Expired(e), 300)))
	}
	if r.Changed {
		w.uncovered(r)
	}
	w.line("")
	w.line("<sub>Recording %s%s%s</sub>", code(r.ID), labels(r), commit(r))
	return w.String()
}

type writer struct{ strings.Builder }

func (w *writer) line(format string, args ...any) { fmt.Fprintf(w, format+"\n", args...) }

func (w *writer) totals(r *judge.Report) {
	if r.Was == nil {
		w.line("| what | ran | of |\n|---|---:|---:|")
	} else {
		w.line("| what | ran | of | before | moved |\n|---|---:|---:|---:|---:|")
	}
	for _, d := range coverage.Metrics {
		now := r.Totals.Of(d.Metric)
		if now.Total == 0 {
			continue
		}
		line := fmt.Sprintf("| %s | %s | %s |", d.Metric, prose.Percent(now), prose.Of(now))
		if r.Was != nil {
			was := r.Was.Of(d.Metric)
			line += fmt.Sprintf(" %s | %s |", prose.Percent(was), prose.Moved(now.HundredthsPercent()-was.HundredthsPercent()))
		}
		w.line("%s", line)
	}
	if r.Against != "" {
		w.line("\nBefore: %s.", Escape(r.Against))
	}
}

func (w *writer) verdict(v gate.Verdict) {
	word := prose.Standing(v)
	if word == "not met" {
		word = "NOT MET"
	}
	w.line("\n**%s** %s (%s)", word, Escape(v.Name), prose.LooksAt(v))
	if v.Open != "" {
		w.line("\n%s", Escape(v.Open))
		return
	}
	if v.Note != "" {
		w.line("\n%s", Escape(v.Note))
	}
	for _, text := range prose.Unjudged(v) {
		w.line("- %s", Escape(cut(text, 300)))
	}
	if text := prose.PassedOver(v); text != "" {
		w.line("- %s", Escape(cut(text, 300)))
	}
	shown := 0
	for _, r := range v.Results {
		if r.Met && (v.Met && len(v.Results) > 5 || !v.Met) {
			continue
		}
		if shown++; shown > 20 || w.Len() > Most/2 {
			w.line("- and more, which `thrush gate` lists")
			return
		}
		scope := ""
		if v.Each != gate.Whole {
			scope = code(r.Scope) + " "
		}
		w.line("- %s%s: %s (%s), required %s", scope, r.Metric, prose.Percent(coverage.Ratio{Covered: r.Covered, Total: r.Total}),
			prose.Of(coverage.Ratio{Covered: r.Covered, Total: r.Total}), prose.Points(r.Required))
	}
	if !v.Met && v.On != gate.Changed {
		w.fold(prose.Plural(len(v.Lines), "place falls", "places fall")+" short", v.Lines, nil)
	}
}

func (w *writer) uncovered(r *judge.Report) {
	if len(r.Uncovered) == 0 {
		w.line("\nAll changed lines that were measured ran.")
		return
	}
	w.fold(prose.Plural(len(r.Uncovered), "gap", "gaps")+" in what changed", r.Uncovered, r.Text)
}

// fold lists places, folded up, as many as there is room for.
func (w *writer) fold(title string, list []gate.Place, text func(string, int) string) {
	if len(list) == 0 {
		return
	}
	w.line("\n<details><summary>%s</summary>\n", html.EscapeString(title))
	defer func() { w.line("\n</details>") }()
	last := ""
	folds := gate.Folded(list)
	for i, p := range folds {
		if w.Len() > Most-tail-2000 {
			w.line("- and %s more", prose.Number(uint64(len(folds)-i)))
			return
		}
		if p.Path != last {
			if last != "" {
				w.line("")
			}
			w.line("%s\n", code(p.Path))
			last = p.Path
		}
		source := ""
		if text != nil {
			if source = strings.TrimSpace(text(p.Path, p.Line)); source != "" {
				source = ": " + code(cut(source, 160))
			}
		}
		where := fmt.Sprintf("line %d", p.Line)
		if p.End > p.Line {
			where = fmt.Sprintf("lines %d–%d", p.Line, p.End)
		}
		w.line("- %s: %s%s", where, Escape(cut(p.Why, 200)), source)
	}
}

func cut(s string, most int) string {
	if len(s) <= most {
		return s
	}
	return strings.ToValidUTF8(s[:most], "") + " …"
}

// code gives a text as a span of code, in which nothing has a meaning.
func code(s string) string {
	s = strings.Join(strings.Fields(prose.Safe(s)), " ")
	fence := "`"
	for strings.Contains(s, fence) {
		fence += "`"
	}
	if len(fence) > 1 {
		return fence + " " + s + " " + fence
	}
	return fence + s + fence
}

// Escape gives a text in which nothing has a meaning in Markdown or HTML, and nobody is
// mentioned.
func Escape(s string) string {
	var b strings.Builder
	for _, r := range strings.Join(strings.Fields(prose.Safe(s)), " ") {
		switch {
		case strings.ContainsRune("\\`*_[]#|~!", r):
			b.WriteByte('\\')
			b.WriteRune(r)
		case r == '@':
			b.WriteString("&#64;")
		case strings.ContainsRune("<>&\"'", r):
			b.WriteString(html.EscapeString(string(r)))
		default:
			b.WriteRune(r)
		}
	}
	return b.String()
}

func labels(r *judge.Report) string {
	if len(r.Info.Labels) == 0 {
		return ""
	}
	list := r.Info.Labels
	more := ""
	if len(list) > 8 {
		list, more = list[:8], fmt.Sprintf(" and %d more", len(list)-8)
	}
	return " (" + Escape(cut(strings.Join(list, ", "), 100)) + more + ")"
}

func commit(r *judge.Report) string {
	if r.Info.Commit == "" {
		return ""
	}
	out := " of commit " + code(r.Info.Commit[:min(12, len(r.Info.Commit))])
	if r.Info.Dirty {
		out += " with changes"
	}
	return out
}
