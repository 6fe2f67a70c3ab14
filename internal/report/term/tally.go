package term

import (
	"fmt"

	"thrush/internal/core/coverage"
	"thrush/internal/report/words"
)

// Row is a line of a tally.
type Row struct {
	Name   string
	Indent int
	Strong bool
	Totals coverage.Totals
}

const gaugeWidth = 10

// Tally draws rows of totals and their sum.
func (o *Out) Tally(head string, rows []Row, total Row) {
	branches := total.Totals.Branches.Total > 0
	conditions := total.Totals.Conditions.Total > 0
	waived := total.Totals.WaivedLines > 0
	nameWidth := Width(head)
	for _, r := range append(rows, total) {
		nameWidth = max(nameWidth, 2*r.Indent+Width(words.Safe(r.Name)))
	}
	room := o.Width - 34 - gaugeWidth*b2i(o.Terminal)
	if branches {
		room -= 20
	}
	if conditions {
		room -= 26
	}
	if waived {
		room -= 8
	}
	if o.Terminal {
		nameWidth = min(nameWidth, max(20, room))
	}
	cell := func(r coverage.Ratio) string { return fmt.Sprintf("%8s %11s", words.Percent(r), words.Of(r)) }
	gauge := ""
	if o.Terminal {
		gauge = Pad("", gaugeWidth+2)
	}
	line := Pad(head, nameWidth) + "  " + gauge + PadLeft("lines", 20)
	if branches {
		line += PadLeft("branches", 22)
	}
	line += PadLeft("functions", 11)
	if conditions {
		line += PadLeft("conditions", 12) + PadLeft("independence", 14)
	}
	if waived {
		line += PadLeft("waived", 8)
	}
	fmt.Fprintln(o, Faint(line))
	draw := func(r Row) {
		name := Cut(Pad("", 2*r.Indent)+words.Safe(r.Name), nameWidth)
		if r.Strong {
			name = Strong(name)
		}
		row := Pad(name, nameWidth) + "  "
		if o.Terminal {
			row += Gauge(r.Totals.Lines, gaugeWidth) + "  "
		}
		row += cell(r.Totals.Lines)
		if branches {
			row += "  " + cell(r.Totals.Branches)
		}
		row += PadLeft(words.Of(r.Totals.Functions), 11)
		if conditions {
			row += PadLeft(words.Of(r.Totals.Conditions), 12) + PadLeft(words.Of(r.Totals.Independence), 14)
		}
		if waived && r.Totals.WaivedLines > 0 {
			row += PadLeft(fmt.Sprint(r.Totals.WaivedLines), 8)
		}
		o.line("%s", row)
	}
	for _, r := range rows {
		draw(r)
	}
	total.Strong = true
	draw(total)
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}
