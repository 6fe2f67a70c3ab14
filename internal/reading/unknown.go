package reading

import (
	"fmt"
	"io/fs"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"thrush/internal/core/changed"
	"thrush/internal/core/gate"
	"thrush/internal/recording"
)

// Unknown is what rules can say nothing of, given what changed; a nil set says that nobody
// knows.
func (r *Reader) Unknown(set changed.Set) gate.Unknown {
	var out gate.Unknown
	named := map[string]*changed.Lines{} // by what a recording calls a path
	for path, lines := range set {
		named[recording.Plain(path)] = lines
	}
	info := r.Recording.Info
	for _, u := range info.Unmeasured {
		one := gate.Unjudged{Path: u.Path, Reason: u.Reason}
		out.All = append(out.All, one)
		if named[u.Path] != nil {
			out.Changed = append(out.Changed, one)
		}
	}
	for _, path := range slices.Sorted(maps.Keys(named)) {
		if named[path].Untracked {
			continue // what builds and reports left in the work tree
		}
		if slices.Contains(info.Passed, path) || r.LeftOut != nil && r.LeftOut(path) {
			out.Passed = append(out.Passed, path)
		}
	}
	for _, path := range slices.Sorted(maps.Keys(set)) {
		if why := set[path].Why; why != "" && r.concerns(path) {
			out.Changed = append(out.Changed, gate.Unjudged{Path: path, Reason: why})
		}
	}
	return out
}

// Paths are those of all sources that the recording knows: measured, unmeasured or generated.
func (r *Reader) Paths() []string {
	out := slices.Clone(r.Recording.Info.Passed)
	for _, u := range r.Recording.Info.Unmeasured {
		out = append(out, u.Path)
	}
	for i := range r.Recording.Len() {
		out = append(out, r.Recording.Name(i))
	}
	return out
}

// concerns tells whether something of the recording lies at a path or below it.
func (r *Reader) concerns(path string) bool {
	for i := range r.Recording.Len() {
		if name := r.Recording.Name(i); name == path || strings.HasPrefix(name, path+"/") {
			return true
		}
	}
	return false
}

// Follow puts the recorded files that are links into what changed, as what they lead to did:
// whoever may change that would otherwise change code that no diff shows as code.
func (r *Reader) Follow(set changed.Set) error {
	root, err := filepath.EvalSymlinks(r.Project.Root)
	if err != nil {
		return err
	}
	for i := range r.Recording.Len() {
		name := r.Recording.Name(i)
		if set[name] != nil {
			continue
		}
		path := filepath.Join(root, filepath.FromSlash(name))
		if info, err := os.Lstat(path); err != nil || info.Mode()&fs.ModeSymlink == 0 {
			continue
		}
		to, err := filepath.EvalSymlinks(path)
		if err != nil {
			continue // it is gone, and so out of date
		}
		rel, err := filepath.Rel(root, to)
		switch {
		case err != nil || !filepath.IsLocal(rel):
			set[name] = changed.Unknown(fmt.Sprintf("it is a link to %s, outside of the project, where what changed is not known", to))
		case set[filepath.ToSlash(rel)] != nil:
			set[name] = set[filepath.ToSlash(rel)]
		}
	}
	return nil
}

// Unrecorded tells whether a file that is not in the recording should be:
// it is source code that counts, and nothing is said of it.
func (r *Reader) Unrecorded(path string) bool {
	plain, info := recording.Plain(path), r.Recording.Info
	if slices.Contains(info.Passed, plain) || slices.ContainsFunc(info.Unmeasured, func(u recording.Unmeasured) bool { return u.Path == plain }) {
		return false
	}
	return r.Counts != nil && r.Counts(path)
}
