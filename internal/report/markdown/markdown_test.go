package markdown

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gate"
	"thrush/internal/judge"
)

func report(places int) *judge.Report {
	r := &judge.Report{ID: "3fa9c04e", Changed: true, Totals: coverage.Totals{}.With(coverage.Lines, coverage.Ratio{Covered: 1, Total: 3}),
		Text: func(path string, line int) string { return "return `a` + \"<b>\" // @crew" }}
	v := gate.Verdict{Name: "fares | <script>alert(1)</script> @crew *are* safe", On: gate.All, Each: gate.PerFile, Results: []gate.Result{{Scope: "fare/a`b.go", Metric: coverage.Lines, Required: 90, Total: 3}}}
	for i := range places {
		p := gate.Place{Path: fmt.Sprintf("fare/%s`\n</details>\x1b[31m%d.go", strings.Repeat("long/", 20), i/9), Line: i + 1, Why: "case `x` <!-- | [a](b) never chosen"}
		v.Lines, r.Uncovered = append(v.Lines, p), append(r.Uncovered, p)
	}
	r.Verdicts = []gate.Verdict{v}
	return r
}

// However much there is to say, a comment field takes it, and what stands in names and
// source stays text.
func TestItFitsAndNothingBreaksOut(t *testing.T) {
	for _, places := range []int{0, 3, 400, 20_000} {
		text := Write(report(places))
		assert.Less(t, len(text), Most+1, "%d places", places)
		assert.Equal(t, strings.Count(text, "<details>"), strings.Count(text, "\n</details>"), "%d places", places)
		assert.NotContains(t, text, "<script>")
		assert.NotContains(t, text, "<!--")
		assert.NotContains(t, text, "\x1b")
		assert.NotRegexp(t, "(^|[^`0-9#])@crew \\*", text)
		if places == 20_000 {
			assert.Contains(t, text, "more")
		}
	}
}
