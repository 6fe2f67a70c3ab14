package cli

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"thrush/internal/core/gaps"
	"thrush/internal/exit"
	"thrush/internal/lang"
	"thrush/internal/languages"
	"thrush/internal/project"
	"thrush/internal/report/prose"
)

func (a *app) initCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "init",
		Short: "Look at the project and write a commented thrush.toml",
		Args:  noWords,
		RunE:  func(c *cobra.Command, args []string) error { return a.init() },
	}
}

func (a *app) init() error {
	p, err := a.project()
	if err != nil {
		return err
	}
	if p.Config.File != "" {
		return exit.Usagef("%s is there already; edit it, or remove it first", p.Config.File)
	}
	files, err := p.Scan(languages.Classify, p.Config.Only, p.Config.Skip)
	if err != nil {
		return err
	}
	found := map[*lang.Language]map[project.Class]int{}
	for _, f := range files {
		l := languages.Of(f.Path)
		if found[l] == nil {
			found[l] = map[project.Class]int{}
		}
		found[l][f.Class]++
	}
	var sources []string
	for _, f := range files {
		if f.Class == project.Source {
			sources = append(sources, f.Path)
		}
	}
	asides := gaps.Asides(sources)
	next := ""
	for _, l := range languages.All {
		if n := found[l]; n[project.Source] > 0 {
			if next == "" {
				fmt.Fprintf(a.out, "project  %s\n", prose.Safe(p.Root))
				next = l.Try
			}
			fmt.Fprintf(a.out, "%-7s  %s to measure, %d of tests, %d vendored\n", l.Name, prose.Plural(n[project.Source], "file", "files"), n[project.Test], n[project.Vendored])
		}
	}
	if next == "" {
		return exit.NoDataf("no source file of %s was found under %s", languages.Names(), p.Root)
	}
	file := filepath.Join(p.Root, project.ConfigName)
	f, err := os.OpenFile(file, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o666)
	if err == nil {
		text := strings.Replace(initial, "NAME", fmt.Sprintf("%q", p.Config.Name), 1)
		if len(asides) > 0 {
			text = strings.Replace(text, "skip  = []           # what does not, such as [\"tools/**\"]", "# What does not count. These hold code that tests are seldom about; take the mark away to\n# leave them out:\n# skip = "+skips(asides), 1)
		}
		_, err = f.WriteString(text)
		err = errors.Join(err, f.Close())
	}
	if err != nil {
		return exit.Usagef("%s cannot be written: %w", file, err)
	}
	if len(asides) > 0 {
		fmt.Fprintf(a.out, "aside    %s: code that tests are seldom about. It counts; skip in %s, which is written as a comment, leaves it out\n", prose.Safe(strings.Join(asides, ", ")), project.ConfigName)
	}
	fmt.Fprintf(a.out, "wrote    %s\n", prose.Safe(file))
	fmt.Fprintln(a.out, "next     thrush record -- "+next)
	return nil
}

// skips writes folders as globs, as the configuration has them.
func skips(folders []string) string {
	var globs []string
	for _, f := range folders {
		globs = append(globs, fmt.Sprintf("%q", f+"/**"))
	}
	return "[" + strings.Join(globs, ", ") + "]"
}

const initial = `# What Thrush measures and requires here. docs/configuration.md explains each key.

[project]
name = NAME

[measure]
level = "branches"   # how deep to look: lines | branches | conditions
keep  = "counts"     # counts | hits (only whether something ran; faster)
only  = ["**"]       # what counts, as globs from this folder
skip  = []           # what does not, such as ["tools/**"]

# The lines that a change touches must be tested. Judged by: thrush gate --since main
[[gate]]
name     = "what changed is tested"
on       = "changed"   # changed | all
each     = "whole"     # whole | folder | file | function
lines    = 100
branches = 90

# What is tested must not become less than it was on the main branch (thrush push keeps it):
# [[gate]]
# name = "never backwards"
# hold = ["lines", "branches"]

# Code that is not going to be tested, for a reason and for a time:
# [[waiver]]
# where  = ["fare/legacy.go"]
# reason = "goes away with the 2027 tariff"
# until  = 2027-01-31
`
