package launch

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
)

const (
	adopted   = "adopted" // folder, in that of a run, of what strays reported
	ambiguous = ".ambiguous"
)

// Adopt lets programs report that the command starts without the environment that
// would tell them where to: they look for a folder whose name was woven into them,
// home, which is made to lead into the folder of the run. Where home is there
// already, for programs that are run by hand, nothing is done. release ends it.
//
// While two commands run at once nobody can tell whose such a program was, so
// their counts are left out.
func Adopt(home, run string) (release func(), err error) {
	none := func() {}
	to := filepath.Join(run, adopted)
	if err := os.Mkdir(to, 0o777); err != nil {
		return none, err
	}
	for range 2 {
		if err = os.Symlink(to, home); err == nil {
			return func() {
				if at, _ := os.Readlink(home); at == to {
					_ = os.Remove(home)
				}
			}, nil
		}
		if !errors.Is(err, fs.ErrExist) {
			return none, err
		}
		other, err := os.Readlink(home)
		if err != nil {
			return none, nil
		}
		if owned(filepath.Base(filepath.Dir(other))) {
			return none, os.WriteFile(filepath.Join(other, ambiguous), nil, 0o666)
		}
		_ = os.Remove(home) // of a Thrush that is gone
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
