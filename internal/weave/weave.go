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
	"thrush/internal/flow"
)

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
	Edits  []Edit // in the order in which they were decided
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
	out := &Plan{Table: table, source: source, Edits: p.edits}
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
	for _, e := range p.Edits {
		if text := e.spell(d); text != "" {
			visit(e.At, text)
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

// spelled is an edit with its text.
type spelled struct {
	Edit
	text string
}

func editsOf(parts []Part, frame []Insertion) []spelled {
	var out []spelled
	for _, part := range parts {
		for _, e := range part.Plan.Edits {
			out = append(out, spelled{e, e.spell(part.Dialect)})
		}
	}
	for _, i := range frame {
		out = append(out, spelled{Edit{At: i.At, Del: i.Del}, i.Text})
	}
	return out
}

// spell gives the text of one of an action's edits.
func (e Edit) spell(d Dialect) string {
	text, behind := d.Spell(e.Action)
	if e.Behind {
		return behind
	}
	return text
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

// inOrder is the order of edits in the text.
func inOrder(a, b Edit) int {
	return cmp.Or(cmp.Compare(a.At, b.At), cmp.Compare(min(a.Del, 1), min(b.Del, 1)), cmp.Compare(a.rank, b.rank), cmp.Compare(a.order, b.order))
}

// apply carries the edits out. Where they share an offset, what is put in comes
// before what is replaced, and else in the order in which they were made. cuts are what
// was put in, with offsets in bytes.
func apply(source []byte, edits []spelled, dialect Dialect) (woven []byte, cuts []Cut) {
	slices.SortStableFunc(edits, func(a, b spelled) int { return inOrder(a.Edit, b.Edit) })
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
		if e.At < done {
			panic(fmt.Sprintf("weave: edits overlap at byte %d", e.At))
		}
		copyTo(e.At)
		cut := Cut{At: out.Len(), Instead: string(source[e.At : e.At+e.Del])}
		out.WriteString(e.text)
		if e.Del > 0 {
			if bytes.Contains(source[e.At:e.At+e.Del], newline) {
				panic(fmt.Sprintf("weave: edit removes a line break at byte %d", e.At))
			}
			done += e.Del
		}
		if cut.Len = out.Len() - cut.At; cut.Len > 0 || cut.Instead != "" {
			cuts = append(cuts, cut)
		}
		if i+1 < len(edits) && edits[i+1].At == e.At {
			continue
		}
		if done < len(source) && source[done] != '\n' && source[done] != '\r' && e.At > 0 && e.text != "" && !strings.HasSuffix(e.text, "*/") && !strings.HasSuffix(e.text, "\n") {
			out.WriteString(dialect.Resume(line, done-lineStart+1))
		}
	}
	copyTo(len(source))
	return []byte(out.String()), cuts
}
