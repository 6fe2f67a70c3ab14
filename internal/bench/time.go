package main

import (
	"fmt"
	"os"
	"os/exec"
	"slices"
	"time"
)

// pair runs two things in turn and gives the median time of each.
func pair(rounds int, a, b func()) (time.Duration, time.Duration) {
	var as, bs []time.Duration
	for range rounds {
		as = append(as, timed(a))
		bs = append(bs, timed(b))
	}
	return median(as), median(bs)
}

func timed(f func()) time.Duration {
	start := time.Now()
	f()
	return time.Since(start)
}

func median(list []time.Duration) time.Duration {
	slices.Sort(list)
	return list[len(list)/2]
}

// run runs a command in a folder and gives nothing of what it prints.
func run(dir string, env []string, args ...string) {
	cmd := exec.Command(args[0], args[1:]...)
	cmd.Dir = dir
	cmd.Env = append(append(os.Environ(), "PWD="+dir, "GOWORK=off"), env...)
	if out, err := cmd.CombinedOutput(); err != nil {
		check(fmt.Errorf("%v: %w\n%s", args, err, out))
	}
}

func ms(d time.Duration) string { return fmt.Sprintf("%.0f ms", float64(d.Microseconds())/1000) }
