// Package project knows where a project's root is, what its configuration
// says, which of its files count, and the folder .thrush in which Thrush keeps
// what it needs.
package project

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"thrush/internal/home"
)

// Project is a folder of sources under one root.
type Project struct {
	Root   string // absolute
	Config *Config

	home *home.Folder // .thrush, once it was opened
	read reader       // what is said at the root
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
	p.read = onDisk(p.Root)
	p.Config, err = LoadConfig(p.Root)
	return p, err
}

// As gives the project with what other files say about it: its configuration, with rules and
// waivers, and the floors, as they were in some commit, say.
func (p *Project) As(read func(name string) ([]byte, error)) (*Project, error) {
	out := *p
	out.read = read
	var err error
	out.Config, err = loadConfig(p.Root, read)
	return &out, err
}

// Said gives the text of a file at the root that says something about the project;
// fs.ErrNotExist if there is none.
func (p *Project) Said(name string) ([]byte, error) { return p.read(name) }

func root(dir string) string {
	for d := dir; ; d = filepath.Dir(d) {
		if configured(d, dir) {
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

// Holds tells whether a path lies in the project, also once links are followed, as far as it
// exists.
func (p *Project) Holds(path string) bool {
	root, err := filepath.EvalSymlinks(p.Root)
	if err != nil {
		return false
	}
	rest := ""
	for at := filepath.Clean(path); ; at = filepath.Dir(at) {
		if real, err := filepath.EvalSymlinks(at); err == nil {
			rel, err := filepath.Rel(root, filepath.Join(real, rest))
			return err == nil && filepath.IsLocal(rel)
		}
		if _, err := os.Lstat(at); err == nil || at == filepath.Dir(at) {
			return false // a link that leads nowhere yet
		}
		rest = filepath.Join(filepath.Base(at), rest)
	}
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
