// Package home keeps the folder .thrush of a project, in which Thrush keeps what it needs.
//
// A project may hold a stranger's change, and such a change may bring along a .thrush of its
// own: recordings to be judged, texts to be run instead of the sources, lists of files to be
// renamed, or links that lead elsewhere. So what lies there is only used if Thrush made the
// folder here (trust.go), and all work in it goes through an opened folder, which no link
// leads out of. docs/security.md says what that is to hold against.
package home

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"thrush/internal/atomic"
	"thrush/internal/exit"
)

// Name is the name of the folder, at the root of a project.
const Name = ".thrush"

// Folder is an opened folder: .thrush, or one in it. Names are those of what lies directly
// in it.
type Folder struct {
	root *os.Root
	path string
}

// Open opens the folder of a project. If there is none the error is fs.ErrNotExist; if it
// cannot be trusted it is an Untrusted.
func Open(project string) (*Folder, error) {
	path := filepath.Join(project, Name)
	info, err := os.Lstat(path)
	if err != nil {
		return nil, err
	}
	if !info.IsDir() {
		return nil, &Untrusted{path, "it is " + kind(info) + ", not a folder"}
	}
	root, err := os.OpenRoot(path)
	if err != nil {
		return nil, err
	}
	f := &Folder{root, path}
	if err := f.trust(project); err != nil {
		return nil, errors.Join(err, root.Close())
	}
	return f, nil
}

// Make opens the folder of a project, and makes it if there is none. It ignores itself.
func Make(project string) (*Folder, error) {
	f, err := Open(project)
	if errors.Is(err, fs.ErrNotExist) {
		if err = establish(project); err == nil {
			f, err = Open(project)
		}
	}
	if err == nil && !f.Has(ignore) {
		err = f.Write(ignore, []byte("*\n"))
	}
	return f, err
}

const ignore = ".gitignore"

// establish makes the folder under another name first: whoever finds it finds it whole.
func establish(project string) error {
	temp, err := os.MkdirTemp(project, Name+"-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(temp)
	root, err := os.OpenRoot(temp)
	if err != nil {
		return err
	}
	defer root.Close()
	f := &Folder{root, temp}
	if err := errors.Join(f.Write(ignore, []byte("*\n")), f.mark(), os.Chmod(temp, 0o777&^atomic.Umask())); err != nil {
		return err
	}
	err = os.Rename(temp, filepath.Join(project, Name))
	if errors.Is(err, fs.ErrExist) {
		return nil // another Thrush was quicker
	}
	return err
}

// Folder opens a folder in this one, and makes it if there is none. A link is none.
func (f *Folder) Folder(name string) (*Folder, error) {
	if err := f.root.Mkdir(name, 0o777); err != nil && !errors.Is(err, fs.ErrExist) {
		return nil, err
	}
	return f.Existing(name)
}

// Existing opens a folder in this one. If there is none the error is fs.ErrNotExist.
func (f *Folder) Existing(name string) (*Folder, error) {
	info, err := f.root.Lstat(name)
	if err != nil {
		return nil, err
	}
	if !info.IsDir() {
		return nil, &Untrusted{f.Path(name), "it is " + kind(info) + ", not a folder"}
	}
	root, err := f.root.OpenRoot(name)
	if err != nil {
		return nil, err
	}
	return &Folder{root, f.Path(name)}, nil
}

// Gone tells whether the folder is no longer where it was: the command that is recorded may
// clean up.
func (f *Folder) Gone() bool {
	at, err := os.Lstat(f.path)
	if err != nil {
		return true
	}
	own, err := f.root.Stat(".")
	return err != nil || !os.SameFile(at, own)
}

// Close closes the folder; nothing more can be done in it.
func (f *Folder) Close() { _ = f.root.Close() }

// Root is the opened folder, for those who keep whole trees in it.
func (f *Folder) Root() *os.Root { return f.root }

// Path is where the folder is, or what lies in it: for messages, and for others who can only
// be told a path, such as compilers and the programs that are tested.
func (f *Folder) Path(names ...string) string {
	return filepath.Join(append([]string{f.path}, names...)...)
}

// Read gives the content of a file.
func (f *Folder) Read(name string) ([]byte, error) { return f.root.ReadFile(name) }

// Has tells whether there is something of a name.
func (f *Folder) Has(name string) bool {
	_, err := f.root.Lstat(name)
	return err == nil
}

// Link gives where a link leads; ok is false if there is none of that name.
func (f *Folder) Link(name string) (to string, ok bool) {
	to, err := f.root.Readlink(name)
	return to, err == nil
}

// List gives what lies in the folder, in the order of names.
func (f *Folder) List() ([]fs.DirEntry, error) { return fs.ReadDir(f.root.FS(), ".") }

// Remove removes a file, or an empty folder.
func (f *Folder) Remove(name string) error { return f.root.Remove(name) }

// Write writes a file whole or not at all: under another name first, synced, then renamed.
func (f *Folder) Write(name string, data []byte) error {
	return atomic.WriteIn(f.root, name, data, true)
}

// Replace writes a file whole or not at all, unless the machine fails meanwhile: what reads
// it must be able to tell.
func (f *Folder) Replace(name string, data []byte) error {
	return atomic.WriteIn(f.root, name, data, false)
}

// Add writes a file whose name stands for its content, without waiting for the disk: what a
// cache holds can be made again. Nobody reads the file before this has returned, unless it
// was there already; then it is replaced in one step.
func (f *Folder) Add(name string, data []byte) error {
	file, err := f.root.OpenFile(name, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o666)
	if err == nil {
		_, err = file.Write(data)
		return errors.Join(err, file.Close())
	}
	if !errors.Is(err, fs.ErrExist) {
		return err
	}
	return f.Replace(name, data)
}

// kind says in words what something is that is no folder.
func kind(info fs.FileInfo) string {
	if info.Mode()&fs.ModeSymlink != 0 {
		return "a symbolic link"
	}
	return "a file"
}

// Untrusted says that what lies in .thrush is not to be used.
type Untrusted struct{ Path, Why string }

func (e *Untrusted) Error() string {
	return fmt.Sprintf("%s is not used: %s. Only what Thrush made here can be trusted: remove it and record again", e.Path, e.Why)
}

// ExitStatus is the one for no usable data.
func (e *Untrusted) ExitStatus() int { return exit.NoData }
