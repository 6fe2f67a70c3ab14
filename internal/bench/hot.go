package main

import (
	"fmt"
	"maps"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/launch"
	project_ "thrush/internal/project"
)

// hotPackages are packages of the standard library whose benchmarks spend their
// time in their own code, with the benchmarks to run.
var hotPackages = []struct{ path, benchmarks string }{
	{"compress/flate", `code$/(Digits|Newton)/(Huffman|Speed|Default)/1e4`},
	{"container/heap", `.`},
	{"encoding/csv", `Read$|Write$`},
	{"encoding/hex", `Encode/256$|Decode/256$`},
	{"html", `Escape$|Unescape$|UnescapeDense$`},
	{"regexp", `Literal$|MatchClass$|OnePassShortA$|NotOnePassShortA$|ReplaceAll$|Match$/Medium/1K`},
	{"sort", `SortInt64K$|Sort1e4$|Stable1e2$|SearchWrappers`},
	{"text/tabwriter", `Table/10x10/reuse|Pyramid/10x10`},
	{"index/suffixarray", `New/text=opticks/size=100K/bits=32$`},
}

const rounds = 7

// hot runs the benchmarks plain, counting, noting, and counting conditions, in
// turn, and takes the median of the ratios of each turn: a machine that slows down
// for a while slows all of them.
func hot(_, dir string) []row {
	copyHot(dir)
	p, err := project_.Find(dir)
	check(err)
	variants := map[string]string{"plain": ""}
	for name, opt := range map[string]struct {
		level site.Level
		keep  site.Keep
	}{"counts": {site.Branches, site.Counts}, "hits": {site.Branches, site.Hits}, "conditions": {site.Conditions, site.Counts}} {
		prepared, err := launch.Prepare(p, launch.Options{Level: opt.level, Keep: opt.keep, Only: []string{"**"}, Version: "bench"})
		check(err)
		variants[name] = prepared.Env[0]
	}
	counters := filepath.Join(dir, "counters")
	check(os.Mkdir(counters, 0o777))
	names := []string{"plain", "counts", "hits", "conditions"}
	ratios := map[string]map[string][]float64{}
	for _, h := range hotPackages {
		for _, v := range names {
			cmd := exec.Command("go", "test", "-vet=off", "-c", "-o", binary(dir, h.path, v), "./"+h.path)
			cmd.Dir = dir
			cmd.Env = append(os.Environ(), "GOWORK=off", variants[v])
			if variants[v] == "" {
				cmd.Env = cmd.Env[:len(cmd.Env)-1]
			}
			if out, err := cmd.CombinedOutput(); err != nil {
				check(fmt.Errorf("%s: %w\n%s", h.path, err, out))
			}
		}
		for range rounds {
			times := map[string]map[string]float64{}
			for _, v := range names {
				times[v] = benchmark(dir, h.path, h.benchmarks, v, counters)
			}
			for name, plain := range times["plain"] {
				if ratios[name] == nil {
					ratios[name] = map[string][]float64{}
				}
				for _, v := range names[1:] {
					if t, ok := times[v][name]; ok {
						ratios[name][v] = append(ratios[name][v], t/plain)
					}
				}
			}
		}
	}
	return hotRows(ratios)
}

func hotRows(ratios map[string]map[string][]float64) []row {
	names := slices.Sorted(maps.Keys(ratios))
	sum := map[string]float64{}
	for _, name := range names {
		line := fmt.Sprintf("%-60s", name)
		for _, v := range []string{"counts", "hits", "conditions"} {
			list := ratios[name][v]
			slices.Sort(list)
			m := list[len(list)/2]
			sum[v] += math.Log(m)
			line += fmt.Sprintf("  %s %.2f×", v, m)
		}
		fmt.Fprintln(os.Stderr, line)
	}
	mean := func(v string) string { return fmt.Sprintf("%.2f×", math.Exp(sum[v]/float64(len(names)))) }
	return []row{
		{what: fmt.Sprintf("tested program, Go, counts and branches, geometric mean of %d hot benchmarks", len(names)), budget: "1.25×", aim: "1.10×", measured: mean("counts")},
		{what: "tested program, Go, hits, the same benchmarks", budget: "1.13×", aim: "1.04×", measured: mean("hits")},
		{what: "tested program, Go, counts and conditions, the same benchmarks", budget: "–", aim: "–", measured: mean("conditions")},
	}
}

func binary(dir, pkg, variant string) string {
	return filepath.Join(dir, "bin", variant, strings.ReplaceAll(pkg, "/", "_")+".test")
}

func benchmark(dir, pkg, which, variant, counters string) map[string]float64 {
	cmd := exec.Command(binary(dir, pkg, variant), "-test.run", "^$", "-test.bench", which, "-test.benchtime", "10ms", "-test.cpu", "1")
	cmd.Dir = filepath.Join(dir, pkg)
	cmd.Env = append(os.Environ(), "THRUSH_COUNTERS="+counters)
	out, _ := cmd.Output()
	times := map[string]float64{}
	for line := range strings.Lines(string(out)) {
		f := strings.Fields(line)
		if len(f) >= 4 && strings.HasPrefix(f[0], "Benchmark") && f[3] == "ns/op" {
			if t, err := strconv.ParseFloat(f[2], 64); err == nil && t >= 10 {
				times[pkg+"."+strings.TrimPrefix(f[0], "Benchmark")] = t
			}
		}
	}
	return times
}

// copyHot lays the packages out as a module.
func copyHot(dir string) {
	src := filepath.Join(goroot(), "src")
	own := []string{"regexp/syntax"}
	for _, h := range hotPackages {
		own = append(own, h.path)
	}
	check(os.MkdirAll(dir, 0o777))
	check(os.WriteFile(filepath.Join(dir, "go.mod"), []byte("module hot\n\ngo 1.26\n"), 0o666))
	for _, p := range own {
		check(os.MkdirAll(filepath.Join(dir, p), 0o777))
		files, err := filepath.Glob(filepath.Join(src, p, "*.go"))
		check(err)
		for _, f := range files {
			text, err := os.ReadFile(f)
			check(err)
			if strings.HasPrefix(filepath.Base(f), "example") || strings.Contains(filepath.Base(f), "fuzz") {
				continue
			}
			s := string(text)
			for _, q := range own {
				s = strings.ReplaceAll(s, strconv.Quote(q), strconv.Quote("hot/"+q))
			}
			s = strings.ReplaceAll(s, `"internal/reflectlite"`, `reflectlite "reflect"`)
			s = strings.ReplaceAll(s, `"internal/testenv"`, `"hot/testenv"`)
			check(os.WriteFile(filepath.Join(dir, p, filepath.Base(f)), []byte(s), 0o666))
		}
		if data := filepath.Join(src, p, "testdata"); exists(data) {
			check(os.CopyFS(filepath.Join(dir, p, "testdata"), os.DirFS(data)))
		}
	}
	for _, data := range []string{"compress/testdata", "testdata"} {
		check(os.CopyFS(filepath.Join(dir, data), os.DirFS(filepath.Join(src, "compress", "testdata"))))
	}
	check(os.MkdirAll(filepath.Join(dir, "testenv"), 0o777))
	check(os.WriteFile(filepath.Join(dir, "testenv", "testenv.go"), []byte(testenv), 0o666))
}

func exists(path string) bool {
	_, err := os.Stat(path)
	return err == nil
}

const testenv = `package testenv

import "testing"

func SkipIfOptimizationOff(testing.TB) {}

func OptimizationOff() bool { return false }

func Builder() string { return "" }
`
