package weave

import (
	"fmt"
	"slices"
	"strings"

	"thrush/internal/core/site"
)

// Describe writes a plan for people: each line of the source, below it the sites that begin there
// with the counters that tell how often they were reached, and what is woven in, with +.
func (p *Plan) Describe() string {
	below := map[int][]string{}
	note := func(line int, format string, args ...any) {
		below[line] = append(below[line], fmt.Sprintf(format, args...))
	}
	t := p.Table
	for _, f := range t.Functions {
		if f.Span.Start.Line > 0 {
			note(f.Span.Start.Line, "function %s = %s", f.Name, sum(f.Sum))
		}
	}
	for _, s := range t.Statements {
		note(s.Span.Start.Line, "statement at %d = %s", s.Span.Start.Column, sum(s.Sum))
	}
	for _, d := range t.Decisions {
		var ways []string
		for _, o := range d.Outcomes {
			way := string(o.Code)
			if o.Code == site.Chosen {
				way = o.Detail
			}
			ways = append(ways, way+" = "+sum(o.Sum))
		}
		note(d.Pos.Line, "%s at %d: %s", d.Kind, d.Pos.Column, strings.Join(ways, ", "))
		for _, l := range d.Logic {
			p.describeLogic(l, note)
		}
	}
	lines := strings.SplitAfter(string(p.source), "\n")
	edits := slices.Clone(p.Edits)
	slices.SortStableFunc(edits, func(a, b Edit) int { return inOrder(a, b) })
	for start, line := 0, 1; line <= len(lines); line++ {
		end := start + len(lines[line-1])
		for _, e := range edits {
			if e.At >= start && e.At < end || e.At == end && line == len(lines) {
				note(line, "+ at %d: %s", e.At-start+1, e)
			}
		}
		start = end
	}
	var out strings.Builder
	for i, line := range lines {
		if line == "" {
			continue
		}
		fmt.Fprintf(&out, "%4d | %s\n", i+1, strings.TrimRight(line, "\r\n"))
		for _, text := range below[i+1] {
			fmt.Fprintf(&out, "     : %s\n", text)
		}
	}
	return out.String()
}

func (p *Plan) describeLogic(l site.Logic, note func(line int, format string, args ...any)) {
	for i, c := range l.Conditions {
		note(c.Pos.Line, "condition %d at %d: %s", i, c.Pos.Column, c.Text)
	}
	var sums []string
	for _, s := range slices.Concat(l.Ways, l.Both) {
		sums = append(sums, sum(s))
	}
	how := "ways"
	if l.Ways == nil {
		how = "each true, false, deciding being true, being false"
	}
	note(l.Pos.Line, "%s, %s = %s", l.Formula, how, strings.Join(sums, ", "))
}

// sum writes counters that add up.
func sum(s site.Sum) string {
	if len(s) == 0 {
		return "never"
	}
	var out []string
	for _, c := range s {
		out = append(out, fmt.Sprintf("c%d", c))
	}
	return strings.Join(out, "+")
}

// String writes an edit with its operands.
func (e Edit) String() string {
	a := e.Action
	out := string(a.Op)
	if e.Behind {
		return out + " behind"
	}
	if counts[a.Op] {
		out += fmt.Sprintf(" c%d", a.Counter)
	}
	if a.Name > 0 {
		out += fmt.Sprintf(" n%d", a.Name)
	}
	if a.Type != "" {
		out += " " + a.Type
	}
	if a.True != nil {
		out += ", if true " + a.True.String()
	}
	if a.False != nil {
		out += ", if false " + a.False.String()
	}
	if e.Del > 0 {
		out += fmt.Sprintf(", instead of %d bytes", e.Del)
	}
	return out
}

// counts are the operations that have a counter.
var counts = map[Op]bool{Probe: true, After: true, Else: true, Wrap: true, LastArm: true, LastLabel: true, FirstLabel: true, LastLower: true, Lower: true, First: true}

// String writes what is said.
func (s *Say) String() string {
	switch s.Saying {
	case Add:
		return fmt.Sprintf("add %d to n%d", s.Weight, s.Name)
	case TickAt:
		return fmt.Sprintf("tick c%d further by n%d, of %d", s.Counter, s.Name, s.Ways)
	case Note:
		return fmt.Sprintf("note condition %d in n%d, by c%d", s.Index, s.Name, s.Counter)
	}
	return fmt.Sprintf("tick c%d", s.Counter)
}
