// Package atomic writes files whole or not at all: under another name first,
// then renamed.
package atomic

import (
	"os"
	"path/filepath"
)

// File is a file being written. It takes its name when it is kept.
type File struct {
	*os.File
	path string
}

// Create begins to write a file.
func Create(path string) (*File, error) {
	f, err := os.CreateTemp(filepath.Dir(path), "."+filepath.Base(path)+".*")
	if err != nil {
		return nil, err
	}
	return &File{f, path}, nil
}

// Keep gives the file its name, in place of one that had it. With sync it waits
// until the disk has it all, so that it is whole even if the machine fails.
func (f *File) Keep(sync bool) (err error) {
	defer func() {
		if err != nil {
			f.Drop()
		}
	}()
	if err = f.Chmod(0o666 &^ Umask()); err != nil {
		return err
	}
	if sync {
		if err = f.Sync(); err != nil {
			return err
		}
	}
	if err = f.Close(); err != nil {
		return err
	}
	if err = os.Rename(f.Name(), f.path); err != nil || !sync {
		return err
	}
	if d, openErr := os.Open(filepath.Dir(f.path)); openErr == nil {
		_ = d.Sync()
		_ = d.Close()
	}
	return nil
}

// Drop leaves nothing of the file.
func (f *File) Drop() {
	_ = f.Close()
	_ = os.Remove(f.Name())
}

// Write writes a file whole or not at all.
func Write(path string, data []byte, sync bool) error {
	f, err := Create(path)
	if err != nil {
		return err
	}
	if _, err := f.File.Write(data); err != nil {
		f.Drop()
		return err
	}
	return f.Keep(sync)
}
