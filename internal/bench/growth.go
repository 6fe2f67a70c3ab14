package main

import (
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"time"
)

// growing is something that has to grow with the work and not faster. Each is measured at a
// size and at four times that; the exponent is the power of the size that the time grew by.
type growing struct {
	what string
	size int
	// prepare makes what is to be worked on, and work is what is timed.
	prepare func(dir string, n int)
	work    func(thrush, dir string)
}

var growths = []growing{
	{"operands of one decision in Go, recorded at level conditions", 200,
		func(dir string, n int) {
			terms := make([]string, n)
			for i := range terms {
				terms[i] = fmt.Sprintf("n == %d", i)
			}
			put(dir, "go.mod", "module skerry.example/growth\ngo 1.22\n")
			put(dir, "main.go", "package main\n\nfunc open(n int) bool {\n\treturn "+strings.Join(terms, " || ")+"\n}\n\nfunc main() { println(open(7)) }\n")
		},
		func(thrush, dir string) {
			run(dir, nil, thrush, "record", "-q", "--level", "conditions", "--", "true")
		}},
	{"functions of one file in JavaScript, woven the first time", 5000, manyFunctions,
		func(thrush, dir string) { run(dir, nil, thrush, "record", "-q", "--", "true") }},
	{"functions of one file in JavaScript, their gaps", 5000,
		func(dir string, n int) {
			manyFunctions(dir, n)
			thrush, err := filepath.Abs("bin/thrush")
			check(err)
			run(dir, nil, thrush, "record", "-q", "--", "node", "main.js")
		},
		func(thrush, dir string) { run(dir, nil, thrush, "gaps", "--format", "json") }},
	{"lines of one file in Python, recorded at level conditions", 20000,
		func(dir string, n int) {
			var b strings.Builder
			for i := range n / 5 {
				fmt.Fprintf(&b, "def f%d(a, b, c):\n    if a > %d and b or c:\n        return a or b\n    x = a\n    return x and c\n", i, i)
			}
			put(dir, "main.py", b.String()+"f1(1, 2, 3)\n")
		},
		func(thrush, dir string) {
			run(dir, nil, thrush, "record", "-q", "--level", "conditions", "--", "python3", "main.py")
		}},
	{"files, drawn a second time into the same folder", 1000,
		func(dir string, n int) {
			put(dir, "go.mod", "module skerry.example/growth\ngo 1.22\n")
			for i := range n {
				put(dir, fmt.Sprintf("p%d/a.go", i), fmt.Sprintf("package p%d\n\nfunc F(n int) int {\n\tif n > 3 {\n\t\treturn 1\n\t}\n\treturn n\n}\n", i))
			}
			put(dir, "main.go", "package main\n\nfunc main() { println(1) }\n")
			thrush, err := filepath.Abs("bin/thrush")
			check(err)
			run(dir, nil, thrush, "record", "-q", "--", "go", "run", ".")
			run(dir, nil, thrush, "render", "--to", "report")
		},
		func(thrush, dir string) { run(dir, nil, thrush, "render", "--to", "report") }},
}

func manyFunctions(dir string, n int) {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, "function f%d(a, b) {\n  if (a > %d && b) {\n    return a + b;\n  }\n  return a || b;\n}\n", i, i)
	}
	put(dir, "main.js", b.String()+"f1(1, 2);\n")
}

func put(dir, name, text string) {
	path := filepath.Join(dir, name)
	check(os.MkdirAll(filepath.Dir(path), 0o777))
	check(os.WriteFile(path, []byte(text), 0o666))
}

// growth measures the exponents.
func growth(thrush, dir string) (rows []row) {
	const times = 4
	for i, g := range growths {
		var took [2]time.Duration
		for j, n := range []int{g.size, g.size * times} {
			at := filepath.Join(dir, fmt.Sprintf("%d-%d", i, j))
			put(at, "thrush.toml", "")
			g.prepare(at, n)
			took[j] = timed(func() { g.work(thrush, at) })
		}
		exponent := math.Log(took[1].Seconds()/took[0].Seconds()) / math.Log(times)
		rows = append(rows, row{"growth with " + g.what, "1.1", "1.0", fmt.Sprintf("%.2f", exponent), fmt.Sprintf("(%s at %d, %s at %d)", ms(took[0]), g.size, ms(took[1]), g.size*times)})
	}
	return rows
}
