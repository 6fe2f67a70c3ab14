package atomic

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path"
)

// WriteIn writes a file in an opened folder, whole or not at all. No link leads it out of
// there, and what had the name is replaced, never written through.
func WriteIn(root *os.Root, name string, data []byte, sync bool) (err error) {
	temp := path.Join(path.Dir(name), fmt.Sprintf(".%s.%016x", path.Base(name), rand.Uint64()))
	f, err := root.OpenFile(temp, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o666)
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			_ = root.Remove(temp)
		}
	}()
	if _, err = f.Write(data); err == nil && sync {
		err = f.Sync()
	}
	if closed := f.Close(); err == nil {
		err = closed
	}
	if err != nil {
		return err
	}
	if err = root.Rename(temp, name); err != nil || !sync {
		return err
	}
	if d, openErr := root.Open(path.Dir(name)); openErr == nil {
		_ = d.Sync()
		_ = d.Close()
	}
	return nil
}

// WriteAt does the same in a folder that is opened for it.
func WriteAt(dir, name string, data []byte, sync bool) error {
	root, err := os.OpenRoot(dir)
	if err != nil {
		return err
	}
	defer root.Close()
	return WriteIn(root, name, data, sync)
}
