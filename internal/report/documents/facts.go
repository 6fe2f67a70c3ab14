// Package documents gives the shapes in which commands print facts as JSON. They
// are described in docs/schema/ and versioned by the field schema.
package documents

import (
	"encoding/json"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
	"thrush/internal/recording"
)

// TallyFile is a file in a tally.
type TallyFile struct {
	Path     string `json:"path"`
	Language string `json:"language"`
	Totals   coverage.Totals
}

// MarshalJSON writes the totals beside the path.
func (f TallyFile) MarshalJSON() ([]byte, error) {
	totals, err := json.Marshal(f.Totals)
	if err != nil {
		return nil, err
	}
	head, err := json.Marshal(map[string]string{"path": f.Path, "language": f.Language})
	if err != nil {
		return nil, err
	}
	return append(append(head[:len(head)-1], ','), totals[1:]...), nil
}

// TallyDocument is thrush.tally/1.
type TallyDocument struct {
	Schema     string                 `json:"schema"`
	Totals     coverage.Totals        `json:"totals"`
	Files      []TallyFile            `json:"files"`
	Unmeasured []recording.Unmeasured `json:"unmeasured"`
	Generated  []recording.Unmeasured `json:"generated"`
	LeftOut    recording.LeftOut      `json:"left_out"`
}

// Tally gives the document for files of a recording.
func Tally(files []*coverage.File, info recording.Info) TallyDocument {
	d := TallyDocument{Schema: "thrush.tally/1", Files: []TallyFile{}, LeftOut: info.LeftOut}
	d.Unmeasured, d.Generated = append([]recording.Unmeasured{}, info.Unmeasured...), append([]recording.Unmeasured{}, info.Generated...)
	for _, f := range files {
		d.Totals = d.Totals.Add(f.Totals)
		d.Files = append(d.Files, TallyFile{f.Path, f.Language, f.Totals})
	}
	return d
}

// GapsDocument is thrush.gaps/1.
type GapsDocument struct {
	Schema string     `json:"schema"`
	Total  int        `json:"total"` // gaps in all; gaps lists the first of them
	Gaps   []gaps.Gap `json:"gaps"`
}

// Gaps gives the document for a ranked list.
func Gaps(list []gaps.Gap, total int) GapsDocument {
	return GapsDocument{"thrush.gaps/1", total, append([]gaps.Gap{}, list...)}
}

// HotDocument is thrush.hot/1.
type HotDocument struct {
	Schema string     `json:"schema"`
	Lines  []gaps.Hot `json:"lines"`
}

// Hot gives the document for what runs most.
func Hot(list []gaps.Hot) HotDocument {
	return HotDocument{"thrush.hot/1", append([]gaps.Hot{}, list...)}
}
