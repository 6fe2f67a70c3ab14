package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
)

// project measures what Thrush adds to a command in a project that did not
// change, and to the start of a program.
func project(thrush, dir string) []row {
	files, lines := library(dir, 1000, 1<<30, nil)
	run(dir, nil, thrush, "record", "-q", "--", "true")
	with, without := pair(9, func() { run(dir, nil, thrush, "record", "-q", "--", "true") }, func() { run(dir, nil, "true") })
	rows := []row{{
		what: fmt.Sprintf("second record of an unchanged project of %d files, %d lines: Thrush's own share", files, lines), budget: "150 ms", aim: "50 ms",
		measured: ms(with - without),
	}}
	start := dir + "-start"
	writeStart(start, 200)
	run(start, nil, "go", "build", "-o", "plain", ".")
	run(start, nil, thrush, "build", "-q", "--", "go", "build", "-o", "woven", ".")
	pending := filepath.Join(start, ".thrush", "pending")
	with, without = pair(31, func() { run(start, []string{"THRUSH_COUNTERS=" + pending}, "./woven") }, func() { run(start, nil, "./plain") })
	return append(rows, row{
		what: "start and end of a program of 200 woven files: Thrush's share", budget: "–", aim: "–",
		measured: fmt.Sprintf("%.2f ms", float64((with-without).Microseconds())/1000), note: fmt.Sprintf("(%.2f ms plain)", float64(without.Microseconds())/1000),
	})
}

func writeStart(dir string, n int) {
	check(os.MkdirAll(dir, 0o777))
	check(os.WriteFile(filepath.Join(dir, "go.mod"), []byte("module skerry\n\ngo 1.22\n"), 0o666))
	var calls strings.Builder
	for i := range n {
		fmt.Fprintf(&calls, "\tif berth%d(len(os.Args)) < 0 {\n\t\tpanic(%d)\n\t}\n", i, i)
		text := fmt.Sprintf("package main\n\nfunc berth%d(n int) int {\n\tif n > 100 {\n\t\treturn 1\n\t}\n\treturn n\n}\n", i)
		check(os.WriteFile(filepath.Join(dir, fmt.Sprintf("berth%d.go", i)), []byte(text), 0o666))
	}
	check(os.WriteFile(filepath.Join(dir, "main.go"), []byte("package main\n\nimport \"os\"\n\nfunc main() {\n"+calls.String()+"}\n"), 0o666))
}
