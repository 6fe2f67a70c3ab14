package launch

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"unicode/utf8"

	"thrush/internal/home"
	"thrush/internal/lang/cfamily"
	"thrush/internal/lang/cfamily/wrapper"
	"thrush/internal/project"
	"thrush/internal/recording"
)

// native are the sources of C and C++. They are woven when they are compiled.
type native struct {
	files []project.SourceFile
	store *home.Folder // of site tables
	// cgo are the folders whose C sources the go command builds.
	cgo map[string]bool
	// compiled is how many units of the project's were compiled, and loaded how many
	// files were in a program that ran.
	compiled, loaded int
	// known are the units that were found to be of the sources as they are.
	known []string
	why   string // why none of them can be woven, or empty
}

// add takes a file over if it is one of C or C++.
func (n *native) add(f project.SourceFile) bool {
	if !cfamily.IsSource(f.Path) {
		return false
	}
	n.files = append(n.files, f)
	return true
}

// front puts stand-ins for compilers in front of the build.
func (n *native) front(p *Prepared) error {
	if len(n.files) == 0 {
		return nil
	}
	if n.why = p.unlistable(); n.why != "" {
		p.Obstacle = n.why
		return nil
	}
	bin, err := p.Project.Folder("standin")
	if err != nil {
		return err
	}
	path, err := bin.Folder("path")
	if err != nil {
		return err
	}
	if n.store, err = p.woven.Folder("units"); err != nil {
		return err
	}
	self, err := os.Executable()
	if err != nil {
		return err
	}
	for _, name := range []string{"cc1", "cc1plus"} {
		if err := linked(bin, name, self); err != nil {
			return fmt.Errorf("cannot put a stand-in for the compiler in place: %w", err)
		}
	}
	names := wrapper.Whole(os.Getenv("PATH"))
	for _, name := range names {
		if err := linked(path, name, self); err != nil {
			return fmt.Errorf("cannot put a stand-in for %s in place: %w", name, err)
		}
	}
	before := os.Getenv("COMPILER_PATH")
	plan := &wrapper.Plan{
		Roots: p.everywhere(), Level: p.Options.Level, Keep: p.Options.Keep, Home: p.Project.Dir("pending"),
		Store: n.store.Path(), Bin: bin.Path(), Path: before,
	}
	for _, f := range n.files {
		if f.Err == nil && utf8.ValidString(f.Path) && !n.cgo[filepath.ToSlash(filepath.Dir(f.Path))] {
			plan.Files = append(plan.Files, f.Path)
		}
	}
	name := "plan-" + p.key()
	text, err := plan.Encode()
	if err != nil {
		return err
	}
	if err := bin.Replace(name, text); err != nil {
		return err
	}
	if len(names) > 0 {
		p.ahead = append(p.ahead, path.Path())
	}
	search := bin.Path()
	if before != "" {
		search += string(os.PathListSeparator) + before
	}
	// What is kept of a compilation, to be used again, must not be woven.
	p.Env = append(p.Env, "COMPILER_PATH="+search, wrapper.PlanVariable+"="+bin.Path(name), "CCACHE_DISABLE=1")
	return nil
}

// Native tells whether there are sources that are woven when they are compiled.
func (p *Prepared) Native() bool { return len(p.native.files) > 0 }

// NothingCompiled tells whether there are sources of C or C++, none of which was
// compiled, and none of which was in a program that ran.
func (p *Prepared) NothingCompiled() bool {
	return p.native.why == "" && slices.ContainsFunc(p.native.files, p.native.isBuilt) && p.native.compiled == 0 && p.native.loaded == 0
}

// isBuilt tells whether a file is compiled by a compiler that is stood in for, and not by
// the go command.
func (n *native) isBuilt(f project.SourceFile) bool {
	return !n.cgo[filepath.ToSlash(filepath.Dir(f.Path))] && !cfamily.IsOnlyRead(f.Path)
}

// linked has a name lead to a program.
func linked(dir *home.Folder, name, program string) error {
	if at, ok := dir.Link(name); ok && at == program {
		return nil
	}
	temp := fmt.Sprintf("%s.%d", name, os.Getpid())
	if err := dir.Root().Symlink(program, temp); err != nil {
		return err
	}
	return dir.Root().Rename(temp, name)
}

func (p *Prepared) unmeasured(path, why string) {
	p.Unmeasured = append(p.Unmeasured, recording.Unmeasured{Path: path, Reason: why})
}
