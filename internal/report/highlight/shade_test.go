package highlight

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestLines(t *testing.T) {
	k := func(s string) Piece { return Piece{Keyword, s} }
	p := func(s string) Piece { return Piece{Plain, s} }
	assert.Equal(t, [][]Piece{
		{k("func"), p(" f() { "), {Comment, "/* by"}},
		{{Comment, "age */"}, p(" "), k("return"), p(" "), {Number, "12"}, p(" + "), {Text, `"x"`}, p(" }")},
	}, Lines("fare/fare.go", []string{"func f() { /* by", `age */ return 12 + "x" }`}))
	assert.Equal(t, []Piece{k("def"), p(" "), p("seat():")}[0], Lines("fare.py", []string{"def seat():"})[0][0])
	assert.Equal(t, [][]Piece{{p("words")}, nil}, Lines("notes.unknown", []string{"words", ""}))
}

func FuzzLines(f *testing.F) {
	f.Add("package fare\n\nvar s = `a\nb` // x\n")
	f.Add("'\\\n\"\x00/*")
	f.Fuzz(func(t *testing.T, text string) {
		want := strings.Split(text, "\n")
		for _, name := range []string{"a.go", "a.py"} {
			got := Lines(name, want)
			assert.Len(t, got, len(want))
			for i, pieces := range got {
				line := ""
				for _, x := range pieces {
					line += x.Text
				}
				assert.Equal(t, want[i], line)
			}
		}
	})
}
