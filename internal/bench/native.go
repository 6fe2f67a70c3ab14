package main

import (
	_ "embed"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"time"
)

//go:embed testdata/hot.c
var hotC []byte

// hotLoops are the loops of hot.c, and how often each runs.
var hotLoops = []struct {
	name  string
	times int
}{
	{"checksum", 400}, {"qsort", 120}, {"shell sort", 120}, {"sieve", 300}, {"hashing", 1500}, {"words", 400}, {"matrix product", 800}, {"trees", 400}, {"edit distance", 600},
}

// native runs loops in C, compiled at -O2, plain, counting, noting, and counting
// conditions, in turn, and times the compiler with and without the stand-in.
func native(thrush, dir string) []row {
	check(os.MkdirAll(dir, 0o777))
	check(os.WriteFile(filepath.Join(dir, "hot.c"), hotC, 0o666))
	check(os.WriteFile(filepath.Join(dir, "thrush.toml"), nil, 0o666))
	compile := []string{"gcc", "-O2", "-o"}
	run(dir, nil, append(compile, "plain", "hot.c")...)
	names := []string{"plain", "counts", "hits", "conditions"}
	for name, flags := range map[string][]string{"counts": nil, "hits": {"--keep", "hits"}, "conditions": {"--level", "conditions"}} {
		args := append([]string{thrush, "build", "-q"}, flags...)
		run(dir, nil, append(append(args, "--"), append(compile, name, "hot.c")...)...)
	}
	counters := "THRUSH_COUNTERS=" + filepath.Join(dir, ".thrush", "pending")
	ratios := map[string]map[string][]float64{}
	for i, l := range hotLoops {
		for range rounds {
			var plain time.Duration
			for _, name := range names {
				took := timed(func() {
					run(dir, []string{counters}, filepath.Join(dir, name), strconv.Itoa(i), strconv.Itoa(l.times))
				})
				if name == "plain" {
					plain = took
					continue
				}
				if ratios[name] == nil {
					ratios[name] = map[string][]float64{}
				}
				ratios[name][l.name] = append(ratios[name][l.name], float64(took)/float64(plain))
			}
		}
	}
	what := fmt.Sprintf("geometric mean of %d hot loops", len(hotLoops))
	for _, l := range hotLoops {
		fmt.Fprintf(os.Stderr, "| %s |", l.name)
		for _, name := range names[1:] {
			fmt.Fprintf(os.Stderr, " %.2f× |", middle(ratios[name][l.name]))
		}
		fmt.Fprintln(os.Stderr)
	}
	var compiling []string
	for _, o := range []string{"-O0", "-O2"} {
		// Ten in one command, so that starting Thrush itself does not count.
		ten := fmt.Sprintf("for i in 1 2 3 4 5 6 7 8 9 10; do gcc %s -c -o hot.o hot.c; done", o)
		plain, woven := pair(5, func() { run(dir, nil, "sh", "-c", ten) }, func() { run(dir, nil, thrush, "build", "-q", "--", "sh", "-c", ten) })
		compiling = append(compiling, fmt.Sprintf("%.2f× at %s (%s, %s)", float64(woven)/float64(plain), o, ms(woven/10), ms(plain/10)))
	}
	return []row{
		{what: "tested program, C at -O2, counts and branches, " + what, budget: "1.10×", aim: "1.02×", measured: fmt.Sprintf("%.2f×", mean(ratios["counts"]))},
		{what: "tested program, C at -O2, hits, the same loops", budget: "–", aim: "–", measured: fmt.Sprintf("%.2f×", mean(ratios["hits"]))},
		{what: "tested program, C at -O2, counts and conditions, the same loops", budget: "–", aim: "–", measured: fmt.Sprintf("%.2f×", mean(ratios["conditions"]))},
		{what: "compiling those loops through the stand-in, against the compiler alone", budget: "–", aim: "1.5×", measured: compiling[0] + ", " + compiling[1]},
	}
}

// middle is the median of a list.
func middle(list []float64) float64 {
	list = slices.Clone(list)
	slices.Sort(list)
	return list[len(list)/2]
}

// mean is the geometric mean of the medians.
func mean(lists map[string][]float64) float64 {
	sum := 0.0
	for _, l := range lists {
		sum += math.Log(middle(l))
	}
	return math.Exp(sum / float64(len(lists)))
}
