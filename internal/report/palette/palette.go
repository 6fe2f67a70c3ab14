// Package palette holds the colours of marks, gauges and edges, and derives
// from them colours that text can be read in.
package palette

import (
	"fmt"
	"math"
	"slices"
	"strconv"
)

// Colour is written #rrggbb.
type Colour string

// Tone is a colour on light paper and one on dark.
type Tone struct{ Light, Dark Colour }

// Palette is the tone of each thing that carries one.
type Palette struct {
	Ran, Part, None, Waived, Changed Tone
}

// Names are the names of the tones in thrush.toml, in the order of Palette.
var Names = []string{"ran", "part", "none", "waived", "changed"}

// The papers that pages are drawn on.
const (
	LightPaper Colour = "#fbfaf7"
	DarkPaper  Colour = "#16191d"
)

// Default is safe for the common kinds of colour blindness.
func Default() Palette {
	return Palette{
		Ran:     Tone{"#1b7f79", "#3fb5ad"},
		Part:    Tone{"#7a4fa3", "#b491d9"},
		None:    Tone{"#c8551b", "#ee8a53"},
		Waived:  Tone{"#7b818a", "#8d949d"},
		Changed: Tone{"#2f6fb2", "#6ba8e5"},
	}
}

// With gives the palette with other tones for the names given: one colour, for
// both papers, or two, for light and for dark.
func (p Palette) With(looks map[string][]string) Palette {
	for i, t := range []*Tone{&p.Ran, &p.Part, &p.None, &p.Waived, &p.Changed} {
		if c := looks[Names[i]]; len(c) > 0 {
			*t = Tone{Colour(c[0]), Colour(c[len(c)-1])}
		}
	}
	return p
}

// Tones are the tones in the order of Names.
func (p Palette) Tones() []Tone { return []Tone{p.Ran, p.Part, p.None, p.Waived, p.Changed} }

// Weak names the tones that stand out too little from their paper to be told
// from it: WCAG 2.2, 1.4.11, asks for 3:1.
func (p Palette) Weak() []string {
	var out []string
	for i, t := range p.Tones() {
		for _, on := range []struct {
			c, paper Colour
			name     string
		}{{t.Light, LightPaper, "light"}, {t.Dark, DarkPaper, "dark"}} {
			if ratio := Contrast(on.c, on.paper); ratio < 3 {
				out = append(out, fmt.Sprintf("%s (%s) has a contrast of %.1f on the %s page, and at least 3 is needed to see it", Names[i], on.c, ratio, on.name))
			}
		}
	}
	return slices.Compact(out)
}

// Contrast is the contrast ratio of two colours, from 1 to 21, as WCAG 2.2
// defines it.
func Contrast(a, b Colour) float64 {
	x, y := a.luminance(), b.luminance()
	return (max(x, y) + 0.05) / (min(x, y) + 0.05)
}

// Mix gives the colour that lies a share of the way from one to another.
func Mix(from, to Colour, share float64) Colour {
	a, b := from.rgb(), to.rgb()
	for i := range a {
		a[i] += (b[i] - a[i]) * share
	}
	return fromRGB(a)
}

// Readable moves a colour towards black or white, whichever is further from the
// paper, until text in it reaches WCAG's AA contrast of 4.5 on the paper.
func Readable(c, paper Colour) Colour {
	towards := Colour("#000000")
	if paper.luminance() < 0.18 {
		towards = "#ffffff"
	}
	for share := 0.0; share < 1; share += 0.04 {
		if m := Mix(c, towards, share); Contrast(m, paper) >= 4.5 {
			return m
		}
	}
	return towards
}

func (c Colour) rgb() (out [3]float64) {
	n, err := strconv.ParseUint(string(c[1:]), 16, 32)
	if err != nil {
		return out
	}
	return [3]float64{float64(n >> 16 & 255), float64(n >> 8 & 255), float64(n & 255)}
}

func fromRGB(v [3]float64) Colour {
	return Colour(fmt.Sprintf("#%02x%02x%02x", int(math.Round(v[0])), int(math.Round(v[1])), int(math.Round(v[2]))))
}

func (c Colour) luminance() float64 {
	v := c.rgb()
	for i, x := range v {
		if x /= 255; x <= 0.04045 {
			v[i] = x / 12.92
		} else {
			v[i] = math.Pow((x+0.055)/1.055, 2.4)
		}
	}
	return 0.2126*v[0] + 0.7152*v[1] + 0.0722*v[2]
}
