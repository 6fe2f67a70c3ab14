package cli

import (
	"time"

	"github.com/spf13/cobra"

	"thrush/internal/reading"
	"thrush/internal/report/facts"
)

func (a *app) logCommand() *cobra.Command {
	var format string
	var most int
	c := &cobra.Command{
		Use:   "log",
		Short: "The recordings kept here, the newest first",
		Args:  cobra.NoArgs,
		RunE: func(c *cobra.Command, args []string) error {
			if err := checkFormat(format); err != nil {
				return err
			}
			p, err := a.project()
			if err != nil {
				return err
			}
			kept, err := p.Recordings()
			if err != nil {
				return err
			}
			if len(kept) == 0 && format == "text" {
				return noData("nothing has been recorded in %s yet; run your tests as: thrush record -- go test ./...", p.Root)
			}
			var list []reading.Kept
			for _, path := range kept[:min(max(most, 0), len(kept))] {
				list = append(list, reading.Describe(p, path, recordingID(path), time.Now()))
			}
			if format == "json" {
				return a.printJSON(facts.Log(list))
			}
			a.out.Log(list, len(kept)-len(list))
			return nil
		},
	}
	c.Flags().IntVar(&most, "most", 20, "how many to list")
	formatFlag(c, &format)
	return c
}
