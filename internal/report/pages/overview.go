package pages

import (
	"encoding/json"
	"fmt"
	"html/template"
	"slices"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
	"thrush/internal/core/gate"
	"thrush/internal/core/site"
	"thrush/internal/recording"
	"thrush/internal/report/words"
)

const (
	mostNext   = 8   // gaps on the overview
	mostPlaces = 10  // lines listed for a gate that is not met
	mostListed = 500 // rows of the lists at the end of the overview
)

func (b *book) overview() (page, error) {
	info := b.reader.Recording.Info
	l := b.link.from("index.html")
	data, err := json.Marshal(b.fileTable())
	if err != nil {
		return page{}, err
	}
	main, err := render("overview", map[string]any{
		"Link": l, "Project": words.Safe(info.Project), "Verdict": b.verdict(), "Metrics": b.metrics(),
		"Against": b.against(), "Next": b.next(l), "Gaps": len(b.gaps), "MoreGaps": max(0, len(b.gaps)-mostNext),
		"Recordings": b.recordings(), "Notes": safeAll(info.Notes), "Problems": safeAll(info.Problems),
		"Waivers": b.waiverRows(l), "WaivedLines": b.totals.WaivedLines,
		"Unmeasured": firstOf(info.Unmeasured), "UnmeasuredAll": len(info.Unmeasured), "LeftOut": leftOut(info.LeftOut),
		"NotLoaded": b.notLoaded(), "Processes": info.Processes, "Files": b.plainFiles(l), "FileCount": len(b.files),
		"Since": b.opt.Since, "Changed": b.opt.Changed != nil, "Stale": b.stale, "Data": template.JS(data),
	})
	return page{"index.html", words.Safe(info.Project), main}, err
}

func (b *book) metrics() []metric {
	if b.baseline == nil {
		return metrics(b.totals, nil)
	}
	return metrics(b.totals, &b.baseline.totals)
}

func (b *book) against() string {
	if b.baseline == nil {
		return ""
	}
	text := "recording " + b.baseline.id
	if len(b.baseline.info.Labels) > 0 {
		text += " (" + strings.Join(safeAll(b.baseline.info.Labels), ", ") + ")"
	}
	return text
}

// verdict is what the gates say, the unmet first.
type verdict struct {
	Headline string
	Met      bool
	None     bool // no gate was judged
	Rules    []ruleFacts
}

type ruleFacts struct {
	gate.Verdict
	About  string
	Judged bool
	Shown  []gate.Place // lines that fall short
	More   int
	Short  []gate.Result // results that do not meet it, or all of few
	Fine   int           // results that meet it and are not shown
}

func (b *book) verdict() verdict {
	v := verdict{Met: true}
	judged, unmet := 0, 0
	for i, j := range b.judgings {
		rule := b.opt.Rules[i]
		f := ruleFacts{Verdict: j.Verdict(), Judged: rule.On != gate.Changed || b.opt.Changed != nil, About: "everything"}
		if rule.On == gate.Changed {
			f.About = "changed lines"
		}
		if rule.Each != gate.Whole {
			f.About += ", each " + string(rule.Each)
		}
		level, _ := site.LevelOf(b.reader.Recording.Info.Level)
		if m := rule.Beyond(level); m != "" {
			f.Judged, f.Met = false, true
			f.Note = fmt.Sprintf("not judged: it is about %s, and the recording was made at level %s; record with --level %s", m, level, m.Level())
			v.Rules = append(v.Rules, f)
			continue
		}
		if !f.Judged {
			f.Note = "not judged: nobody said what changed; render with --since main, or --diff FILE"
			v.Rules = append(v.Rules, f)
			continue
		}
		judged++
		f.count()
		if !f.Met {
			unmet++
			v.Met = false
		}
		v.Rules = append(v.Rules, f)
	}
	for _, w := range b.reader.Expired() {
		judged, unmet, v.Met = judged+1, unmet+1, false
		v.Rules = append(v.Rules, ruleFacts{Verdict: gate.Expired("thrush.toml", w.Line, strings.Join(w.Where, ", "), w.Reason, w.Until.Format("2006-01-02")),
			Judged: true, About: "waivers"})
	}
	slices.SortStableFunc(v.Rules, func(a, b ruleFacts) int { return a.rank() - b.rank() })
	v.None = judged == 0
	v.Headline = b.headline(judged, unmet)
	return v
}

// headline is what a reader learns who reads no further.
func (b *book) headline(judged, unmet int) string {
	switch {
	case b.reader.Recording.Info.Processes == 0:
		return "Nothing was reported to have run"
	case judged == 0:
		return fmt.Sprintf("%s of %s ran", words.Number(uint64(b.totals.Lines.Covered)), words.Plural(b.totals.Lines.Total, "line", "lines"))
	case judged == 1:
		return map[bool]string{true: "The gate is met", false: "The gate is not met"}[unmet == 0]
	case unmet == 0:
		return fmt.Sprintf("All %d gates are met", judged)
	case unmet == 1:
		return fmt.Sprintf("1 of %d gates is not met", judged)
	}
	return fmt.Sprintf("%d of %d gates are not met", unmet, judged)
}

func (f *ruleFacts) rank() int {
	switch {
	case !f.Met:
		return 0
	case f.Judged:
		return 1
	}
	return 2
}

// count chooses what of a verdict to show.
func (f *ruleFacts) count() {
	for _, r := range f.Results {
		if r.Met && (len(f.Results) > 3 || !f.Met) {
			f.Fine++
			continue
		}
		f.Short = append(f.Short, r)
	}
	if len(f.Short) > mostPlaces {
		f.Fine, f.Short = 0, f.Short[:mostPlaces]
	}
	f.Shown = f.Lines[:min(mostPlaces, len(f.Lines))]
	f.More = len(f.Lines) - len(f.Shown)
}

// nextFacts is a gap with the line of source it is about.
type nextFacts struct {
	gaps.Gap
	Href, Name, Text, Gain string
}

func (b *book) next(l linker) []nextFacts {
	var out []nextFacts
	for _, g := range b.gaps[:min(mostNext, len(b.gaps))] {
		text := ""
		if source, same, err := b.reader.Source(g.Path); err == nil && same {
			if lines := sourceLines(source); g.Line <= len(lines) {
				text = strings.TrimSpace(lines[g.Line-1])
			}
		}
		g.What = words.Brief(g.What, text)
		if len(text) > 160 {
			text = strings.ToValidUTF8(text[:160], "") + " …"
		}
		out = append(out, nextFacts{g, l.File(g.Path, g.Line), words.Safe(g.Path), text, words.Gain(g)})
	}
	return out
}

// recordingFacts is a recording as it is listed.
type recordingFacts struct {
	Use, ID string
	recording.Info
}

// recordings are the ones the report is made of.
func (b *book) recordings() []recordingFacts {
	out := []recordingFacts{{"shown here", b.reader.Recording.ID, b.reader.Recording.Info}}
	if b.baseline != nil {
		out = append(out, recordingFacts{"compared with", b.baseline.id, b.baseline.info})
	}
	return out
}

type waiverRow struct {
	Path, Href, Lines, Reason string
}

func (b *book) waiverRows(l linker) []waiverRow {
	var out []waiverRow
	for _, w := range b.waivers {
		lines := fmt.Sprintf("lines %d–%d", w.line, w.endLine)
		switch {
		case w.whole:
			lines = "the whole file"
		case w.line == w.endLine:
			lines = fmt.Sprintf("line %d", w.line)
		}
		out = append(out, waiverRow{words.Safe(w.path), l.File(w.path, w.line), lines, words.Safe(w.reason)})
	}
	return out
}

func firstOf(list []recording.Unmeasured) []recording.Unmeasured {
	out := make([]recording.Unmeasured, 0, min(len(list), mostListed))
	for _, u := range list[:min(len(list), mostListed)] {
		out = append(out, recording.Unmeasured{Path: words.Safe(u.Path), Reason: words.Safe(u.Reason)})
	}
	return out
}

type leftOutRow struct{ What, Why string }

func leftOut(l recording.LeftOut) []leftOutRow {
	var out []leftOutRow
	for _, x := range []struct {
		n              int
		one, many, why string
	}{
		{l.Tests, "test file", "test files", "tests are not what is tested"},
		{l.Generated, "generated or vendored file", "generated or vendored files", "nobody here wrote them"},
		{l.Skipped, "skipped file", "skipped files", "by only and skip in thrush.toml or on the command line"},
	} {
		if x.n > 0 {
			out = append(out, leftOutRow{words.Plural(x.n, x.one, x.many), x.why})
		}
	}
	return out
}

// notLoaded counts the files that no program that ran had in it.
func (b *book) notLoaded() (n int) {
	for _, f := range b.files {
		if !f.loaded {
			n++
		}
	}
	return n
}

// plainFile is a file in the list for browsers that run no script.
type plainFile struct {
	Href, Name, Percent, Of string
}

func (b *book) plainFiles(l linker) []plainFile {
	out := make([]plainFile, len(b.files))
	for i, f := range b.files {
		out[i] = plainFile{l.File(f.path, 0), words.Safe(f.path), words.Percent(f.totals.Lines), words.Of(f.totals.Lines)}
	}
	return out
}

// fileTable is what the table and the map of the overview are drawn from. Rows
// are arrays, in the order of Columns, to be short.
type fileTable struct {
	Columns []string `json:"columns"`
	Rows    [][]any  `json:"rows"`
	Against bool     `json:"against"`
	Changed bool     `json:"changed"`
	Deep    bool     `json:"deep"` // conditions were measured
}

func (b *book) fileTable() fileTable {
	t := fileTable{Columns: []string{"path", "href", "lines", "ofLines", "branches", "ofBranches", "functions", "ofFunctions", "waived",
		"gaps", "changed", "wasLines", "wasOfLines", "conditions", "ofConditions", "independence", "ofIndependence"},
		Rows: [][]any{}, Against: b.baseline != nil, Changed: b.opt.Changed != nil, Deep: b.totals.Conditions.Total > 0}
	l := b.link.from("index.html")
	for _, f := range b.files {
		x := f.totals
		row := []any{words.Safe(f.path), l.File(f.path, 0), x.Lines.Covered, x.Lines.Total, x.Branches.Covered, x.Branches.Total,
			x.Functions.Covered, x.Functions.Total, x.WaivedLines, f.gaps, flag(f.changed)}
		if was, ok := b.was(f.path); ok {
			row = append(row, was.Lines.Covered, was.Lines.Total)
		} else if t.Against || t.Deep {
			row = append(row, nil, nil)
		}
		if t.Deep {
			row = append(row, x.Conditions.Covered, x.Conditions.Total, x.Independence.Covered, x.Independence.Total)
		}
		t.Rows = append(t.Rows, row)
	}
	return t
}

// was gives the totals of a file in the recording compared with.
func (b *book) was(path string) (t coverage.Totals, ok bool) {
	if b.baseline != nil {
		t, ok = b.baseline.files[path]
	}
	return t, ok
}

func flag(b bool) int {
	if b {
		return 1
	}
	return 0
}

// functionTable is what the list of functions is drawn from.
type functionTable struct {
	Files   []string `json:"files"`
	Hrefs   []string `json:"hrefs"`
	Columns []string `json:"columns"`
	Rows    [][]any  `json:"rows"`
}

func (b *book) functionsPage() (page, error) {
	l := b.link.from("functions.html")
	t := functionTable{Files: []string{}, Hrefs: []string{}, Rows: [][]any{},
		Columns: []string{"name", "file", "line", "count", "waived", "lines", "ofLines", "branches", "ofBranches"}}
	for _, f := range b.files {
		t.Files = append(t.Files, words.Safe(f.path))
		t.Hrefs = append(t.Hrefs, l.File(f.path, 0))
	}
	for _, f := range b.functions {
		t.Rows = append(t.Rows, []any{words.Safe(f.name), f.file, f.line, fmt.Sprint(f.count), flag(f.waived),
			f.totals.Lines.Covered, f.totals.Lines.Total, f.totals.Branches.Covered, f.totals.Branches.Total})
	}
	data, err := json.Marshal(t)
	if err != nil {
		return page{}, err
	}
	main, err := render("functions", map[string]any{"Link": l, "Called": b.totals.Functions, "Data": template.JS(data),
		"Hits": b.reader.Recording.Info.Keep == "hits", "Waived": len(b.functions) - b.totals.Functions.Total})
	return page{"functions.html", "Functions", main}, err
}

func (b *book) howPage() (page, error) {
	main, err := render("how", map[string]any{"Link": b.link.from("how.html"), "Totals": b.totals, "Files": len(b.files)})
	return page{"how.html", "How it counts", main}, err
}
