package launch

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"

	"thrush/internal/home"
)

// Pending is the folder in .thrush in which programs report that were built to be run by hand.
const Pending = "pending"

const (
	adopted   = "adopted" // folder, in that of a run, of what strays reported
	ambiguous = ".ambiguous"
)

// Adopt lets programs report that the command starts without the environment that
// would tell them where to: they look for a folder whose name was woven into them,
// Pending in .thrush, which is made to lead into the folder of the run. Where it is there
// already, for programs that are run by hand, nothing is done. release ends it.
//
// While two commands run at once nobody can tell whose such a program was, so
// their counts are left out.
func Adopt(dir *home.Folder, run string) (release func(), err error) {
	none := func() {}
	to := filepath.Join(run, adopted)
	if err := os.Mkdir(to, 0o777); err != nil {
		return none, err
	}
	for range 2 {
		if err = dir.Root().Symlink(to, Pending); err == nil {
			return func() {
				if at, _ := dir.Link(Pending); at == to {
					_ = dir.Remove(Pending)
				}
			}, nil
		}
		if !errors.Is(err, fs.ErrExist) {
			return none, err
		}
		other, ok := dir.Link(Pending)
		if !ok {
			return none, nil
		}
		if filepath.Dir(filepath.Dir(other)) == filepath.Dir(run) && owned(filepath.Base(filepath.Dir(other))) {
			return none, os.WriteFile(filepath.Join(other, ambiguous), nil, 0o666)
		}
		_ = dir.Remove(Pending) // of a Thrush that is gone
	}
	return none, nil
}

// strays gives the folder of a run in which programs without its environment
// reported, or nothing if whose they were cannot be told.
func strays(run string) (dir string, unclear bool) {
	dir = filepath.Join(run, adopted)
	if _, err := os.Lstat(filepath.Join(dir, ambiguous)); err == nil {
		return "", true
	}
	return dir, false
}
