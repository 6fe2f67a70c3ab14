package term

import (
	"fmt"

	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
	"thrush/internal/report/prose"
)

// Row is a line of a tally.
type Row struct {
	Name   string
	Indent int
	Strong bool
	Totals coverage.Totals
}

const gaugeWidth = 10

// column is one of a tally's.
type column struct {
	head  string
	width int // with the blanks before it
	// keep says how long it stays where there is little room: the least goes first.
	keep int
	draw func(t coverage.Totals) string
}

// leastName is the room that names keep, if they need it, as columns make way for them.
const leastName = 24

// columnsOf are the columns of a tally for which there is something to tell, as far as they
// have room beside names of a width.
func (o *Out) columnsOf(t coverage.Totals, names int) []column {
	var out []column
	if o.Terminal {
		out = append(out, column{"", gaugeWidth + 2, 0, func(t coverage.Totals) string { return Gauge(t.Of(coverage.Lines), gaugeWidth) }})
	}
	for _, d := range coverage.Metrics {
		if t.Of(d.Metric).Total == 0 && d.Level > site.Lines {
			continue
		}
		numbers := column{string(d.Metric), len(d.Metric) + 2, d.Rank, func(t coverage.Totals) string { return prose.Of(t.Of(d.Metric)) }}
		if d.Share {
			out = append(out, column{string(d.Metric), 10, d.Rank, func(t coverage.Totals) string { return prose.Percent(t.Of(d.Metric)) }})
			numbers.head, numbers.width, numbers.keep = "", 12, d.Rank-3
		}
		out = append(out, numbers)
	}
	if t.WaivedLines > 0 {
		out = append(out, column{"waived", 8, 2, func(t coverage.Totals) string {
			if t.WaivedLines == 0 {
				return ""
			}
			return fmt.Sprint(t.WaivedLines)
		}})
	}
	for o.Terminal && len(out) > 1 {
		width, least := min(names, leastName), 0
		for i, c := range out {
			width += c.width
			if c.keep < out[least].keep {
				least = i
			}
		}
		if width <= o.Width {
			break
		}
		out = append(out[:least:least], out[least+1:]...)
	}
	return out
}

// Tally draws rows of totals and their sum.
func (o *Out) Tally(head string, rows []Row, total Row) {
	names := Width(head)
	for _, r := range append(rows, total) {
		names = max(names, 2*r.Indent+Width(prose.Safe(r.Name)))
	}
	columns := o.columnsOf(total.Totals, names)
	if o.Terminal {
		room := o.Width
		for _, c := range columns {
			room -= c.width
		}
		names = min(names, max(8, room))
	}
	line := Pad(head, names)
	for i, c := range columns {
		width := c.width
		if c.head != "" && i+1 < len(columns) && columns[i+1].head == "" {
			width += columns[i+1].width // the number that goes with the share
		}
		if c.head != "" {
			line += PadLeft(c.head, width)
		} else if i == 0 {
			line += Pad("", width)
		}
	}
	fmt.Fprintln(o, Faint(line))
	draw := func(r Row) {
		name := Middle(Pad("", 2*r.Indent)+prose.Safe(r.Name), names)
		if r.Strong {
			name = Strong(name)
		}
		row := Pad(name, names)
		for _, c := range columns {
			row += PadLeft(c.draw(r.Totals), c.width)
		}
		o.line("%s", row)
	}
	for _, r := range rows {
		draw(r)
	}
	total.Strong = true
	draw(total)
}
