package java

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/site"
	"thrush/internal/weave"
)

// corpus are the programs whose counts are tested where programs are run, and some oddities.
func corpus(t testing.TB) map[string]string {
	out := map[string]string{
		"latin":   "class A { /* \xe9 */ String s = f(\"\xe9\u00e9\"); void \xe9() { if (a && b) return; } }",
		"escapes": `class A { char a = '\u0022', b = '\u005c\u005c'; String s = "\u0027\u005c\u0022\\u0022" + f(); }`,
		"empty":   "",
		"top":     "{ f(); } int a = f(); void b() { }",
		"odd":     "@interface A { int n() default 1; } enum E { } interface I { } record R() { ; }",
		"no end":  "class A { void a() { for (;;) ; } } // end",
	}
	files, err := filepath.Glob("../../../tests/testdata/java/*/*.java")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, f := range files {
		text, err := os.ReadFile(f)
		require.NoError(t, err)
		out[filepath.Base(f)] = string(text)
	}
	return out
}

func TestWovenFitsTheGrammar(t *testing.T) {
	for name, source := range corpus(t) {
		for level := site.Lines; level <= site.Conditions; level++ {
			text, class := woven(t, name, source, level)
			assert.True(t, Fits(text), "%s: %s", name, text)
			assert.True(t, Fits(append(text, class...)), name)
			assert.Equal(t, strings.Count(source, "\n"), strings.Count(string(text), "\n"))
		}
	}
}

func woven(t *testing.T, name, source string, level site.Level) (text []byte, class string) {
	file, err := Read([]byte(source))
	require.NoError(t, err, name)
	table := &site.Table{Path: name, Unit: strings.Repeat("0", 32)}
	return Spell(weave.Place([]byte(source), file, table, weave.Options{Level: level, Keep: site.Counts}), []byte(source), "/home")
}

// What Lombok works out at another time did not run when the object was made.
func TestFieldsThatAreMovedAreNoStatements(t *testing.T) {
	text, _ := woven(t, "A.java", "class A { @Builder.Default int a = f();\n@Getter(lazy = true) private final int b = f();\n@Getter int c = f(); }", site.Branches)
	assert.Equal(t, []int{0, 0, 1}, []int{probesOn(text, 0), probesOn(text, 1), probesOn(text, 2)})
}

// A probe between a comment and the field that it documents would take the comment from it.
func TestCommentsStayWithTheirFields(t *testing.T) {
	text, _ := woven(t, "A.java", "class A {\n/** Doc. */\n// more\n@Mine Object a = f(); // after a\nObject b = f();\n}", site.Branches)
	assert.Equal(t, []int{0, 1, 0, 0, 1}, []int{probesOn(text, 0), probesOn(text, 1), probesOn(text, 2), probesOn(text, 3), probesOn(text, 4)})
}

func probesOn(text []byte, line int) int {
	return strings.Count(strings.Split(string(text), "\n")[line], "Thrush_")
}

// What does not fit the grammar, or is not what it looks like, is refused.
func TestRefused(t *testing.T) {
	for source, why := range map[string]string{
		"class A {\nint = ;\n}":                        "line 2 does not fit the grammar",
		"class A {\n\nString s = \"\\u0022 + f();\n}":  "line",
		"class A { int a; // \\u000a int b;\n}":        "line 1 writes a quote, a backslash or the end of a line as a Unicode escape",
		"class A { String s = \"a\\u0022 + \\u0022\"}": "line 1",
	} {
		_, err := Read([]byte(source))
		require.ErrorContains(t, err, why, source)
	}
}

var digits = regexp.MustCompile(`c\[\d+\]`)

// A call in a lambda expression is counted only where the text says all that must be known.
func TestCallsInLambdas(t *testing.T) {
	for body, probe := range map[string]string{
		"x -> f(x)":                  "x -> f(H.s(H.c[0]++,x))",
		"x -> x.f()":                 "x -> H.s(H.c[0]++,x).f()",
		"() -> f()":                  "() -> H.s(H.c[0]++,f())",
		"() -> g()":                  "() -> {H.c[0]++;g();}",
		"() -> h()":                  "() -> h()",
		"() -> new A()":              "() -> H.s(H.c[0]++,new A())",
		"x -> System.out.println(x)": "x -> System.out.println(H.s(H.c[0]++,x))",
		"x -> a.b.c(x)":              "x -> a.b.c(x)",
		"x -> p.c(x)":                "x -> H.s(H.c[0]++,p).c(x)",
		"x -> x + 1":                 "x -> {H.c[0]++;return x + 1;}",
		"x -> y = x":                 "x -> H.s(H.c[0]++,y = x)",
		"x -> A.of(null, x)":         "x -> A.of(((H.c[0]++)<0?null:null), x)",
		"x -> x::f":                  "x -> {H.c[0]++;return x::f;}",
	} {
		text, _ := woven(t, "A.java", "class A { int f() { } void g() { } F m(A p) { return "+body+"; } }", site.Branches)
		class := string(text)[strings.Index(string(text), "Thrush_"):][:len("Thrush_000000000000")]
		got := digits.ReplaceAllString(strings.ReplaceAll(string(text), class, "H"), "c[0]")
		_, got, _ = strings.Cut(got, "return ")
		got = strings.TrimSuffix(got, "; } }")
		assert.Equal(t, probe, got)
	}
}

func TestWhatFilesAreFor(t *testing.T) {
	for path, is := range map[string]string{
		"src/main/java/skerry/FareTest.java":             "source",
		"fares/src/main/java/skerry/target/Aim.java":     "source",
		"src/skerry/Fare.java":                           "source",
		"src/test/java/skerry/Fare.java":                 "test",
		"src/integrationTest/java/skerry/Fare.java":      "test",
		"src/skerry/FareTest.java":                       "test",
		"test/skerry/Fare.java":                          "test",
		"target/generated-sources/skerry/Fare.java":      "vendored",
		"fares/target/generated-sources/a/Fare.java":     "vendored",
		"fares/build/generated/sources/java/a/Fare.java": "vendored",
		"fares/build/classes/java/main/a/Fare.java":      "vendored",
		"src/main/java/module-info.java":                 "",
	} {
		got := ""
		switch {
		case !IsSource(path):
		case IsTest(path):
			got = "test"
		case IsVendored(path):
			got = "vendored"
		default:
			got = "source"
		}
		assert.Equal(t, is, got, path)
	}
}

func FuzzRead(f *testing.F) {
	for _, source := range corpus(f) {
		f.Add(source)
	}
	f.Fuzz(func(t *testing.T, source string) {
		file, err := Read([]byte(source))
		if err != nil {
			return
		}
		table := &site.Table{Path: "A.java", Unit: strings.Repeat("0", 32)}
		text, _ := Spell(weave.Place([]byte(source), file, table, weave.Options{Level: site.Conditions, Keep: site.Counts}), []byte(source), "")
		require.Equal(t, strings.Count(source, "\n"), strings.Count(string(text), "\n"))
	})
}
