package term

import (
	"fmt"
	"strings"

	"thrush/internal/core/gaps"
	"thrush/internal/report/prose"
)

// Gaps draws what to test next. source gives the text of a line, or nothing if
// it is not to be had; nothing says what it means if there are none.
func (o *Out) Gaps(list []gaps.Gap, more int, nothing string, source func(path string, line int) string) {
	if len(list) == 0 {
		fmt.Fprintln(o, Good(nothing))
		return
	}
	for i, g := range list {
		place := fmt.Sprintf("%s:%d", prose.Safe(g.Path), g.Line)
		if g.EndLine > g.Line {
			place += fmt.Sprintf("-%d", g.EndLine)
		}
		text := strings.TrimSpace(source(g.Path, g.Line))
		what := Bad(prose.Safe(prose.About(g, text)))
		if g.Kind == gaps.Outcome || g.Kind == gaps.Condition {
			what = Half(prose.Safe(prose.About(g, text)))
		}
		fmt.Fprintf(o, "%3d  %s\n", i+1, o.Wrap(fmt.Sprintf("%s  %s  %s  %s", Strong(place), prose.Safe(g.Function), what, Faint(prose.Gain(g))), 7))
		if text != "" {
			fmt.Fprintf(o, "       %s\n", Cut(prose.Safe(text), o.Width-8))
		}
		if g.Needs != "" {
			fmt.Fprintf(o, "       %s\n", o.Wrap("needs "+prose.Safe(g.Needs), 9))
		}
	}
	if more > 0 {
		fmt.Fprintf(o, "%s\n", Faint(fmt.Sprintf("     and %s more: --all lists them", prose.Number(uint64(more)))))
	}
}

// Hot draws what runs most.
func (o *Out) Hot(list []gaps.Hot, source func(path string, line int) string) {
	for _, h := range list {
		fmt.Fprintf(o, "%15s  %s  %s\n", prose.Number(h.Count), Strong(fmt.Sprintf("%s:%d", prose.Safe(h.Path), h.Line)), prose.Safe(h.Function))
		if text := strings.TrimSpace(source(h.Path, h.Line)); text != "" {
			fmt.Fprintf(o, "%15s  %s\n", "", Cut(prose.Safe(text), o.Width-18))
		}
	}
}
