package term

import (
	"fmt"
	"strings"

	"thrush/internal/core/gaps"
	"thrush/internal/report/words"
)

// Gaps draws what to test next. source gives the text of a line, or nothing if
// it is not to be had; nothing says what it means if there are none.
func (o *Out) Gaps(list []gaps.Gap, more int, nothing string, source func(path string, line int) string) {
	if len(list) == 0 {
		fmt.Fprintln(o, Good(nothing))
		return
	}
	for i, g := range list {
		place := fmt.Sprintf("%s:%d", words.Safe(g.Path), g.Line)
		if g.EndLine > g.Line {
			place += fmt.Sprintf("-%d", g.EndLine)
		}
		text := strings.TrimSpace(source(g.Path, g.Line))
		what := Bad(words.Safe(words.About(g, text)))
		if g.Kind == gaps.Outcome || g.Kind == gaps.Condition {
			what = Half(words.Safe(words.About(g, text)))
		}
		fmt.Fprintf(o, "%3d  %s\n", i+1, o.Wrap(fmt.Sprintf("%s  %s  %s  %s", Strong(place), words.Safe(g.Function), what, Faint(words.Gain(g))), 7))
		if text != "" {
			fmt.Fprintf(o, "       %s\n", Cut(words.Safe(text), o.Width-8))
		}
		if g.Needs != "" {
			fmt.Fprintf(o, "       %s\n", o.Wrap("needs "+words.Safe(g.Needs), 9))
		}
	}
	if more > 0 {
		fmt.Fprintf(o, "%s\n", Faint(fmt.Sprintf("     and %s more: --all lists them", words.Number(uint64(more)))))
	}
}

// Hot draws what runs most.
func (o *Out) Hot(list []gaps.Hot, source func(path string, line int) string) {
	for _, h := range list {
		fmt.Fprintf(o, "%15s  %s  %s\n", words.Number(h.Count), Strong(fmt.Sprintf("%s:%d", words.Safe(h.Path), h.Line)), words.Safe(h.Function))
		if text := strings.TrimSpace(source(h.Path, h.Line)); text != "" {
			fmt.Fprintf(o, "%15s  %s\n", "", Cut(words.Safe(text), o.Width-18))
		}
	}
}
