package cli

import (
	"math"
	"slices"

	"github.com/spf13/cobra"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
	"thrush/internal/core/site"
	"thrush/internal/exit"
	"thrush/internal/reading"
	"thrush/internal/report/documents"
	"thrush/internal/report/prose"
)

func (a *app) gapsCommand() *cobra.Command {
	var filter, label, format string
	var most int
	var hot, conditions, all bool
	c := &cobra.Command{
		Use:   "gaps [RECORDING...]",
		Short: "What to test next, the most valuable first",
		Long: `Lists what did not run, by what a test of it would add: functions that were
not called, decisions that did not go one way, stretches not reached, and,
recorded with --level conditions, operands that did not decide the outcome on their own.
--hot turns it round: what runs most.`,
		RunE: func(c *cobra.Command, args []string) error {
			if err := atLeast("most", most, 1); err != nil {
				return err
			}
			if all {
				most = math.MaxInt
			}
			r, files, err := a.files(args, filter, label)
			if err != nil {
				return err
			}
			if err := a.hasData(r, len(files)); err != nil {
				return err
			}
			if hot {
				list := gaps.Hottest(files)
				list = list[:min(most, len(list))]
				if format == "json" {
					return a.printJSON(documents.Hot(list))
				}
				a.out.Hot(list, r.Lines())
				return nil
			}
			list, idle := gaps.Find(files), 0
			if conditions {
				if err := needsConditions(r); err != nil {
					return err
				}
				before := len(list)
				list = slices.DeleteFunc(list, func(g gaps.Gap) bool {
					return g.Kind != gaps.Condition && (g.Kind != gaps.Outcome || g.Operands != 1)
				})
				idle = before - len(list)
			}
			shown := list[:min(most, len(list))]
			if format == "json" {
				return a.printJSON(documents.Gaps(shown, len(list)))
			}
			a.out.Gaps(shown, len(list)-len(shown), prose.Nothing(shallowest(files), conditions, idle), r.Lines())
			return nil
		},
	}
	c.Flags().StringVar(&filter, "filter", "", "only files that match this `glob`")
	labelFlag(c, &label)
	c.Flags().IntVar(&most, "most", 10, "how many to list")
	c.Flags().BoolVar(&all, "all", false, "list all of them")
	c.Flags().BoolVar(&conditions, "conditions", false, "only conditions not shown to decide the outcome, with the values a test needs")
	c.Flags().BoolVar(&hot, "hot", false, "what runs most instead")
	formatFlag(c, &format)
	return c
}

// needsConditions refuses a recording that says nothing of conditions.
func needsConditions(r *reading.Reader) error {
	if level := r.Recording.Info.Level; level != site.Conditions.String() {
		return exit.NoDataf("the recording was made at level %s, which says nothing of conditions; record with --level conditions", level)
	}
	return nil
}

// shallowest is the level at which all of the files were looked at.
func shallowest(files []*coverage.File) site.Level {
	level := site.Conditions
	for _, f := range files {
		level = min(level, f.Level)
	}
	return level
}
