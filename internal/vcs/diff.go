package vcs

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	"github.com/bluekeyes/go-gitdiff/gitdiff"

	"thrush/internal/core/changed"
)

// ParseDiff reads the changed lines off a unified diff, by the paths of the new
// files. A text with no file in it is an error unless it is blank. Of files that the diff
// only says to be binary it is not known which lines changed.
func ParseDiff(from io.Reader) (changed.Set, error) {
	text, err := io.ReadAll(from)
	if err != nil {
		return nil, err
	}
	text = withoutHeaders(text)
	files, _, err := gitdiff.Parse(strings.NewReader(string(text)))
	if err != nil {
		return nil, fmt.Errorf("the diff cannot be read: %s", strings.TrimPrefix(err.Error(), "gitdiff: "))
	}
	set := changed.Set{}
	silent, err := unread(string(text), files)
	if err != nil {
		return nil, err
	}
	for _, name := range silent {
		set[name] = notByLines()
	}
	if len(files) == 0 && len(silent) == 0 && strings.TrimSpace(string(text)) != "" {
		return nil, errors.New("the diff cannot be read: it names no file; a unified diff is wanted, as git diff or diff -u write it")
	}
	strip := prefixed(files)
	for _, f := range files {
		name := f.NewName
		if f.IsDelete || name == "" {
			continue
		}
		if strip {
			name = strings.TrimPrefix(strings.TrimPrefix(name, "a/"), "b/")
		}
		name = path.Clean(name)
		if f.IsBinary {
			set[name] = notByLines()
			continue
		}
		if set[name] == nil {
			set[name] = &changed.Lines{}
		}
		addLines(set[name], f)
	}
	return set, nil
}

// withoutHeaders takes git's own headers out of a diff that was made without prefixes: a
// reader of them takes the first folder of each name for one. What is left is a unified diff
// as others write it.
func withoutHeaders(text []byte) []byte {
	plain := false
	for line := range bytes.Lines(text) {
		names, ok := bytes.CutPrefix(bytes.TrimRight(line, "\r\n"), []byte("diff --git "))
		if !ok {
			continue
		}
		half := len(names) / 2
		if len(names)%2 == 0 || names[half] != ' ' || !bytes.Equal(names[:half], names[half+1:]) {
			return text
		}
		plain = true
	}
	if !plain {
		return text
	}
	var out []byte
	header := false
	for line := range bytes.Lines(text) {
		switch {
		case bytes.HasPrefix(line, []byte("diff --git ")):
			header = true
		case bytes.HasPrefix(line, []byte("--- ")) || bytes.HasPrefix(line, []byte("Binary files ")):
			header = false
		}
		if !header {
			out = append(out, line...)
		}
	}
	return out
}

// notByLines is what is known of a file of which a diff says no lines.
func notByLines() *changed.Lines {
	return &changed.Lines{Why: "the diff says only that it differs, as of a binary file; make it with git diff --text, or use --since", ByDiff: true}
}

// addLines puts the lines that a diff adds to a file into a set.
func addLines(lines *changed.Lines, f *gitdiff.File) {
	for _, h := range f.TextFragments {
		number := int(h.NewPosition)
		for _, l := range h.Lines {
			if l.Op == gitdiff.OpAdd {
				lines.Add(number, strings.TrimRight(l.Line, "\r\n"))
			}
			if l.Op != gitdiff.OpDelete {
				number++
			}
		}
	}
}

// unread gives the files of which diff -u says, between those it compares, only that they
// differ. They have no header that a reader of diffs would know, so what is not in a hunk
// is looked through.
func unread(text string, files []*gitdiff.File) (names []string, err error) {
	if strings.HasPrefix(text, "diff --git ") || strings.Contains(text, "\ndiff --git ") {
		return nil, nil // git names each file in a header
	}
	left := 0 // lines of the hunk that one is in
	hunks := []*gitdiff.TextFragment{}
	for _, f := range files {
		hunks = append(hunks, f.TextFragments...)
	}
	for line := range strings.Lines(text) {
		switch {
		case left > 0:
			if !strings.HasPrefix(line, `\`) {
				left--
			}
		case strings.HasPrefix(line, "@@ ") && len(hunks) > 0:
			left, hunks = len(hunks[0].Lines), hunks[1:]
		default:
			line = strings.TrimRight(line, "\r\n")
			for _, begin := range []string{"Binary files ", "Files "} {
				both, ok := strings.CutPrefix(line, begin)
				if both, ok2 := strings.CutSuffix(both, " differ"); ok && ok2 {
					_, now, found := strings.Cut(both, " and ")
					if !found || strings.Contains(now, " and ") {
						return nil, fmt.Errorf("the diff cannot be read: which file it means is not clear: %s", line)
					}
					now = strings.TrimPrefix(now, "b/")
					names = append(names, path.Clean(now))
				}
			}
		}
	}
	return names, nil
}

// prefixed tells whether a diff without git's own headers still carries git's
// prefixes, a/ for the old files and b/ for the new ones, throughout. With its headers the
// names have been read without them.
func prefixed(files []*gitdiff.File) bool {
	for _, f := range files {
		for _, name := range []string{f.OldName, f.NewName} {
			if name != "" && !strings.HasPrefix(name, "a/") && !strings.HasPrefix(name, "b/") {
				return false
			}
		}
	}
	return len(files) > 0
}

// ReadDiff reads a diff whose paths are from the top of the work tree that a folder is in,
// or from that folder where there is none, and gives what changed in the folder. Files that
// matter must be there: a diff that names them otherwise, say from another folder, would
// tell of no change at all.
func ReadDiff(root string, from io.Reader, matters func(path string) bool) (changed.Set, error) {
	set, err := ParseDiff(from)
	if err != nil {
		return nil, err
	}
	at := &Repo{root: root, Top: root}
	if repo, err := Open(root); err == nil {
		at = repo
	}
	for _, name := range slices.Sorted(maps.Keys(set)) {
		if !matters(name) {
			continue
		}
		if _, err := os.Lstat(filepath.Join(at.Top, filepath.FromSlash(name))); err != nil {
			return nil, fmt.Errorf("it names %s, which is not in %s; its paths must be those from there, with the prefixes a/ and b/ or with none, and it must be of the files as they are now", name, at.Top)
		}
	}
	return at.place(set), nil
}

// place puts paths from the top of the work tree under the root. Those that lie elsewhere
// are left out.
func (r *Repo) place(set changed.Set) changed.Set {
	out := changed.Set{}
	for path, lines := range set {
		if rel, ok := r.inside(path); ok {
			out[rel] = lines
		}
	}
	return out
}
