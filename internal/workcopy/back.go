package workcopy

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"slices"
	"strings"

	"github.com/bmatcuk/doublestar/v4"
)

// Back brings files that match globs from the copy to the tree, and gives the paths of those
// that were made there, or were changed. A glob that names a folder matches all that is in it.
// Files with another text in them are kept.
func (c *Copy) Back(globs []string) (brought, kept []string, err error) {
	tree, err := os.OpenRoot(c.From)
	if err != nil {
		return nil, nil, err
	}
	defer tree.Close()
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
			text, err := c.to.ReadFile(rel)
			if err == nil && slices.ContainsFunc(c.Marks, func(mark []byte) bool { return bytes.Contains(text, mark) }) {
				kept = append(kept, rel)
				continue
			}
			came, err := c.bring(tree, rel)
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
		found, err := doublestar.Glob(c.to.FS(), g, doublestar.WithFilesOnly(), doublestar.WithNoFollow())
		if err != nil {
			return nil, err
		}
		out = append(out, found...)
	}
	return out, nil
}

// bring brings a file to the tree. What is written there stays there: a link in the tree that
// leads out of it is not followed.
func (c *Copy) bring(tree *os.Root, rel string) (bool, error) {
	info, err := c.to.Lstat(rel)
	if err != nil || !info.Mode().IsRegular() {
		return false, err
	}
	if was, ok := c.now[rel]; ok && was.Size == info.Size() && was.Mod == info.ModTime().UnixNano() {
		return false, nil
	}
	if at, err := tree.Lstat(rel); err == nil && (!at.Mode().IsRegular() || at.Size() == info.Size() && at.ModTime().Equal(info.ModTime())) {
		return false, nil
	}
	if err := tree.MkdirAll(path.Dir(rel), 0o777); err != nil {
		return false, err
	}
	in, err := c.to.Open(rel)
	if err != nil {
		return false, err
	}
	defer in.Close()
	temp := rel + fmt.Sprintf(".thrush-%d", os.Getpid())
	if err := put(in, tree, temp, info.Mode().Perm()); err != nil {
		return false, errors.Join(err, ignoreMissing(tree.Remove(temp)))
	}
	if err := tree.Chtimes(temp, info.ModTime(), info.ModTime()); err != nil {
		return false, err
	}
	return true, tree.Rename(temp, rel)
}

func ignoreMissing(err error) error {
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return err
}
