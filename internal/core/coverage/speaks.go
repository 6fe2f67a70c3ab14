package coverage

import (
	"cmp"
	"slices"
)

// SpeaksFor gives the line of code that a line belongs to: itself, if something
// begins there, or the line on which the innermost statement begins whose own
// text reaches over it. Lines without code belong to none.
func (f *File) SpeaksFor(number int) (Line, bool) {
	if l, ok := f.At(number); ok {
		return l, true
	}
	if _, ok := slices.BinarySearchFunc(f.Continued, uint32(number), cmp.Compare[uint32]); !ok {
		return Line{}, false
	}
	function := f.innermost(number)
	best := -1
	for i, s := range f.Statements {
		if s.Function == function && s.Span.Start.Line < number && number <= s.Head.Line &&
			(best < 0 || f.Statements[best].Span.Start.Before(s.Span.Start)) {
			best = i
		}
	}
	if best >= 0 {
		return f.At(f.Statements[best].Span.Start.Line)
	}
	if function >= 0 && !f.inBody(function, number) {
		return f.At(f.Functions[function].Span.Start.Line)
	}
	return Line{}, false
}

// innermost is the innermost function that spans a line, or -1.
func (f *File) innermost(number int) int {
	best := -1
	for i, x := range f.Functions {
		if x.Span.Start.Line <= number && number <= x.Span.LastLine() &&
			(best < 0 || f.Functions[best].Span.Start.Before(x.Span.Start)) {
			best = i
		}
	}
	return best
}

// inBody tells whether a line lies at or after the first statement of a
// function: before it, it belongs to the function's header.
func (f *File) inBody(function, number int) bool {
	for _, s := range f.Statements {
		if s.Function == function && s.Span.Start.Line <= number {
			return true
		}
	}
	return false
}
