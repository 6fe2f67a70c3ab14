package mirror

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/bmatcuk/doublestar/v4"
)

// Back brings files that match globs from the copy to the tree, and gives the paths of those
// that were made there, or were changed. A glob that names a folder matches all that is in it.
// Files with another text in them are kept.
func (c *Copy) Back(globs []string) (brought, kept []string, err error) {
	seen := map[string]bool{}
	for _, glob := range globs {
		found, err := c.glob(glob)
		if err != nil {
			return brought, kept, err
		}
		for _, rel := range found {
			if seen[rel] || c.now[rel].Text != "" {
				continue
			}
			seen[rel] = true
			text, err := os.ReadFile(c.path(rel))
			if err == nil && slices.ContainsFunc(c.Marks, func(mark []byte) bool { return bytes.Contains(text, mark) }) {
				kept = append(kept, rel)
				continue
			}
			came, err := c.bring(rel)
			if err != nil {
				return brought, kept, fmt.Errorf("cannot bring %s back: %w", rel, err)
			}
			if came {
				brought = append(brought, rel)
			}
		}
	}
	slices.Sort(brought)
	slices.Sort(kept)
	return brought, kept, nil
}

// glob gives the files of the copy that match a glob, and those in folders that do.
func (c *Copy) glob(glob string) ([]string, error) {
	var out []string
	for _, g := range []string{glob, strings.TrimSuffix(glob, "/") + "/**"} {
		found, err := doublestar.Glob(os.DirFS(c.To), g, doublestar.WithFilesOnly(), doublestar.WithNoFollow())
		if err != nil {
			return nil, err
		}
		out = append(out, found...)
	}
	return out, nil
}

func (c *Copy) bring(rel string) (bool, error) {
	info, err := os.Lstat(c.path(rel))
	if err != nil || !info.Mode().IsRegular() {
		return false, err
	}
	to := filepath.Join(c.From, filepath.FromSlash(rel))
	if was, ok := c.now[rel]; ok && was.Size == info.Size() && was.Mod == info.ModTime().UnixNano() {
		return false, nil
	}
	if at, err := os.Lstat(to); err == nil && (!at.Mode().IsRegular() || at.Size() == info.Size() && at.ModTime().Equal(info.ModTime())) {
		return false, nil
	}
	if err := os.MkdirAll(filepath.Dir(to), 0o777); err != nil {
		return false, err
	}
	temp := to + fmt.Sprintf(".thrush-%d", os.Getpid())
	if err := replace(c.path(rel), temp, info.Mode().Perm()); err != nil {
		return false, errors.Join(err, ignoreMissing(os.Remove(temp)))
	}
	if err := os.Chtimes(temp, info.ModTime(), info.ModTime()); err != nil {
		return false, err
	}
	return true, os.Rename(temp, to)
}

func ignoreMissing(err error) error {
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return err
}
