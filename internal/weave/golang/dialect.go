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

// Variant is one of the texts that a file is woven into.
type Variant uint8

// The variants. Probes that are written out are faster, since they leave the
// compiler more room for inlining, but the race detector would report them.
// Where both kinds are made, a build constraint chooses between them.
const (
	Alone   Variant = iota // calls, in every build
	Direct                 // written out, in builds without the race detector
	ForRace                // calls, in builds with it
)

// Dialect spells probes for one Go file.
type Dialect struct {
	weave.Lacking
	File    *flow.File
	Variant Variant
	size    int
	path    string
	home    string
	prefix  string
	probe   string // format of a probe, for its counter
	tick    string // and of one that is an expression
}

// New gives the dialect for a file of so many bytes. Compilers and stack traces
// are to show the absolute path. home is the folder for counter files of
// processes started by hand. Probes have their places already.
func New(file *flow.File, size int, path, home string, t *site.Table, v Variant) *Dialect {
	d := &Dialect{File: file, Variant: v, size: size, path: path, home: home, prefix: "_thrush" + t.Unit[:8]}
	d.probe, d.tick = d.prefix+"(%d)", runtime.Tick(d.prefix, t, v == Direct)
	if v == Direct {
		d.probe = runtime.Direct(d.prefix, t)
	}
	return d
}

// Splits tells whether a file can be woven into two texts, of which a build
// constraint chooses one.
func Splits(file *flow.File, path string) bool {
	return nameable(path) && !file.FixedTop && !file.Program
}

var _ weave.Dialect = (*Dialect)(nil)

func (d *Dialect) count(c int) string { return fmt.Sprintf(d.probe, c) }

// Enter implements weave.Dialect. It makes the function depend on the counters
// being mapped, which orders the initialisation of packages, and costs nothing.
func (d *Dialect) Enter(*flow.Function) string {
	if d.Variant != Direct {
		return ""
	}
	return "if false{_=" + d.prefix + "_on};"
}

// Probe implements weave.Dialect.
func (d *Dialect) Probe(c int) string { return d.count(c) + ";" }

// After implements weave.Dialect.
func (d *Dialect) After(c int) string { return ";" + d.count(c) }

// Else implements weave.Dialect.
func (d *Dialect) Else(c int) string { return " else {" + d.count(c) + "}" }

// Begin implements weave.Dialect.
func (d *Dialect) Begin() string { return "{" }

// Wrap implements weave.Dialect.
func (d *Dialect) Wrap(c int) string { return "{" + d.count(c) + ";" }

// Give implements weave.Dialect.
func (d *Dialect) Give() string { return "" }

// Given implements weave.Dialect.
func (d *Dialect) Given() string { return "" }

// Unwrap implements weave.Dialect.
func (d *Dialect) Unwrap() string { return "}" }

// Default implements weave.Dialect.
func (d *Dialect) Default(then string) string { return ";default:" + then }

// LastLabel implements weave.Dialect.
func (d *Dialect) LastLabel(string) string { return "" }

func (d *Dialect) label(n int) string { return fmt.Sprintf("%s_l%d", d.prefix, n) }

// Label implements weave.Dialect.
func (d *Dialect) Label(n int) string { return ";" + d.label(n) + ":{};" }

// Goto implements weave.Dialect.
func (d *Dialect) Goto(n int) string { return "goto " + d.label(n) }

func (d *Dialect) flag(n int) string { return fmt.Sprintf("%s_f%d", d.prefix, n) }

// Flag implements weave.Dialect.
func (d *Dialect) Flag(n int) string { return "var " + d.flag(n) + " bool;" }

// Raise implements weave.Dialect.
func (d *Dialect) Raise(n int) string { return d.flag(n) + "=true;" }

// Lower implements weave.Dialect.
func (d *Dialect) Lower(n, c int) string {
	return fmt.Sprintf("if %[1]s{%[1]s=false}else{%[2]s};", d.flag(n), d.count(c))
}

// Operand implements weave.Dialect. Comparisons have no type of their own, so the
// operand keeps its own, whatever kind of bool it is.
func (d *Dialect) Operand(onTrue, onFalse string, _ *flow.Condition) (before, after string) {
	if onTrue == "" && onFalse == "" {
		return "", ""
	}
	if onTrue != "" {
		after = "&&" + onTrue + "==0"
	}
	if onFalse != "" {
		after += "||" + onFalse + "!=0"
	}
	return "(", after + ")"
}

// Tick implements weave.Dialect.
func (d *Dialect) Tick(c int) string { return fmt.Sprintf(d.tick, c) }

func (d *Dialect) sum(n int) string { return fmt.Sprintf("%s_p%d", d.prefix, n) }

// Path implements weave.Dialect.
func (d *Dialect) Path(n int) string { return "var " + d.sum(n) + " " + d.prefix + "_w;" }

// Add implements weave.Dialect.
func (d *Dialect) Add(n, weight int) string {
	return fmt.Sprintf("%s.add(%d)", d.sum(n), weight)
}

// TickAt implements weave.Dialect.
func (d *Dialect) TickAt(n, first, _ int) string {
	return fmt.Sprintf("%s.tick(%d)", d.sum(n), first)
}

// Bits implements weave.Dialect.
func (d *Dialect) Bits(n int) string { return "var " + d.sum(n) + " " + d.prefix + "_b;" }

// Note implements weave.Dialect.
func (d *Dialect) Note(bits int, n weave.Noted) string {
	value, done := 1, 0
	if n.True {
		value = 0
	}
	if n.Done {
		done = 1
	}
	return fmt.Sprintf("%s.note(%d,%d,%d,%#x,%d)", d.sum(bits), n.Condition, value, n.First, n.Masks, done)
}

// Fresh implements weave.Dialect. What is left half-way leaves the function too.
func (d *Dialect) Fresh(int, bool) (before, after string) { return "", "" }

// Missing implements weave.Dialect.
func (d *Dialect) Missing(string, string) (before, after string) { return "", "" }

// Constant implements weave.Dialect.
func (d *Dialect) Constant() weave.Dialect { return d }

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
	out := []weave.Insertion{
		d.top(),
		{At: d.File.Imports, Text: runtime.Imports(d.prefix)},
		{At: d.File.Declare, Text: runtime.Start(d.prefix)},
		{At: d.size, Text: "\n" + runtime.Counters(d.prefix, t, d.home, d.Variant == Direct)},
	}
	if tag := d.tag(); tag != "" && d.File.Constraint != "" {
		expr := strings.TrimSpace(strings.TrimPrefix(d.File.Constraint, "//go:build"))
		out = append(out, weave.Insertion{At: d.File.ConstraintAt, Del: len(d.File.Constraint),
			Text: fmt.Sprintf("//go:build %s && (%s)", tag, expr)})
	}
	return out
}

// tag is the build constraint that chooses the variant.
func (d *Dialect) tag() string {
	return map[Variant]string{Direct: "!race", ForRace: "race"}[d.Variant]
}

// top names the source: above the file, with a constraint if the file has none
// of its own, or else before the package clause.
func (d *Dialect) top() weave.Insertion {
	tag := d.tag()
	switch {
	case tag != "" && d.File.Constraint == "":
		return weave.Insertion{Text: fmt.Sprintf("//go:build %s\n\n//line %s:1:1\n", tag, d.path)}
	case nameable(d.path):
		return weave.Insertion{At: d.File.StartAt, Text: fmt.Sprintf("/*line %s:%d:%d*/", d.path, d.File.Start.Line, d.File.Start.Column)}
	}
	return weave.Insertion{}
}

// nameable tells whether a path can stand in a line directive.
func nameable(path string) bool {
	return path != "" && !strings.Contains(path, "*/") && !strings.ContainsFunc(path, func(c rune) bool { return c < ' ' })
}
