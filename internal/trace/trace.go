// Package trace tells those who look for a fault in Thrush what it did and why: what it set for the
// command, what each stand-in decided, which files were woven and which were not, and where a fault
// of our own was met. It writes only if THRUSH_TRACE names a file, a line for each event, as all
// processes of a run do to the same file.
package trace

import (
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"runtime/debug"
	"strings"
	"sync"
)

// Variable names the file that is written.
const Variable = "THRUSH_TRACE"

// open gives what is written to, or why there is nothing.
var open = sync.OnceValues(func() (*slog.Logger, error) {
	name := os.Getenv(Variable)
	if name == "" {
		return nil, nil
	}
	file, err := os.OpenFile(name, os.O_WRONLY|os.O_CREATE|os.O_APPEND, 0o600)
	if err != nil {
		return nil, err
	}
	return slog.New(slog.NewTextHandler(io.Writer(file), nil)).With("process", os.Getpid()), nil
})

// Problem is why nothing can be written although somebody asked for it, or nil.
func Problem() error {
	_, err := open()
	return err
}

// Note writes an event with what there is to know of it: names and values in turn.
func Note(event string, known ...any) {
	if l, _ := open(); l != nil {
		l.Info(event, known...)
	}
}

// Fault writes that our own code failed, with the stack. It is called where the panic is recovered.
func Fault(what string, reason any) {
	Note("fault", "in", what, "panic", reason, "stack", strings.TrimSpace(string(debug.Stack())))
}

// Env are the variables that have the processes of the command write to the same file, wherever
// they run.
func Env() []string {
	name := os.Getenv(Variable)
	if name == "" || filepath.IsAbs(name) {
		return nil
	}
	abs, err := filepath.Abs(name)
	if err != nil {
		return nil
	}
	return []string{Variable + "=" + abs}
}
