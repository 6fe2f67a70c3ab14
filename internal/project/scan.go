package project

import (
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
)

// Class says why a source file counts or does not.
type Class uint8

// The classes of files.
const (
	Ignored  Class = iota // not a source file of any language Thrush knows
	Source                // counts
	Test                  // test code or its data
	Vendored              // somebody else's, or written by a program
	Skipped               // left out by only or skip
)

// SourceFile is a file found in the project.
type SourceFile struct {
	Path  string // from the root, with slashes
	Class Class
	Size  int64
	Mod   int64 // time of the last change, in nanoseconds
	Inode uint64
	// Err says why the file cannot be looked at.
	Err error
}

// Scan finds the project's source files, in order of their paths. classify
// tells the class of a path by the rules of its language; only and skip are
// then applied. Folders whose name begins with a dot are not looked into, nor are
// those of installed packages, nor links to folders.
func (p *Project) Scan(classify func(path string) Class, only, skip []string) ([]SourceFile, error) {
	var out []SourceFile
	// A root that is a link itself is looked into.
	root, err := filepath.EvalSymlinks(p.Root)
	if err != nil {
		return nil, err
	}
	err = filepath.WalkDir(root, func(abs string, d fs.DirEntry, err error) error {
		rel, relErr := filepath.Rel(root, abs)
		if relErr != nil {
			return relErr
		}
		rel = filepath.ToSlash(rel)
		name := filepath.Base(abs)
		if rel != "." && hides(name) {
			if d != nil && d.IsDir() {
				return filepath.SkipDir
			}
			return nil
		}
		if d != nil && d.IsDir() {
			if err != nil && rel != "." {
				out = append(out, SourceFile{Path: rel, Class: Source, Err: err})
				return filepath.SkipDir
			}
			return err
		}
		class := classify(rel)
		if class == Ignored {
			return nil
		}
		f := SourceFile{Path: rel, Class: class, Err: err}
		if class == Source && (!MatchAny(only, rel) || MatchAny(skip, rel)) {
			f.Class = Skipped
		}
		if (f.Class == Source || f.Class == Test) && err == nil {
			info, err := os.Stat(abs)
			switch {
			case err != nil:
				f.Err = err
			case info.IsDir():
				return nil
			case !info.Mode().IsRegular():
				return nil
			default:
				f.Size, f.Mod, f.Inode = info.Size(), info.ModTime().UnixNano(), inode(info)
			}
		}
		out = append(out, f)
		return nil
	})
	slices.SortFunc(out, func(a, b SourceFile) int { return strings.Compare(a.Path, b.Path) })
	return out, err
}

// Hidden tells whether a path lies in a folder that is not looked into.
func Hidden(path string) bool {
	for _, name := range strings.Split(path, "/") {
		if hides(name) {
			return true
		}
	}
	return false
}

func hides(name string) bool {
	return strings.HasPrefix(name, ".") || name == "node_modules" || name == "__pycache__"
}
