// Package vcs asks git what changed and which commit is checked out. Everything works
// without git too; only what is asked of it then fails, with the reason.
//
// A repository may hold a stranger's change. So git is called in one place, which pins
// whatever settings, attributes and variables could change what it says or runs
// (call.go), and which lines changed is read off the bytes of commits and of files
// (lines.go), not off a text that attributes have a say in.
package vcs

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
)

// Repo is a git work tree.
type Repo struct {
	Top   string // its top folder, without links
	under string // the folder whose paths are wanted, from Top with slashes and one at its end, or nothing
	root  string // that folder itself, without links

	filters []string // settings that turn filters off, once they were asked for
}

// ErrNone says that a folder is in no git work tree.
var ErrNone = errors.New("this is no git work tree; give the change as a unified diff with --diff FILE")

// Open finds the work tree that a folder is in: the nearest folder upwards that has .git in
// it. git itself would also take a folder for a repository that only looks like one, which
// a commit can bring along with settings of its own.
func Open(root string) (*Repo, error) {
	root, err := filepath.EvalSymlinks(root)
	if err != nil {
		return nil, err
	}
	top := Top(root)
	if top == "" {
		return nil, ErrNone
	}
	r := &Repo{Top: top, root: root}
	if rel, err := filepath.Rel(top, root); err == nil && rel != "." {
		r.under = filepath.ToSlash(rel) + "/"
	}
	if _, err := r.git("rev-parse", "--git-dir"); err != nil {
		if errors.Is(err, errMissing) {
			return nil, errors.New("git is not installed; give the change as a unified diff with --diff FILE")
		}
		return nil, fmt.Errorf("git does not work in %s: %w", top, err)
	}
	return r, nil
}

// Top gives the nearest folder upwards, or the folder itself, that has .git in it, or
// nothing.
func Top(dir string) string {
	for ; ; dir = filepath.Dir(dir) {
		if _, err := os.Lstat(filepath.Join(dir, ".git")); err == nil {
			return dir
		}
		if dir == filepath.Dir(dir) {
			return ""
		}
	}
}

// inside turns a path from the top of the work tree into one from the root; ok is false
// for what lies outside of that.
func (r *Repo) inside(path string) (rel string, ok bool) {
	return strings.CutPrefix(path, r.under)
}

// Tracks tells whether git tracks anything at a path from the root, or below it: then it
// may have come with a checkout.
func (r *Repo) Tracks(path string) (first string, yes bool, err error) {
	out, err := r.git("ls-files", "-z", "--", r.under+path)
	if err != nil || out == "" {
		return "", false, err
	}
	first, _, _ = strings.Cut(out, "\x00")
	rel, _ := r.inside(first)
	return rel, true, nil
}
