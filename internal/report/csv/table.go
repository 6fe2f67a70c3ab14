// Package csv writes coverage as CSV (RFC 4180), for spreadsheets.
package csv

import (
	"encoding/csv"
	"io"
	"strconv"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/report/output"
	"thrush/internal/report/prose"
)

// Format is the format.
var Format = output.Format{Name: "csv", Write: func(to io.Writer, in output.Input) error { return Write(to, in.Files, By(in.By)) }}

// By says what a row is.
type By string

// What a row can be.
const (
	File     By = "file"
	Function By = "function"
	Line     By = "line"
)

// Write writes a row for each file, function or line, under a row of names.
func Write(to io.Writer, files []*coverage.File, by By) error {
	w := csv.NewWriter(to)
	var metrics []string
	for _, d := range coverage.Metrics {
		metrics = append(metrics, d.Column, string(d.Metric))
	}
	metrics = append(metrics, "waived_lines")
	head := append([]string{"path", "language"}, metrics...)
	switch by {
	case Function:
		head = append([]string{"path", "line", "end_line", "function", "count", "reached_by"}, metrics...)
	case Line:
		head = []string{"path", "line", "state", "count", "function", "reached_by"}
	}
	if err := w.Write(head); err != nil {
		return err
	}
	for _, f := range files {
		for _, row := range rows(f, by) {
			if err := w.Write(row); err != nil {
				return err
			}
		}
	}
	w.Flush()
	return w.Error()
}

func rows(f *coverage.File, by By) (out [][]string) {
	path := plain(f.Path)
	switch by {
	case Function:
		for _, fn := range f.Named() {
			out = append(out, append([]string{path, strconv.Itoa(fn.Span.Start.Line), strconv.Itoa(fn.Span.LastLine()), plain(fn.Name),
				strconv.FormatUint(fn.Count, 10), reached(f, fn.By)}, totals(fn.Totals)...))
		}
	case Line:
		for _, l := range f.Lines {
			out = append(out, []string{path, strconv.Itoa(l.Number), l.State.String(), strconv.FormatUint(l.Count, 10), plain(f.Functions[l.Function].Name), reached(f, l.By)})
		}
	default:
		out = append(out, append([]string{path, f.Language}, totals(f.Totals)...))
	}
	return out
}

func reached(f *coverage.File, by uint32) string {
	if f.Sets == nil || by == 0 {
		return ""
	}
	return plain(strings.Join(f.Sets.Names(by), " "))
}

func totals(t coverage.Totals) (out []string) {
	for _, d := range coverage.Metrics {
		r := t.Of(d.Metric)
		out = append(out, strconv.Itoa(r.Covered), strconv.Itoa(r.Total))
	}
	return append(out, strconv.Itoa(t.WaivedLines))
}

// plain keeps a spreadsheet from taking a name for a formula, a service that runs pipelines from
// taking it for a command, and each row on a line.
func plain(s string) string {
	if s = prose.Safe(s); strings.HasPrefix(strings.TrimLeft(s, " \t"), "::") {
		return "./" + s
	}
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "./" + s
	}
	return s
}
