package project

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"

	"github.com/pelletier/go-toml/v2"

	"thrush/internal/bounded"
)

// section is the part of a file that is about Thrush: all of thrush.toml, or a section
// of a manifest that the project has anyway.
type section struct {
	text string // as TOML
	placer
}

// The manifests that may have a section for Thrush.
const (
	nodeManifest   = "package.json"   // the key thrush
	pythonManifest = "pyproject.toml" // the table tool.thrush
)

// reader gives the text of a file at the root of a project; fs.ErrNotExist if there is none.
type reader func(name string) ([]byte, error)

// onDisk reads the files that are in a folder.
func onDisk(root string) reader {
	return func(name string) ([]byte, error) { return bounded.Read(filepath.Join(root, name), bounded.Setting) }
}

// sections finds what is said about Thrush in files.
func sections(read reader) (out []section, err error) {
	for _, name := range []string{ConfigName, nodeManifest, pythonManifest} {
		text, err := read(name)
		if errors.Is(err, fs.ErrNotExist) {
			continue
		}
		if err != nil {
			if name != ConfigName {
				continue // it is none of Thrush's business
			}
			return nil, &ConfigError{File: name, What: err.Error()}
		}
		s := section{string(text), placer{file: name, text: string(text), exact: true}}
		switch name {
		case nodeManifest:
			s, err = inNodeManifest(s)
		case pythonManifest:
			s, err = inPythonManifest(s)
		}
		if err != nil {
			return nil, err
		}
		if s.file != "" {
			out = append(out, s)
		}
	}
	return out, nil
}

// inNodeManifest gives the section of a package.json, or nothing.
func inNodeManifest(s section) (section, error) {
	if !strings.Contains(s.text, `"thrush"`) {
		return section{}, nil
	}
	var manifest struct {
		Thrush map[string]any `json:"thrush"`
	}
	if err := json.Unmarshal([]byte(s.text), &manifest); err != nil {
		var wrong *json.UnmarshalTypeError
		if errors.As(err, &wrong) && strings.HasPrefix(wrong.Field, "thrush") {
			return s, &ConfigError{File: s.file, What: "thrush must be an object, as docs/configuration.md shows"}
		}
		return section{}, nil // those who need it will say what is wrong with it
	}
	if manifest.Thrush == nil {
		return section{}, nil
	}
	s.json, s.exact = true, false
	return s.from(whole(manifest.Thrush).(map[string]any))
}

// inPythonManifest gives the section of a pyproject.toml, or nothing.
func inPythonManifest(s section) (section, error) {
	if !strings.Contains(s.text, "thrush") {
		return section{}, nil
	}
	var manifest struct {
		Tool struct {
			Thrush map[string]any `toml:"thrush"`
		} `toml:"tool"`
	}
	if toml.Unmarshal([]byte(s.text), &manifest) != nil || manifest.Tool.Thrush == nil {
		return section{}, nil
	}
	s.prefix, s.exact = "tool.thrush.", false
	return s.from(manifest.Tool.Thrush)
}

// from has a section hold what a manifest says, as TOML.
func (s section) from(values map[string]any) (section, error) {
	text, err := toml.Marshal(values)
	if err != nil {
		return s, &ConfigError{File: s.file, What: fmt.Sprintf("its section for Thrush cannot be read: %s", err)}
	}
	s.text = string(text)
	return s, nil
}

// whole turns numbers of JSON that are whole into integers, which TOML tells apart.
func whole(v any) any {
	switch v := v.(type) {
	case float64:
		if v == float64(int64(v)) {
			return int64(v)
		}
	case []any:
		for i := range v {
			v[i] = whole(v[i])
		}
	case map[string]any:
		for k := range v {
			v[k] = whole(v[k])
		}
	}
	return v
}

// configured tells whether a folder says something about Thrush that holds in another one, which
// is in it.
func configured(dir, in string) bool {
	folder, err := os.Stat(in)
	if err != nil {
		return false
	}
	found, err := sections(func(name string) ([]byte, error) {
		file, err := os.Lstat(filepath.Join(dir, name))
		if err != nil || !mayRule(file, folder) {
			return nil, fs.ErrNotExist
		}
		return onDisk(dir)(name)
	})
	return err != nil || len(found) > 0
}

// given lists the keys that a text sets.
func given(text string) map[string]bool {
	var all map[string]any
	if toml.Unmarshal([]byte(text), &all) != nil {
		return nil
	}
	out := map[string]bool{}
	for table, v := range all {
		if keys, ok := v.(map[string]any); ok {
			for key := range keys {
				out[table+"."+key] = true
			}
		}
	}
	return out
}

// placer finds the lines that keys stand on.
type placer struct {
	file, text string
	prefix     string // of the names of tables
	json       bool
	exact      bool // places in the text that was parsed are places in the file
}

var tableHead = regexp.MustCompile(`^\s*\[\[?\s*([A-Za-z_.]+)\s*\]\]?`)

// line is where a key stands in the nth table of a name, or where that table
// begins; 0 if neither is found.
func (p *placer) line(table string, n int, key string) int {
	if p.json {
		return p.jsonLine(key)
	}
	seen, in, head := -1, false, 0
	for i, l := range strings.Split(p.text, "\n") {
		if m := tableHead.FindStringSubmatch(l); m != nil {
			in = false
			if m[1] == p.prefix+table {
				if seen++; seen == n {
					in, head = true, i+1
				}
			}
			continue
		}
		if name, _, ok := strings.Cut(l, "="); in && ok && key != "" && strings.Trim(strings.TrimSpace(name), `"'`) == key {
			return i + 1
		}
	}
	return head
}

// jsonLine is where a key stands below the section, if it stands there once.
func (p *placer) jsonLine(key string) (line int) {
	below := false
	for i, l := range strings.Split(p.text, "\n") {
		below = below || strings.Contains(l, `"thrush"`)
		if below && key != "" && strings.Contains(l, `"`+key+`"`) {
			if line > 0 {
				return 0
			}
			line = i + 1
		}
	}
	return line
}

func (p *placer) fail(table string, n int, key, what string) error {
	if key != "" {
		what = table + "." + key + " " + what
	}
	return &ConfigError{p.file, p.line(table, n, key), what}
}

func (p *placer) decodeError(err error) error {
	at := func(line int) int {
		if p.exact {
			return line
		}
		return 0
	}
	var unknown *toml.StrictMissingError
	if errors.As(err, &unknown) && len(unknown.Errors) > 0 {
		line, _ := unknown.Errors[0].Position()
		keys := unknown.Errors[0].Key()
		if line = at(line); line == 0 && len(keys) > 0 {
			line = p.line(keys[0], 0, keys[len(keys)-1])
		}
		return &ConfigError{p.file, line, fmt.Sprintf("unknown key %q; docs/configuration.md lists them all", strings.Join(keys, "."))}
	}
	var bad *toml.DecodeError
	if errors.As(err, &bad) {
		line, _ := bad.Position()
		what := strings.TrimPrefix(bad.Error(), "toml: ")
		if key := strings.Join(bad.Key(), "."); key != "" && !strings.Contains(what, key) {
			what = fmt.Sprintf("%s: %s", key, what)
		}
		return &ConfigError{p.file, at(line), what}
	}
	return &ConfigError{File: p.file, What: strings.TrimPrefix(err.Error(), "toml: ")}
}
