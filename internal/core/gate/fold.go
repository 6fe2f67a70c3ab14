package gate

import (
	"fmt"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
)

// Fold is places that are best told in one: a function that was not called, a stretch that
// was not reached, or a single place.
type Fold struct {
	Place
	End   int // the last line
	Lines int // how many lines of code are in it
}

// Folded puts places of one function or stretch together. They come in their order, which
// stays.
func Folded(list []Place) []Fold {
	var out []Fold
	for _, p := range list {
		if n := len(out) - 1; n >= 0 && p.group != 0 && out[n].Path == p.Path && out[n].group == p.group {
			if p.Line > out[n].End {
				out[n].Lines++
			}
			out[n].End = max(out[n].End, p.Line)
			continue
		}
		out = append(out, Fold{Place: p, End: p.Line, Lines: 1})
	}
	for i := range out {
		f := &out[i]
		if f.idle != "" {
			f.Why = f.idle + ": " + gaps.NotCalled
		}
		if f.Lines > 1 {
			f.Why += fmt.Sprintf(", %d lines", f.Lines)
		}
	}
	return out
}

// stretches numbers the lines that did not run, by which of them stand together.
func stretches(f *coverage.File) map[int]int {
	out := map[int]int{}
	n := 1
	for i, l := range f.Lines {
		if l.Ran || i > 0 && l.Function != f.Lines[i-1].Function {
			n++
		}
		if !l.Ran {
			out[l.Number] = n
		}
	}
	return out
}
