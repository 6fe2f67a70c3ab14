// This file holds the text that is put at the end of a woven Go file: its
// counters, and the code that maps them onto a file of the process before
// anything else of the file runs.
//
// The text stands on its own, so that a file can be built by itself (go run
// FILE), needs no other package than the standard library's runtime, syscall
// and unsafe, and compiles for every system; only on Linux does it report.

package golang

import (
	_ "embed"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/runtime"
)

//go:embed runtime/counters.go.txt
var counters string

// Imports are the imports the text needs, with prefix naming them apart.
func Imports(prefix string) string {
	return fmt.Sprintf(`;import %[1]s_r "runtime";import %[1]s_s "syscall";import %[1]s_u "unsafe"`, prefix)
}

// Start declares the variable whose initialisation maps the counters.
func Start(prefix string) string {
	return fmt.Sprintf(`;var %[1]s_on = %[1]s_start()`, prefix)
}

// mostNamed is the most counters that are fields of their own, for which the
// compiler has room in more functions that it inlines; more are an array.
const mostNamed = 2000

// named tells whether counters are fields. Those of ways through an expression
// are found by number, so they need an array.
func named(t *site.Table) bool {
	return t.Counters > 0 && t.Counters <= mostNamed && t.Level < site.Conditions
}

// pragmas keep the compiler from inlining probes where there are very many: it keeps
// a list of all inlined calls of a function, and goes through it for every block.
func pragmas(t *site.Table) string {
	if t.Counters > mostNamed {
		return "//go:noinline\n"
	}
	return ""
}

// Tick is the format of an expression, 0, that counts, for the number of its
// counter.
func Tick(prefix string, t *site.Table, direct bool) string {
	if direct && named(t) {
		return prefix + "_t(&" + prefix + "_m.c%d)"
	}
	return prefix + "_t(%d)"
}

// ticks are the functions that such expressions call, as far as a file needs them.
func ticks(prefix string, t *site.Table, direct bool, kind, op string) string {
	if !slices.ContainsFunc(t.Decisions, func(d site.Decision) bool { return d.Kind == "value" || len(d.Logic) > 0 }) {
		return ""
	}
	mark, on := pragmas(t), ""
	if !direct {
		mark, on = mark+"//go:norace\n", "if false { _ = "+prefix+"_on }; "
	}
	if direct && named(t) {
		return fmt.Sprintf("func %s_t(c *%s) int { *c%s; return 0 }\n", prefix, kind, op)
	}
	out := fmt.Sprintf("%[1]sfunc %[2]s_t(i int) int { %[3]s%[2]s_m.c[i]%[4]s; return 0 }\n", mark, prefix, on, op)
	if t.Level < site.Conditions {
		return out
	}
	return out + fmt.Sprintf(`type %[2]s_w int
type %[2]s_b [2]uint64
%[1]sfunc (b *%[2]s_b) note(c, v, first int, masks uint64, done int) int {
	%[3]s%[2]s_m.c[first+4*c+v]%[4]s
	if c < 64 { b[v] |= 1 << c }
	b[0], b[1] = b[0]&^masks, b[1]&^masks
	if done == 0 { return 0 }
	for v, bits := range b {
		for c := 0; bits != 0; c++ {
			if bits&1 != 0 { %[2]s_m.c[first+4*c+2+v]%[4]s }
			bits >>= 1
		}
	}
	*b = %[2]s_b{}
	return 0
}
%[1]sfunc (w *%[2]s_w) add(n %[2]s_w) int { *w += n; return 0 }
%[1]sfunc (w *%[2]s_w) tick(i int) int { %[3]si += int(*w); *w = 0; %[2]s_m.c[i]%[4]s; return 0 }
`, mark, prefix, on, op)
}

// written is the format of a probe that is written out, for the number of its
// counter.
func written(prefix string, t *site.Table) string {
	probe := prefix + "_m.c[%d]"
	if named(t) {
		probe = prefix + "_m.c%d"
	}
	if t.Keep == site.Hits {
		return probe + "=1"
	}
	return probe + "++"
}

// Counters is the text for a file of the given table. Unless probes are written
// out, it has the function they call. home is the folder for counter files of
// processes that DirVariable does not reach.
func Counters(prefix string, t *site.Table, home string, direct bool) string {
	width, kind, op := 8, "uint64", "++"
	if t.Keep == site.Hits {
		width, kind, op = 1, "uint8", " = 1"
	}
	fields, first, probe := fmt.Sprintf("c [%d]%s", t.Counters, kind), "c", ""
	if direct && named(t) {
		var names []string
		for i := range t.Counters {
			names = append(names, "c"+strconv.Itoa(i))
		}
		fields, first = strings.Join(names, ",")+" "+kind, "c0"
	}
	if !direct {
		probe = pragmas(t) + fmt.Sprintf("//go:norace\nfunc %[1]s(i int) { if false { _ = %[1]s_on }; %[1]s_m.c[i]%[2]s }\n", prefix, op)
	}
	probe += ticks(prefix, t, direct, kind, op)
	return strings.NewReplacer(
		"@PROBE\n", probe,
		"@P", prefix,
		"@FIELDS", fields,
		"@FIRST", first,
		"@N", strconv.Itoa(t.Counters),
		"@T", kind,
		"@D", strconv.Quote(home),
		"@H", strconv.Quote(fmt.Sprintf("%s%s%08x%d", runtime.Magic, t.Unit, t.Counters, width)),
	).Replace(counters)
}
