package term

import (
	"fmt"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/reading"
	"thrush/internal/report/prose"
)

// Trend draws how lines and branches went, a row for each recording, the oldest first:
// a mark for lines, one for branches, on a scale as wide as what they moved in. Others
// are not part of the series.
func (o *Out) Trend(list []reading.Kept, others int) {
	if len(list) == 0 {
		o.line("no recording has totals to draw")
		return
	}
	low, high := 10000, 0
	for _, k := range list {
		for _, r := range []coverage.Ratio{k.Totals.Of(coverage.Lines), k.Totals.Of(coverage.Branches)} {
			if r.Total > 0 {
				low, high = min(low, r.HundredthsPercent()), max(high, r.HundredthsPercent())
			}
		}
	}
	low, high = max(0, (low-100)/500*500), min(10000, (high+499)/500*500)
	if high <= low {
		low, high = max(0, high-500), max(high, 500)
	}
	width := max(20, min(60, o.Width-62))
	at := func(r coverage.Ratio) int { return (r.HundredthsPercent() - low) * (width - 1) / (high - low) }
	left, right := fmt.Sprintf("%d%%", low/100), fmt.Sprintf("%d%%", high/100)
	o.line("%s", Faint(fmt.Sprintf("%-8s  %-16s  %-8s  %8s  %8s  %s%s%s", "id", "when", "commit", "lines", "branches", left, strings.Repeat(" ", max(1, width-len(left)-len(right))), right)))
	for _, k := range list {
		cells := make([]string, width)
		for i := range cells {
			cells[i] = Faint("·")
		}
		if k.Totals.Of(coverage.Branches).Total > 0 {
			cells[at(k.Totals.Of(coverage.Branches))] = Half("◧")
		}
		if k.Totals.Of(coverage.Lines).Total > 0 {
			cells[at(k.Totals.Of(coverage.Lines))] = Good("▮")
		}
		o.line("%s  %-16s  %-8s  %8s  %8s  %s", Strong(k.ID), when(k.Info.When), prose.Safe(k.Info.Commit[:min(8, len(k.Info.Commit))]),
			prose.Percent(k.Totals.Of(coverage.Lines)), prose.Percent(k.Totals.Of(coverage.Branches)), strings.Join(cells, ""))
	}
	note := "▮ lines  ◧ branches"
	if others > 0 {
		note += fmt.Sprintf("  · %s left out: --label chooses a series", prose.Plural(others, "recording with other labels is", "recordings with other labels are"))
	}
	o.line("%s", Faint(note))
}
