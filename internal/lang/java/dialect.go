package java

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/flow"
	"thrush/internal/weave"
)

// Dialect spells probes for one file. Text around an operand keeps what the compiler knows by
// its being true: names that patterns give, and variables that are assigned.
type Dialect struct {
	class string // that holds the counters
	keep  site.Keep
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
	class = Counters(d.class, t, home, func(helper string) bool { return called[helper] })
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

// Spell implements weave.Dialect. There is no goto.
func (d *Dialect) Spell(a *weave.Action) (text, behind string) {
	probe := func(c int) string { return d.probe(c, a.Among) }
	if text, ok := weave.Braces(a, probe); ok {
		return text, ""
	}
	switch a.Op {
	case weave.After:
		return " " + probe(a.Counter), ""
	case weave.Give:
		return "return ", ""
	case weave.Given:
		return ";}", ""
	case weave.Yield:
		return "yield ", ""
	case weave.LastArm:
		return "default->{" + probe(a.Counter) + "}", ""
	case weave.LastLabel:
		return "default:" + probe(a.Counter), ""
	case weave.FirstLabel:
		return "default:" + probe(a.Counter) + "break;", ""
	case weave.LastLower:
		return "default:" + d.lower(a), ""
	case weave.Flag, weave.Sum:
		return "int " + flag(a.Name) + "=0;", ""
	case weave.Raise:
		return flag(a.Name) + "=1;", ""
	case weave.Lower:
		return d.lower(a), ""
	case weave.Bits:
		return "long[] " + flag(a.Name) + "={0,0};", ""
	case weave.Permit:
		return permit(a.Permit)
	}
	return d.expression(a)
}

// expression spells what stands around one.
func (d *Dialect) expression(a *weave.Action) (before, after string) {
	switch a.Op {
	case weave.Operand:
		return d.operand(a)
	case weave.FreshSum:
		return fresh(flag(a.Name) + "=0")
	case weave.FreshBits:
		return fresh(flag(a.Name) + "[0]=" + flag(a.Name) + "[1]=0")
	case weave.FreshNamed:
		return d.class + ".u(", "," + flag(a.Name) + ")"
	case weave.Unless:
		if a.False.Saying == weave.Note {
			return d.class + ".u(", fmt.Sprintf(",%s.class,%s)", a.Type, noted(a.False))
		}
		return d.class + ".u(", fmt.Sprintf(",%s.class,%d)", a.Type, a.False.Counter)
	case weave.First:
		if a.Value.Null {
			// Java 7 does not see of what type null is to be where it is given to a call of ours.
			return "((" + d.tick(a.Counter) + ")<0?null:", ")"
		}
		return d.class + ".s(" + d.tick(a.Counter) + ",", ")"
	}
	return "", ""
}

func (d *Dialect) tick(c int) string { return d.count(fmt.Sprint(c)) }

func (d *Dialect) probe(c int, among flow.Among) string {
	switch among {
	case flow.OfClass:
		return "static {" + d.tick(c) + ";} "
	case flow.OfObject:
		return "{" + d.tick(c) + ";} "
	}
	return d.tick(c) + ";"
}

func (d *Dialect) lower(a *weave.Action) string {
	return fmt.Sprintf("if(%[1]s!=0)%[1]s=0;else {%[2]s}", flag(a.Name), d.probe(a.Counter, a.Among))
}

// operand spells what is said as a number that is not negative. A compiler
// knows as much as before of what is assigned where it is true, and where it is false: what
// cannot be at all, as of a constant, assigns everything. A test that names what it finds gives
// its name to what runs if all of && is true.
func (d *Dialect) operand(a *weave.Action) (before, after string) {
	onTrue, onFalse := d.say(a.True), d.say(a.False)
	switch {
	case onTrue == "" && onFalse == "":
		return "", ""
	case a.Condition.Names != nil:
		return "((", ")&&(" + onTrue + ")>=0)"
	}
	return "((", ")?" + truly(onTrue) + ":" + falsely(onFalse) + ")"
}

func fresh(cleared string) (before, after string) {
	return "((", ")?" + truly(cleared) + ":" + falsely(cleared) + ")"
}

// say spells a number that is not negative, or nothing.
func (d *Dialect) say(s *weave.Say) string {
	switch {
	case s == nil:
		return ""
	case s.Saying == weave.Add:
		return fmt.Sprintf("%s+=%d", flag(s.Name), s.Weight)
	case s.Saying == weave.TickAt:
		return d.count(fmt.Sprintf("%d+(%[2]s<%[3]d?%[2]s:0)", s.Counter, flag(s.Name), s.Ways))
	case s.Saying == weave.Note:
		return d.class + ".b(" + noted(s) + ")"
	}
	return d.tick(s.Counter)
}

// noted are the arguments of what notes a condition.
func noted(s *weave.Say) string {
	value := 1
	if s.True {
		value = 0
	}
	return fmt.Sprintf("%s,%d,%d,%d,%#xL,%t", flag(s.Name), s.Counter, s.Index, value, s.Masks, s.Done)
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

// permit spells what an annotation takes.
func permit(at *flow.Permit) (before, after string) {
	const what = `"fallthrough"`
	switch {
	case at.Listed:
		return what + ",", ""
	case at.From < at.End:
		return "{" + what + ",", "}"
	}
	return "@java.lang.SuppressWarnings(" + what + ") ", ""
}

// Resume implements weave.Dialect. Lines stay; columns do not.
func (d *Dialect) Resume(int, int) string { return "" }

// Frame implements weave.Dialect.
func (d *Dialect) Frame(*site.Table) []weave.Insertion { return nil }
