package cli

import (
	"os"

	"github.com/spf13/cobra"

	"thrush/internal/exit"
	"thrush/internal/launch"
)

// weaveOutputCommand is what Node calls before it runs what a tool made of sources.
func weaveOutputCommand() *cobra.Command {
	return &cobra.Command{
		Use:    "weave-output",
		Short:  "Weave what a tool made of sources, for Node; the text comes from stdin",
		Hidden: true,
		Args:   noWords,
		RunE: func(*cobra.Command, []string) error {
			if err := launch.WeaveOutput(os.Stdin); err != nil {
				return exit.With(exit.NoData, err)
			}
			return nil
		},
	}
}
