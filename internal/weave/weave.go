package weave

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/core/waiver"
	"thrush/internal/syntax/flow"
)

// Dialect spells out, in one language, what the planner decided. No text may
// contain a line break. Statements end so that another may follow.
type Dialect interface {
	Enter(f *flow.Function) string  // at the top of every function that is in no other, or is hoisted
	Probe(counter int) string       // a statement that counts
	After(counter int) string       // the same, right after a statement's end
	Else(counter int) string        // an else that counts, right after a branch without one
	Begin() string                  // opens a block
	Wrap(counter int) string        // opens a block and counts
	Unwrap() string                 // closes that block
	Give() string                   // before the expression of a function without braces, in a block of its own
	Given() string                  // closes that block
	Yield() string                  // before an expression, in a block of its own, that is the value of one around it
	Default(then string) string     // the last arm of a choice that may fall past all arms
	LastLabel(then string) string   // the last label of a switch that may fall past all labels
	Label(n int) string             // a label of ours, where a statement could stand
	Goto(label int) string          // a jump to it, in place of another jump
	Flag(n int) string              // declares a flag of ours at the top of a function
	Raise(flag int) string          // sets it, before falling into the next arm
	Lower(flag, counter int) string // clears it if it is set, or else counts
	// Operand gives the text to put before and after an operand of a boolean
	// expression, so that what is said for true or for false is worked out when it
	// turns out so. Either may be empty. It stays as true or false as it is.
	Operand(onTrue, onFalse string, of *flow.Condition) (before, after string)
	Tick(counter int) string             // an expression, for Operand, that counts
	Path(n int) string                   // declares a sum of ours, 0, at the top of a function
	Add(path, weight int) string         // an expression that adds to it
	TickAt(path, first, ways int) string // one that counts by the counter, of so many, that is the sum further than the first, and sets the sum to 0
	Bits(n int) string                   // declares bits of ours, none set, at the top of a function
	// Note gives an expression that counts a condition, of so many, by the first of
	// its four counters, notes that it decides, being true or false, and that those
	// of the mask do not any more; with done it also counts what is noted, by all
	// counters from the first of all on, and clears it.
	Note(bits int, n Noted) string
	// Fresh gives the text to put before and after the first condition, so that a sum or
	// bits of ours are 0 there; none where an evaluation that was left half-way leaves
	// no trace.
	Fresh(n int, bits bool) (before, after string)
	// Missing gives the text to put around an expression, so that what is said for its
	// value being there or missing is worked out when it turns out so; without onThere,
	// around one that only runs when another is missing.
	Missing(onThere, onMissing string) (before, after string)
	// First gives the text to put around an expression, so that it counts right before the
	// expression is worked out.
	First(of *flow.Operand, counter int) (before, after string)
	// Unless gives the text to put around a value whose type is tested right after, so that
	// it counts if the value is not of the type.
	Unless(typ string, counter int) (before, after string)
	// UnlessNoted is as Unless, for what is noted of the test. FreshNaming is as Fresh, for
	// bits, around a value whose type is the first condition: around the test itself no text
	// can stand. All three have the same text before the value, so that they may stand around
	// one another.
	UnlessNoted(typ string, bits int, n Noted) (before, after string)
	FreshNaming(bits int) (before, after string)
	// Permit gives the text to put at the two ends of a permit, so that the compiler does not
	// warn of control that runs from one label of a switch into the next.
	Permit(at *flow.Permit) (before, after string)
	// Constant is the dialect for functions that a compiler may work out, and Among the one
	// for statements among the members of a class.
	Constant() Dialect
	Among(flow.Among) Dialect
	Resume(line, column int) string // says which place of the source the text after it has
	// Frame gives the text that goes with the file itself.
	Frame(t *site.Table) []Insertion
}

// Lacking is the part of a dialect that most languages have no use for.
type Lacking struct{}

// Yield implements Dialect.
func (Lacking) Yield() string { return "" }

// First implements Dialect.
func (Lacking) First(*flow.Operand, int) (before, after string) { return "", "" }

// Unless implements Dialect.
func (Lacking) Unless(string, int) (before, after string) { return "", "" }

// UnlessNoted implements Dialect.
func (Lacking) UnlessNoted(string, int, Noted) (before, after string) { return "", "" }

// FreshNaming implements Dialect.
func (Lacking) FreshNaming(int) (before, after string) { return "", "" }

// Permit implements Dialect.
func (Lacking) Permit(*flow.Permit) (before, after string) { return "", "" }

// Among implements Dialect.
func (Lacking) Among(flow.Among) Dialect { return nil }

// Noted is what is noted of a condition in an expression whose ways are not counted one by one.
type Noted struct {
	Condition int
	True      bool
	First     int // counter of condition 0, of four for each
	Masks     uint64
	Done      bool
}

// Insertion is text to put in place of Del bytes at an offset, mostly none.
type Insertion struct {
	At, Del int
	Text    string
}

// Options say what to weave for.
type Options struct {
	Level site.Level
	Keep  site.Keep
}

// Plan is where probes stand in a file.
type Plan struct {
	Table *site.Table
	// Problems are the waivers in the source that cannot be honoured.
	Problems []waiver.Problem

	source []byte
	edits  []edit
}

// Place decides where probes stand. The table's path, unit and digest must be
// set; the rest of it is filled in.
func Place(source []byte, file *flow.File, table *site.Table, opt Options) *Plan {
	table.Level, table.Keep, table.Lines = opt.Level, opt.Keep, file.Lines
	p := &planner{source: source, table: table, permitted: map[flow.Permit]bool{}}
	for _, f := range file.Functions {
		p.function(f)
	}
	p.number()
	slices.SortStableFunc(table.Statements, func(a, b site.Statement) int { return compare(a.Span.Start, b.Span.Start) })
	slices.SortStableFunc(table.Decisions, func(a, b site.Decision) int { return compare(a.Pos, b.Pos) })
	table.Continued = continued(file.Code, table)
	out := &Plan{Table: table, source: source, edits: p.edits}
	table.Waivers, out.Problems = waiver.FromNotes(file.Notes, file.Blocks, table)
	return out
}

// Spell gives the woven text. Lines keep their numbers.
func (p *Plan) Spell(d Dialect) []byte {
	return SpellAll(p.source, []Part{{p, d}}, d.Frame(p.Table))
}

// Cut is a stretch of woven text that is not the source's, and the text of the source that
// stood in its place. Offsets are in UTF-16 units, as JavaScript has them.
type Cut struct {
	At, Len int
	Instead string
}

// MarshalJSON gives a cut as [at, len, instead].
func (c Cut) MarshalJSON() ([]byte, error) { return json.Marshal([]any{c.At, c.Len, c.Instead}) }

// SpellCut gives the woven text, and what has to be cut out of it to have the source again.
func (p *Plan) SpellCut(d Dialect) (text []byte, cuts []Cut) {
	text, at := apply(p.source, editsOf([]Part{{p, d}}, d.Frame(p.Table)), d)
	units := 0
	done := 0
	for _, c := range at {
		units += unitsOf(text[done:c.At])
		done = c.At + c.Len
		n := unitsOf(text[c.At:done])
		cuts = append(cuts, Cut{units, n, c.Instead})
		units += n
	}
	return text, cuts
}

// unitsOf is how many UTF-16 units a text has.
func unitsOf(text []byte) (n int) {
	for _, c := range string(text) {
		n++
		if c > 0xffff {
			n++
		}
	}
	return n
}

// Each visits what a dialect says, with the offsets at which it says it, in the order
// in which it was planned.
func (p *Plan) Each(d Dialect, visit func(at int, text string)) {
	for _, e := range p.edits {
		if e.say == nil {
			continue
		}
		if text := e.say(d); text != "" {
			visit(e.at, text)
		}
	}
}

// Part is the plan of one file, and how it is spelled.
type Part struct {
	Plan    *Plan
	Dialect Dialect
}

// SpellAll gives the woven text of a source in which several files stand.
func SpellAll(source []byte, parts []Part, frame []Insertion) []byte {
	text, _ := apply(source, editsOf(parts, frame), parts[0].Dialect)
	return text
}

func editsOf(parts []Part, frame []Insertion) []edit {
	var edits []edit
	for _, part := range parts {
		for _, e := range part.Plan.edits {
			if say := e.say; say != nil {
				e.say = func(Dialect) string { return say(part.Dialect) }
			}
			edits = append(edits, e)
		}
	}
	for _, i := range frame {
		edits = append(edits, edit{at: i.At, del: i.Del, say: func(Dialect) string { return i.Text }})
	}
	return edits
}

// continued are the lines of code on which nothing begins.
func continued(code []uint32, t *site.Table) []uint32 {
	begins := map[int]bool{}
	for i := range t.Functions {
		begins[t.Functions[i].Span.Start.Line] = true
	}
	for i := range t.Statements {
		begins[t.Statements[i].Span.Start.Line] = true
	}
	return slices.DeleteFunc(code, func(l uint32) bool { return begins[int(l)] })
}

var newline = []byte{'\n'}

func compare(a, b site.Pos) int {
	return cmp.Or(cmp.Compare(a.Line, b.Line), cmp.Compare(a.Column, b.Column))
}

// apply carries the edits out. Where they share an offset, what is put in comes
// before what is replaced, and else in the order in which they were made. cuts are what
// was put in, with offsets in bytes.
func apply(source []byte, edits []edit, dialect Dialect) (woven []byte, cuts []Cut) {
	slices.SortStableFunc(edits, func(a, b edit) int {
		return cmp.Or(cmp.Compare(a.at, b.at), cmp.Compare(min(a.del, 1), min(b.del, 1)), cmp.Compare(a.rank, b.rank), cmp.Compare(a.order, b.order))
	})
	var out strings.Builder
	out.Grow(len(source) + 24*len(edits))
	line, lineStart, done := 1, 0, 0
	copyTo := func(at int) {
		if n := bytes.Count(source[done:at], newline); n > 0 {
			line, lineStart = line+n, done+bytes.LastIndexByte(source[done:at], '\n')+1
		}
		out.Write(source[done:at])
		done = at
	}
	for i, e := range edits {
		if e.at < done {
			panic(fmt.Sprintf("weave: edits overlap at byte %d", e.at))
		}
		copyTo(e.at)
		text := ""
		if e.say != nil {
			text = e.say(dialect)
		}
		cut := Cut{At: out.Len(), Instead: string(source[e.at : e.at+e.del])}
		out.WriteString(text)
		if e.del > 0 {
			if bytes.Contains(source[e.at:e.at+e.del], newline) {
				panic(fmt.Sprintf("weave: edit removes a line break at byte %d", e.at))
			}
			done += e.del
		}
		if cut.Len = out.Len() - cut.At; cut.Len > 0 || cut.Instead != "" {
			cuts = append(cuts, cut)
		}
		if i+1 < len(edits) && edits[i+1].at == e.at {
			continue
		}
		if done < len(source) && source[done] != '\n' && source[done] != '\r' && e.at > 0 && text != "" && !strings.HasSuffix(text, "*/") && !strings.HasSuffix(text, "\n") {
			out.WriteString(dialect.Resume(line, done-lineStart+1))
		}
	}
	copyTo(len(source))
	return []byte(out.String()), cuts
}
