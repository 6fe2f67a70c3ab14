// Package workcopy keeps a copy of a project's tree in which some files have another text,
// for tools that read files by themselves.
//
// Nothing in the copy is shared with the project for writing: a build may write where it
// likes. What builds made in the copy stays, so that they go on where they were.
package workcopy

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"os"
	"path"
	"path/filepath"
	"strings"
	"time"

	"github.com/bmatcuk/doublestar/v4"
	"golang.org/x/sync/errgroup"

	"thrush/internal/home"
)

// Copy is a copy of a tree.
type Copy struct {
	From string       // folder of the tree
	In   *home.Folder // the folder that the copy is in, and what is known of it
	Name string       // of the copy's folder
	// Text gives the file whose text stands in for that of a path, with slashes from the
	// root, or nothing.
	Text map[string]string
	// Marks tell a text that has another one in it, by a part of it: such files stay in the
	// copy.
	Marks [][]byte

	to       *os.Root // the copy, opened: no link that a build left there leads out of it
	at       []level  // folders of it that are open while one goes through the tree
	was, now map[string]entry
	built    bool // something was copied that a build made of the tree's own texts
	work     errgroup.Group
	locked   *os.File
}

// To is where the copy is.
func (c *Copy) To() string { return c.In.Path(c.Name) }

// BusyError says that another process uses a copy.
type BusyError struct{ Copy string }

func (e *BusyError) Error() string {
	return fmt.Sprintf("another command runs in the copy %s; wait until it has ended", e.Copy)
}

// Open takes the copy for this process and has it be as it was put away.
func (c *Copy) Open() (err error) {
	if c.locked, err = c.In.Root().OpenFile(c.Name+".lock", os.O_WRONLY|os.O_CREATE, 0o666); err != nil {
		return err
	}
	if !lock(c.locked) {
		return &BusyError{c.To()}
	}
	folder, err := c.In.Folder(c.Name)
	if err != nil {
		return err
	}
	c.to = folder.Root()
	return c.unstow()
}

// entry is what a file was when it was copied.
type entry struct {
	Size int64       `json:"size"`
	Mod  int64       `json:"mod"`
	Mode fs.FileMode `json:"mode"`
	Text string      `json:"text,omitempty"` // the file whose text it has
	Link string      `json:"link,omitempty"` // where it leads
}

// left are folders that are not in the copy: what is in them is about the tree itself.
var left = map[string]bool{".git": true, ".hg": true, ".svn": true, ".thrush": true}

// shared are folders of installed packages, which the copy leads to.
var shared = map[string]bool{".venv": true, "venv": true, ".tox": true, ".nox": true}

// compiled are the endings of what builds of Java make. It may be newer than what was built of
// it in the copy.
var compiled = map[string]bool{".class": true, ".jar": true, ".war": true}

// packages is the folder of installed packages that tools also write to. It has links to the
// packages.
const packages = "node_modules"

// Sync makes the copy like the tree: what changed there is copied, what is gone is removed.
func (c *Copy) Sync() error {
	c.was, c.now = map[string]entry{}, map[string]entry{}
	if data, err := c.In.Read(c.Name + listed); err == nil {
		_ = json.Unmarshal(data, &c.was) // else all is copied
	}
	c.work.SetLimit(8)
	err := filepath.WalkDir(c.From, c.visit)
	for _, l := range c.at {
		_ = l.root.Close()
	}
	c.at = nil
	if err = errors.Join(err, c.work.Wait()); err != nil {
		return fmt.Errorf("cannot copy %s: %w", c.From, err)
	}
	for rel := range c.was {
		if _, still := c.now[rel]; !still {
			if err := c.remove(rel); err != nil {
				return fmt.Errorf("cannot take %s out of the copy: %w", rel, err)
			}
		}
	}
	if c.built {
		if err := c.renew(); err != nil {
			return err
		}
	}
	if maps.Equal(c.was, c.now) {
		return nil
	}
	data, err := json.Marshal(c.now)
	if err != nil {
		return err
	}
	return c.In.Replace(c.Name+listed, data)
}

// Drop removes what matches a glob from the copy, until it changes in the tree.
func (c *Copy) Drop(glob string) error {
	found, err := doublestar.Glob(c.to.FS(), glob, doublestar.WithNoFollow())
	for _, rel := range found {
		err = errors.Join(err, c.to.RemoveAll(rel))
	}
	return err
}

// listed ends the name of the file that says what was copied.
const listed = ".json"

// level is a folder of the copy, opened.
type level struct {
	rel  string
	root *os.Root
}

// opened gives a folder of the copy, from the top, without looking up each part of its path
// again for each file in it.
func (c *Copy) opened(rel string) (*os.Root, error) {
	if rel == "." {
		return c.to, nil
	}
	for len(c.at) > 0 && c.at[len(c.at)-1].rel != rel && !strings.HasPrefix(rel, c.at[len(c.at)-1].rel+"/") {
		_ = c.at[len(c.at)-1].root.Close()
		c.at = c.at[:len(c.at)-1]
	}
	if len(c.at) > 0 && c.at[len(c.at)-1].rel == rel {
		return c.at[len(c.at)-1].root, nil
	}
	above, err := c.opened(path.Dir(rel))
	if err != nil {
		return nil, err
	}
	root, err := above.OpenRoot(path.Base(rel))
	if err != nil {
		return nil, err
	}
	c.at = append(c.at, level{rel, root})
	return root, nil
}

func (c *Copy) visit(from string, d fs.DirEntry, err error) error {
	if err != nil {
		if d != nil && d.IsDir() && errors.Is(err, fs.ErrPermission) {
			return filepath.SkipDir
		}
		return err
	}
	rel, err := filepath.Rel(c.From, from)
	if err != nil {
		return err
	}
	rel = filepath.ToSlash(rel)
	switch name := d.Name(); {
	case rel == ".":
		return nil
	case d.IsDir() && left[name]:
		return filepath.SkipDir
	case d.IsDir() && shared[name]:
		return skipAfter(c.link(rel, from))
	case d.IsDir() && name == packages:
		return skipAfter(c.linkAll(rel, from))
	case d.IsDir():
		info, err := d.Info()
		if err != nil {
			return err
		}
		return c.folderAt(rel, info.Mode().Perm()|0o700)
	case d.Type() == fs.ModeSymlink:
		target, err := os.Readlink(from)
		if err != nil {
			return err
		}
		return c.link(rel, c.moved(target))
	case !d.Type().IsRegular():
		return nil
	}
	info, err := d.Info()
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	e := entry{Size: info.Size(), Mod: info.ModTime().UnixNano(), Mode: info.Mode().Perm(), Text: c.Text[rel]}
	old, known := c.was[rel]
	c.now[rel] = e
	in, err := c.opened(path.Dir(rel))
	if err != nil {
		return err
	}
	if _, err := in.Lstat(path.Base(rel)); err == nil && known && old == e {
		return nil
	}
	c.built = c.built || compiled[filepath.Ext(rel)]
	c.work.Go(func() error {
		if e.Text != "" {
			from = e.Text
		}
		if err := replace(from, c.to, rel, e.Mode); err != nil {
			return err
		}
		if e.Text != "" {
			return nil // it is newer than what a build made of the tree's own text
		}
		return c.to.Chtimes(rel, info.ModTime(), info.ModTime())
	})
	return nil
}

// remove takes a file out of the copy that is gone, and folders that are gone with all that
// builds in the copy made there: somebody cleaned up. What took its place stays, and what a
// link leads to that took the place of a folder.
func (c *Copy) remove(rel string) error {
	if info, err := os.Lstat(filepath.Join(c.From, filepath.FromSlash(rel))); err == nil && info.IsDir() {
		return nil
	}
	for dir := path.Dir(rel); dir != "."; dir = path.Dir(dir) {
		if _, replaced := c.now[dir]; replaced {
			return nil
		}
	}
	var err error
	if _, missing := c.to.Lstat(rel); missing == nil {
		err = c.to.Remove(rel)
	}
	for dir := path.Dir(rel); err == nil && dir != "."; dir = path.Dir(dir) {
		if _, err := os.Lstat(filepath.Join(c.From, filepath.FromSlash(dir))); !errors.Is(err, fs.ErrNotExist) {
			break
		}
		err = c.to.RemoveAll(dir)
	}
	return err
}

// renew makes files with another text newer than what was built of those in the tree, since
// builds that go by times would take it for built of them.
func (c *Copy) renew() error {
	now := time.Now()
	for rel, e := range c.now {
		if e.Text == "" {
			continue
		}
		if err := c.to.Chtimes(rel, now, now); err != nil {
			return fmt.Errorf("cannot renew %s in the copy: %w", rel, err)
		}
	}
	return nil
}

// skipAfter ends the visit of a folder that was dealt with as a whole.
func skipAfter(err error) error {
	if err != nil {
		return err
	}
	return fs.SkipDir
}

// folderAt makes a folder, in place of anything else that was there: a link would lead what
// is written into it elsewhere.
func (c *Copy) folderAt(rel string, mode fs.FileMode) error {
	in, err := c.opened(path.Dir(rel))
	if err != nil {
		return err
	}
	name := path.Base(rel)
	if err := in.Mkdir(name, mode); !errors.Is(err, fs.ErrExist) {
		return err
	}
	if info, err := in.Lstat(name); err != nil || info.IsDir() {
		return err
	}
	return errors.Join(in.Remove(name), in.Mkdir(name, mode))
}

// moved gives where a link leads in the copy: what leads into the tree leads into the copy.
func (c *Copy) moved(target string) string {
	if in, ok := strings.CutPrefix(target, c.From+string(filepath.Separator)); ok {
		return filepath.Join(c.To(), in)
	}
	return target
}

// link makes a link in the copy.
func (c *Copy) link(rel, target string) error {
	c.now[rel] = entry{Mode: fs.ModeSymlink, Link: target}
	in, err := c.opened(path.Dir(rel))
	if err != nil {
		return err
	}
	name := path.Base(rel)
	if at, err := in.Readlink(name); err == nil && at == target {
		return nil
	}
	if err := in.RemoveAll(name); err != nil {
		return err
	}
	return in.Symlink(target, name)
}

// linkAll makes a folder with links to what is in another. What tools keep there, in names
// that begin with a dot, they keep in the copy for themselves.
func (c *Copy) linkAll(rel, from string) error {
	if err := c.folderAt(rel, 0o777); err != nil {
		return err
	}
	entries, err := os.ReadDir(from)
	for _, e := range entries {
		at := filepath.Join(from, e.Name())
		switch name := e.Name(); {
		case strings.HasPrefix(name, ".") && name != ".bin" && name != ".pnpm":
		case strings.HasPrefix(name, "@") && e.IsDir():
			err = errors.Join(err, c.linkAll(path.Join(rel, name), at))
		default:
			// A package of the project itself is in the copy too.
			if real, e := filepath.EvalSymlinks(at); e == nil && !strings.Contains(real, string(filepath.Separator)+packages+string(filepath.Separator)) {
				at = c.moved(real)
			}
			err = errors.Join(err, c.link(path.Join(rel, name), at))
		}
	}
	return err
}

// replace copies a file into a tree.
func replace(from string, into *os.Root, to string, mode fs.FileMode) error {
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer in.Close()
	return put(in, into, to, mode)
}

// put copies an opened file into a tree, sharing its blocks where the file system can.
func put(in *os.File, into *os.Root, to string, mode fs.FileMode) error {
	if err := into.RemoveAll(to); err != nil {
		return err
	}
	out, err := into.OpenFile(to, os.O_WRONLY|os.O_CREATE|os.O_EXCL, mode|0o200)
	if err != nil {
		return err
	}
	if !clone(in, out) {
		_, err = io.Copy(out, in)
	}
	return errors.Join(err, out.Chmod(mode), out.Close())
}
