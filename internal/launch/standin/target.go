package standin

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"

	"thrush/internal/project"
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
	args := []string{}
	for i, a := range c.args {
		if strings.HasPrefix(a, "-m") || strings.HasPrefix(a, "-std=") || a == "-cc1" {
			args = append(args, a)
		}
		if (a == "-triple" || a == "-target-cpu") && i+1 < len(c.args) {
			args = append(args, a, c.args[i+1])
		}
	}
	if c.clang {
		args = append(args, "-E", "-dM", "-x", c.language.String(), "/dev/null", "-o", "-")
	} else {
		args = append(args, "-E", "-dM", "-quiet", "/dev/null", "-o", "-")
	}
	info, err := os.Stat(c.program)
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256([]byte(c.program + "\x00" + info.ModTime().String() + "\x00" + strings.Join(args, "\x00")))
	path := filepath.Join(store, ".target-"+hex.EncodeToString(sum[:12]))
	text, err := os.ReadFile(path)
	if err != nil {
		cmd := exec.Command(c.program, args...)
		if text, err = cmd.Output(); err != nil {
			return nil, err
		}
		// Without it the compiler is asked again.
		_ = project.ReplaceCache(path, text)
	}
	out := target{}
	for line := range bytes.Lines(text) {
		if f := strings.SplitN(strings.TrimSpace(string(line)), " ", 3); len(f) >= 2 && f[0] == "#define" {
			out[f[1]] = strings.Join(f[2:], " ")
		}
	}
	return out, nil
}
