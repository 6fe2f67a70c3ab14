package script

import (
	"fmt"

	"thrush/internal/core/site"
	"thrush/internal/flow"
	"thrush/internal/weave"
)

// Dialect spells probes for one file.
type Dialect struct {
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

// Spell implements weave.Dialect. There is no goto.
func (d *Dialect) Spell(a *weave.Action) (text, behind string) {
	if text, ok := weave.Braces(a, d.probe); ok {
		return text, ""
	}
	switch a.Op {
	case weave.Enter:
		return d.enter(a.Function), ""
	case weave.After:
		return ";" + d.probe(a.Counter), ""
	case weave.Give:
		return "return ", ""
	case weave.Given:
		return "}", ""
	case weave.LastLabel:
		return ";default:" + d.probe(a.Counter), ""
	case weave.FirstLabel:
		return ";default:" + d.probe(a.Counter) + "break;", ""
	case weave.LastLower:
		return ";default:" + d.lower(a), ""
	case weave.Flag, weave.Sum:
		return "let " + d.variable(a.Name) + "=0;", ""
	case weave.Raise:
		return ";" + d.variable(a.Name) + "=1;", "" // what stands before may have no semicolon
	case weave.Lower:
		return d.lower(a), ""
	case weave.Bits:
		return "let " + d.variable(a.Name) + "=[0n,0n];", ""
	case weave.Operand:
		return d.operand(a)
	case weave.Pick:
		return d.pick(a)
	case weave.FreshSum:
		return "(" + d.variable(a.Name) + "=0,", ")"
	case weave.FreshBits:
		return "(" + d.variable(a.Name) + "=[0n,0n],", ")"
	}
	return "", ""
}

// enter spells the top of a function: at that of the file it gets the counters, from what
// was put into the global object, and in functions that other modules may call before it
// sees to it that they are there. Engines are quicker with a constant; a script that may
// run twice in one place cannot have one, so whoever loads it makes it one.
func (d *Dialect) enter(f *flow.Function) string {
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

func (d *Dialect) probe(c int) string { return d.count(fmt.Sprint(c)) + ";" }

func (d *Dialect) variable(n int) string { return fmt.Sprintf("%s_%d", d.names, n) }

func (d *Dialect) lower(a *weave.Action) string {
	return fmt.Sprintf(";if(%[1]s)%[1]s=0;else {%[2]s}", d.variable(a.Name), d.probe(a.Counter))
}

// operand asks for the truth of a value, which runs no code.
func (d *Dialect) operand(a *weave.Action) (before, after string) {
	if a.True == nil && a.False == nil {
		return "", ""
	}
	open, yes, no := "((", "true", "false"
	shut := ")"
	if a.Condition.Kept {
		open, shut = "(("+d.value()+"=(", "))"
		yes, no = d.value(), d.value()
	}
	return open, shut + "?" + d.then(a.True, yes) + ":" + d.then(a.False, no) + ")"
}

// pick asks whether a value is there.
func (d *Dialect) pick(a *weave.Action) (before, after string) {
	if a.True == nil {
		return "(" + d.say(a.False) + ",", ")"
	}
	v := d.value()
	return "((" + v + "=(", "))===null||" + v + "===void 0?" + d.then(a.False, v) + ":" + d.then(a.True, v) + ")"
}

// then spells a value, after something was said.
func (d *Dialect) then(s *weave.Say, value string) string {
	if s == nil {
		return value
	}
	return "(" + d.say(s) + "," + value + ")"
}

// say spells an expression, whatever its value.
func (d *Dialect) say(s *weave.Say) string {
	switch s.Saying {
	case weave.Add:
		return fmt.Sprintf("%s+=%d", d.variable(s.Name), s.Weight)
	case weave.TickAt:
		return d.count(fmt.Sprintf("%d+Math.min(%s,%d)", s.Counter, d.variable(s.Name), s.Ways-1))
	case weave.Note:
		return d.note(s)
	}
	return d.count(fmt.Sprint(s.Counter))
}

func (d *Dialect) note(s *weave.Say) string {
	value := 1
	if s.True {
		value = 0
	}
	b := d.variable(s.Name)
	out := d.count(fmt.Sprint(s.Counter + 4*s.Index + value))
	if s.Index < 64 {
		out += fmt.Sprintf(",%s[%d]|=%dn", b, value, uint64(1)<<s.Index)
	}
	if s.Masks != 0 {
		out += fmt.Sprintf(",%[1]s[0]&=~%[2]dn,%[1]s[1]&=~%[2]dn", b, s.Masks)
	}
	if s.Done {
		out += fmt.Sprintf(",%s.forEach((w,v)=>{for(let i=0;w;i++,w>>=1n)if(w&1n)%s})", b, d.count(fmt.Sprintf("%d+4*i+v", s.Counter+2)))
	}
	return out
}

// Resume implements weave.Dialect. Lines stay; columns do not.
func (d *Dialect) Resume(int, int) string { return "" }

// Frame implements weave.Dialect.
func (d *Dialect) Frame(*site.Table) []weave.Insertion { return nil }
