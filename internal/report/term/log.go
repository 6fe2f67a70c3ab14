package term

import (
	"fmt"
	"strings"
	"time"

	"thrush/internal/core/coverage"
	"thrush/internal/reading"
	"thrush/internal/report/prose"
)

// kept is a column of a log.
type kept struct {
	head  string
	width int // 0 for as much as is left
	right bool
	keep  int // how long it stays where there is little room: the least goes first
	draw  func(reading.Kept) string
}

// leastCommand is how much of a command is worth showing.
const leastCommand = 12

// logColumns are the columns of a log that have room.
func (o *Out) logColumns(labels int) []kept {
	all := []kept{
		{"id", 8, false, 9, func(e reading.Kept) string { return Strong(e.ID) }},
		{"when", 16, false, 5, func(e reading.Kept) string { return when(e.Info.When) }},
		{"label", labels, false, 6, func(e reading.Kept) string { return Middle(label(e), labels) }},
		{"lines", 8, true, 8, func(e reading.Kept) string { return prose.Percent(e.Totals.Of(coverage.Lines)) }},
		{"branches", 8, true, 7, func(e reading.Kept) string { return prose.Percent(e.Totals.Of(coverage.Branches)) }},
		{"commit", 9, false, 4, commitOf},
		{"exit", 4, true, 2, func(e reading.Kept) string { return fmt.Sprint(e.Info.Exit) }},
		{"command", 0, false, 3, commandOf},
	}
	for o.Terminal && len(all) > 1 {
		width, least := -2, 0
		for i, c := range all {
			width += 2 + c.width
			if c.width == 0 {
				width += leastCommand
			}
			if c.keep < all[least].keep {
				least = i
			}
		}
		if width <= o.Width {
			break
		}
		all = append(all[:least:least], all[least+1:]...)
	}
	return all
}

func commitOf(e reading.Kept) string {
	commit := e.Info.Commit[:min(8, len(e.Info.Commit))]
	if e.Info.Dirty {
		commit += "+"
	}
	return commit
}

func commandOf(e reading.Kept) string {
	command := prose.Safe(strings.Join(e.Info.Command, " "))
	if e.Info.Merged() {
		of := fmt.Sprintf("merged of %d", len(e.Info.Parts))
		if command != "" {
			of += ": " + command
		}
		command = of
	}
	if e.Pinned {
		command += " (pinned)"
	}
	return command
}

// Log lists recordings.
func (o *Out) Log(list []reading.Kept, more int) {
	labels := 5
	for _, e := range list {
		labels = max(labels, Width(label(e)))
	}
	columns := o.logColumns(min(labels, 24))
	left := o.Width
	for _, c := range columns {
		left -= 2 + c.width
	}
	row := func(text func(kept) string) string {
		var cells []string
		for _, c := range columns {
			cell := text(c)
			switch {
			case c.width == 0 && o.Terminal:
				cell = Cut(cell, max(left, leastCommand))
			case c.right:
				cell = PadLeft(cell, c.width)
			default:
				cell = Pad(cell, c.width)
			}
			cells = append(cells, cell)
		}
		return strings.TrimRight(strings.Join(cells, "  "), " ")
	}
	fmt.Fprintln(o, Faint(row(func(c kept) string { return c.head })))
	for _, e := range list {
		if e.Problem != "" {
			fmt.Fprintf(o, "%-8s  %s\n", e.ID, Bad(prose.Safe(e.Problem)))
			continue
		}
		fmt.Fprintln(o, row(func(c kept) string { return c.draw(e) }))
	}
	if more > 0 {
		fmt.Fprintln(o, Faint(fmt.Sprintf("and %d older: --all lists them", more)))
	}
}

func label(e reading.Kept) string { return prose.Safe(strings.Join(e.Info.Labels, ",")) }

func when(s string) string {
	t, err := time.Parse(time.RFC3339, s)
	if err != nil {
		return prose.Safe(s)
	}
	return t.Local().Format("2006-01-02 15:04")
}
