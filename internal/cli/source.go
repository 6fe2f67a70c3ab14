package cli

import (
	"fmt"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"thrush/internal/core/changed"
	"thrush/internal/exit"
	"thrush/internal/project"
	"thrush/internal/reading"
	"thrush/internal/report/documents"
	"thrush/internal/report/term"
)

type sourceFlags struct {
	recording, lines, since, label, format string
	gaps, conditions                       bool
	around                                 int
}

func (a *app) sourceCommand() *cobra.Command {
	var f sourceFlags
	c := &cobra.Command{
		Use:   "source FILE|GLOB...",
		Short: "Source with what ran beside each line",
		Long: `Prints source files with the count, the state and notes in words beside each line.

Where the output is no terminal, each line begins with the state of the line:
full, part, none, waived, or - where nothing is measured. So
  thrush source 'fare/**' | grep '^none'
lists all lines that did not run, with their file and number.`,
		Args: between(1, -1, "files to show"),
		RunE: func(c *cobra.Command, args []string) error { return a.source(f, args) },
	}
	c.Flags().StringVar(&f.recording, "recording", "", "another `recording` than the latest: a file or a short name")
	c.Flags().StringVar(&f.lines, "lines", "", "only these lines, as `FROM-TO`")
	c.Flags().BoolVar(&f.gaps, "gaps", false, "only what did not run, with a few lines around it")
	c.Flags().BoolVar(&f.conditions, "conditions", false, "below each decision its conditions, the ways through it, and which show what")
	c.Flags().IntVar(&f.around, "around", 2, "how many lines around, with --gaps")
	labelFlag(c, &f.label)
	c.Flags().StringVar(&f.since, "since", "", "mark the lines changed since this git `ref`")
	formatFlag(c, &f.format)
	return c
}

func (a *app) source(f sourceFlags, args []string) error {
	from, to, err := lineRange(f.lines)
	if err != nil {
		return err
	}
	r, err := a.reader(f.recording)
	if err != nil {
		return err
	}
	if err := onlyBy(r, f.label); err != nil {
		return err
	}
	if f.conditions {
		if err := needsConditions(r); err != nil {
			return err
		}
	}
	lines := map[string]span{}
	paths := map[string]bool{}
	for _, word := range args {
		word, s, err := a.placed(word)
		if err != nil {
			return err
		}
		found, err := a.match(r, []string{word})
		if err != nil {
			return err
		}
		for path := range found {
			paths[path] = true
			if s.from > 0 {
				lines[path] = s
			}
		}
	}
	if err := a.hasData(r, r.Recording.Len()); err != nil {
		return err
	}
	var set changed.Set
	if f.since != "" {
		if set, _, err = changedSince(r.Project, f.since); err != nil {
			return err
		}
	}
	files, err := r.Files(func(p string) bool { return paths[p] })
	if err != nil {
		return err
	}
	if f.format == "json" {
		return a.printJSON(documents.Coverage(files, r.Recording.Info))
	}
	for i, file := range files {
		text, same, err := r.Source(file.Path)
		if err != nil {
			return exit.NoDataf("%s cannot be read any more: %w", file.Path, err)
		}
		if !same {
			return exit.NoDataf("%s has changed since it was recorded, so the counts do not belong to its lines; record again", file.Path)
		}
		if i > 0 && a.out.Terminal {
			fmt.Fprintln(a.out)
		}
		from, to := from, to
		if s := lines[file.Path]; s.from > 0 && from == 0 {
			from, to = s.from, s.to
		}
		if from > file.LineCount {
			return exit.Usagef("%s has %d lines; there is no line %d", file.Path, file.LineCount, from)
		}
		opt := term.SourceOptions{From: from, To: to, Gaps: f.gaps, Around: f.around, Tables: f.conditions}
		if lines := set[file.Path]; lines != nil {
			opt.Changed = lines.Has
		}
		a.out.Source(file, string(text), opt)
	}
	return nil
}

func lineRange(s string) (from, to int, err error) {
	if s == "" {
		return 0, 0, nil
	}
	a, b, ranged := strings.Cut(s, "-")
	from, err = strconv.Atoi(a)
	to = from
	if err == nil && ranged {
		to, err = strconv.Atoi(b)
	}
	if err != nil || from < 1 || to < from {
		return 0, 0, exit.Usagef("--lines is %q; give it as in 10-20", s)
	}
	return from, to, nil
}

// match finds the recorded files that words name: a path from where Thrush was
// started, a path from the root, a folder, or a glob.
func (a *app) match(r *reading.Reader, words []string) (map[string]bool, error) {
	out := map[string]bool{}
	for _, w := range words {
		found := false
		patterns := []string{filepath.ToSlash(filepath.Clean(w))}
		if rel, err := r.Project.Rel(filepath.Join(a.dir, w)); err == nil && !filepath.IsAbs(w) {
			patterns = append(patterns, rel)
		} else if rel, err := r.Project.Rel(w); err == nil {
			patterns = append(patterns, rel)
		}
		for i := range r.Recording.Len() {
			name := r.Recording.Name(i)
			for _, p := range patterns {
				if name == p || p == "." || project.CheckGlob(p) == nil && project.MatchAny([]string{p}, name) {
					out[name], found = true, true
				}
			}
		}
		if !found {
			return nil, exit.NoDataf("%s", a.whyNot(r, w))
		}
	}
	return out, nil
}

// whyNot says why a file is not in a recording.
func (a *app) whyNot(r *reading.Reader, word string) string {
	rel := filepath.ToSlash(filepath.Clean(word))
	if under, err := r.Project.Rel(filepath.Join(a.dir, word)); err == nil && !filepath.IsAbs(word) {
		rel = under
	}
	for _, u := range r.Recording.Info.Unmeasured {
		if u.Path == rel {
			return fmt.Sprintf("%s is unmeasured: %s", rel, u.Reason)
		}
	}
	return fmt.Sprintf("%s is not in the recording: test code, generated or vendored code and what only and skip leave out are not, and neither are files that came later", word)
}
