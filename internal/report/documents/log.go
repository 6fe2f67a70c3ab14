package documents

import (
	"thrush/internal/core/coverage"
	"thrush/internal/reading"
)

// LogDocument is thrush.log/1.
type LogDocument struct {
	Schema     string     `json:"schema"`
	Recordings []LogEntry `json:"recordings"`
}

// LogEntry is a kept recording.
type LogEntry struct {
	ID      string          `json:"id"`
	Merged  int             `json:"merged,omitempty"` // of how many
	Pinned  bool            `json:"pinned,omitempty"`
	When    string          `json:"when"`
	TookMS  int64           `json:"took_ms"`
	Problem string          `json:"problem,omitempty"`
	Totals  coverage.Totals `json:"totals"`
	Recording
}

// Log gives the document for kept recordings.
func Log(list []reading.Kept) LogDocument {
	d := LogDocument{Schema: "thrush.log/1", Recordings: []LogEntry{}}
	for _, e := range list {
		d.Recordings = append(d.Recordings, LogEntry{e.ID, len(e.Info.Parts), e.Pinned, e.Info.When, e.Info.Took, e.Problem, e.Totals, Describe(e.Info)})
	}
	return d
}
