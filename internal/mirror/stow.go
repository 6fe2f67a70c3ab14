package mirror

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"strconv"

	"golang.org/x/sync/errgroup"

	"thrush/internal/atomic"
)

// folder is one of a copy that is put away. Names are those of what is in it, but for other
// folders, in the order of their names while they are away. Neither need be UTF-8.
type folder struct {
	Path  []byte   `json:"path"`
	Names [][]byte `json:"names"`
}

func (f *folder) named(c *Copy, n int) string {
	return filepath.Join(c.To, string(f.Path), string(f.Names[n]))
}

func (f *folder) away(c *Copy, n int) string {
	return filepath.Join(c.To, string(f.Path), ".thrush-"+strconv.Itoa(n))
}

// away is the file that says what is put away.
func (c *Copy) away() string { return c.To + ".away" }

// Close puts the copy away until it is needed again: files get names that say nothing, as
// tools that look for tests, say, would otherwise find those of the copy as well. If it is
// cut off, what was not put away yet keeps its name.
func (c *Copy) Close() error {
	defer c.locked.Close()
	folders, err := c.folders("", nil)
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
	if err := atomic.Write(c.away(), data, false); err != nil {
		return err
	}
	return c.each(folders, func(f *folder, n int) error { return rename(f.named(c, n), f.away(c, n)) })
}

// each does something to all that is in folders, on all cores.
func (c *Copy) each(folders []folder, do func(f *folder, n int) error) error {
	var work errgroup.Group
	work.SetLimit(runtime.GOMAXPROCS(0))
	for i := range folders {
		work.Go(func() error {
			for n := range folders[i].Names {
				if err := do(&folders[i], n); err != nil {
					return err
				}
			}
			return nil
		})
	}
	return work.Wait()
}

// folders lists a folder of the copy and those in it, if anything is in them that stays.
func (c *Copy) folders(rel string, list []folder) ([]folder, error) {
	entries, err := os.ReadDir(filepath.Join(c.To, rel))
	if err != nil {
		return nil, err
	}
	f := folder{Path: []byte(rel)}
	for _, e := range entries {
		in := filepath.Join(rel, e.Name())
		switch {
		case e.IsDir():
			list, err = c.folders(in, list)
		case e.Type()&(fs.ModeNamedPipe|fs.ModeSocket) != 0:
			err = os.Remove(filepath.Join(c.To, in)) // by it processes talked that have ended
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

// unstow puts back what was put away.
func (c *Copy) unstow() error {
	data, err := os.ReadFile(c.away())
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	var folders []folder
	if err == nil {
		err = json.Unmarshal(data, &folders)
	}
	if err != nil {
		return fmt.Errorf("what is put away of the copy cannot be read; remove %s and %s: %w", c.away(), c.To, err)
	}
	err = c.each(folders, func(f *folder, n int) error { return ignoreMissing(rename(f.away(c, n), f.named(c, n))) })
	if err != nil {
		return err
	}
	return os.Remove(c.away())
}
