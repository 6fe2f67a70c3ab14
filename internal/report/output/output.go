// Package output says what an output format is. Each format is a package of its own that exports
// one Format; package outputs lists them.
package output

import (
	"io"

	"thrush/internal/core/coverage"
	"thrush/internal/judge"
	"thrush/internal/recording"
)

// Format is a way to write down a recording, or the verdict on it.
type Format struct {
	Name string // as the option --format calls it
	// About says what the file is for, in the help of the gate command, as in "it as Markdown, for a
	// comment". It is empty for formats of recordings.
	About string
	// Judged formats write Input.Report, others Input.Files.
	Judged bool
	Write  func(to io.Writer, in Input) error
}

// Input is what is written.
type Input struct {
	Report *judge.Report    // of a judged format
	Files  []*coverage.File // of another
	Info   recording.Info
	By     string // what a row is, for formats of rows: file, function or line
}
