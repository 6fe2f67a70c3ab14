package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"thrush/internal/bounded"
	"thrush/internal/exit"
	"thrush/internal/launch"
	"thrush/internal/project"
	"thrush/internal/report/prose"
	"thrush/internal/weave"
)

// planOfCommand shows those who work on Thrush what it does to a file.
func (a *app) planOfCommand() *cobra.Command {
	var level, keep string
	var woven bool
	c := &cobra.Command{
		Use:    "plan-of FILE",
		Short:  "Show where probes stand in a file, or its woven text",
		Hidden: true,
		Args:   between(1, 1, "file"),
		RunE: func(_ *cobra.Command, args []string) error {
			p, err := a.project()
			if err != nil {
				return err
			}
			opt := weave.Options{Level: p.Config.Level, Keep: p.Config.Keep}
			if level != "" {
				opt.Level, _ = project.ParseLevel(level)
			}
			if keep != "" {
				opt.Keep, _ = project.ParseKeep(keep)
			}
			source, err := bounded.Read(a.path(args[0]), bounded.Map)
			if err != nil {
				return exit.Usagef("%s cannot be read: %w", args[0], err)
			}
			plan, text, err := launch.Look(p, args[0], source, opt)
			if err != nil {
				return exit.Usagef("%s cannot be woven: %w", args[0], err)
			}
			if !woven {
				text = []byte(plan.Describe())
			} else if text == nil {
				return exit.Usagef("of C and C++ the woven text is that of a compilation: THRUSH_KEEP_WOVEN=DIR keeps it")
			}
			for _, line := range strings.SplitAfter(string(text), "\n") {
				fmt.Fprint(a.out, prose.Safe(strings.TrimSuffix(line, "\n")), strings.Repeat("\n", strings.Count(line, "\n")))
			}
			return nil
		},
	}
	choose(c, &level, "level", "", "how deep to look", "lines", "branches", "conditions")
	choose(c, &keep, "keep", "", "what to keep", "counts", "hits")
	c.Flags().BoolVar(&woven, "woven", false, "the woven text instead of the plan")
	return c
}
