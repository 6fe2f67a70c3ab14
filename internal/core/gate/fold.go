package gate

import (
	"fmt"
	"strings"

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

// grouping tells which places of a file belong together.
type grouping struct {
	stretch map[int]int // by line
	file    *coverage.File
}

func groupsOf(f *coverage.File) *grouping {
	g := &grouping{stretch: map[int]int{}, file: f}
	n := 1
	for i, l := range f.Lines {
		if l.Ran || i > 0 && l.Function != f.Lines[i-1].Function {
			n++
		}
		if !l.Ran {
			g.stretch[l.Number] = n
		}
	}
	return g
}

// place gives a place in a function, and what it belongs to. A stretch is made of lines.
func (g *grouping) place(function, line int, why string, isLine bool) Place {
	p := Place{Path: g.file.Path, Line: line, Why: why}
	switch fn := g.file.Functions[function]; {
	case fn.Count == 0 && fn.Span.End.Line > 0 && untouched(why):
		p.group, p.idle = -function-1, fn.Name
	case isLine:
		p.group = g.stretch[line]
	}
	return p
}

// untouched tells whether what is said of a place says no more than that control did not
// come there.
func untouched(why string) bool {
	for _, w := range []string{gaps.NotRun, gaps.NotReached, gaps.NotCalled, gaps.NotWorkedOut} {
		if strings.HasSuffix(why, w) {
			return true
		}
	}
	return false
}
