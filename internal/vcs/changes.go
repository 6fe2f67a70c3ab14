package vcs

import (
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"thrush/internal/core/changed"
)

// mostText bounds the files whose lines are compared, in bytes; all of a larger one counts
// as changed.
const mostText = 64 << 20

// The modes of entries of trees that matter here, as git writes them.
const (
	modeLink   = "120000"
	modeModule = "160000"
)

// entry is a path that may have changed: what it was in the base.
type entry struct {
	mode, id  string // of the base; no id if it was not there
	moved     bool   // it had another name
	conflict  bool   // it is being merged
	submodule bool   // it is one now, or was
}

// ChangedSince gives the lines that the files on the disk have and a commit has not:
// committed, staged, unstaged and untracked. A scratch folder is needed to compare them in.
//
// git tells which paths may have changed, comparing the commit with the index and the index
// with what it remembers of the files. What changed in them is then read off the bytes of
// the commit and those on the disk, since attributes that a change brings along can have git
// pass over a file or a line.
func (r *Repo) ChangedSince(base, scratch string) (changed.Set, error) {
	entries, err := r.suspects(base)
	if err != nil {
		return nil, err
	}
	others, err := r.others()
	if err != nil {
		return nil, err
	}
	set := changed.Set{}
	c := comparison{repo: r, scratch: scratch}
	for path, e := range entries {
		rel, ok := r.inside(path)
		if !ok {
			continue
		}
		if e.submodule {
			set[rel] = changed.Unknown("it is a submodule in which something changed, and which of its lines did is not known")
			continue
		}
		text, all, err := readFile(filepath.Join(r.Top, filepath.FromSlash(path)))
		switch {
		case errors.Is(err, fs.ErrNotExist):
		case err != nil:
			return nil, fmt.Errorf("%s cannot be read: %w", path, err)
		case all || e.id == "" || e.conflict || e.mode == modeLink:
			set[rel] = changed.All()
		case e.id == c.name(text, len(e.id)):
			if e.moved {
				set[rel] = &changed.Lines{}
			}
		default:
			set[rel] = &changed.Lines{}
			c.add(set[rel], e.id, text)
		}
	}
	for _, path := range others {
		set[path] = changed.All()
		set[path].Untracked = true
	}
	return set, c.run()
}

// readFile gives the text of a file. all says that it is none to compare by lines.
func readFile(path string) (text []byte, all bool, err error) {
	info, err := os.Lstat(path)
	if err != nil {
		return nil, false, err
	}
	if !info.Mode().IsRegular() || info.Size() > mostText {
		return nil, true, nil
	}
	text, err = os.ReadFile(path)
	return text, false, err
}

// suspects are the paths, from the top, that may differ from a commit.
func (r *Repo) suspects(base string) (map[string]entry, error) {
	out := map[string]entry{}
	staged, err := r.git("diff-index", "--cached", "--raw", "-z", "--no-abbrev", "--find-renames", "-l1000", "--ignore-submodules=none", "--end-of-options", base)
	if err != nil {
		return nil, err
	}
	if err := eachRaw(staged, func(e entry, path string) { out[path] = e }); err != nil {
		return nil, err
	}
	touched, err := r.plainly("diff-files", "--raw", "-z", "--no-abbrev", "--ignore-submodules=untracked")
	if err != nil {
		return nil, err
	}
	return out, eachRaw(touched, func(e entry, path string) {
		old, ok := out[path]
		if !ok {
			old = e
		}
		old.conflict = old.conflict || e.conflict
		old.submodule = old.submodule || e.submodule
		out[path] = old
	})
}

// eachRaw reads what git writes with --raw -z:
// ":OLDMODE NEWMODE OLDID NEWID STATUS" NUL PATH NUL, with a second path if it was moved.
func eachRaw(text string, do func(e entry, path string)) error {
	fields := list(text)
	for len(fields) > 0 {
		head := strings.Fields(strings.TrimPrefix(fields[0], ":"))
		n := 2
		if len(head) == 5 && strings.ContainsAny(head[4][:1], "RC") {
			n = 3
		}
		if len(head) != 5 || len(fields) < n {
			return errors.New("what git says of changed files cannot be read")
		}
		e := entry{mode: head[0], id: head[2], moved: n == 3, conflict: head[4][0] == 'U', submodule: cmp.Or(head[0] == modeModule, head[1] == modeModule)}
		if strings.Trim(e.id, "0") == "" {
			e.id = ""
		}
		do(e, fields[n-1])
		fields = fields[n:]
	}
	return nil
}
