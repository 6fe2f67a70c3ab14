package launch

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"os/signal"
	"path/filepath"
	"strings"
	"syscall"
)

// Exit statuses of Thrush itself where it stands in for the command, as shells
// and env(1) use them.
const (
	ExitNotExecutable = 126
	ExitNotFound      = 127
)

// StartError says that a command could not be started.
type StartError struct {
	Command string
	Err     error
}

func (e *StartError) Error() string {
	if errors.Is(e.Err, exec.ErrNotFound) || errors.Is(e.Err, fs.ErrNotExist) {
		return fmt.Sprintf("there is no command %s; nothing was run", e.Command)
	}
	return fmt.Sprintf("%s cannot be run: %s; nothing was run", e.Command, plainError(e.Err))
}

// ExitStatus is the one that a shell would give.
func (e *StartError) ExitStatus() int {
	if errors.Is(e.Err, exec.ErrNotFound) || errors.Is(e.Err, fs.ErrNotExist) {
		return ExitNotFound
	}
	return ExitNotExecutable
}

// programIn finds a program in a list of folders, as shells do.
func programIn(folders, name string) (string, error) {
	for _, dir := range filepath.SplitList(folders) {
		path, err := filepath.Abs(filepath.Join(dir, name))
		if err != nil {
			continue
		}
		if _, err := exec.LookPath(path); err == nil {
			return path, nil
		}
	}
	return name, &exec.Error{Name: name, Err: exec.ErrNotFound}
}

// Run runs the command in a folder, with the standard streams and the environment of
// this process, the environment changed by env, and gives its exit status: 128
// and the signal's number if a signal ended it. Signals sent to this process
// are passed on.
func Run(dir string, args, env []string) (int, error) {
	cmd := exec.Command(args[0], args[1:]...)
	for _, e := range env {
		// What the command is called may be what is stood in for.
		if folders, ok := strings.CutPrefix(e, "PATH="); ok && filepath.Base(args[0]) == args[0] {
			cmd.Path, cmd.Err = programIn(folders, args[0])
		}
	}
	cmd.Stdin, cmd.Stdout, cmd.Stderr = os.Stdin, os.Stdout, os.Stderr
	cmd.Dir, cmd.Env = dir, append(os.Environ(), env...)
	if at, err := os.Getwd(); err == nil && at != dir {
		cmd.Env = append(cmd.Env, "PWD="+dir)
	}
	signals := make(chan os.Signal, 16)
	signal.Notify(signals, passedOn...)
	defer signal.Stop(signals)
	if err := cmd.Start(); err != nil {
		return 0, &StartError{args[0], err}
	}
	done := make(chan struct{})
	go func() {
		for {
			select {
			case s := <-signals:
				if !alsoSentToChild(s) {
					_ = cmd.Process.Signal(s)
				}
			case <-done:
				return
			}
		}
	}()
	err := cmd.Wait()
	close(done)
	var exit *exec.ExitError
	if err != nil && !errors.As(err, &exit) {
		return 0, err
	}
	if s, ok := cmd.ProcessState.Sys().(syscall.WaitStatus); ok && s.Signaled() {
		return 128 + int(s.Signal()), nil
	}
	return cmd.ProcessState.ExitCode(), nil
}
