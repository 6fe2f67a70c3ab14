package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"thrush/internal/core/coverage"
	"thrush/internal/exit"
	"thrush/internal/reading"
	"thrush/internal/report/documents"
)

func (a *app) explainCommand() *cobra.Command {
	var name, format string
	c := &cobra.Command{
		Use:   "explain FILE[:LINE]",
		Short: "Where a number comes from",
		Long: `Shows what a file's or a line's numbers are made of: the statements, functions
and outcomes that count there, how often each ran, which waivers hold, and which
recording says so. For a file that is not measured it says why.`,
		Args: between(1, 1, "file, or line of one"),
		RunE: func(c *cobra.Command, args []string) error {
			return a.explain(args[0], name, format)
		},
	}
	c.Flags().StringVar(&name, "recording", "", "another `recording` than the latest: a file or a short name")
	formatFlag(c, &format)
	return c
}

func (a *app) explain(what, name, format string) error {
	r, err := a.reader(name)
	if err != nil {
		return err
	}
	word, lines, err := a.placed(what)
	if err != nil {
		return err
	}
	paths, err := a.match(r, []string{word})
	if err != nil {
		return err
	}
	if err := a.hasData(r, r.Recording.Len()); err != nil {
		return err
	}
	files, err := r.Files(func(p string) bool { return paths[p] })
	if err != nil {
		return err
	}
	for _, f := range files {
		if lines.to > f.LineCount {
			return exit.Usagef("%s has %d lines", f.Path, f.LineCount)
		}
	}
	if format == "json" {
		d := documents.Coverage(files, r.Recording.Info)
		if lines.from > 0 {
			d.Only(files, lines.from, lines.to)
		}
		return a.printJSON(d)
	}
	for i, f := range files {
		if i > 0 {
			fmt.Fprintln(a.out)
		}
		a.explainFile(r, f, lines)
	}
	return nil
}

func (a *app) explainFile(r *reading.Reader, f *coverage.File, lines span) {
	text, same, err := r.Source(f.Path)
	if err != nil || !same {
		a.warn("%s is no longer the text that was recorded; the numbers are about the text from then", f.Path)
		text = nil
	}
	if lines.from == 0 {
		a.out.ExplainFile(f)
	}
	for line := lines.from; line > 0 && line <= lines.to; line++ {
		if _, code := f.At(line); !code && lines.to > lines.from && line <= f.LineCount {
			continue // of several lines, those that are code
		}
		a.explainLine(f, line, string(text))
	}
	a.out.Origin(r.Recording.Info, r.Recording.ID, f.Loaded)
}

func (a *app) explainLine(f *coverage.File, line int, text string) {
	source := ""
	if lines := strings.Split(text, "\n"); text != "" && line <= len(lines) {
		source = strings.TrimSuffix(lines[line-1], "\r")
	}
	a.out.ExplainLine(f, line, source)
}
