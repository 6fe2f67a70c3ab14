package wrapper

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"

	"thrush/internal/runtime"
	"thrush/internal/trace"
)

// Called tells whether Thrush was called by the name of a compiler.
func Called(name string) bool {
	base := filepath.Base(name)
	return base == "cc1" || base == "cc1plus" || whole.MatchString(base) || base == "cc" || base == "c++" || base == "gcc" || base == "g++"
}

// failed is the exit status where the real compiler cannot be found.
const failed = 127

// Main stands in for the compiler by whose name Thrush was called, and gives its exit
// status.
func Main(args []string) int {
	plan, planErr := readPlan()
	if planErr != nil {
		plan = nil
	}
	trace.Note("stand-in", "for", args[0], "arguments", args[1:], "plan", plan != nil)
	if name := filepath.Base(args[0]); !strings.HasPrefix(name, "cc1") {
		return driven(name, args[1:], plan)
	}
	program, err := realProgram(filepath.Base(args[0]), plan)
	if err != nil {
		fmt.Fprintf(os.Stderr, "thrush: cannot find the real %s: %s\n", filepath.Base(args[0]), err)
		return failed
	}
	c := newCall(program, args[1:])
	if plan == nil || c.passes || isProbe(c.source()) {
		trace.Note("left to the compiler", "source", c.source(), "not compiling", c.passes, "of the build system itself", isProbe(c.source()))
		return become(program, args[1:])
	}
	return c.run(plan)
}

// isProbe tells whether a build system compiles a text of its own, to see what works.
func isProbe(source string) bool {
	return strings.HasPrefix(filepath.Base(source), "conftest.") || strings.Contains(filepath.ToSlash(source), "/CMakeFiles/") || strings.Contains(filepath.ToSlash(source), "/meson-private/")
}

// realProgram finds the program that the driver would have called.
func realProgram(name string, p *Plan) (string, error) {
	driver := os.Getenv("COLLECT_GCC")
	if driver == "" {
		link, err := os.Readlink(fmt.Sprintf("/proc/%d/exe", os.Getppid()))
		if err != nil {
			return "", errors.New("nothing says which driver called")
		}
		driver = link
	}
	cmd := exec.Command(driver, "-print-prog-name="+name)
	before := ""
	if p != nil {
		before = p.Path
	}
	cmd.Env = append(os.Environ(), "COMPILER_PATH="+before)
	out, err := cmd.Output()
	path := strings.TrimSpace(string(out))
	if err == nil && !filepath.IsAbs(path) {
		path, err = exec.LookPath(path)
	}
	return path, err
}

// become runs the real program in place of this one.
func become(program string, args []string) int {
	err := syscall.Exec(program, append([]string{program}, args...), os.Environ())
	fmt.Fprintf(os.Stderr, "thrush: cannot run %s: %s\n", program, err)
	return failed
}

// work is what one call needs besides its words.
type work struct {
	*call
	plan  *Plan
	temp  string // folder for what is made on the way
	stdin []byte
	made  Made
}

// run compiles a woven text where it can, and else what there was.
func (c *call) run(p *Plan) int {
	temp, err := os.MkdirTemp("", "thrush-")
	if err != nil {
		return become(c.program, c.args)
	}
	w := &work{call: c, plan: p, temp: temp}
	defer os.RemoveAll(temp)
	if c.source() == "-" {
		if w.stdin, err = io.ReadAll(os.Stdin); err != nil {
			fmt.Fprintf(os.Stderr, "thrush: the standard input cannot be read: %s\n", err)
			return 1
		}
	}
	folder, err := os.Getwd()
	if err != nil {
		return w.plain()
	}
	f := newFiles(p, folder, c.source())
	w.made.Source, _ = f.rel(c.source())
	status := w.weave(f)
	trace.Note("compiled", "source", c.source(), "units", w.made.Units, "not woven since", w.made.Why, "status", status)
	if w.made.Source != "" || len(w.made.Files) > 0 || len(w.made.Unread) > 0 || len(w.made.Empty) > 0 {
		what := strings.Join(append([]string{folder, c.source()}, c.driver...), "\x00")
		// Without the note the unit counts as never compiled, if nothing ran it.
		_ = note(os.Getenv(runtime.DirVariable), what, w.made)
	}
	return status
}

// weave compiles the woven text, or falls back.
func (w *work) weave(f *files) int {
	if w.made.Why = w.alone(); w.made.Why != "" {
		return w.plain()
	}
	text, quiet, ok := w.preprocessed()
	if !ok {
		return w.plain() // which says why
	}
	woven, err := w.weaveUnit(f, text)
	if err != nil {
		w.made.Why = err.Error()
		w.made.Units = nil
		return w.plain()
	}
	if woven == nil {
		return w.plain()
	}
	input, output := filepath.Join(w.temp, "woven.i"), filepath.Join(w.temp, "woven.out")
	if w.language.String() == "c++" {
		input = filepath.Join(w.temp, "woven.ii")
	}
	if os.WriteFile(input, woven, 0o600) != nil {
		return w.plain()
	}
	if keep := os.Getenv("THRUSH_KEEP_WOVEN"); keep != "" {
		_ = os.WriteFile(filepath.Join(keep, filepath.Base(w.source())+".i"), woven, 0o666)
	}
	messages, err := w.start(w.translate(input, output))
	if err == nil && quiet && len(messages) == 0 {
		return w.hand(output)
	}
	// The compiler has something to say: it says it of the text as it was.
	plain := filepath.Join(w.temp, "plain.out")
	status := w.show(w.compile(plain))
	if status != 0 {
		return status
	}
	if err != nil {
		w.made.Why = "the compiler does not take its woven text: " + firstError(messages)
		w.made.Units = nil
		return w.hand(plain)
	}
	return w.hand(output)
}

func firstError(messages []byte) string {
	for line := range bytes.Lines(messages) {
		if bytes.Contains(line, []byte("error:")) {
			return strings.TrimSpace(string(line))
		}
	}
	line, _, _ := bytes.Cut(messages, []byte{'\n'})
	return strings.TrimSpace(string(line))
}

// preprocessed gives the text that is to be woven, and whether the compiler had
// nothing to say about it.
func (w *work) preprocessed() (text []byte, quiet, ok bool) {
	if w.call.preprocessed {
		if w.source() == "-" {
			return w.stdin, true, true
		}
		text, err := os.ReadFile(w.source())
		return text, true, err == nil
	}
	to := filepath.Join(w.temp, "plain.i")
	messages, err := w.start(w.preprocess(to))
	if err != nil {
		return nil, false, false
	}
	text, err = os.ReadFile(to)
	return text, len(messages) == 0, err == nil
}

// start runs the compiler and gives what it has to say.
func (w *work) start(args []string) (messages []byte, err error) {
	var buffer bytes.Buffer
	cmd := exec.Command(w.program, args...)
	cmd.Stdin, cmd.Stderr = bytes.NewReader(w.stdin), &buffer
	err = cmd.Run()
	return buffer.Bytes(), err
}

// show runs the compiler for the user to see, and gives its exit status.
func (w *work) show(args []string) int {
	cmd := exec.Command(w.program, args...)
	cmd.Stdin, cmd.Stdout, cmd.Stderr = bytes.NewReader(w.stdin), os.Stdout, os.Stderr
	err := cmd.Run()
	var exit *exec.ExitError
	switch {
	case err == nil:
		return 0
	case errors.As(err, &exit):
		if s, ok := exit.Sys().(syscall.WaitStatus); ok && s.Signaled() {
			return 128 + int(s.Signal())
		}
		return exit.ExitCode()
	}
	fmt.Fprintf(os.Stderr, "thrush: cannot run %s: %s\n", w.program, err)
	return failed
}

// plain compiles what there was, as if Thrush were not there.
func (w *work) plain() int {
	if w.stdin == nil && w.input >= 0 && w.source() == "-" {
		w.stdin, _ = io.ReadAll(os.Stdin)
	}
	return w.show(w.args)
}

// hand puts what was made where the call wants it.
func (w *work) hand(made string) int {
	in, err := os.Open(made)
	if err != nil {
		return w.plain()
	}
	defer in.Close()
	to := w.args[w.output]
	out := os.Stdout
	if to != "-" {
		if out, err = os.Create(to); err != nil {
			fmt.Fprintf(os.Stderr, "thrush: %s cannot be written: %s\n", to, err)
			return 1
		}
	}
	_, err = io.Copy(out, in)
	if to != "-" {
		err = errors.Join(err, out.Close())
	}
	if err != nil {
		fmt.Fprintf(os.Stderr, "thrush: %s cannot be written: %s\n", to, err)
		return 1
	}
	return 0
}
