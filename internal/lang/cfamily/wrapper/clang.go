package wrapper

import (
	"bytes"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"

	"thrush/internal/trace"
)

// whole are the names of compilers that do all in one program.
var whole = regexp.MustCompile(`^([\w.]+-)*clang(\+\+)?(-[\d.]+)?$`)

// Whole lists the names, in the folders of a PATH, of compilers that do all in one
// program, whatever they are called.
func Whole(path string) []string {
	var out []string
	seen := map[string]bool{}
	for _, dir := range filepath.SplitList(path) {
		entries, err := os.ReadDir(dir)
		if err != nil {
			continue
		}
		for _, e := range entries {
			name := e.Name()
			alias := name == "cc" || name == "c++" || name == "gcc" || name == "g++"
			if seen[name] || !alias && !whole.MatchString(name) {
				continue
			}
			seen[name] = true
			if real, err := filepath.EvalSymlinks(filepath.Join(dir, name)); err == nil && whole.MatchString(filepath.Base(real)) {
				out = append(out, name)
			}
		}
	}
	return out
}

// behind finds the program that a name would have meant without the stand-in.
func behind(name string) (string, error) {
	self, err := os.Executable()
	if err != nil {
		return "", err
	}
	if self, err = filepath.EvalSymlinks(self); err != nil {
		return "", err
	}
	for _, dir := range filepath.SplitList(os.Getenv("PATH")) {
		path, err := exec.LookPath(filepath.Join(dir, name))
		if err != nil {
			continue
		}
		if real, err := filepath.EvalSymlinks(path); err == nil && real != self {
			return path, nil
		}
	}
	return "", errors.New("it is not in PATH")
}

// driven stands in for a compiler that calls itself: it asks what would be called, and
// calls that, with woven texts where something is compiled.
func driven(name string, args []string, p *Plan) int {
	program, err := behind(name)
	if err != nil {
		fmt.Fprintf(os.Stderr, "thrush: cannot find the real %s: %s\n", name, err)
		return failed
	}
	if p == nil {
		return become(program, args)
	}
	ask := exec.Command(program, append([]string{"-###"}, args...)...)
	var said bytes.Buffer
	ask.Stderr = &said
	if ask.Run() != nil {
		return become(program, args)
	}
	var calls [][]string
	compiles := false
	for line := range strings.Lines(said.String()) {
		if words := strings.TrimSpace(line); strings.HasPrefix(words, `"`) {
			calls = append(calls, divided(words))
			c := newCall(calls[len(calls)-1][0], calls[len(calls)-1][1:])
			compiles = compiles || c.clang && !c.passes && !isProbe(c.source())
		}
	}
	if !compiles {
		trace.Note("left to the compiler", "program", program, "since", "it compiles nothing here")
		return become(program, args)
	}
	defer func() {
		for _, words := range calls {
			for i, w := range words[:len(words)-1] {
				if out := words[i+1]; w == "-o" && filepath.Dir(out) == filepath.Clean(os.TempDir()) {
					_ = os.Remove(out)
				}
			}
		}
	}()
	for _, words := range calls {
		c := newCall(words[0], words[1:])
		c.driver = args
		status := 0
		if c.clang && !c.passes {
			status = c.run(p)
		} else {
			status = (&work{call: c}).plain()
		}
		if status != 0 {
			return status
		}
	}
	return 0
}
