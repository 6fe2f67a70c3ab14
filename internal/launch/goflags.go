package launch

import (
	"bufio"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
)

// goFlags are the flags that the go command takes from its environment.
type goFlags []string

// readGoFlags finds them as the go command does: in the variable GOFLAGS, or
// else in the file that go env -w writes.
func readGoFlags() (goFlags, error) {
	text, set := os.LookupEnv("GOFLAGS")
	if !set || text == "" {
		text = goEnvFile()["GOFLAGS"]
	}
	flags, err := split(text)
	if err != nil {
		return nil, fmt.Errorf("GOFLAGS cannot be read: %w", err)
	}
	return flags, nil
}

func goEnvFile() map[string]string {
	path := os.Getenv("GOENV")
	if path == "off" {
		return nil
	}
	if path == "" {
		dir, err := os.UserConfigDir()
		if err != nil {
			return nil
		}
		path = filepath.Join(dir, "go", "env")
	}
	f, err := os.Open(path)
	if err != nil {
		return nil
	}
	defer f.Close()
	out := map[string]string{}
	for s := bufio.NewScanner(f); s.Scan(); {
		if name, value, ok := strings.Cut(s.Text(), "="); ok {
			out[name] = value
		}
	}
	return out
}

// split takes flags apart at blanks; a flag may stand in quotes.
func split(text string) ([]string, error) {
	var out []string
	for text = strings.TrimLeft(text, " \t\r\n"); text != ""; text = strings.TrimLeft(text, " \t\r\n") {
		if q := text[0]; q == '"' || q == '\'' {
			flag, rest, ok := strings.Cut(text[1:], string(q))
			if !ok {
				return nil, fmt.Errorf("a quote (%c) is not closed", q)
			}
			out, text = append(out, flag), rest
			continue
		}
		end := strings.IndexAny(text, " \t\r\n")
		if end < 0 {
			end = len(text)
		}
		out, text = append(out, text[:end]), text[end:]
	}
	return out, nil
}

func isOverlay(flag string) (file string, ok bool) {
	name, file, ok := strings.Cut(strings.TrimLeft(flag, "-"), "=")
	return file, ok && name == "overlay"
}

// overlay reads the overlay that the flags name already, if any.
func (f goFlags) overlay() (map[string]string, error) {
	var path string
	for _, flag := range f {
		if file, ok := isOverlay(flag); ok {
			path = file
		}
	}
	if path == "" {
		return nil, nil
	}
	text, err := os.ReadFile(path)
	if err != nil {
		return nil, fmt.Errorf("the overlay named in GOFLAGS: %w", err)
	}
	var o struct{ Replace map[string]string }
	if err := json.Unmarshal(text, &o); err != nil {
		return nil, fmt.Errorf("the overlay %s named in GOFLAGS: %w", path, err)
	}
	out := map[string]string{}
	for from, to := range o.Replace {
		abs, err := filepath.Abs(from)
		if err != nil {
			return nil, err
		}
		if to != "" {
			if to, err = filepath.Abs(to); err != nil {
				return nil, err
			}
		}
		out[abs] = to
	}
	return out, nil
}

// with gives the flags with our overlay in place of any other. Test results
// must not come from the cache: then nothing would run.
func (f goFlags) with(overlay string) string {
	var out []string
	counted := false
	for _, flag := range f {
		if _, ok := isOverlay(flag); !ok {
			out = append(out, quote(flag))
		}
		counted = counted || strings.HasPrefix(strings.TrimLeft(flag, "-"), "count=")
	}
	out = append(out, quote("-overlay="+overlay))
	if !counted {
		out = append(out, "-count=1")
	}
	return strings.Join(out, " ")
}

// listed gives the flags without an overlay of theirs, which is in Thrush's.
func (f goFlags) listed() string {
	var out []string
	for _, flag := range f {
		if _, ok := isOverlay(flag); !ok {
			out = append(out, quote(flag))
		}
	}
	return strings.Join(out, " ")
}

func quote(flag string) string {
	switch {
	case !strings.ContainsAny(flag, " \t\r\n'\""):
		return flag
	case !strings.Contains(flag, "'"):
		return "'" + flag + "'"
	}
	return `"` + flag + `"`
}
