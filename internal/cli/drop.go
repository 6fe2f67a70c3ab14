package cli

import (
	"context"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"thrush/internal/exit"
	"thrush/internal/history"
	"thrush/internal/project"
	"thrush/internal/recording"
	"thrush/internal/report/prose"
)

type dropFlags struct {
	older  string
	beyond int
	stored bool
	store  storeFlag
	branch string
	label  string
}

func (a *app) dropCommand() *cobra.Command {
	var f dropFlags
	c := &cobra.Command{
		Use:   "drop [RECORDING...]",
		Short: "Remove recordings: those named, or the old ones",
		Long: `Removes the recordings that are named, by file or short name, from those kept here;
or old ones: those older than a number of days (--older), or all but the newest
(--beyond). Pinned recordings (thrush keep) are spared then. --stored does the same
in the history store, and also removes site tables that no recording needs any more.`,
		Example: `  thrush drop 3fa9c04e
  thrush drop --older 90d
  thrush drop --stored --branch main --beyond 200`,
		RunE: func(c *cobra.Command, args []string) error { return a.drop(c.Context(), f, args) },
	}
	c.Flags().StringVar(&f.older, "older", "", "recordings that are more than this many `days` old, as in 90d")
	c.Flags().IntVar(&f.beyond, "beyond", 0, "all recordings but this many of the newest")
	c.Flags().BoolVar(&f.stored, "stored", false, "in the history store")
	c.Flags().StringVar(&f.branch, "branch", "", "with --stored: only those of this branch")
	c.Flags().StringVarP(&f.label, "label", "l", "", "with --stored: only those with this label")
	f.store.flag(c)
	return c
}

// days reads a number of days.
func days(flag, text string) (int, error) {
	n, err := strconv.Atoi(strings.TrimSuffix(text, "d"))
	if err != nil || n < 1 {
		return 0, exit.Usagef("--%s is %q; give a number of days, as in 90d", flag, text)
	}
	return n, nil
}

func (a *app) drop(ctx context.Context, f dropFlags, names []string) error {
	old := 0
	if f.older != "" {
		var err error
		if old, err = days("older", f.older); err != nil {
			return err
		}
	}
	switch {
	case f.beyond < 0:
		return exit.Usagef("--beyond is %d; it must be at least 1", f.beyond)
	case len(names) == 0 && old == 0 && f.beyond == 0:
		return exit.Usagef("say what to drop: recordings by name, --older 90d, or --beyond 50")
	case (f.branch != "" || f.label != "") && !f.stored && f.store == "":
		return exit.Usagef("--branch and --label choose recordings of the history store; give --stored too")
	case len(names) > 0 && (old > 0 || f.beyond > 0):
		return exit.Usagef("give names, or --older and --beyond, not both")
	}
	p, err := a.project()
	if err != nil {
		return err
	}
	if f.stored || f.store != "" {
		return a.dropStored(ctx, p, f, names, old)
	}
	all, err := p.Recordings()
	if err != nil {
		return err
	}
	list := p.Aged(all, f.beyond, old, when, time.Now())
	if len(names) > 0 {
		if list, err = a.recordings(p, names); err != nil {
			return err
		}
		for _, path := range list {
			if filepath.Dir(path) != p.Dir("recordings") {
				return exit.Usagef("%s is not one of those kept here; remove the file yourself", shortest(a.dir, path))
			}
		}
	}
	for _, path := range list {
		if err := p.Drop(path); err != nil {
			return err
		}
	}
	a.say("dropped %s", prose.Plural(len(list), "recording", "recordings"))
	return nil
}

func (a *app) dropStored(ctx context.Context, p *project.Project, f dropFlags, names []string, old int) error {
	store, err := a.existingStore(ctx, p, f.store)
	if err != nil {
		return err
	}
	defer store.Close()
	list, err := store.List(ctx, history.Query{Project: p.Config.Name, IDs: names, Branch: f.branch, Label: f.label})
	if err != nil {
		return unusable(err)
	}
	var ids []string
	for i, e := range list {
		if len(names) > 0 || f.beyond > 0 && i >= f.beyond || old > 0 && time.Since(madeAt(e.Info)) > time.Duration(old)*24*time.Hour {
			ids = append(ids, e.Identity)
		}
	}
	if len(names) > 0 && len(ids) < len(names) {
		return exit.NoDataf("not all of these are in the history store; thrush log --stored lists them")
	}
	if err := store.Drop(ctx, p.Config.Name, ids); err != nil {
		return unusable(err)
	}
	a.say("dropped %s from %s", prose.Plural(len(ids), "recording", "recordings"), store.Name)
	return nil
}

// when tells when a kept recording was made, by what it says.
func when(path string) (time.Time, bool) {
	info, _, err := recording.Peek(path)
	if err != nil {
		return time.Time{}, false
	}
	return madeAt(info), true
}

func madeAt(i recording.Info) time.Time {
	t, err := time.Parse(time.RFC3339, i.When)
	if err != nil {
		return time.Now()
	}
	return t
}
