// Package golang spells probes in Go.
package golang

import (
	"fmt"
	"strings"

	"thrush/internal/core/site"
	runtime "thrush/internal/runtime/golang"
	"thrush/internal/syntax/flow"
	"thrush/internal/weave"
)

// Dialect spells probes for one Go file.
type Dialect struct {
	File *flow.File
	Size int // bytes in the source
	// Path is the absolute path that compilers and stack traces are to show.
	Path string
	// Home is the folder for counter files of processes started by hand.
	Home   string
	prefix string
}

// New gives the dialect for a file whose table has its unit set.
func New(file *flow.File, size int, path, home, unit string) *Dialect {
	return &Dialect{File: file, Size: size, Path: path, Home: home, prefix: "_thrush" + unit[:8]}
}

var _ weave.Dialect = (*Dialect)(nil)

// Probe implements weave.Dialect.
func (d *Dialect) Probe(c uint32) string { return fmt.Sprintf("%s(%d);", d.prefix, c) }

// After implements weave.Dialect.
func (d *Dialect) After(c uint32) string { return fmt.Sprintf(";%s(%d)", d.prefix, c) }

// Else implements weave.Dialect.
func (d *Dialect) Else(c uint32) string { return fmt.Sprintf(" else {%s(%d)}", d.prefix, c) }

// Wrap implements weave.Dialect.
func (d *Dialect) Wrap(c uint32) string { return fmt.Sprintf("{%s(%d);", d.prefix, c) }

// Unwrap implements weave.Dialect.
func (d *Dialect) Unwrap() string { return "}" }

// Default implements weave.Dialect.
func (d *Dialect) Default(c uint32) string { return fmt.Sprintf(";default:%s(%d)", d.prefix, c) }

// LabelName implements weave.Dialect.
func (d *Dialect) LabelName(n int) string { return fmt.Sprintf("%s_l%d", d.prefix, n) }

// Label implements weave.Dialect.
func (d *Dialect) Label(name string) string { return ";" + name + ":{};" }

// Goto implements weave.Dialect.
func (d *Dialect) Goto(name string) string { return "goto " + name }

// FlagName implements weave.Dialect.
func (d *Dialect) FlagName(n int) string { return fmt.Sprintf("%s_f%d", d.prefix, n) }

// Flag implements weave.Dialect.
func (d *Dialect) Flag(name string) string { return "var " + name + " bool;" }

// Raise implements weave.Dialect.
func (d *Dialect) Raise(name string) string { return name + "=true;" }

// Lower implements weave.Dialect.
func (d *Dialect) Lower(name string, c uint32) string {
	return fmt.Sprintf("if %[1]s{%[1]s=false}else{%[2]s(%[3]d)};", name, d.prefix, c)
}

// Resume implements weave.Dialect. Where the file itself renames its lines,
// what it says goes on to hold, and only columns differ.
func (d *Dialect) Resume(line, column int) string {
	if d.File.Moved {
		return ""
	}
	return fmt.Sprintf("/*line :%d:%d*/", line, column)
}

// Frame implements weave.Dialect.
func (d *Dialect) Frame(t *site.Table) []weave.Insertion {
	start := weave.Insertion{At: d.File.StartAt}
	if nameable(d.Path) {
		start.Text = fmt.Sprintf("/*line %s:%d:%d*/", d.Path, d.File.Start.Line, d.File.Start.Column)
	}
	return []weave.Insertion{
		start,
		{At: d.File.Imports, Text: runtime.Imports(d.prefix)},
		{At: d.File.Declare, Text: runtime.Start(d.prefix)},
		{At: d.Size, Text: "\n" + runtime.Counters(d.prefix, t, d.Home)},
	}
}

// nameable tells whether a path can stand in a line directive.
func nameable(path string) bool {
	return path != "" && !strings.Contains(path, "*/") && !strings.ContainsFunc(path, func(c rune) bool { return c < ' ' })
}
