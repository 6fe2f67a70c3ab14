package pages

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"path"
	"slices"
	"strings"
)

// manifest lists the files of a report, in the report's folder.
const manifest = "thrush-pages.json"

// ErrForeign says that a folder holds what is not of a report, which is not
// touched.
var ErrForeign = errors.New("not of a report")

// folder is a folder that pages are written into. All names are from the
// folder, and none leads out of it, through links either.
type folder struct {
	dir         string
	root        *os.Root
	before, now map[string]bool // files of the earlier report there, and of this one
	at          string          // the folder in it that was last written into,
	there       *os.Root        // opened, since most pages go where the last one went
}

type manifestFile struct {
	Schema string   `json:"schema"`
	Files  []string `json:"files"`
}

// openFolder makes a folder ready for files of the given names: it must be new,
// be empty, or have held a report before.
func openFolder(dir string, names []string) (*folder, error) {
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return nil, err
	}
	root, err := os.OpenRoot(dir)
	if err != nil {
		return nil, err
	}
	f := &folder{dir: dir, root: root, before: map[string]bool{}, now: map[string]bool{}, at: ".", there: root}
	if err := f.claim(names); err != nil {
		_ = root.Close()
		return nil, err
	}
	return f, nil
}

// claim checks that the folder is ours to write, and notes down what will be in it
// before anything is: so a run that is cut off leaves nothing that the next one
// does not know.
func (f *folder) claim(names []string) error {
	text, err := f.root.ReadFile(manifest)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		entries, err := fs.ReadDir(f.root.FS(), ".")
		if err != nil {
			return err
		}
		if len(entries) > 0 {
			return fmt.Errorf("%w: %s holds other files, such as %s, and no report of an earlier render; give a new or an empty folder", ErrForeign, f.dir, entries[0].Name())
		}
	case err != nil:
		return err
	default:
		var m manifestFile
		if err := json.Unmarshal(text, &m); err != nil || m.Schema != "thrush.pages/1" {
			return fmt.Errorf("%w: %s in %s is not as render writes it; give another folder", ErrForeign, manifest, f.dir)
		}
		for _, name := range m.Files {
			f.before[name] = true
		}
	}
	for _, name := range names {
		if _, err := f.root.Lstat(name); err == nil && !f.before[name] {
			return fmt.Errorf("%w: %s in %s was not written by render, but a page of this name is to be; move it, or give another folder", ErrForeign, name, f.dir)
		}
	}
	both := maps.Clone(f.before)
	for _, name := range names {
		f.now[name], both[name] = true, true
	}
	return f.list(both)
}

func (f *folder) list(files map[string]bool) error {
	text, err := json.MarshalIndent(manifestFile{"thrush.pages/1", slices.Sorted(maps.Keys(files))}, "", " ")
	if err != nil {
		return err
	}
	return f.write(manifest, append(text, '\n'))
}

// write writes a file whole or not at all. One that has the text already is left
// as it is.
func (f *folder) write(name string, data []byte) error {
	if err := f.enter(path.Dir(name)); err != nil {
		return err
	}
	if f.before[name] {
		if old, err := f.there.ReadFile(path.Base(name)); err == nil && bytes.Equal(old, data) {
			return nil
		}
	}
	const whole = ".new-page"
	file, err := f.there.Create(whole)
	if err != nil {
		return err
	}
	_, err = file.Write(data)
	if err = errors.Join(err, file.Close()); err == nil {
		err = f.there.Rename(whole, path.Base(name))
	}
	if err != nil {
		_ = f.there.Remove(whole)
	}
	return err
}

// enter opens the folder that is written into next, and makes it if need be.
func (f *folder) enter(dir string) error {
	if dir == f.at {
		return nil
	}
	next := f.root
	if dir != "." {
		if err := f.root.MkdirAll(dir, 0o777); err != nil {
			return err
		}
		var err error
		if next, err = f.root.OpenRoot(dir); err != nil {
			return err
		}
	}
	if f.there != f.root {
		_ = f.there.Close()
	}
	f.at, f.there = dir, next
	return nil
}

// finish removes the pages of earlier reports that this one does not have, and
// folders that are empty then.
func (f *folder) finish() error {
	empty := map[string]bool{}
	for name := range f.before {
		if f.now[name] {
			continue
		}
		if err := f.root.Remove(name); err != nil && !errors.Is(err, fs.ErrNotExist) {
			return err
		}
		for dir := path.Dir(name); dir != "." && dir != "/"; dir = path.Dir(dir) {
			empty[dir] = true
		}
	}
	dirs := slices.Collect(maps.Keys(empty))
	slices.SortFunc(dirs, func(a, b string) int { return strings.Count(b, "/") - strings.Count(a, "/") })
	for _, dir := range dirs {
		_ = f.root.Remove(dir) // only if nothing is in it
	}
	return f.list(f.now)
}

func (f *folder) close() {
	_ = f.there.Close()
	_ = f.root.Close()
}
