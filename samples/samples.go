// Package samples carries the sample projects of Skerry Ferries, a made-up ferry line
// between made-up islands.
package samples

import (
	"embed"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
)

//go:embed all:_skerry all:_loading all:_timetable all:_booking all:_fares
var files embed.FS

// The stages in which the sample in Go grows, and those in other languages.
const (
	Base      = "_skerry/base"    // the project
	Change    = "_skerry/change"  // a change to it: fees by tide, without a test
	Test      = "_skerry/test"    // the test that was missing
	Loading   = "_loading/base"   // loading plans, in C with a little C++
	Timetable = "_timetable/base" // timetables, in Python
	Fares     = "_fares/base"     // fares, in Java
	Booking   = "_booking/base"   // booking rules in TypeScript, with a page
)

// Write puts the files of a stage into a folder, over those of earlier stages.
func Write(stage, dir string) error {
	sub, err := fs.Sub(files, stage)
	if err != nil {
		return err
	}
	return fs.WalkDir(sub, ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		text, err := fs.ReadFile(sub, path)
		if err != nil {
			return err
		}
		// A go.mod would keep the folder from being embedded.
		to := filepath.Join(dir, filepath.FromSlash(strings.TrimSuffix(path, ".txt")))
		if err := os.MkdirAll(filepath.Dir(to), 0o777); err != nil {
			return err
		}
		return os.WriteFile(to, text, 0o666)
	})
}
