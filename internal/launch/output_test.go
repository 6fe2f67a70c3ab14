package launch

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/origin"
	"thrush/internal/core/site"
	"thrush/internal/flow"
	"thrush/internal/lang/script"
	"thrush/internal/recording"
	"thrush/internal/weave"
)

var marker = regexp.MustCompile(`‹(\d+)›`)

// marked gives a text without its markers, and the places where they stand.
func marked(t *testing.T, text string, read func(string, []byte) (*flow.File, error)) (*origin.Text, map[string][]site.Pos) {
	places := map[string][]site.Pos{}
	for {
		m := marker.FindStringSubmatchIndex(text)
		if m == nil {
			break
		}
		before := text[:m[0]]
		line := strings.Count(before, "\n") + 1
		id := text[m[2]:m[3]]
		places[id] = append(places[id], site.Pos{Line: line, Column: len(before) - strings.LastIndex(before, "\n")})
		text = before + text[m[1]:]
	}
	file, err := read("a.ts", []byte(text))
	require.NoError(t, err, text)
	table := &site.Table{Path: "a.ts"}
	weave.Place([]byte(text), file, table, weave.Options{Level: site.Branches, Keep: site.Counts})
	return &origin.Text{Table: table, Source: []byte(text), Signs: script.Signs}, places
}

// told lists the sites of a table.
func told(t *site.Table) string {
	var out []string
	for _, f := range t.Functions {
		if f.Span != (site.Span{}) {
			out = append(out, f.Name)
		}
	}
	for _, s := range t.Statements {
		out = append(out, fmt.Sprintf("%d:%d", s.Span.Start.Line, s.Span.Start.Column))
	}
	for _, d := range t.Decisions {
		for _, o := range d.Outcomes {
			out = append(out, d.Kind+" "+string(o.Code))
		}
	}
	return strings.Join(out, ", ")
}

// Of a source only what an output surely tells is told. The same number marks text of the
// output and where it came from.
func TestOnlyTheSameCodeIsLedBack(t *testing.T) {
	for what, c := range map[string]struct{ source, output, told string }{
		"types taken out": {
			"‹1›if (‹2›night as boolean) ‹3›fee()", "‹1›if (‹2›night)\n    ‹3›fee();",
			"1:1, 1:23, if true, if false"},
		"two made one": {
			"function f() {\n  ‹1›log();\n  ‹2›return ‹3›fee()\n}", "‹4›function f() {\n  ‹2›return ‹1›log(), ‹3›fee()\n}",
			""},
		"turned round": {
			"‹1›if (!‹2›night) ‹3›day(); else ‹4›dark()", "‹1›if (‹2›night) ‹4›dark(); else ‹3›day()",
			"1:1, 1:13, 1:25"},
		"a condition that took up another": {
			"‹1›while (‹2›low) {\n  ‹3›if (‹4›full) ‹5›break\n}", "‹1›while (‹2›low && !‹4›full);",
			""},
		"put where it is called": {
			"‹1›function fee(a) { ‹2›return ‹3›a * 2 }\n‹4›total(fee(‹5›4))\n‹6›total(fee(‹7›5))",
			"‹1›function fee(a) { ‹2›return ‹3›a * 2 }\n‹4›total(‹3›4 * 2)\n‹6›total(fee(‹7›5))",
			"3:1"},
		"begun before it was": {
			"async function f() {\n  ‹1›const x = ‹2›await ‹3›g()\n}", "function f() {\n  ‹2›wait(‹3›g())\n  ‹1›const x = got()\n}",
			""},
		"goes on after it": {
			"export ‹1›class ‹2›Ferry { static ‹3›count = ‹4›0 }", "‹1›class ‹2›Ferry { }\n‹3›Ferry.count = ‹4›0",
			"1:1"},
		"older words": {
			"‹1›use(‹2›a ?? ‹3›b, ‹4›c?.‹5›d)", "‹1›use(‹2›a !== null && a !== void 0 ? a : ‹3›b, ‹4›c === null || c === void 0 ? void 0 : c.‹5›d)",
			"1:1, ?? first_operand, ?? last_operand, ?. present, ?. absent"},
		"its own choice": {
			"‹1›use(‹2›a != null ? ‹3›a : ‹4›b)", "‹1›use(‹2›a != null ? ‹3›a : ‹4›b)",
			"1:1, ?: true, ?: false"},
		"copied as it stood": {
			"‹1›go(); if (a) b()", "‹1›go(); if (a) b()",
			"1:1, 1:7, 1:14, if true, if false"},
		"copied, but not as it stood": {
			"‹1›go(); if (a) b()", "‹1›go();  if (a) b()",
			"1:1"},
		"a function in other words": {
			"class F {\n  async ‹1›load() { ‹2›return ‹3›1 }\n}", "var F = {\n  load: ‹9›function () { ‹2›return ‹3›1 }\n}",
			"F.load, 2:18"},
		"two that read the same made one": {
			"‹1›if (‹2›a) ‹3›stop()\n‹4›if (‹5›b) ‹6›stop()", "‹1›if (‹2›a || ‹5›b) ‹3›stop()",
			""},
		"one of two that read the same": {
			"‹1›switch (‹2›a) { case ‹3›1: ‹4›stop(); ‹7›break; case ‹5›2: ‹6›stop(); ‹8›break; default: ‹9›go() }", "‹1›switch (‹2›a) { case ‹3›1: case ‹5›2: ‹4›stop(); ‹7›break; default: ‹9›go() }",
			"1:1, 1:69"},
		"out of where it was": {
			"‹1›if (‹2›a) { ‹3›b(); ‹4›c() } else { ‹5›d(); ‹6›e() }", "‹1›if (‹2›a) ‹3›b(); else ‹5›d()\n‹4›c()",
			"1:1, 1:10, 1:28, if true, if false"},
		"another source": {
			"‹1›go()", "‹8›go()",
			""},
	} {
		s, from := marked(t, c.source, script.Read)
		o, at := marked(t, c.output, script.ReadOutput)
		var links []origin.Link
		for id, places := range at {
			for _, p := range places {
				l := origin.Link{At: p, Source: -1}
				if len(from[id]) > 0 {
					l.Source, l.From = 0, from[id][0]
				}
				links = append(links, l)
			}
		}
		slices.SortFunc(links, func(a, b origin.Link) int { return a.At.Compare(b.At) })
		back, _ := origin.Back(*o, links, []*origin.Text{s})
		got := back[0]
		if got == nil {
			got = &site.Table{}
		} else {
			assert.Equal(t, told(got) != told(s.Table), got.Partial, what)
		}
		assert.Equal(t, c.told, told(got), what)
	}
}

// FuzzBack leads texts back by links that no tool would make.
func FuzzBack(f *testing.F) {
	f.Add("if (a ?? b) c()\n", "if (a !== null && a !== void 0 ? a : b)\n    c();\n", []byte{1, 1, 1, 1, 1, 5, 1, 5, 2, 5, 1, 13})
	f.Add("class A { async b(c = 1) { return c } }", "function b() { return 1 }", []byte{1, 1, 1, 11, 1, 16, 1, 28})
	f.Fuzz(func(t *testing.T, source, output string, places []byte) {
		read := func(text string, read func(string, []byte) (*flow.File, error)) *origin.Text {
			file, err := read("a.js", []byte(text))
			if err != nil {
				t.Skip()
			}
			table := &site.Table{Path: "a.js"}
			weave.Place([]byte(text), file, table, weave.Options{Level: site.Conditions, Keep: site.Counts})
			return &origin.Text{Table: table, Source: []byte(text), Signs: script.Signs}
		}
		s, o := read(source, script.Read), read(output, script.ReadOutput)
		var links []origin.Link
		for ; len(places) >= 4; places = places[4:] {
			links = append(links, origin.Link{At: site.Pos{Line: int(places[0]), Column: int(places[1])}, From: site.Pos{Line: int(places[2]), Column: int(places[3])}})
		}
		slices.SortStableFunc(links, func(a, b origin.Link) int { return a.At.Compare(b.At) })
		back, _ := origin.Back(*o, links, []*origin.Text{s})
		got := back[0]
		if got == nil {
			return
		}
		narrow, counters := origin.Narrow(got)
		data, err := recording.EncodeTable(narrow)
		require.NoError(t, err)
		_, err = recording.DecodeTable(data)
		require.NoError(t, err, "it holds together")
		for _, c := range counters {
			require.Less(t, int(c), o.Table.Counters)
		}
		require.LessOrEqual(t, len(got.Statements), len(s.Table.Statements))
	})
}
