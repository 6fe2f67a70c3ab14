package badge

import (
	"encoding/xml"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/coverage"
	"thrush/internal/report/palette"
)

func TestDraw(t *testing.T) {
	p := palette.Default()
	for _, c := range []struct {
		r    coverage.Ratio
		text string
		tone palette.Tone
	}{
		{coverage.Ratio{Covered: 9999, Total: 10000}, ">99%<", p.Ran},
		{coverage.Ratio{Covered: 899, Total: 1000}, ">89%<", p.Part},
		{coverage.Ratio{Covered: 59, Total: 100}, ">59%<", p.None},
		{coverage.Ratio{Covered: 3, Total: 3}, ">100%<", p.Ran},
		{coverage.Ratio{}, ">–<", p.Waived},
	} {
		svg := Draw("lines ran", c.r, p, DefaultSteps)
		assert.Contains(t, svg, c.text)
		assert.Contains(t, svg, `stroke="`+string(c.tone.Light)+`"`, c.text)
	}
	svg := Draw("lines ran", coverage.Ratio{Covered: 62, Total: 93}, p, DefaultSteps)
	assert.Contains(t, svg, `aria-label="lines ran: 66.66%, 62 of 93"`)
	assert.Contains(t, svg, "<title>lines ran: 66.66%, 62 of 93</title>")
}

func TestOnlyAllOfItFillsTheGauge(t *testing.T) {
	for _, c := range []struct {
		covered, total int
		last           float64
	}{{999, 1000, 0.75}, {1000, 1000, 1}, {800, 1000, 0}} {
		assert.Equal(t, c.last, fill(coverage.Ratio{Covered: c.covered, Total: c.total}, segments-1), "%d of %d", c.covered, c.total)
	}
}

func TestWidthFollowsTheText(t *testing.T) {
	assert.Less(t, width("illi"), width("WMWM"))
	assert.Equal(t, 0, width(""))
	assert.Equal(t, 2*fontSize, width("渡船"), "what the font has not is as wide as high")
}

func FuzzDraw(f *testing.F) {
	f.Add("</text><script>", 1, 2)
	f.Fuzz(func(t *testing.T, label string, covered, total int) {
		if covered < 0 || total < covered || total > 1<<40 {
			t.Skip()
		}
		svg := Draw(label, coverage.Ratio{Covered: covered, Total: total}, palette.Default(), DefaultSteps)
		assert.NotContains(t, svg, "<script")
		for d := xml.NewDecoder(strings.NewReader(svg)); ; {
			if _, err := d.Token(); err == io.EOF {
				return
			} else {
				require.NoError(t, err, "%s", svg)
			}
		}
	})
}
