package documents

import (
	"thrush/internal/core/compare"
	"thrush/internal/core/coverage"
	"thrush/internal/recording"
)

// CompareDocument is thrush.compare/1: what moved from one recording to another.
type CompareDocument struct {
	Schema   string          `json:"schema"`
	Before   Compared        `json:"before"`
	Now      Compared        `json:"now"`
	Lines    compare.Counts  `json:"lines"`
	Outcomes compare.Counts  `json:"outcomes"`
	Files    []*compare.File `json:"files"` // those of which something moved
}

// Compared is one of the two recordings.
type Compared struct {
	ID     string          `json:"id"`
	Totals coverage.Totals `json:"totals"`
	Recording
}

// Compare begins a document.
func Compare(was, now *recording.Recording) *CompareDocument {
	return &CompareDocument{Schema: "thrush.compare/1", Before: Compared{ID: was.ID, Recording: Describe(was.Info)},
		Now: Compared{ID: now.ID, Recording: Describe(now.Info)}, Files: []*compare.File{}}
}

// Add takes a file into account.
func (d *CompareDocument) Add(p coverage.Pair, f *compare.File) {
	if p.Was != nil {
		d.Before.Totals = d.Before.Totals.Add(p.Was.Totals)
	}
	if p.Now != nil {
		d.Now.Totals = d.Now.Totals.Add(p.Now.Totals)
	}
	lines, outcomes := f.Count()
	d.Lines, d.Outcomes = d.Lines.Add(lines), d.Outcomes.Add(outcomes)
	if f.Moved() {
		d.Files = append(d.Files, f)
	}
}
