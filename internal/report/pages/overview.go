package pages

import (
	"encoding/json"
	"fmt"
	"html/template"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
	"thrush/internal/core/site"
	"thrush/internal/recording"
	"thrush/internal/report/prose"
)

const (
	mostNext   = 8   // gaps on the overview
	mostPlaces = 10  // lines listed for a gate that is not met
	mostListed = 500 // rows of the lists at the end of the overview
)

func (b *book) overview() (page, error) {
	info := b.reader.Recording.Info
	l := b.link.from("index.html")
	level, _ := site.LevelOf(info.Level)
	data, err := json.Marshal(b.fileTable())
	if err != nil {
		return page{}, err
	}
	main, err := render("overview", map[string]any{
		"Link": l, "Project": prose.Safe(info.Project), "Verdict": b.verdict(), "Metrics": b.metrics(),
		"Against": b.against(), "Next": b.next(l), "MoreGaps": max(0, len(b.gaps)-mostNext), "Nothing": sentence(prose.Nothing(level, false, 0)),
		"Recordings": b.recordings(), "Notes": safeAll(info.Notes), "Problems": safeAll(info.Problems),
		"Waivers": b.waiverRows(l), "WaivedLines": b.totals.WaivedLines,
		"Unmeasured": firstOf(info.Unmeasured), "UnmeasuredAll": len(info.Unmeasured), "UnmeasuredFiles": info.UnmeasuredFiles(), "LeftOut": leftOut(info.LeftOut),
		"NotLoaded": b.notLoaded(), "Files": b.plainFiles(l), "FileCount": len(b.files),
		"Since": b.opt.Since, "Changed": b.opt.Changed != nil, "Stale": b.stale, "Data": template.JS(data),
		"Trend": b.trend(), "Moved": len(b.compared.Files),
	})
	return page{"index.html", prose.Safe(info.Project), main}, err
}

// sentence makes a sentence of words that begin small.
func sentence(s string) string { return strings.ToUpper(s[:1]) + s[1:] + "." }

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
		g.What = prose.Brief(g.What, text)
		if len(text) > 160 {
			text = strings.ToValidUTF8(text[:160], "") + " …"
		}
		out = append(out, nextFacts{g, l.File(g.Path, g.Line), prose.Safe(g.Path), text, prose.Gain(g)})
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
	for i, p := range b.reader.Recording.Info.Parts {
		if i == mostListed {
			break
		}
		out = append(out, recordingFacts{"part of it", p.ID[:min(8, len(p.ID))], recording.Info{Part: p}})
	}
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
		out = append(out, waiverRow{prose.Safe(w.path), l.File(w.path, w.line), lines, prose.Safe(w.reason)})
	}
	return out
}

func firstOf(list []recording.Unmeasured) []recording.Unmeasured {
	out := make([]recording.Unmeasured, 0, min(len(list), mostListed))
	for _, u := range list[:min(len(list), mostListed)] {
		out = append(out, recording.Unmeasured{Path: prose.Safe(u.Path), Reason: prose.Safe(u.Reason)})
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
			out = append(out, leftOutRow{prose.Plural(x.n, x.one, x.many), x.why})
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
		out[i] = plainFile{l.File(f.path, 0), prose.Safe(f.path), prose.Percent(f.totals.Of(coverage.Lines)), prose.Of(f.totals.Of(coverage.Lines))}
	}
	return out
}
