package cli

import (
	"context"
	"math"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"thrush/internal/exit"
	"thrush/internal/history"
	"thrush/internal/project"
	"thrush/internal/reading"
	"thrush/internal/report/documents"
)

type logFlags struct {
	format, branch, label string
	most                  int
	trend, stored, all    bool
	store                 storeFlag
}

func (a *app) logCommand() *cobra.Command {
	var f logFlags
	c := &cobra.Command{
		Use:   "log",
		Short: "The recordings kept here, or in the history store, the newest first",
		Long: `Lists the recordings kept here, the newest first: when each was made, with which
label, of which commit, by which command. --stored lists those of the history store
instead. --trend draws how the totals went.`,
		Args: noWords,
		RunE: func(c *cobra.Command, args []string) error { return a.log(c.Context(), f) },
	}
	c.Flags().IntVar(&f.most, "most", 20, "how many to list")
	c.Flags().BoolVar(&f.all, "all", false, "list all of them")
	c.Flags().StringVarP(&f.label, "label", "l", "", "only those with this label")
	c.Flags().StringVar(&f.branch, "branch", "", "only those of this branch")
	c.Flags().BoolVar(&f.trend, "trend", false, "draw how lines and branches went, the oldest first")
	c.Flags().BoolVar(&f.stored, "stored", false, "list those of the history store")
	f.store.flag(c)
	formatFlag(c, &f.format)
	return c
}

func (a *app) log(ctx context.Context, f logFlags) error {
	if err := atLeast("most", f.most, 1); err != nil {
		return err
	}
	if f.all {
		f.most = math.MaxInt
	}
	p, err := a.project()
	if err != nil {
		return err
	}
	list, total, err := a.listed(ctx, p, f)
	if err != nil {
		return err
	}
	if len(list) == 0 && f.format == "text" {
		if total == 0 && !f.stored && f.branch == "" && f.label == "" {
			return exit.NoDataf("nothing has been recorded in %s yet; run your tests as: thrush record -- go test ./...", p.Root)
		}
		var of []string
		if f.branch != "" {
			of = append(of, "branch "+f.branch)
		}
		if f.label != "" {
			of = append(of, "label "+f.label)
		}
		return exit.NoDataf("there is no recording with %s; thrush log lists all there are", strings.Join(of, " and "))
	}
	switch {
	case f.format == "json":
		return a.printJSON(documents.Log(list))
	case f.trend:
		series := alike(list)
		a.out.Trend(series, len(list)-len(series))
	default:
		a.out.Log(list, total-len(list))
	}
	return nil
}

// alike gives the recordings that can be seen as a series with the newest, the oldest
// first: those with the same labels in which something ran.
func alike(list []reading.Kept) []reading.Kept {
	var out []reading.Kept
	for _, k := range list {
		if k.Problem == "" && k.Info.Processes > 0 && k.Info.Totals != nil && (len(out) == 0 || slices.Equal(k.Info.Labels, out[0].Info.Labels)) {
			out = append(out, k)
		}
	}
	slices.Reverse(out)
	return out
}

// listed gives the recordings that are asked for, and how many there are in all.
func (a *app) listed(ctx context.Context, p *project.Project, f logFlags) (list []reading.Kept, total int, err error) {
	if f.stored || f.store != "" {
		store, err := a.existingStore(ctx, p, f.store)
		if err != nil {
			return nil, 0, err
		}
		defer store.Close()
		entries, err := store.List(ctx, history.Query{Project: p.Config.Name, Branch: f.branch, Label: f.label})
		if err != nil {
			return nil, 0, unusable(err)
		}
		for _, e := range entries[:min(f.most, len(entries))] {
			k := reading.Kept{ID: e.ID(), Identity: e.Identity, Info: e.Info, Problem: e.Problem}
			if k.Info.Branch = e.Branch; e.Info.Totals != nil {
				k.Totals = *e.Info.Totals
			}
			list = append(list, k)
		}
		return list, len(entries), nil
	}
	kept, err := p.Recordings()
	if err != nil {
		return nil, 0, err
	}
	for _, path := range kept {
		if f.label == "" && f.branch == "" && len(list) == f.most { // no need to look into it
			total++
			continue
		}
		k := reading.Describe(path, recordingID(path))
		if k.Problem == "" && (f.label != "" && !slices.Contains(k.Info.Labels, f.label) || f.branch != "" && k.Info.Branch != f.branch) {
			continue
		}
		if total++; len(list) < f.most {
			k.Pinned = p.Pinned(path)
			list = append(list, k)
		}
	}
	return list, total, nil
}
