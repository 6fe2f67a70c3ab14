package cli

import (
	"errors"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"thrush/internal/exit"
	"thrush/internal/merging"
	"thrush/internal/reading"
	"thrush/internal/recording"
	"thrush/internal/report/prose"
)

func (a *app) mergeCommand() *cobra.Command {
	var out string
	var carry bool
	c := &cobra.Command{
		Use:   "merge [-o FILE] RECORDING...",
		Short: "Make one recording of many",
		Long: `Makes one recording of many: of suites that run apart, of shards, of several
machines. Counts are added up, and each line still knows by which labels it was
reached. Recordings are files, folders, globs, short names from thrush log, or -
for names on standard input, one a line. Their order does not matter, and one that
is given twice, or is in another already, counts once.

The result is kept here like any recording; -o writes it to a file instead.

Recordings of different versions of a file are refused, unless with --carry: then
the counts of older versions follow the statements that are unchanged, by content.
What cannot be told for certain counts as not run.`,
		Example: `  thrush merge -o all.thrush shards/
  thrush merge 3fa9c04e 77b0e1d2
  find . -name '*.thrush' | thrush merge -o all.thrush -`,
		Args: between(1, -1, "recordings to merge"),
		RunE: func(c *cobra.Command, args []string) error { return a.merge(args, out, carry) },
	}
	c.Flags().StringVarP(&out, "out", "o", "", "write the result to this `file`")
	c.Flags().BoolVar(&carry, "carry", false, "take recordings of older versions too: counts follow what is unchanged")
	return c
}

func (a *app) merge(names []string, out string, carry bool) error {
	p, paths, err := a.named(names)
	if err != nil {
		return err
	}
	inputs, err := merging.Files(paths)
	if err != nil {
		return unusable(err)
	}
	opt := merging.Options{Carry: carry}
	if carry {
		opt.Gone = func(path string) bool {
			_, err := os.Lstat(filepath.Join(p.Root, filepath.FromSlash(path)))
			return errors.Is(err, os.ErrNotExist)
		}
	}
	merged, err := merging.Merge(inputs, opt)
	if err != nil {
		return unusable(err)
	}
	for _, s := range merged.Same {
		a.say("%s adds nothing: all that is in it is in another one too", shortest(a.dir, s))
	}
	if merged.Carried > 0 {
		lost := "all that ran is still there"
		if merged.Lost > 0 {
			lost = prose.Plural(merged.Lost, "statement", "statements") + " that ran had changed, and count as not run"
		}
		a.say("carried the counts of %s to a newer version: %s", prose.Plural(merged.Carried, "file", "files"), lost)
	}
	if len(merged.Left) > 0 {
		a.say("left out %s that the project no longer has", prose.Plural(len(merged.Left), "file", "files"))
	}
	totals, err := (&reading.Reader{Project: p, Today: time.Now()}).Totals(merged.Files)
	if err != nil {
		return err
	}
	merged.Info.Totals = &totals
	data, err := merged.Data()
	if err != nil {
		return err
	}
	rec, err := recording.Decode("the merged recording", data)
	if err != nil {
		return err
	}
	if out != "" {
		rec.Path = a.path(out)
		if err := a.put(out, data); err != nil {
			return err
		}
	} else if rec.Path, err = p.Keep(rec.ID, data); err != nil {
		return exit.Usagef("the recording cannot be kept: %w", err)
	}
	return a.summary(p, rec)
}
