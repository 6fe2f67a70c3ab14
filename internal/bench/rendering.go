package main

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"syscall"
	"time"
)

// rendering measures the pages of a large project, none of whose files ran: the
// longest pages there are.
func rendering(thrush, dir string) []row {
	files, lines := library(dir, 10_000, 1<<30, 1200)
	check(os.MkdirAll(filepath.Join(dir, "cmd"), 0o777))
	check(os.WriteFile(filepath.Join(dir, "cmd", "main.go"), []byte("package main\n\nfunc main() { println(1) }\n"), 0o666))
	run(dir, nil, thrush, "record", "-q", "--", "go", "run", "./cmd")
	var times []time.Duration
	most := int64(0)
	for round := range 3 {
		cmd := exec.Command(thrush, "render", "-q", "--to", filepath.Join(dir, fmt.Sprintf("report%d", round)))
		cmd.Dir = dir
		cmd.Env = append(os.Environ(), "PWD="+dir)
		times = append(times, timed(func() { check(cmd.Run()) }))
		if usage, ok := cmd.ProcessState.SysUsage().(*syscall.Rusage); ok {
			most = max(most, usage.Maxrss/1024)
		}
	}
	return []row{{
		what: fmt.Sprintf("render of %d files, %d lines", files, lines), budget: "30 s, 500 MB", aim: "10 s, 200 MB",
		measured: fmt.Sprintf("%.1f s, %d MB", median(times).Seconds(), most),
	}}
}
