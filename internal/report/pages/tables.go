package pages

import (
	"encoding/json"
	"fmt"
	"html/template"

	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
	"thrush/internal/report/prose"
)

// fileTable is what the table and the map of the overview are drawn from. Rows
// are arrays, in the order of Columns, to be short.
type fileTable struct {
	Columns []string      `json:"columns"`
	Metrics []tableMetric `json:"metrics"`
	Rows    [][]any       `json:"rows"`
	Against bool          `json:"against"`
	Changed bool          `json:"changed"`
}

// tableMetric is a metric with columns of its own: one of how many were reached, called as it is,
// and one of how many there are, called so with "of:" before it.
type tableMetric struct {
	Name  coverage.Metric `json:"name"`
	Noun  string          `json:"noun"`
	Share bool            `json:"share"` // its percentage is shown beside the numbers
}

func (b *book) fileTable() fileTable {
	t := fileTable{Columns: []string{"path", "href", "waived", "gaps", "changed"}, Rows: [][]any{},
		Against: b.baseline != nil, Changed: b.opt.Changed != nil}
	for _, d := range coverage.Metrics {
		if b.totals.Of(d.Metric).Total > 0 || d.Level < site.Conditions {
			t.Metrics = append(t.Metrics, tableMetric{d.Metric, d.Noun, d.Share})
			t.Columns = append(t.Columns, string(d.Metric), "of:"+string(d.Metric))
		}
	}
	if t.Against {
		t.Columns = append(t.Columns, "wasLines", "wasOfLines")
	}
	l := b.link.from("index.html")
	for _, f := range b.files {
		row := []any{prose.Safe(f.path), l.File(f.path, 0), f.totals.WaivedLines, f.gaps, flag(f.changed)}
		for _, m := range t.Metrics {
			r := f.totals.Of(m.Name)
			row = append(row, r.Covered, r.Total)
		}
		if was, ok := b.was(f.path); ok {
			row = append(row, was.Of(coverage.Lines).Covered, was.Of(coverage.Lines).Total)
		} else if t.Against {
			row = append(row, nil, nil)
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
		Columns: []string{"name", "file", "line", "count", "waived", "lines", "of:lines", "branches", "of:branches"}}
	for _, f := range b.files {
		t.Files = append(t.Files, prose.Safe(f.path))
		t.Hrefs = append(t.Hrefs, l.File(f.path, 0))
	}
	for _, f := range b.functions {
		t.Rows = append(t.Rows, []any{prose.Safe(f.name), f.file, f.line, fmt.Sprint(f.count), flag(f.waived),
			f.totals.Of(coverage.Lines).Covered, f.totals.Of(coverage.Lines).Total, f.totals.Of(coverage.Branches).Covered, f.totals.Of(coverage.Branches).Total})
	}
	data, err := json.Marshal(t)
	if err != nil {
		return page{}, err
	}
	main, err := render("functions", map[string]any{"Link": l, "Called": b.totals.Of(coverage.Functions), "Data": template.JS(data),
		"Hits": b.reader.Recording.Info.Keep == "hits", "Waived": len(b.functions) - b.totals.Of(coverage.Functions).Total})
	return page{"functions.html", "Functions", main}, err
}

func (b *book) howPage() (page, error) {
	main, err := render("how", map[string]any{"Link": b.link.from("how.html"), "Totals": b.totals, "Files": len(b.files), "Metrics": coverage.Metrics})
	return page{"how.html", "How it counts", main}, err
}
