package palette

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestContrast(t *testing.T) {
	assert.InDelta(t, 21, Contrast("#000000", "#ffffff"), 0.001)
	assert.InDelta(t, 1, Contrast("#c8551b", "#c8551b"), 0.001)
	assert.InDelta(t, 4.54, Contrast("#767676", "#ffffff"), 0.01, "the well-known lightest grey for text on white")
}

func TestReadableReachesAAWhateverTheColour(t *testing.T) {
	for _, paper := range []Colour{LightPaper, DarkPaper, "#777777"} {
		for _, c := range []Colour{"#ffff00", "#c8551b", "#000000", "#ffffff", "#777777"} {
			assert.GreaterOrEqual(t, Contrast(Readable(c, paper), paper), 4.4, "%s on %s", c, paper)
		}
	}
	assert.Equal(t, Colour("#000000"), Readable("#000000", LightPaper), "what can be read stays as it is")
}

func TestOwnTones(t *testing.T) {
	assert.Empty(t, Default().Weak())
	p := Default().With(map[string][]string{"ran": {"#000080", "#8080ff"}, "none": {"#ffee00"}})
	assert.Equal(t, Tone{"#000080", "#8080ff"}, p.Ran)
	assert.Equal(t, Tone{"#ffee00", "#ffee00"}, p.None)
	assert.Equal(t, Default().Part, p.Part)
	assert.Len(t, p.Weak(), 1)
	assert.Contains(t, p.Weak()[0], "none (#ffee00)")
}
