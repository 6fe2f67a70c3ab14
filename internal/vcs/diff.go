package vcs

import (
	"fmt"
	"io"
	"strings"

	"github.com/bluekeyes/go-gitdiff/gitdiff"

	"thrush/internal/core/changed"
)

// ParseDiff reads the changed lines off a unified diff, by the paths of the new
// files. A text with no file in it is an error unless it is blank.
func ParseDiff(from io.Reader) (changed.Set, error) {
	text, err := io.ReadAll(from)
	if err != nil {
		return nil, err
	}
	set := changed.Set{}
	files, _, err := gitdiff.Parse(strings.NewReader(string(text)))
	if err != nil {
		return nil, fmt.Errorf("the diff cannot be read: %s", strings.TrimPrefix(err.Error(), "gitdiff: "))
	}
	if len(files) == 0 && strings.TrimSpace(string(text)) != "" {
		return nil, fmt.Errorf("the diff cannot be read: it names no file; a unified diff is wanted, as git diff or diff -u write it")
	}
	strip := prefixed(string(text))
	for _, f := range files {
		if f.IsDelete || f.IsBinary || f.NewName == "" {
			continue
		}
		name := f.NewName
		if strip {
			name = strings.TrimPrefix(name, "b/")
		}
		lines := set[name]
		if lines == nil {
			lines = &changed.Lines{}
		}
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
		set[name] = lines
	}
	return set, nil
}

// prefixed tells whether a diff without git's own headers still carries git's
// prefixes, a/ for the old files and b/ for the new ones, throughout.
func prefixed(text string) bool {
	found := false
	for line := range strings.Lines(text) {
		if strings.HasPrefix(line, "diff --git ") {
			return false
		}
		old, isOld := strings.CutPrefix(line, "--- ")
		if now, isNew := strings.CutPrefix(line, "+++ "); isNew || isOld {
			if !strings.HasPrefix(old, "a/") && !strings.HasPrefix(now, "b/") && !strings.Contains(line, "/dev/null") {
				return false
			}
			found = true
		}
	}
	return found
}
