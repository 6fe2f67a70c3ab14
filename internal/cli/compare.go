package cli

import (
	"math"

	"github.com/spf13/cobra"

	"thrush/internal/core/compare"
	"thrush/internal/core/coverage"
	"thrush/internal/exit"
	"thrush/internal/reading"
	"thrush/internal/report/documents"
)

func (a *app) compareCommand() *cobra.Command {
	var filter, format string
	var most int
	var all bool
	c := &cobra.Command{
		Use:   "compare BEFORE [NOW] [FILE...]",
		Short: "What got covered, lost, added and removed between two recordings",
		Long: `Compares two recordings, the second by default the latest: which lines and
outcomes run now and did not, which ran and do not any more, which are new, and
which are gone. What was lost is told apart by whether the code around it changed
or not: if not, it was the tests. The sources may have changed in between: what is
unchanged is found again by its content.

Each is a file, a short name from thrush log, a branch or commit of which a recording
is kept here, or a folder or glob whose recordings are taken together. Files and
folders of sources leave out all others. thrush render --against draws the same as a page.`,
		Example: `  thrush compare 3fa9c04e
  thrush compare main.thrush branch.thrush --filter 'fare/**'`,
		Args: between(1, -1, "recording to compare with"),
		RunE: func(c *cobra.Command, args []string) error {
			if err := atLeast("most", most, 1); err != nil {
				return err
			}
			if all {
				most = math.MaxInt
			}
			return a.compare(args, filter, format, most)
		},
	}
	c.Flags().StringVar(&filter, "filter", "", "only files that match this `glob`")
	c.Flags().IntVar(&most, "most", 12, "how many lines of each kind to list")
	c.Flags().BoolVar(&all, "all", false, "list all of them")
	formatFlag(c, &format)
	return c
}

func (a *app) compare(names []string, filter, format string, most int) error {
	names, sources := a.divided(names)
	if len(names) == 0 {
		return exit.Usagef("no recording is named to compare with; thrush log lists those kept here")
	}
	was, err := a.reader(names[0])
	if err != nil {
		return err
	}
	now, err := a.reader(names[1:]...)
	if err != nil {
		return err
	}
	keep, err := a.only(now, sources, filter)
	if err != nil {
		return err
	}
	if was.Recording.Identity == now.Recording.Identity {
		return exit.Usagef("%s and %s are the same recording", was.Recording.ID, now.Recording.ID)
	}
	for _, r := range []*reading.Reader{was, now} {
		if err := a.hasData(r, r.Recording.Len()); err != nil {
			a.warn("of recording %s:", r.Recording.ID)
			return err
		}
	}
	d := documents.Compare(was.Recording, now.Recording)
	err = reading.EachPair(now, was, keep, func(p coverage.Pair) (coverage.Pair, error) { return p, nil }, func(p coverage.Pair) error {
		d.Add(p, compare.Files(p.Was, p.Now))
		return nil
	})
	if err != nil {
		return err
	}
	if format == "json" {
		return a.printJSON(d)
	}
	a.out.Compare(d, most, now.Lines())
	return nil
}
