package main

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
)

// gating measures the gate on a large project with a large change.
func gating(thrush, dir string) []row {
	files, lines := library(dir, 1<<30, 1_000_000, nil)
	git := func(args ...string) {
		run(dir, nil, append([]string{"git", "-c", "user.name=bench", "-c", "user.email=bench@thrush.example"}, args...)...)
	}
	git("init", "-q", "-b", "main")
	git("add", "-A")
	git("commit", "-q", "-m", "base")
	changed := change(dir, 500)
	// Something must have reported: a program outside of the library.
	check(os.MkdirAll(filepath.Join(dir, "cmd"), 0o777))
	check(os.WriteFile(filepath.Join(dir, "cmd", "main.go"), []byte("package main\n\nfunc main() { println(1) }\n"), 0o666))
	run(dir, nil, thrush, "record", "-q", "--", "go", "run", "./cmd")
	gate := func() {
		cmd := exec.Command(thrush, "gate", "-q", "--require", "lines=1", "--on", "changed", "--since", "main", "--format", "json")
		cmd.Dir = dir
		cmd.Env = append(os.Environ(), "PWD="+dir)
		out, err := cmd.Output()
		if cmd.ProcessState.ExitCode() != 1 || !strings.Contains(string(out), "thrush.gate/1") {
			check(fmt.Errorf("gate: %v %s", err, out))
		}
	}
	gate()
	with, diff := pair(5, gate, func() { run(dir, nil, "git", "diff", "--unified=0", "main") })
	return []row{{
		what: fmt.Sprintf("gate on %d files, %d lines, %d of them changed", files, lines, changed), budget: "1 s", aim: "0.3 s",
		measured: ms(with), note: fmt.Sprintf("(git diff alone: %s)", ms(diff)),
	}}
}

// change changes a line of code in so many files.
func change(dir string, n int) (done int) {
	check(filepath.WalkDir(dir, func(path string, d os.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.Contains(path, "/.thrush/") || done >= n {
			return err
		}
		text, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		if strings.Contains(string(text), "DO NOT EDIT") || !strings.Contains(string(text), "\treturn") {
			return nil
		}
		done++
		return os.WriteFile(path, []byte(strings.Replace(string(text), "\treturn", "\t; return", 1)), 0o666)
	}))
	return done
}
