// Package java spells probes in Java.
package java

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"

	"thrush/internal/core/site"
	runtimejava "thrush/internal/runtime/java"
	"thrush/internal/syntax/flow"
	"thrush/internal/weave"
)

// Dialect spells probes for one file. Text around an operand keeps what the compiler knows by
// its being true: names that patterns give, and variables that are assigned.
type Dialect struct {
	weave.Lacking
	class string // that holds the counters
	keep  site.Keep
	among flow.Among
}

var _ weave.Dialect = (*Dialect)(nil)

// Mark begins the name of the class that is put into each file, so it is in all that was
// compiled of one.
const Mark = "Thrush_"

// Spell gives the woven text of a source, and what is to follow it: the class that holds the
// counters. home is the folder for counter files of processes that know of no other.
func Spell(plan *weave.Plan, source []byte, home string) (text []byte, class string) {
	t := plan.Table
	sum := sha256.Sum256([]byte(t.Path))
	d := &Dialect{class: Mark + hex.EncodeToString(sum[:6]), keep: t.Keep}
	called := map[string]bool{}
	plan.Each(d, func(_ int, text string) {
		for _, part := range strings.Split(text, d.class+".")[1:] {
			name, _, _ := strings.Cut(part, "(")
			called[name] = true
		}
	})
	class = runtimejava.Counters(d.class, t, home, func(helper string) bool { return called[helper] })
	if !bytes.HasSuffix(source, []byte{'\n'}) {
		class = "\n" + class
	}
	return plan.Spell(d), class
}

func (d *Dialect) count(index string) string {
	if d.keep == site.Hits {
		return d.class + ".c[" + index + "]=1"
	}
	return d.class + ".c[" + index + "]++"
}

func flag(n int) string { return fmt.Sprintf("thrush_%d", n) }

// Enter implements weave.Dialect.
func (d *Dialect) Enter(*flow.Function) string { return "" }

// Tick implements weave.Dialect.
func (d *Dialect) Tick(c int) string { return d.count(fmt.Sprint(c)) }

// Probe implements weave.Dialect.
func (d *Dialect) Probe(c int) string {
	switch d.among {
	case flow.OfClass:
		return "static {" + d.Tick(c) + ";} "
	case flow.OfObject:
		return "{" + d.Tick(c) + ";} "
	}
	return d.Tick(c) + ";"
}

// After implements weave.Dialect.
func (d *Dialect) After(c int) string { return " " + d.Probe(c) }

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
func (d *Dialect) Given() string { return ";}" }

// Yield implements weave.Dialect.
func (d *Dialect) Yield() string { return "yield " }

// Default implements weave.Dialect.
func (d *Dialect) Default(then string) string { return "default->{" + then + "}" }

// LastLabel implements weave.Dialect.
func (d *Dialect) LastLabel(then string) string { return "default:" + then }

// Label implements weave.Dialect. There is no goto.
func (d *Dialect) Label(int) string { return "" }

// Goto implements weave.Dialect.
func (d *Dialect) Goto(int) string { return "" }

// Flag implements weave.Dialect.
func (d *Dialect) Flag(n int) string { return "int " + flag(n) + "=0;" }

// Raise implements weave.Dialect.
func (d *Dialect) Raise(n int) string { return flag(n) + "=1;" }

// Lower implements weave.Dialect.
func (d *Dialect) Lower(n, c int) string {
	return fmt.Sprintf("if(%[1]s!=0)%[1]s=0;else {%[2]s}", flag(n), d.Probe(c))
}

// Operand implements weave.Dialect. What is said is a number that is not negative. A compiler
// knows as much as before of what is assigned where it is true, and where it is false: what
// cannot be at all, as of a constant, assigns everything. A test that names what it finds gives
// its name to what runs if all of && is true.
func (d *Dialect) Operand(onTrue, onFalse string, of *flow.Condition) (before, after string) {
	switch {
	case onTrue == "" && onFalse == "":
		return "", ""
	case of.Names != nil:
		return "((", ")&&(" + onTrue + ")>=0)"
	}
	return "((", ")?" + truly(onTrue) + ":" + falsely(onFalse) + ")"
}

// truly is true, and falsely is false, after something was said.
func truly(say string) string {
	if say == "" {
		return "true"
	}
	return "(" + say + ")<0||true"
}

func falsely(say string) string {
	if say == "" {
		return "false"
	}
	return "(" + say + ")>=0&&false"
}

// First implements weave.Dialect. Java 7 does not see of what type null is to be where it is
// given to a call of ours.
func (d *Dialect) First(of *flow.Operand, c int) (before, after string) {
	if of.Null {
		return "((" + d.Tick(c) + ")<0?null:", ")"
	}
	return d.class + ".s(" + d.Tick(c) + ",", ")"
}

// Unless implements weave.Dialect.
func (d *Dialect) Unless(typ string, c int) (before, after string) {
	return d.class + ".u(", fmt.Sprintf(",%s.class,%d)", typ, c)
}

// UnlessNoted implements weave.Dialect.
func (d *Dialect) UnlessNoted(typ string, bits int, n weave.Noted) (before, after string) {
	return d.class + ".u(", fmt.Sprintf(",%s.class,%s)", typ, noted(bits, n))
}

// FreshNaming implements weave.Dialect.
func (d *Dialect) FreshNaming(bits int) (before, after string) {
	return d.class + ".u(", "," + flag(bits) + ")"
}

// Permit implements weave.Dialect.
func (d *Dialect) Permit(at *flow.Permit) (before, after string) {
	const what = `"fallthrough"`
	switch {
	case at.Listed:
		return what + ",", ""
	case at.From < at.End:
		return "{" + what + ",", "}"
	}
	return "@java.lang.SuppressWarnings(" + what + ") ", ""
}

// Path implements weave.Dialect.
func (d *Dialect) Path(n int) string { return d.Flag(n) }

// Add implements weave.Dialect.
func (d *Dialect) Add(n, weight int) string { return fmt.Sprintf("%s+=%d", flag(n), weight) }

// TickAt implements weave.Dialect.
func (d *Dialect) TickAt(n, first, ways int) string {
	return d.count(fmt.Sprintf("%d+(%[2]s<%[3]d?%[2]s:0)", first, flag(n), ways))
}

// Bits implements weave.Dialect.
func (d *Dialect) Bits(n int) string { return "long[] " + flag(n) + "={0,0};" }

// Note implements weave.Dialect.
func (d *Dialect) Note(bits int, n weave.Noted) string { return d.class + ".b(" + noted(bits, n) + ")" }

// noted are the arguments of what notes a condition.
func noted(bits int, n weave.Noted) string {
	value := 1
	if n.True {
		value = 0
	}
	return fmt.Sprintf("%s,%d,%d,%d,%#xL,%t", flag(bits), n.First, n.Condition, value, n.Masks, n.Done)
}

// Fresh implements weave.Dialect.
func (d *Dialect) Fresh(n int, bits bool) (before, after string) {
	cleared := flag(n) + "=0"
	if bits {
		cleared = flag(n) + "[0]=" + flag(n) + "[1]=0"
	}
	return "((", ")?" + truly(cleared) + ":" + falsely(cleared) + ")"
}

// Missing implements weave.Dialect.
func (d *Dialect) Missing(string, string) (before, after string) { return "", "" }

// Constant implements weave.Dialect.
func (d *Dialect) Constant() weave.Dialect { return d }

// Among implements weave.Dialect.
func (d *Dialect) Among(a flow.Among) weave.Dialect {
	out := *d
	out.among = a
	return &out
}

// Resume implements weave.Dialect. Lines stay; columns do not.
func (d *Dialect) Resume(int, int) string { return "" }

// Frame implements weave.Dialect.
func (d *Dialect) Frame(*site.Table) []weave.Insertion { return nil }
