// Bench measures what Thrush costs, side by side with the same thing without
// it, and prints each figure beside its budget and aim. Figures are ratios where
// they can be, since machines differ and are noisy. Words on the command line,
// weave, project, gate, render, merge, hot, native, loaded, java, copy or growth, choose parts.
package main

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
)

// row is one measured budget.
type row struct {
	what, budget, aim, measured string
	note                        string
}

func main() {
	thrush, err := filepath.Abs("bin/thrush")
	check(err)
	if _, err := os.Stat(thrush); err != nil {
		check(fmt.Errorf("bin/thrush is missing; run make build first"))
	}
	dir, err := os.MkdirTemp("", "thrush-bench-*")
	check(err)
	defer os.RemoveAll(dir)
	var rows []row
	add := func(r ...row) {
		for _, x := range r {
			fmt.Fprintf(os.Stderr, "%s: %s\n", x.what, x.measured)
		}
		rows = append(rows, r...)
	}
	for _, part := range []struct {
		name    string
		measure func(thrush, dir string) []row
	}{{"weave", weaving}, {"project", project}, {"gate", gating}, {"render", rendering}, {"merge", merging}, {"hot", hot}, {"native", native}, {"loaded", loaded}, {"java", compiled}, {"copy", copying}, {"growth", growth}} {
		if len(os.Args) == 1 || slices.Contains(os.Args[1:], part.name) {
			add(part.measure(thrush, filepath.Join(dir, part.name))...)
		}
	}
	print(rows)
}

func print(rows []row) {
	fmt.Println("| what | budget | aim | measured |")
	fmt.Println("|---|---|---|---|")
	for _, r := range rows {
		fmt.Printf("| %s | %s | %s | %s |\n", r.what, r.budget, r.aim, strings.TrimSpace(r.measured+" "+r.note))
	}
}

func check(err error) {
	if err != nil {
		fmt.Fprintln(os.Stderr, "bench:", err)
		os.Exit(1)
	}
}
