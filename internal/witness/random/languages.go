package random

import (
	"fmt"
)

// Language is how programs are written in a language.
type Language struct {
	Name, File string
	// Run builds and runs the program in its folder.
	Run string

	and, or, not, end   string
	head, result, close string
	locals              []string
	top                 string
	bottom              func(functions int) string
	lacks               map[Kind]bool
	functionTry         bool // a try is a function of its own
	noFinally           bool
	guarded             bool // the compiler refuses what it can tell does not run
	say                 func(*printer, *Node)

	fail, object, closure, closed, each, catch string
}

func lacking(list ...Kind) map[Kind]bool {
	out := map[Kind]bool{}
	for _, k := range list {
		out[k] = true
	}
	return out
}

// Languages are those in which programs are made.
var Languages = []*Language{C, CPP, Go, Python, JavaScript, Java}

func with(l Language) *Language {
	if l.and == "" {
		l.and, l.or, l.not, l.end = " && ", " || ", "!", ";"
	}
	if l.say == nil {
		l.say = braces
	}
	return &l
}

// The languages.
var (
	C = with(Language{
		Name: "c", File: "prog.c", Run: "gcc -w -O1 -o prog prog.c && ./prog",
		head: "static int f%d(int v) {", result: "return v;", close: "}", locals: []string{"int b = 0;", "enter();"},
		lacks: lacking(Try, Closure, Outer, Defer, Object, Each), fail: "leave();", noFinally: true,
		top: `#include <setjmp.h>
#include <stdio.h>
static unsigned state = SEED; static int calls, budget; static jmp_buf out; static unsigned long h[1 << 16], c[1 << 16][2], k[1 << 16][2];
static unsigned next(void) { state = state * 1664525u + 1013904223u; return state >> 16; }
static int H(int n) { h[n]++; return 1; }
static int C(int n, int x) { c[n][!x]++; return x; }
static int K(int n, int x) { k[n][!x]++; return x; }
static int t(int n) { return (next() + n) % 3 == 0; }
static void leave(void) { longjmp(out, 1); }
static int may(int n) { if (next() % 19 == 0) leave(); return next() % 9; }
static int more(void) { return budget-- > 0; }
static void enter(void) { if (calls++ > 4000) leave(); }`,
		bottom: func(n int) string {
			return fmt.Sprintf(`int main(void) {
	volatile int x = 0;
	for (volatile int i = 0; i < 60; i++) { calls = 0; budget = 200; if (setjmp(out)) x += 3; else x += f%d(i) %% 1000; }
	printf("%%d %%u\n", x, state);
	for (int i = 0; i < 1 << 16; i++) { if (h[i]) printf("H %%d %%lu\n", i, h[i]); if (c[i][0] + c[i][1]) printf("C %%d %%lu %%lu\n", i, c[i][0], c[i][1]); if (k[i][0] + k[i][1]) printf("K %%d %%lu %%lu\n", i, k[i][0], k[i][1]); }
}`, n-1)
		},
	})

	CPP = with(Language{
		Name: "c++", File: "prog.cpp", Run: "g++ -std=c++17 -w -O0 -o prog prog.cpp && ./prog",
		head: "static int f%d(int v) {", result: "return v;", close: "}", locals: []string{"bool b = false;", "enter();"},
		lacks: lacking(Outer, Defer), noFinally: true,
		fail: "throw Failed();", object: "{ Thing %[1]s(v); }", closure: "v = [&]() -> int {", closed: "return v; }();", each: "for (int %s : items()) {", catch: "} catch (Failed &) {",
		top: `#include <cstdio>
#include <vector>
static unsigned state = SEED; static int calls, budget; static unsigned long h[1 << 16], c[1 << 16][2], k[1 << 16][2];
struct Failed {};
static unsigned next() { state = state * 1664525u + 1013904223u; return state >> 16; }
static bool H(int n) { h[n]++; return true; }
static bool C(int n, bool x) { c[n][!x]++; return x; }
static bool K(int n, bool x) { k[n][!x]++; return x; }
static bool t(int n) { return (next() + n) % 3 == 0; }
static int may(int n) { if (next() % 19 == 0) throw Failed(); return next() % 9; }
static bool more() { return budget-- > 0; }
static void enter() { if (calls++ > 4000) throw Failed(); }
static std::vector<int> items() { return std::vector<int>(next() % 4); }
struct Thing { Thing(int n) { may(n); } };`,
		bottom: func(n int) string {
			return fmt.Sprintf(`int main() {
	int x = 0;
	for (int i = 0; i < 60; i++) { calls = 0; budget = 200; try { x += f%d(i) %% 1000; } catch (Failed &) { x += 3; } }
	printf("%%d %%u\n", x, state);
	for (int i = 0; i < 1 << 16; i++) { if (h[i]) printf("H %%d %%lu\n", i, h[i]); if (c[i][0] + c[i][1]) printf("C %%d %%lu %%lu\n", i, c[i][0], c[i][1]); if (k[i][0] + k[i][1]) printf("K %%d %%lu %%lu\n", i, k[i][0], k[i][1]); }
}`, n-1)
		},
	})

	JavaScript = with(Language{
		Name: "javascript", File: "prog.js", Run: "node prog.js",
		head: "function f%d(v) {", result: "return v;", close: "}", locals: []string{"let b = false;", "enter();"},
		lacks: lacking(Defer, Jump),
		fail:  "throw new Failed();", object: "new Thing(v);", closure: "v = (() => {", closed: "return v; })();", each: "for (const %s of items()) {", catch: "} catch (e) {",
		top: `let state = SEED, calls = 0, budget = 0; const h = {}, c = {}, k = {};
class Failed extends Error {}
function next() { state = (Math.imul(state, 1664525) + 1013904223) >>> 0; return state >>> 16; }
function H(n) { h[n] = (h[n] ?? 0) + 1; return true; }
function two(to, n, x) { to[n] ??= [0, 0]; to[n][x ? 0 : 1]++; return x; }
function C(n, x) { return two(c, n, x); }
function K(n, x) { return two(k, n, x); }
function t(n) { return (next() + n) % 3 === 0; }
function may(n) { if (next() % 19 === 0) throw new Failed(); return next() % 9; }
function more() { return budget-- > 0; }
function enter() { if (calls++ > 4000) throw new Failed(); }
function items() { return Array(next() % 4).fill(1); }
class Thing { constructor(n) { may(n); } }`,
		bottom: func(n int) string {
			return fmt.Sprintf(`let x = 0;
for (let i = 0; i < 60; i++) { calls = 0; budget = 200; try { x += f%d(i) %% 1000; } catch (e) { if (!(e instanceof Failed)) throw e; x += 3; } }
console.log(x, state);
for (const n in h) console.log("H", n, h[n]);
for (const n in c) console.log("C", n, ...c[n]);
for (const n in k) console.log("K", n, ...k[n]);`, n-1)
		},
	})

	Java = with(Language{
		Name: "java", File: "Prog.java", Run: "javac -nowarn -d out Prog.java && java -cp out Prog",
		head: "static int f%d(int v) {", result: "return v;", close: "}", locals: []string{"boolean b = false;", "enter();"},
		lacks: lacking(Closure, Defer, Jump), guarded: true,
		fail: "throw new Failed();", object: "new Thing(v);", each: "for (int %s : items()) {", catch: "} catch (Failed %s) {",
		top: `class Prog {
static int state = SEED, calls, budget; static long[] h = new long[1 << 16]; static long[][] c = new long[1 << 16][2], k = new long[1 << 16][2];
static class Failed extends RuntimeException {}
static int next() { state = state * 1664525 + 1013904223; return state >>> 16; }
static boolean H(int n) { h[n]++; return true; }
static boolean C(int n, boolean x) { c[n][x ? 0 : 1]++; return x; }
static boolean K(int n, boolean x) { k[n][x ? 0 : 1]++; return x; }
static boolean t(int n) { return (next() + n) % 3 == 0; }
static int may(int n) { if (next() % 19 == 0) throw new Failed(); return next() % 9; }
static boolean more() { return budget-- > 0; }
static boolean yes() { return budget > -1000000; }
static void enter() { if (calls++ > 4000) throw new Failed(); }
static int[] items() { return new int[next() % 4]; }
static class Thing { Thing(int n) { may(n); } }`,
		bottom: func(n int) string {
			return fmt.Sprintf(`public static void main(String[] args) {
	int x = 0;
	for (int i = 0; i < 60; i++) { calls = 0; budget = 200; try { x += f%d(i) %% 1000; } catch (Failed e) { x += 3; } }
	System.out.println(x + " " + state);
	for (int i = 0; i < 1 << 16; i++) { if (h[i] > 0) System.out.println("H " + i + " " + h[i]); if (c[i][0] + c[i][1] > 0) System.out.println("C " + i + " " + c[i][0] + " " + c[i][1]); if (k[i][0] + k[i][1] > 0) System.out.println("K " + i + " " + k[i][0] + " " + k[i][1]); }
}
}`, n-1)
		},
	})

	Go = with(Language{
		Name: "go", File: "prog.go", Run: "go run prog.go",
		head: "func f%d(v int) int {", result: "return v", close: "}", locals: []string{"b := false; _ = b", "enter()"},
		lacks: lacking(Do, Choose, Object), functionTry: true, noFinally: true, say: goSay,
		top: `package main
import "fmt"
var state uint32 = SEED; var calls, budget int; var h = map[int]int{}; var c, k = map[int]*[2]int{}, map[int]*[2]int{}
func next() int { state = state*1664525 + 1013904223; return int(state >> 16) }
func H(n int) bool { h[n]++; return true }
func two(to map[int]*[2]int, n int, x bool) bool { if to[n] == nil { to[n] = &[2]int{} }; if x { to[n][0]++ } else { to[n][1]++ }; return x }
func C(n int, x bool) bool { return two(c, n, x) }
func K(n int, x bool) bool { return two(k, n, x) }
func t(n int) bool { return (next()+n)%3 == 0 }
func may(n int) int { if next()%19 == 0 { panic("no") }; return next() % 9 }
func more() bool { budget--; return budget >= 0 }
func enter() { calls++; if calls > 4000 { panic("no") } }
func items() []int { return make([]int, next()%4) }`,
		bottom: func(n int) string {
			return fmt.Sprintf(`func one(i int) (x int) { defer func() { if recover() != nil { x = 3 } }(); return f%d(i) %% 1000 }
func main() {
	x := 0
	for i := 0; i < 60; i++ { calls, budget = 0, 200; x += one(i) }
	fmt.Println(x, state)
	for n, v := range h { fmt.Println("H", n, v) }
	for n, v := range c { fmt.Println("C", n, v[0], v[1]) }
	for n, v := range k { fmt.Println("K", n, v[0], v[1]) }
}`, n-1)
		},
	})

	Python = with(Language{
		Name: "python", File: "prog.py", Run: "python3 prog.py",
		and: " and ", or: " or ", not: "not ", end: ";",
		head: "def f%d(v):", result: "return v", locals: []string{"b = False", "enter()"},
		lacks: lacking(Do, Block, Outer, Defer, Jump), say: pythonSay,
		top: `state, calls, budget, h, c, k = SEED, 0, 0, {}, {}, {}
class Failed(Exception): pass
def next_():
	global state
	state = (state * 1664525 + 1013904223) & 0xffffffff
	return state >> 16
def H(n):
	h[n] = h.get(n, 0) + 1
def two(to, n, x):
	to.setdefault(n, [0, 0])[0 if x else 1] += 1
	return x
def C(n, x): return two(c, n, x)
def K(n, x): return two(k, n, x)
def t(n): return (next_() + n) % 3 == 0
def may(n):
	if next_() % 19 == 0: raise Failed
	return next_() % 9
def more():
	global budget
	budget -= 1
	return budget >= 0
def enter():
	global calls
	calls += 1
	if calls > 4000: raise Failed
def items(): return [1] * (next_() % 4)
class Thing:
	def __init__(self, n): may(n)`,
		bottom: func(n int) string {
			return fmt.Sprintf(`x = 0
for i in range(60):
	calls, budget = 0, 200
	try:
		x += f%d(i) %% 1000
	except Failed:
		x += 3
print(x, state)
for n in h: print("H", n, h[n])
for n in c: print("C", n, *c[n])
for n in k: print("K", n, *k[n])`, n-1)
		},
	})
)

// guard has the compiler not see that nothing comes after a jump.
func (w *printer) guard(text string) string {
	if w.l.guarded {
		return "if (yes()) " + text
	}
	return text
}

// used tells whether a loop is named by a jump in it.
func used(loop *Node) bool {
	var find func(list []*Node) bool
	find = func(list []*Node) bool {
		for _, s := range list {
			if s.Target == loop {
				return true
			}
			for _, b := range s.Bodies {
				if find(b) {
					return true
				}
			}
			if s.Else != nil && find([]*Node{s.Else}) {
				return true
			}
		}
		return false
	}
	for _, b := range loop.Bodies {
		if find(b) {
			return true
		}
	}
	return false
}

// loop gives what stands before a loop. A label has to stand right before it, so the witness
// comes before the label.
func (w *printer) loop(s *Node) string {
	if !used(s) {
		return w.begins(s)
	}
	w.labels[s] = w.name("L")
	w.line("%s%s:", w.begins(s), w.labels[s])
	w.out.Statements[s.ID] = w.here()
	return ""
}
