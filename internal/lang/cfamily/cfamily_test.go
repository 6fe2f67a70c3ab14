package cfamily

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/site"
	"thrush/internal/weave"
)

const written = `#include "lane.h"
#define SWAP(a, b) do { int t = a; a = b; b = t; } while (0)
int load(int a, int b)
{
	if (a > 1 && SURE(ready(b))) SWAP(a, b);
	CHECK(a,
	      b == 2);
	return a; /* thrush:waive the pier */
}
`

// As a compiler gives it: a macro of the system's, one of the project's, and one whose
// arguments go over two lines.
const preprocessed = `# 1 "load.c"
# 1 "/usr/include/sys.h" 1 3
int ready(int); static int never(void) { return 1; }
# 1 "lane.h" 1
static inline int lane(int n) { return n; }
# 3 "load.c" 2
int load(int a, int b)
{
 if (a > 1 &&
# 5 "load.c" 3
 ((
# 5 "load.c"
 ready(b)
# 5 "load.c" 3
 ) || 0)
# 5 "load.c"
 ) do { int t = a; a = b; b = t; } while (0);
 if (!(a)) fail("b == 2"); else check(b == 2);

 return a;
}
`

func project(name string) (string, []byte, bool) {
	switch name {
	case "load.c":
		return name, []byte(written), true
	case "lane.h":
		return name, []byte("static inline int lane(int n) { return n; }\n"), true
	}
	return "", nil, false
}

func tables(t *testing.T, u *Unit, text []byte) (out []*site.Table, woven string) {
	var parts []weave.Part
	for i, f := range u.Files {
		table := &site.Table{Path: f.Path}
		plan := weave.Place(text, f.Flow, table, weave.Options{Level: site.Conditions, Keep: site.Counts})
		parts = append(parts, weave.Part{Plan: plan, Dialect: &Dialect{Counters: fmt.Sprintf("c%d", i), Keep: site.Counts}})
		out = append(out, table)
	}
	return out, string(weave.SpellAll(text, parts, nil))
}

func TestPreprocessedTextCountsWhereItWasWritten(t *testing.T) {
	u, err := Read([]byte(preprocessed), Options{}, project)
	require.NoError(t, err)
	require.Len(t, u.Files, 2)
	all, woven := tables(t, u, []byte(preprocessed))
	load, lane := all[0], all[1]
	require.Equal(t, []string{"load", "lane"}, []string{load.Functions[0].Name, lane.Functions[0].Name})
	require.Len(t, load.Functions, 1, "the system's function is none of the project's")
	assert.Equal(t, site.Span{Start: site.Pos{Line: 3, Column: 1}, End: site.Pos{Line: 9, Column: 2}}, load.Functions[0].Span)

	var at []string
	for _, s := range load.Statements {
		at = append(at, fmt.Sprintf("%d:%d", s.Span.Start.Line, s.Span.Start.Column))
	}
	// The if; do, declaration and two assignments of SWAP, which begin with its arguments;
	// CHECK's if and two ways of it.
	assert.Equal(t, []string{"5:2", "5:31", "5:31", "5:36", "5:39", "6:2", "6:9", "6:9", "8:2"}, at)
	require.Len(t, load.Decisions, 2)
	first := load.Decisions[0]
	assert.Equal(t, "0 1 &", first.Logic[0].Formula, "what the system's macro decides is its own business")
	assert.Equal(t, []string{"a > 1", "SURE(ready(b))"}, []string{first.Logic[0].Conditions[0].Text, first.Logic[0].Conditions[1].Text})
	assert.Equal(t, []site.Waiver{{Line: 8, EndLine: 8, Reason: "the pier"}}, load.Waivers)
	assert.Contains(t, woven, "static int never(void) { return 1; }")
	assert.Equal(t, strings.Count(preprocessed, "\n"), strings.Count(woven, "\n"), "lines keep their numbers")
}

func TestFilesAreClassedByTheirPaths(t *testing.T) {
	for _, p := range []string{"test/a.c", "a/tests/b.cc", "test_plan.c", "plan_test.cpp", "a-test.c", "test.c"} {
		assert.True(t, IsTest(p), p)
	}
	for _, p := range []string{"src/latest.c", "contest/a.c", "attest.c"} {
		assert.False(t, IsTest(p), p)
	}
	assert.True(t, IsVendored("third_party/x.c"))
	assert.NotEmpty(t, Generated([]byte("/* A Bison parser, made by GNU Bison 3.8. */\nint x;")))
	assert.Empty(t, Generated([]byte("int x; /* do not edit */")))
	assert.Equal(t, []Language{C, C, CPP, CPP}, []Language{LanguageOf("a.c"), LanguageOf("a.h"), LanguageOf("a.hpp"), LanguageOf("a.cc")})
}

// Whatever the text is, reading and weaving it ends, and takes no line away.
func FuzzRead(f *testing.F) {
	f.Add(preprocessed, false)
	f.Add("# 1 \"load.c\"\nint f() { L: switch (x) { case 1: if (a) case 2 ... 3: goto *p; default: do ; while (a && b); } for (;;) ({ int y; y; }); }", false)
	f.Add("# 1 \"load.c\"\nauto f = [](auto... x) constexpr { return (x && ...); }; struct A { A() try : a{1} {} catch (...) {} };", true)
	f.Add("# 1 \"load.c\"\n#pragma omp for\n'\\\"\x00R\"(", true)
	f.Fuzz(func(t *testing.T, text string, cpp bool) {
		opt := Options{Faults: true, Constant: true}
		if cpp {
			opt.Language = CPP
		}
		u, err := Read([]byte(text), opt, project)
		require.NoError(t, err)
		if len(u.Files) == 0 {
			return
		}
		_, woven := tables(t, u, []byte(text))
		require.Equal(t, strings.Count(text, "\n"), strings.Count(woven, "\n"))
	})
}
