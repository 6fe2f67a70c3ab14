//go:build unix

package launch

import (
	"os"
	"path/filepath"
	"syscall"

	"golang.org/x/sys/unix"
)

var passedOn = []os.Signal{
	syscall.SIGINT, syscall.SIGQUIT, syscall.SIGTERM, syscall.SIGHUP, syscall.SIGUSR1, syscall.SIGUSR2, syscall.SIGWINCH,
}

// alsoSentToChild tells whether a signal most likely came from the terminal,
// which sends it to the command too.
func alsoSentToChild(s os.Signal) bool {
	if s != syscall.SIGINT && s != syscall.SIGQUIT && s != syscall.SIGWINCH {
		return false
	}
	tty, err := os.Open("/dev/tty")
	if err != nil {
		return false
	}
	defer tty.Close()
	front, err := unix.IoctlGetInt(int(tty.Fd()), unix.TIOCGPGRP)
	return err == nil && front == syscall.Getpgrp()
}

// LeftBehind are the folders, among those of runs, whose Thrush is gone.
func LeftBehind(runs string) []Left {
	entries, err := os.ReadDir(runs)
	if err != nil {
		return nil
	}
	var out []Left
	for _, e := range entries {
		if pid, number := runner(e.Name()); pid > 0 && !owned(e.Name()) {
			out = append(out, Left{filepath.Join(runs, e.Name()), number})
		}
	}
	return out
}

// owned tells whether the Thrush that a run's folder belongs to is still there.
func owned(name string) bool {
	pid, _ := runner(name)
	return pid > 0 && syscall.Kill(pid, 0) != syscall.ESRCH
}
