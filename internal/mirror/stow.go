package mirror

import (
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"

	"thrush/internal/atomic"
)

// stowed is a file, a folder or a link of a copy that is put away.
type stowed struct {
	Path string      `json:"path"`
	Mode fs.FileMode `json:"mode"`
	Link string      `json:"link,omitempty"`
	File int         `json:"file,omitempty"` // its name while it is away
}

func (c *Copy) away(n int) string { return filepath.Join(c.To+".away", strconv.Itoa(n)) }

// Close puts the copy away until it is needed again: files get names that say nothing, as
// tools that look for tests, say, would otherwise find those of the copy as well. If it is
// cut off, what was not put away yet stays where it is.
func (c *Copy) Close() error {
	defer c.locked.Close()
	if err := os.RemoveAll(c.To + ".away"); err != nil {
		return err
	}
	var list []stowed
	err := filepath.WalkDir(c.To, func(path string, d fs.DirEntry, err error) error {
		if err != nil || path == c.To {
			return err
		}
		info, err := d.Info()
		if err != nil {
			return err
		}
		rel, err := filepath.Rel(c.To, path)
		if err != nil {
			return err
		}
		s := stowed{Path: rel, Mode: info.Mode()}
		switch {
		case d.Type() == fs.ModeSymlink:
			s.Link, err = os.Readlink(path)
		case d.Type().IsRegular():
			s.File = len(list) + 1
		case !d.IsDir():
			return nil
		}
		list = append(list, s)
		return err
	})
	if err != nil {
		return err
	}
	if err := os.MkdirAll(c.To+".away", 0o777); err != nil {
		return err
	}
	data, err := json.Marshal(list)
	if err != nil {
		return err
	}
	if err := atomic.Write(c.away(0), data, false); err != nil {
		return err
	}
	for _, s := range list {
		if s.File > 0 {
			if err := os.Rename(filepath.Join(c.To, s.Path), c.away(s.File)); err != nil {
				return err
			}
		}
	}
	return os.RemoveAll(c.To)
}

// unstow puts back what was put away.
func (c *Copy) unstow() error {
	data, err := os.ReadFile(c.away(0))
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	var list []stowed
	if err == nil {
		err = json.Unmarshal(data, &list)
	}
	if err != nil {
		return fmt.Errorf("what is put away of the copy cannot be read; remove %s.away: %w", c.To, err)
	}
	for _, s := range list {
		to := filepath.Join(c.To, s.Path)
		switch {
		case s.Mode.IsDir():
			err = os.MkdirAll(to, s.Mode.Perm()|0o700)
		case s.Link != "":
			err = ignoreExisting(os.Symlink(s.Link, to))
		default:
			err = ignoreMissing(os.Rename(c.away(s.File), to))
		}
		if err != nil {
			return err
		}
	}
	return os.RemoveAll(c.To + ".away")
}
