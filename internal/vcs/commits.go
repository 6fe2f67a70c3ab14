package vcs

import (
	"fmt"
	"io/fs"
	"slices"
	"strings"
)

// Commit gives the commit that is checked out, and whether the work tree differs from
// it: in files that git knows, or in others that matter, given from the root. Both are
// zero where there is none.
func (r *Repo) Commit(matters func(path string) bool) (id string, dirty bool) {
	id, err := r.commit("HEAD")
	if err != nil {
		return "", false
	}
	status, err := r.plainly("status", "--porcelain", "-z", "--untracked-files=no", "--ignore-submodules=none", "--no-renames")
	if err != nil {
		return id, false
	}
	if touched := list(status); len(touched) > 0 {
		return id, r.differs(touched, matters)
	}
	others, err := r.others()
	return id, err == nil && slices.ContainsFunc(others, matters)
}

// differs tells whether files that git calls changed, each with its status and a blank before its
// path from the top, really are. Those that a filter makes of what git has, such as large files
// kept elsewhere, may look so without it; they only count if they matter.
func (r *Repo) differs(touched []string, matters func(path string) bool) bool {
	var paths []string
	for _, t := range touched {
		paths = append(paths, t[min(3, len(t)):])
	}
	out, err := r.call(strings.NewReader(strings.Join(paths, "\x00")+"\x00"), nil, "check-attr", "-z", "--stdin", "filter")
	fields := list(out) // path, filter, its name
	if err != nil || len(fields) != 3*len(paths) {
		return true
	}
	for i := 0; i < len(fields); i += 3 {
		rel, inside := r.inside(fields[i])
		if name := fields[i+2]; name == "unspecified" || name == "unset" || inside && matters(rel) || touched[i/3][0] != ' ' {
			return true
		}
	}
	return false
}

// others are the files that git does not know and does not ignore, from the root.
func (r *Repo) others() (out []string, err error) {
	text, err := r.git("ls-files", "--others", "--exclude-standard", "-z", "--", "./"+r.under)
	for _, path := range list(text) {
		if rel, ok := r.inside(path); ok {
			out = append(out, rel)
		}
	}
	return out, err
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

// commit gives the whole name of a commit.
func (r *Repo) commit(ref string) (string, error) {
	out, err := r.git("rev-parse", "--verify", "--quiet", "--end-of-options", ref+"^{commit}")
	return strings.TrimSpace(out), err
}

// Resolve gives the whole name of the commit that a reference means. One that means
// different commits is refused: whoever may push a tag could otherwise choose what a branch
// of the same name means.
func (r *Repo) Resolve(ref string) (string, error) {
	if strings.HasPrefix(ref, "-") {
		return "", fmt.Errorf("%q is no commit, branch or tag", ref)
	}
	id, err := r.commit(ref)
	if err != nil {
		hint := "git branch --all lists the branches"
		if r.Shallow() {
			hint = "this is a shallow clone, which may not have it: fetch it first (git fetch origin " + ref + "), or clone with more depth"
		}
		return "", fmt.Errorf("git knows no commit, branch or tag %q; %s", ref, hint)
	}
	if ref == "HEAD" || strings.HasPrefix(id, ref) {
		return id, nil
	}
	var full, asked []string
	for _, begin := range []string{"refs/", "refs/tags/", "refs/heads/", "refs/remotes/"} {
		asked = append(asked, begin+ref)
	}
	out, err := r.git(append([]string{"for-each-ref", "--format=%(refname) %(objectname) %(*objectname)", "--"}, asked...)...)
	if err != nil {
		return "", err
	}
	differ := false
	for line := range strings.Lines(out) {
		if f := strings.Fields(line); slices.Contains(asked, f[0]) { // a pattern also matches what lies below
			full = append(full, f[0])
			differ = differ || f[len(f)-1] != id // of a tag with a text, the last is the commit
		}
	}
	if differ && len(full) > 1 {
		return "", fmt.Errorf("%q means different commits: %s; say which, as in %s", ref, strings.Join(full, " and "), full[0])
	}
	return id, nil
}

// Base gives the commit where the work at hand left a reference.
func (r *Repo) Base(ref string) (string, error) {
	id, err := r.Resolve(ref)
	if err != nil {
		return "", err
	}
	out, err := r.git("merge-base", id, "HEAD")
	if err != nil {
		if r.Shallow() {
			return "", fmt.Errorf("this is a shallow clone, in which %s and the work at hand have no commit in common; fetch more of the history (git fetch --deepen=100, or --unshallow)", ref)
		}
		return "", fmt.Errorf("%s and the work at hand have no commit in common; compare with another branch", ref)
	}
	return strings.TrimSpace(out), nil
}

// File gives the text of a file, by its path from the root, in a commit; fs.ErrNotExist if it
// is not there.
func (r *Repo) File(commit, path string) ([]byte, error) {
	id, err := r.git("rev-parse", "--verify", "--quiet", "--end-of-options", commit+":"+r.under+path)
	if err != nil {
		return nil, &fs.PathError{Op: "read", Path: path, Err: fs.ErrNotExist}
	}
	text, err := r.git("cat-file", "blob", strings.TrimSpace(id))
	return []byte(text), err
}

// Shallow tells whether only a part of the history is here.
func (r *Repo) Shallow() bool {
	out, err := r.git("rev-parse", "--is-shallow-repository")
	return err == nil && strings.TrimSpace(out) == "true"
}

// Ancestors gives a commit and those before it, the nearest first.
func (r *Repo) Ancestors(commit string, most int) ([]string, error) {
	out, err := r.git("rev-list", fmt.Sprintf("--max-count=%d", most), "--end-of-options", commit)
	if err != nil {
		return nil, err
	}
	return strings.Fields(out), nil
}

// Parent gives the first parent of a commit, or nothing if it has none here.
func (r *Repo) Parent(commit string) string {
	id, err := r.commit(commit + "^1")
	if err != nil {
		return ""
	}
	return id
}
