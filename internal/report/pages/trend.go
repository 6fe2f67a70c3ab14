package pages

import (
	"fmt"
	"html/template"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/report/prose"
)

// Point is a recording in a series.
type Point struct {
	When   string // RFC 3339
	ID     string
	Commit string
	Totals coverage.Totals
}

// trendFacts is a series as it is drawn: a chart, and the same as a table.
type trendFacts struct {
	Wide   template.HTML
	Narrow template.HTML // the same for a phone, which would draw the wide one too small to read
	Points []Point
	From   string
}

// The chart's size, in units of its own, and the room for numbers beside it.
const (
	chartWidth, chartNarrow = 720, 360
	chartHeight             = 150
	chartLeft, chartRight   = 44, 78
	chartTop, chartBottom   = 10, 24
)

// trend draws how lines and branches went, oldest first. A series of one is none.
func (b *book) trend() *trendFacts {
	if len(b.opt.Trend) < 2 {
		return nil
	}
	return &trendFacts{chart(b.opt.Trend, "wide", chartWidth), chart(b.opt.Trend, "narrow", chartNarrow), b.opt.Trend, prose.Safe(b.opt.TrendOf)}
}

func chart(points []Point, name string, width int) template.HTML {
	var all []coverage.Metric
	for _, d := range coverage.Metrics {
		if d.Share {
			all = append(all, d.Metric)
		}
	}
	low, high := 10000, 0
	for _, s := range all {
		for _, p := range points {
			if r := p.Totals.Of(s); r.Total > 0 {
				low, high = min(low, r.HundredthsPercent()), max(high, r.HundredthsPercent())
			}
		}
	}
	low, high = max(0, low/500*500), min(10000, (high+499)/500*500)
	if high-low < 500 {
		low = max(0, high-500)
	}
	if high == low {
		high = low + 500
	}
	x := func(i int) int { return chartLeft + i*(width-chartLeft-chartRight)/max(1, len(points)-1) }
	y := func(h int) int {
		return chartTop + (high-h)*(chartHeight-chartTop-chartBottom)/(high-low)
	}
	var out strings.Builder
	fmt.Fprintf(&out, `<svg class="trend %s" viewBox="0 0 %d %d" aria-hidden=true>`, name, width, chartHeight)
	for _, h := range []int{low, (low + high) / 2, high} {
		fmt.Fprintf(&out, `<path class=grid d="M%d %dH%d" /><text x=%d y=%d class=tick>%s</text>`, chartLeft, y(h), width-chartRight, chartLeft-6, y(h)+4, tick(h))
	}
	for _, i := range []int{0, len(points) - 1} {
		anchor := ""
		if i > 0 {
			anchor = " end"
		}
		fmt.Fprintf(&out, `<text x=%d y=%d class="day%s">%s</text>`, x(i), chartHeight-6, anchor, prose.Safe(stamp(points, i)))
	}
	last := -100
	for _, s := range all {
		var line, dots strings.Builder
		end := -1
		for i, p := range points {
			r := p.Totals.Of(s)
			if r.Total == 0 {
				continue
			}
			at := y(r.HundredthsPercent())
			fmt.Fprintf(&line, "%c%d %d", "LM"[flag(end < 0)], x(i), at)
			fmt.Fprintf(&dots, `<circle cx=%d cy=%d r=3><title>%s %s, %s %s</title></circle>`, x(i), at, s, prose.Percent(r), template.HTMLEscapeString(prose.Safe(p.ID)), template.HTMLEscapeString(when(p.When)))
			end = at
		}
		if end < 0 {
			continue
		}
		label := end + 4
		if label-last < 14 && last-label < 14 {
			label = last + 14
		}
		last = label
		fmt.Fprintf(&out, `<g class=%s><path d="%s" />%s<text x=%d y=%d>%s</text></g>`, s, line.String(), dots.String(), width-chartRight+8, label, s)
	}
	out.WriteString("</svg>")
	return template.HTML(out.String())
}

func tick(hundredths int) string {
	return strings.TrimSuffix(strings.TrimRight(fmt.Sprintf("%d.%02d", hundredths/100, hundredths%100), "0"), ".") + "%"
}

// stamp is the day of a recording, or the time if all are of one day.
func stamp(points []Point, i int) string {
	day := func(p Point) string { return p.When[:min(10, len(p.When))] }
	if day(points[0]) == day(points[len(points)-1]) && len(points[i].When) > 16 {
		return points[i].When[11:16] + " UTC"
	}
	return day(points[i])
}
