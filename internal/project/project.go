// Package project knows where a project's root is, what its configuration
// says, which of its files count, and the folder .thrush in which Thrush keeps
// what it needs.
package project

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"thrush/internal/atomic"
)

// Project is a folder of sources under one root.
type Project struct {
	Root   string // absolute
	Config *Config
}

// Find opens the project that a folder is in: the nearest folder upwards with a
// thrush.toml, or a manifest that has a section for Thrush, or else the top of the git work
// tree, or else the nearest with a go.work, a go.mod or a settings.gradle, or else the
// outermost of an unbroken row with a pom.xml, or else the folder itself.
func Find(dir string) (*Project, error) {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	p := &Project{Root: root(dir)}
	p.Config, err = LoadConfig(p.Root)
	return p, err
}

func root(dir string) string {
	for d := dir; ; d = filepath.Dir(d) {
		if configured(d) {
			return d
		}
		if d == filepath.Dir(d) {
			break
		}
	}
	for _, marks := range [][]string{{".git"}, {"go.work"}, {"go.mod"}, {"settings.gradle", "settings.gradle.kts"}} {
		if d := nearest(dir, marks...); d != "" {
			return d
		}
	}
	if d := nearest(dir, pom); d != "" {
		// Modules of Maven lie in one another.
		for up := filepath.Dir(d); up != d && has(up, pom); up = filepath.Dir(d) {
			d = up
		}
		return d
	}
	return dir
}

const pom = "pom.xml"

// nearest gives the nearest folder upwards with a file of one of some names, or nothing.
func nearest(dir string, names ...string) string {
	for d := dir; ; d = filepath.Dir(d) {
		for _, n := range names {
			if has(d, n) {
				return d
			}
		}
		if d == filepath.Dir(d) {
			return ""
		}
	}
}

func has(dir, name string) bool {
	_, err := os.Lstat(filepath.Join(dir, name))
	return err == nil
}

// Dir is the folder in which Thrush keeps what it needs.
func (p *Project) Dir(elements ...string) string {
	return filepath.Join(append([]string{p.Root, ".thrush"}, elements...)...)
}

// MakeDir makes a folder under .thrush, and has .thrush ignore itself.
func (p *Project) MakeDir(elements ...string) (string, error) {
	dir := p.Dir(elements...)
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return "", err
	}
	ignore := p.Dir(".gitignore")
	if _, err := os.Lstat(ignore); errors.Is(err, fs.ErrNotExist) {
		if err := WriteFile(ignore, []byte("*\n")); err != nil {
			return "", err
		}
	}
	return dir, nil
}

// Rel gives a path from the root, with slashes. It fails for what lies outside.
func (p *Project) Rel(path string) (string, error) {
	abs, err := filepath.Abs(path)
	if err != nil {
		return "", err
	}
	rel, err := filepath.Rel(p.Root, abs)
	if err != nil || rel == ".." || strings.HasPrefix(rel, "../") {
		return "", fmt.Errorf("%s lies outside the project %s", path, p.Root)
	}
	return filepath.ToSlash(rel), nil
}

// StoreName is the name of the history store in .thrush.
const StoreName = "history.db"

// Recordings are the paths of the kept recordings, the newest first.
func (p *Project) Recordings() ([]string, error) {
	entries, err := os.ReadDir(p.Dir("recordings"))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	var out []string
	for _, e := range entries {
		if strings.HasSuffix(e.Name(), ".thrush") && !strings.HasPrefix(e.Name(), ".") {
			out = append(out, p.Dir("recordings", e.Name()))
		}
	}
	slices.Reverse(out)
	return out, err
}

// Keep writes a recording among the kept ones and gives its path. The name
// sorts by time.
func (p *Project) Keep(when time.Time, id string, data []byte) (string, error) {
	dir, err := p.MakeDir("recordings")
	if err != nil {
		return "", err
	}
	path := filepath.Join(dir, when.UTC().Format("20060102T150405.000")+"-"+id+".thrush")
	return path, WriteFile(path, data)
}

// pinned ends the name of a file beside a kept recording that is not to be dropped for
// its age.
const pinned = ".pinned"

// Pin spares a kept recording when old ones are dropped.
func (p *Project) Pin(path string) error { return WriteFile(path+pinned, nil) }

// Pinned tells whether a kept recording is spared.
func (p *Project) Pinned(path string) bool {
	_, err := os.Lstat(path + pinned)
	return err == nil
}

// Drop removes a kept recording.
func (p *Project) Drop(path string) error {
	if err := os.Remove(path + pinned); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return os.Remove(path)
}

// Aged are the kept recordings, the newest first in all, that are beyond so many or
// older than so many days; 0 sets no bound. Those that are pinned are spared and not
// counted.
func (p *Project) Aged(all []string, most, days int, now time.Time) []string {
	var out []string
	kept := 0
	for _, path := range all {
		if p.Pinned(path) {
			continue
		}
		made, err := time.Parse("20060102T150405.000", strings.SplitN(filepath.Base(path), "-", 2)[0])
		if kept++; most > 0 && kept > most || days > 0 && err == nil && now.Sub(made) > time.Duration(days)*24*time.Hour {
			out = append(out, path)
		}
	}
	return out
}

// WriteFile writes a file whole or not at all: under another name first, synced,
// then renamed.
func WriteFile(path string, data []byte) error { return atomic.Write(path, data, true) }

// ReplaceCache writes a file whole or not at all, unless the machine fails
// meanwhile: what reads it must be able to tell.
func ReplaceCache(path string, data []byte) error { return atomic.Write(path, data, false) }

// WriteCache writes a file whose name stands for its content, without waiting
// for the disk: what a cache holds can be made again. Nobody reads the file
// before this has returned, unless it was there already; then it is replaced in
// one step.
func WriteCache(path string, data []byte) error {
	f, err := os.OpenFile(path, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o666)
	if err == nil {
		_, err = f.Write(data)
		return errors.Join(err, f.Close())
	}
	if !errors.Is(err, fs.ErrExist) {
		return err
	}
	return ReplaceCache(path, data)
}
