package cli

import (
	"context"
	"os"
	"path/filepath"
	"time"

	"thrush/internal/history"
	"thrush/internal/project"
	"thrush/internal/recording"
	"thrush/internal/report/words"
)

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
		return usage("--beyond is %d; it must be at least 1", f.beyond)
	case len(names) == 0 && old == 0 && f.beyond == 0:
		return usage("say what to drop: recordings by name, --older 90d, or --beyond 50")
	case len(names) > 0 && (old > 0 || f.beyond > 0):
		return usage("give names, or --older and --beyond, not both")
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
	list := p.Aged(all, f.beyond, old, time.Now())
	if len(names) > 0 {
		if list, err = a.recordings(p, names); err != nil {
			return err
		}
		for _, path := range list {
			if filepath.Dir(path) != p.Dir("recordings") {
				return usage("%s is not one of those kept here; remove the file yourself", words.Safe(shortest(a.dir, path)))
			}
		}
	}
	for _, path := range list {
		if err := p.Drop(path); err != nil {
			return err
		}
	}
	a.say("dropped %s", words.Plural(len(list), "recording", "recordings"))
	return nil
}

func (a *app) dropStored(ctx context.Context, p *project.Project, f dropFlags, names []string, old int) error {
	store, err := a.openStore(ctx, p, f.store, false)
	if err != nil {
		return err
	}
	if store == nil {
		return noData("there is no history store here yet; thrush push makes it")
	}
	defer store.Close()
	list, err := store.List(ctx, history.Query{Project: p.Config.Name, IDs: names, Branch: f.branch, Label: f.label})
	if err != nil {
		return storeProblem(err)
	}
	var ids []string
	for i, e := range list {
		if len(names) > 0 || f.beyond > 0 && i >= f.beyond || old > 0 && time.Since(madeAt(e.Info)) > time.Duration(old)*24*time.Hour {
			ids = append(ids, e.Identity)
		}
	}
	if len(names) > 0 && len(ids) < len(names) {
		return noData("not all of these are in the history store; thrush log --stored lists them")
	}
	if err := store.Drop(ctx, p.Config.Name, ids); err != nil {
		return storeProblem(err)
	}
	a.say("dropped %s from %s", words.Plural(len(ids), "recording", "recordings"), store.Name)
	return nil
}

func madeAt(i recording.Info) time.Time {
	t, err := time.Parse(time.RFC3339, i.When)
	if err != nil {
		return time.Now()
	}
	return t
}

// takeIn copies a recording among those kept here, unless it is there, and gives its
// path there.
func (a *app) takeIn(p *project.Project, path string) (string, error) {
	data, err := os.ReadFile(path)
	if err != nil {
		return "", noData("%s cannot be read: %s", path, err)
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
	return p.Keep(whenOf(rec.Info), rec.ID, data)
}
