package wrapper

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"

	"thrush/internal/atomic"
	"thrush/internal/lang/cfamily"
)

// target is what a compiler, with the options of a call, defines before the first line
// of a text.
type target map[string]string

func (t target) defines(macro string) bool { _, ok := t[macro]; return ok }

// constant tells whether a function can ask if the compiler works it out.
func (t target) constant() bool {
	version := func(macro string) int { n, _ := strconv.Atoi(t[macro]); return n }
	standard, _ := strconv.Atoi(strings.TrimSuffix(t["__cplusplus"], "L"))
	return standard >= 201402 && (version("__clang_major__") >= 9 || !t.defines("__clang__") && version("__GNUC__") >= 9)
}

// targetOf asks the compiler, or looks up what it said before.
func (c *call) targetOf(store string) (target, error) {
	text, err := c.asked(store, "target", nil, func() ([]byte, error) {
		args := append(c.machine(), "-E", "-dM")
		return exec.Command(c.program, append(args, "/dev/null", "-o", "-")...).Output()
	})
	if err != nil {
		return nil, err
	}
	out := target{}
	for line := range bytes.Lines(text) {
		if f := strings.SplitN(strings.TrimSpace(string(line)), " ", 3); len(f) >= 2 && f[0] == "#define" {
			out[f[1]] = strings.Join(f[2:], " ")
		}
	}
	return out, nil
}

// mapping gives what maps the counters, as assembly text.
func (c *call) mapping(p *Plan, m cfamily.Machine, temp string) ([]byte, error) {
	source := []byte(m.Source(p.Home))
	return c.asked(p.Store, "mapping", source, func() ([]byte, error) {
		// The compiler writes the name into the text, so it must be the same each time.
		const name = "map.c"
		if err := os.WriteFile(filepath.Join(temp, name), source, 0o600); err != nil {
			return nil, err
		}
		args := append(c.machine(), cfamily.Flags...)
		if c.clang {
			args = append(args, "-S")
		}
		cmd := exec.Command(c.program, append(args, name, "-o", "-")...)
		cmd.Dir = temp
		return cmd.Output()
	})
}

// machine are the words that have the same program compile for the same machine.
func (c *call) machine() []string {
	args := []string{"-quiet"}
	if c.clang {
		args = []string{"-x", c.language.String()}
	}
	for i, a := range c.args {
		switch {
		case strings.HasPrefix(a, "-std="):
			args = append(args, a)
		case c.clang && a == "-triple" && i+1 < len(c.args):
			args = append(args, "--target="+c.args[i+1])
		case !c.clang && (strings.HasPrefix(a, "-m") || strings.HasPrefix(a, "-fcf-protection")):
			args = append(args, a)
		}
	}
	return args
}

// asked gives what the compiler makes of something, from the store if it was made
// before.
func (c *call) asked(store, what string, of []byte, ask func() ([]byte, error)) ([]byte, error) {
	info, err := os.Stat(c.program)
	if err != nil {
		return nil, err
	}
	words := append([]string{c.program, info.ModTime().String(), string(of)}, c.machine()...)
	sum := sha256.Sum256([]byte(strings.Join(words, "\x00")))
	name := "." + what + "-" + hex.EncodeToString(sum[:12])
	if text, err := os.ReadFile(filepath.Join(store, name)); err == nil {
		return text, nil
	}
	text, err := ask()
	if err != nil {
		return nil, err
	}
	// Without it the compiler is asked again.
	_ = atomic.WriteAt(store, name, text, false)
	return text, nil
}
