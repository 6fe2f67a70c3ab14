package workcopy

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"runtime"
	"strconv"

	"golang.org/x/sync/errgroup"
)

// folder is one of a copy that is put away. Names are those of what is in it, but for other
// folders, in the order of their names while they are away. Neither need be UTF-8.
type folder struct {
	Path  []byte   `json:"path"`
	Names [][]byte `json:"names"`
}

// away is how the nth of the names is called while the copy is put away.
func away(n int) string { return ".thrush-" + strconv.Itoa(n) }

// stowed ends the name of the file that says what is put away.
const stowed = ".away"

// Close puts the copy away until it is needed again: files get names that say nothing, as
// tools that look for tests, say, would otherwise find those of the copy as well. If it is
// cut off, what was not put away yet keeps its name.
func (c *Copy) Close() error {
	defer c.locked.Close()
	if c.to == nil {
		return nil
	}
	folders, err := c.folders(".", c.to, nil)
	if errors.Is(err, fs.ErrNotExist) {
		return nil // somebody removed it
	}
	if err != nil {
		return err
	}
	data, err := json.Marshal(folders)
	if err != nil {
		return err
	}
	if err := c.In.Replace(c.Name+stowed, data); err != nil {
		return err
	}
	return c.each(folders, func(in *os.Root, name string, n int) error { return in.Rename(name, away(n)) })
}

// each does something to all that is in folders, on all cores.
func (c *Copy) each(folders []folder, do func(in *os.Root, name string, n int) error) error {
	var work errgroup.Group
	work.SetLimit(runtime.GOMAXPROCS(0))
	for _, f := range folders {
		work.Go(func() error {
			in, err := c.to.OpenRoot(string(f.Path))
			if errors.Is(err, fs.ErrNotExist) {
				return nil // somebody removed it
			}
			if err != nil {
				return err
			}
			defer in.Close()
			for n, name := range f.Names {
				if err := do(in, string(name), n); err != nil {
					return err
				}
			}
			return nil
		})
	}
	return work.Wait()
}

// folders lists a folder of the copy, opened, and those in it, if anything is in them that
// stays.
func (c *Copy) folders(rel string, at *os.Root, list []folder) ([]folder, error) {
	entries, err := fs.ReadDir(at.FS(), ".")
	if err != nil {
		return nil, err
	}
	f := folder{Path: []byte(rel)}
	for _, e := range entries {
		switch {
		case e.IsDir():
			list, err = c.foldersIn(rel, at, e.Name(), list)
		case e.Type()&(fs.ModeNamedPipe|fs.ModeSocket) != 0:
			err = at.Remove(e.Name()) // by it processes talked that have ended
		default:
			f.Names = append(f.Names, []byte(e.Name()))
		}
		if err != nil {
			return nil, err
		}
	}
	if len(f.Names) > 0 {
		list = append(list, f)
	}
	return list, nil
}

func (c *Copy) foldersIn(rel string, at *os.Root, name string, list []folder) ([]folder, error) {
	in, err := at.OpenRoot(name)
	if err != nil {
		return nil, err
	}
	defer in.Close()
	return c.folders(path.Join(rel, name), in, list)
}

// unstow puts back what was put away.
func (c *Copy) unstow() error {
	data, err := c.In.Read(c.Name + stowed)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	var folders []folder
	if err == nil {
		err = json.Unmarshal(data, &folders)
	}
	for _, f := range folders {
		for _, name := range f.Names {
			if err == nil && (path.Base(string(name)) != string(name) || !filepath.IsLocal(string(f.Path))) {
				err = fmt.Errorf("it names %q in %q, which is no file of a copy", name, f.Path)
			}
		}
	}
	if err != nil {
		return fmt.Errorf("what is put away of the copy cannot be read; remove %s and %s: %w", c.In.Path(c.Name+stowed), c.To(), err)
	}
	err = c.each(folders, func(in *os.Root, name string, n int) error { return ignoreMissing(in.Rename(away(n), name)) })
	if err != nil {
		return err
	}
	return c.In.Remove(c.Name + stowed)
}
