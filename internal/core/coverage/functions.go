package coverage

import "thrush/internal/core/site"

// Functions counts functions, literals included. One counts as reached if it was called.
const Functions Metric = "functions"

var functions = Definition{
	Metric: Functions, Level: site.Lines, Badge: "functions called", Column: "functions_called", Rank: 7,
	About: []string{"Functions, methods and function literals; each ran if it was called."},
	Told:  func(*File) string { return "%d were called, function literals included" },
	Items: func(f *File, each func(Item)) {
		for i, x := range f.Named() {
			if !x.Waived {
				each(Item{Function: i, Line: x.Span.Start.Line, EndLine: x.Span.LastLine(), Covered: x.Count > 0})
			}
		}
	},
}
