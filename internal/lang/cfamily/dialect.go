package cfamily

import (
	"fmt"

	"thrush/internal/core/site"
	"thrush/internal/weave"
)

// Dialect spells probes for one file of a unit.
type Dialect struct {
	Counters string // what holds the file's counters
	Keep     site.Keep
	Atomic   bool // several threads may count without a race
	CPP      bool
	constant bool
}

var _ weave.Dialect = (*Dialect)(nil)

// Spell implements weave.Dialect.
func (d *Dialect) Spell(a *weave.Action) (text, behind string) {
	if a.Constant {
		d = d.guarding()
	}
	if text, ok := weave.Braces(a, d.probe); ok {
		return text, ""
	}
	switch a.Op {
	case weave.After:
		return " " + d.probe(a.Counter), ""
	case weave.LastLabel:
		return " default:" + d.probe(a.Counter), ""
	case weave.FirstLabel:
		return " default:" + d.probe(a.Counter) + "break;", ""
	case weave.LastLower:
		return " default:" + d.lower(a), ""
	case weave.Label:
		return fmt.Sprintf("_thrush_l%d:;", a.Name), ""
	case weave.Goto:
		return fmt.Sprintf("goto _thrush_l%d;", a.Name), ""
	case weave.Flag, weave.Sum:
		return "int " + variable(a.Name) + "=0;", ""
	case weave.Raise:
		return variable(a.Name) + "=1;", ""
	case weave.Lower:
		return d.lower(a), ""
	case weave.Bits:
		return "unsigned long " + variable(a.Name) + "[2]={0,0};", ""
	case weave.Operand:
		return d.operand(a)
	// A jump out of an expression, or something thrown in it, may lead back into the function.
	case weave.FreshSum:
		return "(" + variable(a.Name) + "=0,", ")"
	case weave.FreshBits:
		return "(" + variable(a.Name) + "[0]=" + variable(a.Name) + "[1]=0,", ")"
	}
	return "", ""
}

// guarding is the dialect for functions that a compiler may work out.
func (d *Dialect) guarding() *Dialect {
	c := *d
	c.constant = true
	return &c
}

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

func (d *Dialect) probe(c int) string {
	if d.constant {
		return "if(!__builtin_is_constant_evaluated()){" + d.count(fmt.Sprint(c)) + ";}"
	}
	return d.count(fmt.Sprint(c)) + ";"
}

func variable(n int) string { return fmt.Sprintf("_thrush_v%d", n) }

func (d *Dialect) lower(a *weave.Action) string {
	return fmt.Sprintf("if(%[1]s)%[1]s=0;else {%[2]s}", variable(a.Name), d.probe(a.Counter))
}

func (d *Dialect) operand(a *weave.Action) (before, after string) {
	if a.True == nil && a.False == nil {
		return "", ""
	}
	yes, no := "1", "0"
	if d.CPP {
		yes, no = "true", "false"
	}
	if a.True != nil {
		yes = "((" + d.say(a.True) + ")," + yes + ")"
	}
	if a.False != nil {
		no = "((" + d.say(a.False) + ")," + no + ")"
	}
	return "((", ")?" + yes + ":" + no + ")"
}

// say spells an expression, whatever its value.
func (d *Dialect) say(s *weave.Say) string {
	switch s.Saying {
	case weave.Add:
		return fmt.Sprintf("%s+=%d", variable(s.Name), s.Weight)
	case weave.TickAt:
		// Threads that share the sum could make it any number.
		return d.guarded(d.count(fmt.Sprintf("%d+((unsigned)%[2]s<%[3]du?%[2]s:0)", s.Counter, variable(s.Name), s.Ways)))
	case weave.Note:
		value, done := 1, 0
		if s.True {
			value = 0
		}
		if s.Done {
			done = 1
		}
		return d.guarded(fmt.Sprintf("_thrush_note(%s,&%s[%d],%d,%d,%#xul,%d)", variable(s.Name), d.Counters, s.Counter, s.Index, value, s.Masks, done))
	}
	return d.guarded(d.count(fmt.Sprint(s.Counter)))
}

// Resume implements weave.Dialect. There is no way to say a column.
func (d *Dialect) Resume(int, int) string { return "" }

// Frame implements weave.Dialect. A unit has one, not each file.
func (d *Dialect) Frame(*site.Table) []weave.Insertion { return nil }
