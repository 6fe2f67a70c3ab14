// This file holds the text that is put at the end of a woven Java file: a class with its
// counters, and what writes these to a file of the process.
//
// The text stands on its own, so that a file can be compiled by itself, in whatever module,
// package or class loader it is; it needs Java 7 and no more than its java.base. One file's
// class writes for all: others find it among the threads of the process.

package java

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"strings"
	"unicode/utf16"

	"thrush/internal/core/site"
	"thrush/internal/runtime"
)

//go:embed runtime/counters.java.txt
var counters string

// helpers are what probes call, by the name that follows that of the class.
var helpers = []struct{ name, text string }{
	{"s", `static <T> T s(long n, T v) { return v; }
static int s(long n, int v) { return v; }
static long s(long n, long v) { return v; }
static double s(long n, double v) { return v; }
static float s(long n, float v) { return v; }
static short s(long n, short v) { return v; }
static byte s(long n, byte v) { return v; }
static char s(long n, char v) { return v; }
static boolean s(long n, boolean v) { return v; }
`},
	{"u", `static <T> T u(T v, java.lang.Class<?> of, int i) { if (!of.isInstance(v)) c[i]@OP; return v; }
`},
	{"b", `static int b(long[] bits, int first, int condition, int value, long masks, boolean done) {
c[first + 4 * condition + value]@OP;
if (condition < 64) bits[value] |= 1L << condition;
bits[0] &= ~masks;
bits[1] &= ~masks;
if (done)
for (int v = 0; v < 2; v++)
for (int i = 0; i < 64; i++) if ((bits[v] >> i & 1) != 0) c[first + 4 * i + 2 + v]@OP;
return 0;
}
static <T> T u(T v, java.lang.Class<?> of, long[] bits, int first, int condition, int value, long masks, boolean done) {
if (!of.isInstance(v)) b(bits, first, condition, value, masks, done);
return v;
}
static <T> T u(T v, long[] bits) {
bits[0] = bits[1] = 0;
return v;
}
`},
}

// Unwatched is why what went into a native image is unmeasured.
const Unwatched = "it was built into a native image, where Thrush does not count"

// Counters is the text for a file of the given table, with a class of the given name. calls
// tells whether probes call one of its helpers. home is the folder for counter files of
// processes that runtime.DirVariable does not reach.
func Counters(name string, t *site.Table, home string, calls func(helper string) bool) string {
	width, kind, op := 8, "long", "++"
	if t.Keep == site.Hits {
		width, kind, op = 1, "byte", "=1"
	}
	var called strings.Builder
	for _, h := range helpers {
		if calls(h.name) {
			called.WriteString(h.text)
		}
	}
	told, _ := json.Marshal(map[string]string{"path": t.Path, "why": Unwatched})
	return strings.NewReplacer(
		"@HELPERS\n", strings.ReplaceAll(called.String(), "@OP", op),
		"@P", name,
		"@N", fmt.Sprint(max(t.Counters, 1)),
		"@T", kind,
		"@V", Quote(runtime.DirVariable),
		"@D", Quote(home),
		"@H", Quote(fmt.Sprintf("%s%s%08x%d", runtime.Magic, t.Unit, max(t.Counters, 1), width)),
		"@J", Quote(string(told)+"\n"),
	).Replace(counters)
}

// Quote writes a text as a literal of Java, in ASCII.
func Quote(s string) string {
	var out strings.Builder
	out.WriteByte('"')
	for _, u := range utf16.Encode([]rune(s)) {
		switch {
		case u == '"' || u == '\\':
			out.WriteString(`\` + string(rune(u)))
		case u < ' ':
			fmt.Fprintf(&out, `\%03o`, u)
		case u > '~':
			fmt.Fprintf(&out, `\u%04x`, u)
		default:
			out.WriteByte(byte(u))
		}
	}
	out.WriteByte('"')
	return out.String()
}
