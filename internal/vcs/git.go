// Package vcs asks git what changed and which commit is checked out. Everything
// works without git too; only what is asked of it then fails, with the reason.
package vcs

import (
	"bytes"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"

	"thrush/internal/core/changed"
)

// Repo is a git work tree.
type Repo struct {
	Top  string // its top folder
	root string // the folder whose paths are wanted
}

// Open finds the work tree that a folder is in.
func Open(root string) (*Repo, error) {
	r := &Repo{root: root}
	out, err := r.git("rev-parse", "--show-toplevel")
	if err != nil {
		if errors.Is(err, exec.ErrNotFound) {
			return nil, errors.New("git is not installed; give the change as a unified diff with --diff FILE")
		}
		return nil, errors.New("this is no git work tree; give the change as a unified diff with --diff FILE")
	}
	r.Top = strings.TrimSpace(out)
	return r, nil
}

func (r *Repo) git(args ...string) (string, error) {
	cmd := exec.Command("git", append([]string{"-c", "core.quotePath=true", "-c", "color.ui=false"}, args...)...)
	cmd.Dir = r.root
	cmd.Env = append(os.Environ(), "GIT_OPTIONAL_LOCKS=0", "LC_ALL=C")
	var out, failed bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &failed
	if err := cmd.Run(); err != nil {
		if line, _, _ := strings.Cut(strings.TrimSpace(failed.String()), "\n"); line != "" {
			return "", fmt.Errorf("git %s: %s", args[0], strings.TrimPrefix(line, "fatal: "))
		}
		return "", err
	}
	return out.String(), nil
}

// Commit gives the commit that is checked out, and whether the work tree differs from
// it: in files that git knows, or in others that matter. Both are zero where there is
// none.
func (r *Repo) Commit(matters func(path string) bool) (id string, dirty bool) {
	out, err := r.git("rev-parse", "--verify", "HEAD")
	if err != nil {
		return "", false
	}
	id = strings.TrimSpace(out)
	status, err := r.git("status", "--porcelain", "--untracked-files=no")
	if err != nil || status != "" {
		return id, err == nil
	}
	others, err := r.others()
	return id, err == nil && slices.ContainsFunc(others, matters)
}

// others are the files that git does not know and does not ignore, from the root.
func (r *Repo) others() ([]string, error) {
	out, err := r.git("ls-files", "--others", "--exclude-standard", "-z")
	if err != nil {
		return nil, err
	}
	return slices.DeleteFunc(strings.Split(out, "\x00"), func(path string) bool { return path == "" }), nil
}

// Branch gives the branch that is checked out, or nothing: pipelines often check out
// a commit alone.
func (r *Repo) Branch() string {
	out, err := r.git("symbolic-ref", "--quiet", "--short", "HEAD")
	if err != nil {
		return ""
	}
	return strings.TrimSpace(out)
}

// Base gives the commit where the work at hand left a reference.
func (r *Repo) Base(ref string) (string, error) {
	if strings.HasPrefix(ref, "-") {
		return "", fmt.Errorf("%q is no commit, branch or tag", ref)
	}
	if _, err := r.git("rev-parse", "--verify", "--quiet", ref+"^{commit}"); err != nil {
		hint := "git branch --all lists the branches"
		if r.Shallow() {
			hint = "this is a shallow clone, which may not have it: fetch it first (git fetch origin " + ref + "), or clone with more depth"
		}
		return "", fmt.Errorf("git knows no commit, branch or tag %q; %s", ref, hint)
	}
	out, err := r.git("merge-base", ref, "HEAD")
	if err != nil {
		if r.Shallow() {
			return "", fmt.Errorf("this is a shallow clone, in which %s and the work at hand have no commit in common; fetch more of the history (git fetch --deepen=100, or --unshallow)", ref)
		}
		return "", fmt.Errorf("%s and the work at hand have no commit in common; compare with another branch", ref)
	}
	return strings.TrimSpace(out), nil
}

// Shallow tells whether only a part of the history is here.
func (r *Repo) Shallow() bool {
	out, err := r.git("rev-parse", "--is-shallow-repository")
	return err == nil && strings.TrimSpace(out) == "true"
}

// ChangedSince gives the lines that the work tree has and the base has not:
// committed, staged, unstaged and untracked.
func (r *Repo) ChangedSince(base string) (changed.Set, error) {
	diff, err := r.git("diff", "--unified=0", "--find-renames", "--no-color", "--no-ext-diff", "--no-textconv",
		"--src-prefix=a/", "--dst-prefix=b/", base, "--")
	if err != nil {
		return nil, err
	}
	set, err := ParseDiff(strings.NewReader(diff))
	if err != nil {
		return nil, err
	}
	set = r.fromTop(set)
	others, err := r.others()
	for _, path := range others {
		set[path] = changed.All()
	}
	return set, err
}

// fromTop turns paths from the top of the work tree into paths from the root.
func (r *Repo) fromTop(set changed.Set) changed.Set {
	top, root := real(r.Top), real(r.root)
	out := changed.Set{}
	for path, lines := range set {
		rel, err := filepath.Rel(root, filepath.Join(top, filepath.FromSlash(path)))
		if err == nil && rel != ".." && !strings.HasPrefix(rel, "../") {
			out[filepath.ToSlash(rel)] = lines
		}
	}
	return out
}

// Place puts paths of a diff that was made at the top of the work tree under
// the root.
func (r *Repo) Place(set changed.Set) changed.Set { return r.fromTop(set) }

func real(path string) string {
	if p, err := filepath.EvalSymlinks(path); err == nil {
		return p
	}
	return path
}

// Ancestors gives a commit and those before it, the nearest first.
func (r *Repo) Ancestors(commit string, most int) ([]string, error) {
	out, err := r.git("rev-list", fmt.Sprintf("--max-count=%d", most), commit)
	if err != nil {
		return nil, err
	}
	return strings.Fields(out), nil
}

// Parent gives the first parent of a commit, or nothing if it has none here.
func (r *Repo) Parent(commit string) string {
	out, err := r.git("rev-parse", "--verify", "--quiet", commit+"^1")
	if err != nil {
		return ""
	}
	return strings.TrimSpace(out)
}

// Resolve gives the whole name of a commit.
func (r *Repo) Resolve(ref string) (string, error) {
	if strings.HasPrefix(ref, "-") {
		return "", fmt.Errorf("%q is no commit, branch or tag", ref)
	}
	out, err := r.git("rev-parse", "--verify", "--quiet", ref+"^{commit}")
	if err != nil {
		return "", fmt.Errorf("git knows no commit, branch or tag %q", ref)
	}
	return strings.TrimSpace(out), nil
}
