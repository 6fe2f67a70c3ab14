package cli

import (
	"cmp"
	"context"
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"thrush/internal/exit"
	"thrush/internal/history"
	"thrush/internal/recording"
	"thrush/internal/report/prose"
	"thrush/internal/vcs"
)

func (a *app) pushCommand() *cobra.Command {
	var branch string
	var store storeFlag
	c := &cobra.Command{
		Use:   "push [RECORDING...]",
		Short: "Put recordings into the history store",
		Long: `Puts recordings, the latest by default, into the history store: a file in .thrush,
or the PostgreSQL database of a team (--store, $THRUSH_STORE or history.store).
There they are found by commit, branch and label, by thrush pull and by gates that
hold. Pushing the same again changes nothing; any number may push at once.`,
		Example: `  thrush push
  THRUSH_STORE=postgres://... thrush push --branch main shards/`,
		RunE: func(c *cobra.Command, args []string) error { return a.push(c.Context(), args, branch, store) },
	}
	c.Flags().StringVar(&branch, "branch", "", "the `branch` they are of (default the one that was checked out)")
	store.flag(c)
	return c
}

func (a *app) push(ctx context.Context, names []string, branch string, where storeFlag) error {
	p, err := a.project()
	if err != nil {
		return err
	}
	paths, err := a.chosen(p, names)
	if err != nil {
		return err
	}
	store, err := a.openStore(ctx, p, where, true)
	if err != nil {
		return err
	}
	defer store.Close()
	added := 0
	for _, path := range paths {
		is, err := a.pushOne(ctx, store, p.Config.Name, branch, path)
		if err != nil {
			return err
		}
		if is {
			added++
		}
	}
	there := ""
	if n := len(paths) - added; n > 0 {
		there = fmt.Sprintf("; %d there already", n)
	}
	if !p.Config.Named() {
		a.say("filed under the project %q, the name of the folder; where checkouts have other names, set project.name", p.Config.Name)
	}
	a.say("pushed %s to %s%s", prose.Plural(added, "recording", "recordings"), store.Name, there)
	return nil
}

// pushOne pushes one recording, and says if it will be of less use than one might think.
func (a *app) pushOne(ctx context.Context, store *history.Store, project, branch, path string) (added bool, err error) {
	data, err := os.ReadFile(path)
	if err != nil {
		return false, exit.NoDataf("%s cannot be read: %w", path, err)
	}
	info, _, err := recording.Peek(path)
	if err != nil {
		return false, err
	}
	branch = cmp.Or(branch, info.Branch)
	name := prose.Safe(shortest(a.dir, path))
	switch {
	case info.Commit == "":
		a.warn("%s is of no commit, so no gate will find it as a baseline", name)
	case info.Dirty:
		a.warn("%s was made with changes that were not committed, so no gate will take it as a baseline", name)
	case branch == "":
		a.say("%s is filed under no branch, since a commit alone was checked out; --branch says which it is of", name)
	}
	added, err = store.Push(ctx, project, branch, path, data)
	return added, unusable(err)
}

type pullFlags struct {
	commit, branch, label, to string
	most                      int
	store                     storeFlag
}

func (a *app) pullCommand() *cobra.Command {
	var f pullFlags
	c := &cobra.Command{
		Use:   "pull [RECORDING...] [--commit C] [--branch B] [--label L]",
		Short: "Fetch recordings from the history store",
		Long: `Fetches recordings from the history store, by short name, commit, branch or label,
and keeps them here; --to writes them into a folder instead. Of a branch, all
recordings of its newest commit are fetched, unless --commit or --most says otherwise.`,
		Example: `  thrush pull --commit HEAD --to shards && thrush merge -o all.thrush shards
  thrush pull --branch main --label unit`,
		RunE: func(c *cobra.Command, args []string) error { return a.pull(c.Context(), f, args) },
	}
	c.Flags().StringVar(&f.commit, "commit", "", "those of this `commit`, branch or tag of git")
	c.Flags().StringVar(&f.branch, "branch", "", "those of this `branch`")
	c.Flags().StringVarP(&f.label, "label", "l", "", "those with this `name`")
	c.Flags().IntVar(&f.most, "most", 0, "at most this many, the newest first")
	c.Flags().StringVar(&f.to, "to", "", "write them into this `folder`")
	f.store.flag(c)
	return c
}

func (a *app) pull(ctx context.Context, f pullFlags, names []string) error {
	if err := atLeast("most", f.most, 0); err != nil {
		return err
	}
	if len(names) == 0 && f.commit == "" && f.branch == "" && f.label == "" {
		return exit.Usagef("say what to fetch: recordings by name, --commit, --branch or --label")
	}
	p, err := a.project()
	if err != nil {
		return err
	}
	q := history.Query{Project: p.Config.Name, IDs: names, Branch: f.branch, Label: f.label, Most: f.most}
	if f.commit != "" {
		q.Commits = []string{f.commit}
		if repo, err := vcs.Open(p.Root); err == nil {
			if id, err := repo.Resolve(f.commit); err == nil {
				q.Commits = []string{id}
			}
		}
	}
	store, err := a.existingStore(ctx, p, f.store)
	if err != nil {
		return err
	}
	defer store.Close()
	list, err := store.List(ctx, q)
	if err != nil {
		return unusable(err)
	}
	if len(list) == 0 {
		return exit.NoDataf("the history store %s has no such recording of %s; thrush log --stored lists those it has", store.Name, p.Config.Name)
	}
	if f.branch != "" && f.commit == "" && f.most == 0 {
		newest := list[0].Info.Commit
		n := 0
		for _, e := range list {
			if e.Info.Commit == newest {
				list[n] = e
				n++
			}
		}
		list = list[:n]
	}
	for _, e := range list {
		rec, data, err := store.Pull(ctx, p.Config.Name, e.Identity)
		if err != nil {
			return unusable(err)
		}
		path := ""
		if f.to != "" {
			path = filepath.Join(a.path(f.to), rec.ID+recording.Extension)
			if err := a.put(path, data); err != nil {
				return err
			}
		} else if path, err = a.takeInData(p, rec, data); err != nil {
			return err
		}
		fmt.Fprintln(a.out, prose.Safe(shortest(a.dir, path)))
	}
	a.say("fetched %s from %s", prose.Plural(len(list), "recording", "recordings"), store.Name)
	return nil
}
