// Package python spells probes for Python: not as text, but as orders to the code that
// weaves in the interpreter, each for the place of an anchor. docs/python.md lists them.
package python

import (
	"fmt"
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/syntax/flow"
	"thrush/internal/syntax/python"
	"thrush/internal/weave"
)

// Dialect spells orders.
type Dialect struct{ weave.Lacking }

var _ weave.Dialect = Dialect{}

// Enter implements weave.Dialect.
func (Dialect) Enter(*flow.Function) string { return "" }

// Probe implements weave.Dialect: counts before the statement or expression.
func (Dialect) Probe(c int) string { return fmt.Sprintf("before %d", c) }

// After implements weave.Dialect: counts after the statement.
func (Dialect) After(c int) string { return fmt.Sprintf("after %d", c) }

// Else implements weave.Dialect: gives the statement an else clause that counts.
func (Dialect) Else(c int) string { return fmt.Sprintf("else %d", c) }

// Begin implements weave.Dialect.
func (Dialect) Begin() string { return "" }

// Wrap implements weave.Dialect: what hangs on an else is a statement of its own.
func (d Dialect) Wrap(c int) string { return d.Probe(c) }

// Give implements weave.Dialect.
func (Dialect) Give() string { return "" }

// Given implements weave.Dialect.
func (Dialect) Given() string { return "" }

// Unwrap implements weave.Dialect.
func (Dialect) Unwrap() string { return "" }

// Default implements weave.Dialect: gives the statement a last case that counts.
func (Dialect) Default(then string) string { return "default" + strings.TrimPrefix(then, "before") }

// LastLabel implements weave.Dialect.
func (Dialect) LastLabel(string) string { return "" }

// Label implements weave.Dialect.
func (Dialect) Label(int) string { return "" }

// Goto implements weave.Dialect.
func (Dialect) Goto(int) string { return "" }

// Flag implements weave.Dialect.
func (Dialect) Flag(int) string { return "" }

// Raise implements weave.Dialect.
func (Dialect) Raise(int) string { return "" }

// Lower implements weave.Dialect.
func (Dialect) Lower(_, c int) string { return Dialect{}.Probe(c) }

// Operand implements weave.Dialect: tests an expression, or passes it on and looks at
// its truth where that has no effect.
func (Dialect) Operand(onTrue, onFalse string, of *flow.Condition) (before, after string) {
	word := "test"
	if of.Kept {
		word = "pass"
	}
	if onTrue == "" {
		onTrue = "-"
	}
	if onFalse == "" {
		onFalse = "-"
	}
	return word + " " + onTrue + " " + onFalse, ""
}

// Tick implements weave.Dialect.
func (Dialect) Tick(c int) string { return fmt.Sprintf("tick:%d", c) }

// Path implements weave.Dialect.
func (Dialect) Path(int) string { return "" }

// Add implements weave.Dialect.
func (Dialect) Add(path, weight int) string { return fmt.Sprintf("add:%d:%d", path, weight) }

// TickAt implements weave.Dialect.
func (Dialect) TickAt(path, first, ways int) string {
	return fmt.Sprintf("at:%d:%d:%d", path, first, ways)
}

// Bits implements weave.Dialect.
func (Dialect) Bits(int) string { return "" }

// Note implements weave.Dialect.
func (Dialect) Note(bits int, n weave.Noted) string {
	value, done := 1, 0
	if n.True {
		value = 0
	}
	if n.Done {
		done = 1
	}
	return fmt.Sprintf("note:%d:%d:%d:%d:%d:%d", bits, n.First, n.Condition, value, n.Masks, done)
}

// Fresh implements weave.Dialect.
func (Dialect) Fresh(n int, _ bool) (before, after string) { return fmt.Sprintf("fresh %d", n), "" }

// Missing implements weave.Dialect.
func (Dialect) Missing(string, string) (before, after string) { return "", "" }

// Constant implements weave.Dialect.
func (d Dialect) Constant() weave.Dialect { return d }

// Resume implements weave.Dialect.
func (Dialect) Resume(int, int) string { return "" }

// Frame implements weave.Dialect.
func (Dialect) Frame(*site.Table) []weave.Insertion { return nil }

// Spell gives the orders of a plan: a line with the number of counters and 1 if they only
// note; then a line each, of a statement "s" with its line and column, or of an expression
// "e" with those of its beginning and its end, and what is to be done there.
func Spell(p *weave.Plan, f *python.File) []byte {
	hits := 0
	if p.Table.Keep == site.Hits {
		hits = 1
	}
	out := fmt.Appendf(nil, "%d %d\n", p.Table.Counters, hits)
	p.Each(Dialect{}, func(at int, order string) {
		a := f.Anchors[at]
		if a.Expression {
			out = fmt.Appendf(out, "e %d %d %d %d %s\n", a.Line, a.Column, a.ToLine, a.ToColumn, order)
		} else {
			out = fmt.Appendf(out, "s %d %d %s\n", a.Line, a.Column, order)
		}
	})
	return out
}
