// Package samples carries the sample project: Skerry Ferries, a made-up ferry
// line between made-up islands.
package samples

import (
	"embed"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
)

//go:embed all:_skerry
var files embed.FS

// The stages in which the sample grows.
const (
	Base   = "base"   // the project
	Change = "change" // a change to it: fees by tide, without a test
	Test   = "test"   // the test that was missing
)

// Write puts the files of a stage into a folder, over those of earlier stages.
func Write(stage, dir string) error {
	sub, err := fs.Sub(files, "_skerry/"+stage)
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
