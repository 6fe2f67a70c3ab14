package main

import (
	"fmt"
	"go/build"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"time"
)

// rendering measures the pages of a large project, none of whose files ran: the
// longest pages there are.
func rendering(thrush, dir string) []row {
	files, lines := library(dir, 10_000, 1<<30, func(path, text string) bool {
		// What cannot be built here is unmeasured and has no page.
		ok, err := build.Default.MatchFile(filepath.Dir(path), filepath.Base(path))
		return err == nil && ok && strings.Count(text, "\n") <= 1000 && !strings.Contains(text, "DO NOT EDIT")
	})
	check(os.MkdirAll(filepath.Join(dir, "cmd"), 0o777))
	check(os.WriteFile(filepath.Join(dir, "cmd", "main.go"), []byte("package main\n\nfunc main() { println(1) }\n"), 0o666))
	run(dir, nil, thrush, "record", "-q", "--", "go", "run", "./cmd")
	var times []time.Duration
	pages := 0
	most := int64(0)
	for round := range 3 {
		cmd := exec.Command(thrush, "render", "--to", filepath.Join(dir, fmt.Sprintf("report%d", round)))
		cmd.Dir = dir
		cmd.Env = append(os.Environ(), "PWD="+dir)
		var said strings.Builder
		cmd.Stderr = &said
		times = append(times, timed(func() { check(cmd.Run()) }))
		_, err := fmt.Sscanf(strings.ReplaceAll(said.String(), ",", ""), "drew %d pages", &pages)
		check(err)
		if usage, ok := cmd.ProcessState.SysUsage().(*syscall.Rusage); ok {
			most = max(most, usage.Maxrss/1024)
		}
	}
	return []row{{
		what: fmt.Sprintf("render of %d files, %d lines, as %d pages", files, lines, pages), budget: "30 s, 500 MB", aim: "10 s, 200 MB",
		measured: fmt.Sprintf("%.1f s, %d MB", median(times).Seconds(), most),
	}}
}
