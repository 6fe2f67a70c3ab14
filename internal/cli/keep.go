package cli

import (
	"os"

	"github.com/spf13/cobra"

	"thrush/internal/exit"
	"thrush/internal/project"
	"thrush/internal/recording"
)

func (a *app) keepCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "keep RECORDING...",
		Short: "Take recordings in among those kept here, and spare them when old ones are dropped",
		Long: `Takes recordings from files or folders in among those kept here, so that log,
compare, gate and trends know them. These, and any named by their short name, are
pinned: thrush drop leaves them when it drops old ones.`,
		Example: `  thrush keep main.thrush
  thrush keep 3fa9c04e`,
		Args: between(1, -1, "recordings to keep"),
		RunE: func(c *cobra.Command, args []string) error { return a.keepAll(args) },
	}
}

func (a *app) keepAll(names []string) error {
	p, paths, err := a.named(names)
	if err != nil {
		return err
	}
	for _, path := range paths {
		here, err := a.takeIn(p, path)
		if err == nil {
			err = p.Pin(here)
		}
		if err != nil {
			return err
		}
		a.say("kept %s", recordingID(here))
	}
	return nil
}

// takeIn copies a recording among those kept here, unless it is there, and gives its
// path there.
func (a *app) takeIn(p *project.Project, path string) (string, error) {
	data, err := os.ReadFile(path)
	if err != nil {
		return "", exit.NoDataf("%s cannot be read: %w", path, err)
	}
	rec, err := recording.Decode(path, data)
	if err != nil {
		return "", err
	}
	return a.takeInData(p, rec, data)
}

func (a *app) takeInData(p *project.Project, rec *recording.Recording, data []byte) (string, error) {
	all, err := p.Recordings()
	if err != nil {
		return "", err
	}
	for _, k := range all {
		if recordingID(k) == rec.ID {
			if _, identity, err := recording.Peek(k); err == nil && identity == rec.Identity {
				return k, nil
			}
		}
	}
	return p.TakeIn(rec.ID, data)
}
