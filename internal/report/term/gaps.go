package term

import (
	"fmt"
	"strings"

	"thrush/internal/core/gaps"
)

// Gaps draws what to test next. source gives the text of a line, or nothing if
// it is not to be had.
func (o *Out) Gaps(list []gaps.Gap, more int, source func(path string, line int) string) {
	if len(list) == 0 {
		fmt.Fprintln(o, Good("nothing is left to test: all measured code ran, every way"))
		return
	}
	for i, g := range list {
		place := fmt.Sprintf("%s:%d", Safe(g.Path), g.Line)
		if g.EndLine > g.Line {
			place += fmt.Sprintf("-%d", g.EndLine)
		}
		text := strings.TrimSpace(source(g.Path, g.Line))
		what := Bad(Safe(brief(g.What, text)))
		if g.Kind == gaps.Outcome {
			what = Half(Safe(brief(g.What, text)))
		}
		fmt.Fprintf(o, "%3d  %s  %s  %s  %s\n", i+1, Strong(place), Safe(g.Function), what, Faint(gain(g)))
		if text != "" {
			fmt.Fprintf(o, "       %s\n", Cut(Safe(text), o.Width-8))
		}
	}
	if more > 0 {
		fmt.Fprintf(o, "%s\n", Faint(fmt.Sprintf("     and %s more: --most %d shows all", Number(uint64(more)), len(list)+more)))
	}
}

// gain says what a test of the gap would add.
func gain(g gaps.Gap) string {
	var parts []string
	if g.Lines > 0 {
		parts = append(parts, Plural(g.Lines, "line", "lines"))
	}
	if g.Branches > 0 && g.Kind != gaps.Outcome {
		parts = append(parts, Plural(g.Branches, "outcome", "outcomes"))
	}
	if g.Kind == gaps.Outcome && g.Reached > 0 {
		times := Number(g.Reached) + " times"
		if g.Reached == 1 {
			times = "once"
		}
		parts = append(parts, "came here "+times)
	}
	return strings.Join(parts, ", ")
}

// Hot draws what runs most.
func (o *Out) Hot(list []gaps.Hot, source func(path string, line int) string) {
	for _, h := range list {
		fmt.Fprintf(o, "%15s  %s  %s\n", Number(h.Count), Strong(fmt.Sprintf("%s:%d", Safe(h.Path), h.Line)), Safe(h.Function))
		if text := strings.TrimSpace(source(h.Path, h.Line)); text != "" {
			fmt.Fprintf(o, "%15s  %s\n", "", Cut(Safe(text), o.Width-18))
		}
	}
}
