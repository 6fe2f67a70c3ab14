// Package badge draws a number as a small picture (SVG 1.1) for a project's
// front page.
package badge

import (
	"fmt"
	"html"
	"math"
	"strings"
	"sync"

	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"thrush/internal/core/coverage"
	"thrush/internal/report/palette"
	"thrush/internal/report/prose"
)

// Steps are the percentages from which a value is drawn as one that ran in part,
// and as one that ran.
type Steps struct{ Part, Ran float64 }

// DefaultSteps are those where nobody says otherwise.
var DefaultSteps = Steps{Part: 60, Ran: 90}

const (
	height   = 20
	fontSize = 11
	edge     = 8 // between the rim and what stands next to it, and between the parts
	segments = 5
	segment  = 4 // width of one, 2 apart
)

// Draw draws a ratio beside a label: words, a gauge, and the percentage, rounded
// down. Texts are given the widths they are drawn in, so they fit whatever font
// a reader has.
func Draw(label string, r coverage.Ratio, p palette.Palette, s Steps) string {
	label = prose.Safe(label)
	value, tone := "–", p.Waived
	if r.Total > 0 {
		value, tone = fmt.Sprintf("%d%%", r.HundredthsPercent()/100), toneOf(r, p, s)
	}
	labelWidth, valueWidth := width(label), width(value)
	gaugeAt := edge + labelWidth + edge
	if label == "" {
		gaugeAt = edge
	}
	valueAt := gaugeAt + segments*(segment+2) - 2 + edge
	whole := valueAt + valueWidth + edge
	says := fmt.Sprintf("%s: %s", label, value)
	if r.Total > 0 {
		says = fmt.Sprintf("%s: %s, %s of %s", label, prose.Percent(r), prose.Number(uint64(r.Covered)), prose.Number(uint64(r.Total)))
	}
	says = html.EscapeString(strings.TrimPrefix(says, ": "))
	var out strings.Builder
	fmt.Fprintf(&out, `<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%d" role="img" aria-label="%s">`+"\n<title>%[3]s</title>\n", whole, height, says)
	fmt.Fprintf(&out, `<rect x="0.5" y="0.5" width="%d" height="%d" rx="4" fill="%s" stroke="%s"/>`+"\n", whole-1, height-1, palette.LightPaper, tone.Light)
	fmt.Fprintf(&out, `<g font-family="Helvetica,Arial,sans-serif" font-size="%d" text-rendering="geometricPrecision">`+"\n", fontSize)
	text := func(x, width int, fill palette.Colour, s string) {
		if s != "" {
			fmt.Fprintf(&out, `<text x="%d" y="14" textLength="%d" lengthAdjust="spacingAndGlyphs" fill="%s">%s</text>`+"\n", x, width, fill, html.EscapeString(s))
		}
	}
	text(edge, labelWidth, "#22262b", label)
	text(valueAt, valueWidth, palette.Readable(tone.Light, palette.LightPaper), value)
	out.WriteString("</g>\n")
	for i := range segments {
		x := gaugeAt + i*(segment+2)
		fmt.Fprintf(&out, `<rect x="%d" y="5" width="%d" height="10" fill="%s"/>`+"\n", x, segment, palette.Mix(tone.Light, palette.LightPaper, 0.7))
		if filled := fill(r, i); filled > 0 {
			fmt.Fprintf(&out, `<rect x="%d" y="5" width="%.4g" height="10" fill="%s"/>`+"\n", x, filled*segment, tone.Light)
		}
	}
	out.WriteString("</svg>\n")
	return out.String()
}

// toneOf gives all of it the tone of what ran, whatever the steps.
func toneOf(r coverage.Ratio, p palette.Palette, s Steps) palette.Tone {
	percent := float64(r.HundredthsPercent()) / 100
	switch {
	case percent >= s.Ran || r.Covered == r.Total:
		return p.Ran
	case percent >= s.Part:
		return p.Part
	}
	return p.None
}

// fill is how much of a segment of the gauge is filled, from 0 to 1, in quarters
// rounded down: only all of it fills the last.
func fill(r coverage.Ratio, i int) float64 {
	if r.Total == 0 {
		return 0
	}
	share := float64(r.Covered)*segments/float64(r.Total) - float64(i)
	return math.Floor(4*max(0, min(1, share))) / 4
}

var regular = sync.OnceValue(func() *sfnt.Font {
	f, err := sfnt.Parse(goregular.TTF)
	if err != nil {
		panic(err) // the font is part of the program
	}
	return f
})

// width is how many pixels a text is given: its width in a common sans-serif
// font, rounded up. What the font does not have is taken to be as wide as high.
func width(s string) int {
	var b sfnt.Buffer
	sum := fixed.Int26_6(0)
	for _, c := range s {
		i, err := regular().GlyphIndex(&b, c)
		if err == nil && i != 0 {
			if advance, err := regular().GlyphAdvance(&b, i, fixed.I(fontSize), font.HintingNone); err == nil {
				sum += advance
				continue
			}
		}
		sum += fixed.I(fontSize)
	}
	return sum.Ceil()
}
