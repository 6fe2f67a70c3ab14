package wrapper

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"

	"github.com/cespare/xxhash/v2"

	"thrush/internal/core/site"
	"thrush/internal/lang/cfamily"
	"thrush/internal/trace"
	"thrush/internal/weave"
)

// files finds the project's files that line markers name.
type files struct {
	plan    *Plan
	folder  string // in which the compiler works
	source  string // folder of what is compiled
	measure map[string]bool
}

func newFiles(p *Plan, folder, source string) *files {
	f := &files{plan: p, folder: folder, source: filepath.Dir(source), measure: map[string]bool{}}
	for _, name := range p.Files {
		f.measure[name] = true
	}
	return f
}

// rel gives a path from the project's root.
func (f *files) rel(path string) (string, bool) {
	if !filepath.IsAbs(path) {
		path = filepath.Join(f.folder, path)
	}
	for _, p := range []func() (string, error){
		func() (string, error) { return filepath.Clean(path), nil },
		func() (string, error) { return filepath.EvalSymlinks(path) },
	} {
		at, err := p()
		if err != nil {
			return "", false
		}
		for _, root := range f.plan.Roots {
			if rel, err := filepath.Rel(root, at); err == nil && rel != ".." && !strings.HasPrefix(rel, "../") {
				if f.measure[filepath.ToSlash(rel)] {
					return filepath.ToSlash(rel), true
				}
			}
		}
	}
	return "", false
}

// open gives the text of a project file that counts.
func (f *files) open(name string) (path string, text []byte, ok bool) {
	if strings.HasPrefix(name, "<") || name == "" {
		return "", nil, false
	}
	tries := []string{name}
	if !filepath.IsAbs(name) {
		tries = append(tries, filepath.Join(f.folder, f.source, name))
	}
	if cfamily.IsMade(name) {
		// What was made of it may have been made elsewhere, and be kept beside it.
		tries = append(tries, filepath.Join(f.folder, f.source, filepath.Base(name)))
	}
	for _, try := range tries {
		path, ok := f.rel(try)
		if !ok {
			continue
		}
		text, err := os.ReadFile(filepath.Join(f.plan.Roots[0], filepath.FromSlash(path)))
		if err != nil || cfamily.Generated(text) != "" {
			return "", nil, false
		}
		return path, text, true
	}
	return "", nil, false
}

// weaveUnit weaves a preprocessed text. The result is nil if it has nothing of the
// project's in it.
func (w *work) weaveUnit(f *files, text []byte) (woven []byte, err error) {
	defer func() {
		if r := recover(); r != nil {
			trace.Fault("a unit", r)
			woven, err = nil, fmt.Errorf("cannot be woven: %v", r)
		}
	}()
	c, p, made := w.call, w.plan, &w.made
	target, err := c.targetOf(p.Store)
	if err != nil {
		return nil, fmt.Errorf("the compiler does not say what it compiles for: %w", err)
	}
	withoutFalls(text)
	unit, err := cfamily.Read(text, cfamily.Options{Language: c.language, Faults: !c.optimised, Constant: target.constant()}, f.open)
	if err != nil {
		return nil, err
	}
	made.Empty = unit.Empty
	at, ok := firstText(text)
	for _, file := range unit.Files {
		made.Files = append(made.Files, file.Path)
		for _, u := range file.Unread {
			made.Unread = append(made.Unread, Unread{file.Path, u.Line, u.Name, u.Why})
		}
		ok = ok && len(unit.Files) > 0
	}
	machine, known := cfamily.MachineOf(target.defines)
	switch {
	case len(unit.Files) == 0:
		return nil, nil
	case !known:
		return nil, fmt.Errorf("it is compiled for a machine on which Thrush cannot count")
	case !ok:
		return nil, fmt.Errorf("its preprocessed text does not say where it comes from")
	}
	u := cfamily.Counting{Machine: machine, CPP: c.language == cfamily.CPP}
	sum := sha256.Sum256([]byte(f.folder + "\x00" + strings.Join(c.driver, "\x00") + "\x00" + c.source()))
	suffix := hex.EncodeToString(sum[:8]) // no other unit of a program has it
	var parts []weave.Part
	for _, file := range unit.Files {
		if len(file.Flow.Functions) == 0 {
			continue
		}
		t := &site.Table{Path: file.Path, Language: c.language.String(), Digest: fmt.Sprintf("%016x", xxhash.Sum64(file.Source))}
		plan := weave.Place(text, file.Flow, t, weave.Options{Level: p.Level, Keep: p.Keep})
		site.SetMarks(t, file.Source)
		if err := keep(p.Store, t); err != nil {
			return nil, fmt.Errorf("its site table cannot be kept: %w", err)
		}
		for _, q := range plan.Problems {
			made.Problems = append(made.Problems, Problem{file.Path, q})
		}
		made.Units = append(made.Units, t.Unit)
		u.Tables = append(u.Tables, t)
		if file.Shared {
			u.Shared = suffix
		}
		parts = append(parts, weave.Part{Plan: plan})
	}
	if len(parts) == 0 {
		return nil, nil
	}
	for i := range parts {
		parts[i].Dialect = &cfamily.Dialect{Counters: fmt.Sprintf("%s.f%d.c", u.Object(), i), Keep: p.Keep, Atomic: c.thread, CPP: u.CPP}
	}
	u.Noting = p.Level >= site.Conditions
	assembly, err := c.mapping(p, machine, w.temp)
	if err != nil {
		return nil, fmt.Errorf("the compiler does not compile what maps the counters: %w", err)
	}
	return weave.SpellAll(text, parts, []weave.Insertion{
		{At: at, Text: "# 1 \"<thrush>\" 3\n" + u.Declare()},
		{At: len(text), Text: "\n# 1 \"<thrush>\" 3\n" + u.Map(cfamily.Assembly(assembly, suffix))},
	}), nil
}

var falls = regexp.MustCompile(`__attribute__\s*\(\(\s*(__)?fallthrough(__)?\s*\)\)|\[\[\s*(\w+\s*::\s*)?fallthrough\s*\]\]`)

// withoutFalls blanks the words that say control is meant to fall into a case: what is
// woven in there would come between.
func withoutFalls(text []byte) {
	if !bytes.Contains(text, []byte("fallthrough")) {
		return
	}
	for _, at := range falls.FindAllIndex(text, -1) {
		for i := at[0]; i < at[1]; i++ {
			if text[i] != '\n' {
				text[i] = ' '
			}
		}
	}
}

// firstText is the offset of the last line marker before the first line that is
// none.
func firstText(text []byte) (at int, ok bool) {
	for offset := 0; offset < len(text); {
		end := bytes.IndexByte(text[offset:], '\n')
		if end < 0 {
			break
		}
		line := text[offset : offset+end]
		if !bytes.HasPrefix(line, []byte("# ")) && len(bytes.TrimSpace(line)) > 0 {
			return at, ok
		}
		if bytes.HasPrefix(line, []byte("# ")) {
			at, ok = offset, true
		}
		offset += end + 1
	}
	return at, ok
}
