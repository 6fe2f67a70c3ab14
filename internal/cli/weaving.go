package cli

import (
	"fmt"
	"os"
	"path/filepath"
	"strconv"

	"github.com/spf13/cobra"

	"thrush/internal/launch"
	"thrush/internal/project"
	"thrush/internal/version"
)

// weaving are the flags that say how to weave.
type weaving struct {
	level, keep string
	only, skip  []string
	place       launch.Place
}

func (w *weaving) flags(c *cobra.Command) {
	c.Flags().StringVar(&w.level, "level", "", "how deep to look: lines, branches or conditions (default branches)")
	c.Flags().StringVar(&w.keep, "keep", "", "what to keep: counts, or hits, which is faster (default counts)")
	completes(c, "level", "lines", "branches", "conditions")
	completes(c, "keep", "counts", "hits")
	c.Flags().StringSliceVar(&w.only, "only", nil, "measure only files that match this `glob` (repeatable)")
	c.Flags().StringSliceVar(&w.skip, "skip", nil, "leave out files that match this `glob` (repeatable)")
}

// placeFlag is the flag that says where the command runs.
func (w *weaving) placeFlag(c *cobra.Command) {
	c.Flags().BoolFunc("in-copy", "run the command in a copy of the project under .thrush/, for tools that read sources by themselves (it is where Java is built; =false keeps it out of there)", func(s string) error {
		yes, err := strconv.ParseBool(s)
		w.place = launch.InProject
		if yes {
			w.place = launch.InCopy
		}
		return err
	})
}

func (w *weaving) options(c *project.Config) (o launch.Options, err error) {
	o = launch.Options{Level: c.Level, Keep: c.Keep, Only: c.Only, Skip: c.Skip, Place: w.place, Version: version.Build()}
	if w.level != "" {
		if o.Level, err = project.ParseLevel(w.level); err != nil {
			return o, fmt.Errorf("--level %w", err)
		}
	}
	if w.keep != "" {
		if o.Keep, err = project.ParseKeep(w.keep); err != nil {
			return o, fmt.Errorf("--keep %w", err)
		}
	}
	if w.only != nil {
		o.Only = w.only
	}
	o.Skip = append(o.Skip[:len(o.Skip):len(o.Skip)], w.skip...)
	for _, g := range append(w.only, w.skip...) {
		if err := project.CheckGlob(g); err != nil {
			return o, err
		}
	}
	return o, nil
}

// anew names, for the build systems that a project has, how everything is built anew.
func anew(root string) string {
	has := func(name string) bool {
		_, err := os.Stat(filepath.Join(root, name))
		return err == nil
	}
	switch {
	case has("CMakeLists.txt"):
		return "cmake --build DIR --clean-first, say"
	case has("meson.build"):
		return "meson compile -C DIR --clean, say"
	}
	return "make clean first, say"
}
