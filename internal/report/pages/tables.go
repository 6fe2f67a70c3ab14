package pages

import (
	"encoding/json"
	"fmt"
	"html/template"

	"thrush/internal/core/coverage"
	"thrush/internal/report/words"
)

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
