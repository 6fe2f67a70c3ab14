// Package outputs lists the output formats. Another format is a package of its own and a line here.
package outputs

import (
	"thrush/internal/report/csv"
	"thrush/internal/report/documents"
	"thrush/internal/report/junit"
	"thrush/internal/report/markdown"
	"thrush/internal/report/output"
	"thrush/internal/report/sarif"
)

// All are the formats, in the order in which help names them.
var All = []output.Format{documents.Format, csv.Format, markdown.Format, sarif.Format, junit.Format}

// Names are those of all formats.
func Names() []string {
	var out []string
	for _, f := range All {
		out = append(out, f.Name)
	}
	return out
}

// Find gives the format of a name.
func Find(name string) (f output.Format, ok bool) {
	for _, f := range All {
		if f.Name == name {
			return f, true
		}
	}
	return f, false
}
