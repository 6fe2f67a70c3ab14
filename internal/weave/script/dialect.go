// Package script spells probes in JavaScript.
package script

import (
	"fmt"

	"thrush/internal/core/site"
	"thrush/internal/syntax/flow"
	"thrush/internal/weave"
)

// Dialect spells probes for one file.
type Dialect struct {
	weave.Lacking
	Table *site.Table
	file  *flow.File
	names string // of what the file declares for probes
	tick  string // format of an expression that counts
}

// Marks are parts of a text, one of which it has if there are probes in it, whatever was
// made of them.
var Marks = [][]byte{[]byte(`Symbol.for("thrush")`), []byte(`Symbol.for('thrush')`), []byte("Symbol.for(`thrush`)")}

// New gives the dialect for a file and its table.
func New(file *flow.File, t *site.Table) *Dialect {
	d := &Dialect{Table: t, file: file, names: "_thrush" + t.Unit[:8]}
	d.tick = d.names + "[%s]++"
	if t.Keep == site.Hits {
		d.tick = d.names + "[%s]=1"
	}
	return d
}

var _ weave.Dialect = (*Dialect)(nil)

// value names the variable for values that are passed on, and start the function that
// gets the counters.
func (d *Dialect) value() string { return d.names + "v" }
func (d *Dialect) start() string { return d.names + "s" }

func (d *Dialect) flag(n int) string { return fmt.Sprintf("%s_%d", d.names, n) }

// Enter implements weave.Dialect: at the top of the file it gets the counters, from what
// was put into the global object, and in functions that other modules may call before it
// sees to it that they are there. Engines are quicker with a constant; a script that may
// run twice in one place cannot have one, so whoever loads it makes it one.
func (d *Dialect) Enter(f *flow.Function) string {
	kind, width := "Float64Array", 8
	if d.Table.Keep == site.Hits {
		kind, width = "Uint8Array", 1
	}
	get := fmt.Sprintf(`(f=>f?f("%[1]s",%[2]d,%[3]d):new %[4]s(%[2]d))(globalThis[Symbol.for("thrush")])`, d.Table.Unit, d.Table.Counters, width, kind)
	switch {
	case f.Hoisted:
		return fmt.Sprintf("%s||%s();", d.names, d.start())
	case d.file.Hoists:
		return fmt.Sprintf("var %[1]s,%[2]s;function %[3]s(){%[1]s=%[4]s}%[1]s||%[3]s();", d.names, d.value(), d.start(), get)
	case d.file.Module:
		return fmt.Sprintf("var %s;const %s=%s;", d.value(), d.names, get)
	}
	return fmt.Sprintf("var %s,%s=%s;", d.value(), d.names, get)
}

func (d *Dialect) count(index string) string { return fmt.Sprintf(d.tick, index) }

// Tick implements weave.Dialect.
func (d *Dialect) Tick(c int) string { return d.count(fmt.Sprint(c)) }

// Probe implements weave.Dialect.
func (d *Dialect) Probe(c int) string { return d.Tick(c) + ";" }

// After implements weave.Dialect.
func (d *Dialect) After(c int) string { return ";" + d.Probe(c) }

// Else implements weave.Dialect.
func (d *Dialect) Else(c int) string { return " else {" + d.Probe(c) + "}" }

// Begin implements weave.Dialect.
func (d *Dialect) Begin() string { return "{" }

// Wrap implements weave.Dialect.
func (d *Dialect) Wrap(c int) string { return "{" + d.Probe(c) }

// Unwrap implements weave.Dialect.
func (d *Dialect) Unwrap() string { return "}" }

// Give implements weave.Dialect.
func (d *Dialect) Give() string { return "return " }

// Given implements weave.Dialect.
func (d *Dialect) Given() string { return d.Unwrap() }

// Default implements weave.Dialect.
func (d *Dialect) Default(string) string { return "" }

// LastLabel implements weave.Dialect.
func (d *Dialect) LastLabel(then string) string { return ";default:" + then }

// Label implements weave.Dialect. There is no goto.
func (d *Dialect) Label(int) string { return "" }

// Goto implements weave.Dialect.
func (d *Dialect) Goto(int) string { return "" }

// Flag implements weave.Dialect.
func (d *Dialect) Flag(n int) string { return "let " + d.flag(n) + "=0;" }

// Raise implements weave.Dialect. What stands before may have no semicolon.
func (d *Dialect) Raise(n int) string { return ";" + d.flag(n) + "=1;" }

// Lower implements weave.Dialect.
func (d *Dialect) Lower(n, c int) string {
	return fmt.Sprintf(";if(%[1]s)%[1]s=0;else {%[2]s}", d.flag(n), d.Probe(c))
}

// Operand implements weave.Dialect. Asking for the truth of a value runs no code.
func (d *Dialect) Operand(onTrue, onFalse string, of *flow.Condition) (before, after string) {
	if onTrue == "" && onFalse == "" {
		return "", ""
	}
	open, yes, no := "((", "true", "false"
	shut := ")"
	if of.Kept {
		open, shut = "(("+d.value()+"=(", "))"
		yes, no = d.value(), d.value()
	}
	return open, shut + "?" + then(onTrue, yes) + ":" + then(onFalse, no) + ")"
}

func then(say, value string) string {
	if say == "" {
		return value
	}
	return "(" + say + "," + value + ")"
}

// Missing implements weave.Dialect.
func (d *Dialect) Missing(onThere, onMissing string) (before, after string) {
	if onThere == "" {
		return "(" + onMissing + ",", ")"
	}
	v := d.value()
	return "((" + v + "=(", "))===null||" + v + "===void 0?" + then(onMissing, v) + ":" + then(onThere, v) + ")"
}

// Path implements weave.Dialect.
func (d *Dialect) Path(n int) string { return d.Flag(n) }

// Add implements weave.Dialect.
func (d *Dialect) Add(n, weight int) string { return fmt.Sprintf("%s+=%d", d.flag(n), weight) }

// TickAt implements weave.Dialect.
func (d *Dialect) TickAt(n, first, ways int) string {
	return d.count(fmt.Sprintf("%d+Math.min(%s,%d)", first, d.flag(n), ways-1))
}

// Bits implements weave.Dialect.
func (d *Dialect) Bits(n int) string { return "let " + d.flag(n) + "=[0n,0n];" }

// Note implements weave.Dialect.
func (d *Dialect) Note(bits int, n weave.Noted) string {
	value := 1
	if n.True {
		value = 0
	}
	b := d.flag(bits)
	out := d.count(fmt.Sprint(n.First + 4*n.Condition + value))
	if n.Condition < 64 {
		out += fmt.Sprintf(",%s[%d]|=%dn", b, value, uint64(1)<<n.Condition)
	}
	if n.Masks != 0 {
		out += fmt.Sprintf(",%[1]s[0]&=~%[2]dn,%[1]s[1]&=~%[2]dn", b, n.Masks)
	}
	if n.Done {
		out += fmt.Sprintf(",%s.forEach((w,v)=>{for(let i=0;w;i++,w>>=1n)if(w&1n)%s})", b, d.count(fmt.Sprintf("%d+4*i+v", n.First+2)))
	}
	return out
}

// Fresh implements weave.Dialect.
func (d *Dialect) Fresh(n int, bits bool) (before, after string) {
	if bits {
		return "(" + d.flag(n) + "=[0n,0n],", ")"
	}
	return "(" + d.flag(n) + "=0,", ")"
}

// Constant implements weave.Dialect.
func (d *Dialect) Constant() weave.Dialect { return d }

// Resume implements weave.Dialect. Lines stay; columns do not.
func (d *Dialect) Resume(int, int) string { return "" }

// Frame implements weave.Dialect.
func (d *Dialect) Frame(*site.Table) []weave.Insertion { return nil }
