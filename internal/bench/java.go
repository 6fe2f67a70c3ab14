package main

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
)

// javaLoops tells how often each loop runs.
var javaLoops = map[string]int{"checksum": 40000, "shell_sort": 800, "sieve": 4000, "words": 3000, "matrix": 20000, "trees": 4000, "distance": 20000, "tokens": 4000}

// compiled runs loops in Java, compiled plain, counting, noting and counting conditions, in
// turn; and a program that does nothing but load a class.
func compiled(thrush, dir string) (rows []row) {
	if _, err := exec.LookPath("javac"); err != nil {
		fmt.Fprintln(os.Stderr, "there is no javac")
		return nil
	}
	at := filepath.Join(dir, "java")
	check(os.MkdirAll(filepath.Join(at, "seen"), 0o777))
	check(os.WriteFile(filepath.Join(at, "thrush.toml"), []byte("[measure]\nskip = [\"Run.java\"]\n"), 0o666))
	for _, name := range []string{"Hot.java", "Run.java"} {
		text, err := loops.ReadFile("testdata/" + name)
		check(err)
		check(os.WriteFile(filepath.Join(at, name), text, 0o666))
	}
	modes := []string{"plain", "counts", "hits", "conditions"}
	for mode, flags := range map[string][]string{"plain": {"--plain"}, "counts": nil, "hits": {"--keep", "hits"}, "conditions": {"--level", "conditions"}} {
		args := append(append([]string{"record", "--quiet"}, flags...), "--", "javac", "-d", filepath.Join(at, mode), "Hot.java", "Run.java")
		cmd := exec.Command(thrush, args...)
		cmd.Dir = at
		cmd.Env = append(os.Environ(), "PWD="+at)
		out, err := cmd.CombinedOutput()
		if err != nil {
			fmt.Fprintln(os.Stderr, string(out))
		}
		check(err)
	}
	env := []string{"THRUSH_COUNTERS=" + filepath.Join(at, "seen")}
	run := func(mode, loop string, times int) float64 {
		return seconds(at, env, "java", "-cp", filepath.Join(at, mode), "Run", loop, strconv.Itoa(times))
	}
	ratios := map[string]map[string][]float64{}
	for loop, times := range javaLoops {
		for range 5 {
			plain := run("plain", loop, times)
			for _, mode := range modes[1:] {
				if ratios[mode] == nil {
					ratios[mode] = map[string][]float64{}
				}
				ratios[mode][loop] = append(ratios[mode][loop], run(mode, loop, times)/plain)
			}
		}
		fmt.Fprintf(os.Stderr, "| %s |", strings.ReplaceAll(loop, "_", " "))
		for _, mode := range modes[1:] {
			fmt.Fprintf(os.Stderr, " %.2f× |", middle(ratios[mode][loop]))
		}
		fmt.Fprintln(os.Stderr)
	}
	plain, woven := pair(21, func() { run("plain", "distance", 0) }, func() { run("counts", "distance", 0) })
	const what = "tested program, Java, "
	return []row{
		{what: what + fmt.Sprintf("counts and branches, geometric mean of %d hot loops", len(javaLoops)), budget: "1.2×", aim: "1.05×", measured: fmt.Sprintf("%.2f×", mean(ratios["counts"]))},
		{what: what + "hits, the same loops", budget: "–", aim: "–", measured: fmt.Sprintf("%.2f×", mean(ratios["hits"]))},
		{what: what + "counts and conditions, the same loops", budget: "–", aim: "–", measured: fmt.Sprintf("%.2f×", mean(ratios["conditions"]))},
		{what: "start and end of a program in Java: Thrush's share", budget: "–", aim: "–", measured: fmt.Sprintf("%s (%s plain)", ms(woven-plain), ms(plain))},
	}
}
