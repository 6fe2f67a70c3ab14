package main

import (
	"embed"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"time"
)

//go:embed testdata/hot.py testdata/run.py testdata/hot.js testdata/run.js testdata/Hot.java testdata/Run.java
var loops embed.FS

// interpreters load what they run, and how often each loop runs in them.
var interpreters = []struct {
	name, program, ending string
	budget, aim           string
	times                 map[string]int
}{
	{"Python", "python3", ".py", "1.8×", "1.3×", map[string]int{"checksum": 250, "shell_sort": 14, "sieve": 40, "words": 160, "matrix": 90, "trees": 100, "distance": 45, "tokens": 160}},
	{"JavaScript", "node", ".js", "1.3×", "1.1×", map[string]int{"checksum": 12000, "shell_sort": 450, "sieve": 1000, "words": 800, "matrix": 6000, "trees": 1700, "distance": 5000, "tokens": 3000}},
}

// loaded runs loops in interpreted languages, plain, counting, noting and counting
// conditions, in turn; and a program that does nothing but load a file.
func loaded(thrush, dir string) (rows []row) {
	for _, in := range interpreters {
		if _, err := exec.LookPath(in.program); err != nil {
			fmt.Fprintf(os.Stderr, "there is no %s\n", in.program)
			continue
		}
		at := filepath.Join(dir, in.program)
		check(os.MkdirAll(at, 0o777))
		check(os.WriteFile(filepath.Join(at, "thrush.toml"), []byte("[measure]\nskip = [\"run.*\"]\n"), 0o666))
		for _, name := range []string{"hot", "run"} {
			text, err := loops.ReadFile("testdata/" + name + in.ending)
			check(err)
			check(os.WriteFile(filepath.Join(at, name+in.ending), text, 0o666))
		}
		modes := []string{"plain", "counts", "hits", "conditions"}
		env := map[string][]string{"plain": nil}
		for mode, flags := range map[string][]string{"counts": nil, "hits": {"--keep", "hits"}, "conditions": {"--level", "conditions"}} {
			env[mode] = environment(thrush, at, flags)
		}
		ratios := map[string]map[string][]float64{}
		for loop, times := range in.times {
			for range 5 {
				plain := 0.0
				for _, mode := range modes {
					took := seconds(at, env[mode], in.program, "run"+in.ending, loop, strconv.Itoa(times))
					if mode == "plain" {
						plain = took
						continue
					}
					if ratios[mode] == nil {
						ratios[mode] = map[string][]float64{}
					}
					ratios[mode][loop] = append(ratios[mode][loop], took/plain)
				}
			}
			fmt.Fprintf(os.Stderr, "| %s |", strings.ReplaceAll(loop, "_", " "))
			for _, mode := range modes[1:] {
				fmt.Fprintf(os.Stderr, " %.2f× |", middle(ratios[mode][loop]))
			}
			fmt.Fprintln(os.Stderr)
		}
		once := func(env []string) func() {
			return func() { seconds(at, env, in.program, "run"+in.ending, "distance", "0") }
		}
		plain, woven := pair(31, once(nil), once(env["counts"]))
		what := fmt.Sprintf("tested program, %s, ", in.name)
		rows = append(rows,
			row{what: what + fmt.Sprintf("counts and branches, geometric mean of %d hot loops", len(in.times)), budget: in.budget, aim: in.aim, measured: fmt.Sprintf("%.2f×", mean(ratios["counts"]))},
			row{what: what + "hits, the same loops", budget: "–", aim: "–", measured: fmt.Sprintf("%.2f×", mean(ratios["hits"]))},
			row{what: what + "counts and conditions, the same loops", budget: "–", aim: "–", measured: fmt.Sprintf("%.2f×", mean(ratios["conditions"]))},
			row{what: "start and end of a program in " + in.name + ": Thrush's share", budget: "–", aim: map[string]string{"Python": "15 ms", "JavaScript": "20 ms"}[in.name],
				measured: fmt.Sprintf("%s (%s plain)", ms(woven-plain), ms(plain))})
	}
	return rows
}

// environment is what thrush env gives for a shell.
func environment(thrush, dir string, flags []string) []string {
	cmd := exec.Command(thrush, append([]string{"env"}, flags...)...)
	cmd.Dir = dir
	out, err := cmd.Output()
	check(err)
	var env []string
	for _, line := range strings.Split(string(out), "\n") {
		if assignment, ok := strings.CutPrefix(line, "export "); ok {
			name, value, _ := strings.Cut(assignment, "=")
			env = append(env, name+"="+strings.Trim(value, "'"))
		}
	}
	return env
}

// seconds runs a program that prints how long it took.
func seconds(dir string, env []string, args ...string) float64 {
	cmd := exec.Command(args[0], args[1:]...)
	cmd.Dir = dir
	cmd.Env = append(append(os.Environ(), "PWD="+dir), env...)
	out, err := cmd.Output()
	check(err)
	n, err := strconv.ParseFloat(strings.TrimSpace(string(out)), 64)
	check(err)
	return max(n, float64(time.Nanosecond)/1e9)
}
