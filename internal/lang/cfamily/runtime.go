// This file holds the text that is put around a woven unit of C or C++: its
// counters, and the code that maps them onto a file before main begins.
//
// The text needs no header and no library: it asks the kernel itself, so that it
// works in every program, and sees none of the functions that a program replaces.

package cfamily

import (
	_ "embed"
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/runtime"
)

//go:embed runtime/counters.c.txt
var counters string

// Machine is a kind of processor that the text can ask the kernel on.
type Machine struct {
	name string
	page int
	call string
	// Numbers of the calls: openat, flock, lseek, write, mmap, munmap, close, ftruncate,
	// kill, getpid.
	calls [10]int
}

// callNames are what the calls are called in the text.
var callNames = [10]string{"@OPEN", "@LOCK", "@SEEK", "@WRITE", "@MAP", "@UNMAP", "@CLOSE", "@TRUNCATE", "@KILL", "@PID"}

var generic = [10]int{56, 32, 62, 64, 222, 215, 57, 46, 129, 172}

var machines = []Machine{
	{"__x86_64__", 4096, `register long r10 __asm__("r10") = d, r8 __asm__("r8") = e, r9 __asm__("r9") = f; __asm__ __volatile__("syscall" : "=a"(r) : "a"(n), "D"(a), "S"(b), "d"(c), "r"(r10), "r"(r8), "r"(r9) : "rcx", "r11", "memory");`,
		[10]int{257, 73, 8, 1, 9, 11, 3, 77, 62, 39}},
	{"__aarch64__", 65536, `register long x8 __asm__("x8") = n, x0 __asm__("x0") = a, x1 __asm__("x1") = b, x2 __asm__("x2") = c, x3 __asm__("x3") = d, x4 __asm__("x4") = e, x5 __asm__("x5") = f; __asm__ __volatile__("svc 0" : "+r"(x0) : "r"(x8), "r"(x1), "r"(x2), "r"(x3), "r"(x4), "r"(x5) : "memory"); r = x0;`,
		generic},
	{"__riscv", 4096, `register long a7 __asm__("a7") = n, a0 __asm__("a0") = a, a1 __asm__("a1") = b, a2 __asm__("a2") = c, a3 __asm__("a3") = d, a4 __asm__("a4") = e, a5 __asm__("a5") = f; __asm__ __volatile__("ecall" : "+r"(a0) : "r"(a7), "r"(a1), "r"(a2), "r"(a3), "r"(a4), "r"(a5) : "memory"); r = a0;`,
		generic},
}

// MachineOf gives the machine that a compiler compiles for, from the macros that it
// defines; ok is false for those that have no 64-bit Linux, or are not known.
func MachineOf(defines func(macro string) bool) (m Machine, ok bool) {
	if !defines("__linux__") || !defines("__LP64__") {
		return m, false
	}
	for _, m := range machines {
		if defines(m.name) {
			return m, true
		}
	}
	return m, false
}

// Counting is what a unit counts: a block of counters for each of its files.
type Counting struct {
	Machine Machine
	CPP     bool
	Tables  []*site.Table
	// Shared says that other units may have functions that refer to these counters,
	// which then go by a name that only this unit has.
	Shared string
	Noting bool // expressions with very many ways are noted in bits
}

// Object is the name of what holds the counters.
func (u *Counting) Object() string {
	if u.Shared != "" {
		return "_thrush_" + u.Shared
	}
	return "_thrush"
}

// Declare is the text before everything else: the counters.
func (u *Counting) Declare() string {
	var fields, values []string
	for i, t := range u.Tables {
		kind, width := "unsigned long", 8
		if t.Keep == site.Hits {
			kind, width = "unsigned char", 1
		}
		head := fmt.Sprintf("%s%s%08x%d", runtime.Magic, t.Unit, t.Counters, width)
		fields = append(fields, fmt.Sprintf("struct { char h[%d]; %s c[%d]; } __attribute__((aligned(64))) f%d;", runtime.HeaderSize, kind, max(t.Counters, 1), i))
		values = append(values, "{ "+strconv.Quote(head)+", { 0 } }")
	}
	storage := "static"
	attributes := fmt.Sprintf(`section("thrush_counts"), aligned(%d), used`, u.Machine.page)
	if u.Shared != "" {
		storage, attributes = "", attributes+`, weak, visibility("hidden")`
	}
	out := fmt.Sprintf("%s struct _thrush_blocks { %s } __attribute__((aligned(%d))) %s __attribute__((%s)) = { %s };\n",
		storage, strings.Join(fields, " "), u.Machine.page, u.Object(), attributes, strings.Join(values, ", "))
	if u.Noting {
		out += noting(u.Tables[0].Keep)
	}
	if u.CPP {
		return "extern \"C\" {\n" + out + "}\n"
	}
	return out
}

// noting is the function that notes which conditions of an expression decide.
func noting(keep site.Keep) string {
	kind, op := "unsigned long", "++"
	if keep == site.Hits {
		kind, op = "unsigned char", " = 1"
	}
	return fmt.Sprintf("static int _thrush_note(unsigned long *b, %[1]s *c, int i, int v, unsigned long masks, int done) { "+
		"c[4*i+v]%[2]s; if (i < 64) b[v] |= 1UL << i; b[0] &= ~masks; b[1] &= ~masks; "+
		"if (done) for (i = 0; i < 128; i++) if (b[i/64] >> (i%%64) & 1) c[4*(i%%64)+2+i/64]%[2]s; return 0; }\n", kind, op)
}

// Source is the text, in C, of what maps the counters. home is the folder for files of
// processes that the environment callNames none for. It is compiled once, with Flags.
func (m Machine) Source(home string) string {
	pairs := []string{
		"@SYSCALL", "static long _thrush_sys(long n, long a, long b, long c, long d, long e, long f) { long r; " + m.call + " return r; }",
		"@PAGE", strconv.Itoa(m.page), "@VARIABLE", runtime.DirVariable, "@HOME", quote(home),
	}
	for i, name := range callNames {
		pairs = append(pairs, name, strconv.Itoa(m.calls[i]))
	}
	return strings.NewReplacer(pairs...).Replace(counters)
}

// Flags are those with which Source is compiled to assembly text, for use in units of
// every kind.
var Flags = []string{"-O2", "-fPIC", "-fno-stack-protector", "-fno-asynchronous-unwind-tables", "-fno-builtin", "-fno-exceptions", "-w"}

var (
	dropped = regexp.MustCompile(`(?m)^\s*\.(file|ident|addrsig)\b.*\n`)
	notes   = regexp.MustCompile(`(?s)\t\.section\s+"?\.note\..*`)
	labels  = regexp.MustCompile(`\.L([\w.]+)`)
	own     = regexp.MustCompile(`\b_thrush_(\w+)\b`)
)

// Assembly makes what a compiler gave for Source fit to stand in a unit, where suffix
// keeps its callNames apart from those of other units.
func Assembly(compiled []byte, suffix string) string {
	text := dropped.ReplaceAllString(string(compiled), "")
	text = notes.ReplaceAllString(text, "")
	text = labels.ReplaceAllString(text, ".L_thrush_"+suffix+"_$1")
	text = own.ReplaceAllStringFunc(text, func(name string) string {
		if name == "_thrush_mapped" {
			return name
		}
		return name + "_" + suffix
	})
	return "\t.pushsection .text\n" + text + "\t.hidden _thrush_mapped\n\t.comm _thrush_mapped,4,4\n\t.popsection\n"
}

// Map is the text after everything else: assembly text that maps the counters.
func (u *Counting) Map(assembly string) string {
	return "__asm__(" + quote(assembly) + ");\n"
}

// quote writes a C string.
func quote(s string) string {
	var out strings.Builder
	out.WriteByte('"')
	for i := range len(s) {
		if c := s[i]; c < ' ' || c == '"' || c == '\\' || c == '?' || c > '~' {
			fmt.Fprintf(&out, "\\%03o", c)
		} else {
			out.WriteByte(c)
		}
	}
	return out.String() + `"`
}
