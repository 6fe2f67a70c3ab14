package golang

import (
	"fmt"
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/flow"
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
	d.probe, d.tick = d.prefix+"(%d)", Tick(d.prefix, t, v == Direct)
	if v == Direct {
		d.probe = written(d.prefix, t)
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

// Spell implements weave.Dialect.
func (d *Dialect) Spell(a *weave.Action) (text, behind string) {
	if a.Op == weave.Else {
		return " else {" + d.count(a.Counter) + "}", ""
	}
	if text, ok := weave.Braces(a, d.statement); ok {
		return text, ""
	}
	switch a.Op {
	case weave.Enter:
		if d.Variant == Direct {
			// The function depends on the counters being mapped, which orders the initialisation of
			// packages, and costs nothing.
			return "if false{_=" + d.prefix + "_on};", ""
		}
	case weave.After:
		return ";" + d.count(a.Counter), ""
	case weave.LastArm:
		return ";default:" + d.statement(a.Counter), ""
	case weave.Label:
		return ";" + d.label(a.Name) + ":{};", ""
	case weave.Goto:
		return "goto " + d.label(a.Name), ""
	case weave.Flag:
		return "var " + d.flag(a.Name) + " bool;", ""
	case weave.Raise:
		return d.flag(a.Name) + "=true;", ""
	case weave.Lower:
		return fmt.Sprintf("if %[1]s{%[1]s=false}else{%[2]s};", d.flag(a.Name), d.count(a.Counter)), ""
	case weave.Sum:
		return "var " + d.sum(a.Name) + " " + d.prefix + "_w;", ""
	case weave.Bits:
		return "var " + d.sum(a.Name) + " " + d.prefix + "_b;", ""
	case weave.Operand:
		return d.operand(a)
	}
	return "", "" // what is left half-way leaves the function too, so nothing is fresh
}

func (d *Dialect) statement(c int) string { return d.count(c) + ";" }

func (d *Dialect) label(n int) string { return fmt.Sprintf("%s_l%d", d.prefix, n) }

func (d *Dialect) flag(n int) string { return fmt.Sprintf("%s_f%d", d.prefix, n) }

func (d *Dialect) sum(n int) string { return fmt.Sprintf("%s_p%d", d.prefix, n) }

// operand spells what is said as comparisons. These have no type of their own, so the operand
// keeps its own, whatever kind of bool it is.
func (d *Dialect) operand(a *weave.Action) (before, after string) {
	if a.True == nil && a.False == nil {
		return "", ""
	}
	if a.True != nil {
		after = "&&" + d.say(a.True) + "==0"
	}
	if a.False != nil {
		after += "||" + d.say(a.False) + "!=0"
	}
	return "(", after + ")"
}

// say spells an expression that is 0.
func (d *Dialect) say(s *weave.Say) string {
	switch s.Saying {
	case weave.Add:
		return fmt.Sprintf("%s.add(%d)", d.sum(s.Name), s.Weight)
	case weave.TickAt:
		return fmt.Sprintf("%s.tick(%d)", d.sum(s.Name), s.Counter)
	case weave.Note:
		value, done := 1, 0
		if s.True {
			value = 0
		}
		if s.Done {
			done = 1
		}
		return fmt.Sprintf("%s.note(%d,%d,%d,%#x,%d)", d.sum(s.Name), s.Index, value, s.Counter, s.Masks, done)
	}
	return fmt.Sprintf(d.tick, s.Counter)
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
	out := []weave.Insertion{
		d.top(),
		{At: d.File.Imports, Text: Imports(d.prefix)},
		{At: d.File.Declare, Text: Start(d.prefix)},
		{At: d.size, Text: "\n" + Counters(d.prefix, t, d.home, d.Variant == Direct)},
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
