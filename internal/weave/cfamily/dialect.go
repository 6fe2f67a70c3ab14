// Package cfamily spells probes in C and C++.
package cfamily

import (
	"fmt"

	"thrush/internal/core/site"
	"thrush/internal/syntax/flow"
	"thrush/internal/weave"
)

// Dialect spells probes for one file of a unit.
type Dialect struct {
	weave.Lacking
	Counters string // what holds the file's counters
	Keep     site.Keep
	Atomic   bool // several threads may count without a race
	CPP      bool
	constant bool
}

var _ weave.Dialect = (*Dialect)(nil)

// Tick implements weave.Dialect.
func (d *Dialect) Tick(c int) string { return d.guarded(d.count(fmt.Sprint(c))) }

func (d *Dialect) count(index string) string {
	cell := fmt.Sprintf("%s[%s]", d.Counters, index)
	switch {
	case d.Atomic && d.Keep == site.Hits:
		return "__atomic_store_n(&" + cell + ",1,0)"
	case d.Atomic:
		return "__atomic_fetch_add(&" + cell + ",1,0)"
	case d.Keep == site.Hits:
		return cell + "=1"
	}
	return cell + "++"
}

// guarded keeps an expression from running while the compiler works it out.
func (d *Dialect) guarded(expression string) string {
	if d.constant {
		return "__builtin_is_constant_evaluated()?0:((" + expression + "),0)"
	}
	return expression
}

// Enter implements weave.Dialect.
func (d *Dialect) Enter(*flow.Function) string { return "" }

// Probe implements weave.Dialect.
func (d *Dialect) Probe(c int) string {
	if d.constant {
		return "if(!__builtin_is_constant_evaluated()){" + d.count(fmt.Sprint(c)) + ";}"
	}
	return d.count(fmt.Sprint(c)) + ";"
}

// After implements weave.Dialect.
func (d *Dialect) After(c int) string { return " " + d.Probe(c) }

// Else implements weave.Dialect.
func (d *Dialect) Else(c int) string { return " else {" + d.Probe(c) + "}" }

// Begin implements weave.Dialect.
func (d *Dialect) Begin() string { return "{" }

// Wrap implements weave.Dialect.
func (d *Dialect) Wrap(c int) string { return "{" + d.Probe(c) }

// Give implements weave.Dialect.
func (d *Dialect) Give() string { return "" }

// Given implements weave.Dialect.
func (d *Dialect) Given() string { return "" }

// Unwrap implements weave.Dialect.
func (d *Dialect) Unwrap() string { return "}" }

// Default implements weave.Dialect.
func (d *Dialect) Default(string) string { return "" }

// LastLabel implements weave.Dialect.
func (d *Dialect) LastLabel(then string) string { return " default:" + then }

// Label implements weave.Dialect.
func (d *Dialect) Label(n int) string { return fmt.Sprintf("_thrush_l%d:;", n) }

// Goto implements weave.Dialect.
func (d *Dialect) Goto(n int) string { return fmt.Sprintf("goto _thrush_l%d;", n) }

func flag(n int) string { return fmt.Sprintf("_thrush_v%d", n) }

// Flag implements weave.Dialect.
func (d *Dialect) Flag(n int) string { return "int " + flag(n) + "=0;" }

// Raise implements weave.Dialect.
func (d *Dialect) Raise(n int) string { return flag(n) + "=1;" }

// Lower implements weave.Dialect.
func (d *Dialect) Lower(n, c int) string {
	return fmt.Sprintf("if(%[1]s)%[1]s=0;else {%[2]s}", flag(n), d.Probe(c))
}

// Operand implements weave.Dialect.
func (d *Dialect) Operand(onTrue, onFalse string, _ *flow.Condition) (before, after string) {
	if onTrue == "" && onFalse == "" {
		return "", ""
	}
	yes, no := "1", "0"
	if d.CPP {
		yes, no = "true", "false"
	}
	if onTrue != "" {
		yes = "((" + onTrue + ")," + yes + ")"
	}
	if onFalse != "" {
		no = "((" + onFalse + ")," + no + ")"
	}
	return "((", ")?" + yes + ":" + no + ")"
}

// Path implements weave.Dialect.
func (d *Dialect) Path(n int) string { return d.Flag(n) }

// Add implements weave.Dialect.
func (d *Dialect) Add(n, weight int) string { return fmt.Sprintf("%s+=%d", flag(n), weight) }

// TickAt implements weave.Dialect. Threads that share the sum could make it any
// number.
func (d *Dialect) TickAt(n, first, ways int) string {
	return d.guarded(d.count(fmt.Sprintf("%d+((unsigned)%[2]s<%[3]du?%[2]s:0)", first, flag(n), ways)))
}

// Bits implements weave.Dialect.
func (d *Dialect) Bits(n int) string { return "unsigned long " + flag(n) + "[2]={0,0};" }

// Note implements weave.Dialect.
func (d *Dialect) Note(bits int, n weave.Noted) string {
	value, done := 1, 0
	if n.True {
		value = 0
	}
	if n.Done {
		done = 1
	}
	return d.guarded(fmt.Sprintf("_thrush_note(%s,&%s[%d],%d,%d,%#xul,%d)", flag(bits), d.Counters, n.First, n.Condition, value, n.Masks, done))
}

// Fresh implements weave.Dialect: a jump out of an expression, or something thrown in
// it, may lead back into the function.
func (d *Dialect) Fresh(n int, bits bool) (before, after string) {
	if bits {
		return "(" + flag(n) + "[0]=" + flag(n) + "[1]=0,", ")"
	}
	return "(" + flag(n) + "=0,", ")"
}

// Missing implements weave.Dialect.
func (d *Dialect) Missing(string, string) (before, after string) { return "", "" }

// Constant implements weave.Dialect.
func (d *Dialect) Constant() weave.Dialect {
	c := *d
	c.constant = true
	return &c
}

// Resume implements weave.Dialect. There is no way to say a column.
func (d *Dialect) Resume(int, int) string { return "" }

// Frame implements weave.Dialect. A unit has one, not each file.
func (d *Dialect) Frame(*site.Table) []weave.Insertion { return nil }
