package baseline

import (
	"context"
	"errors"
	"fmt"

	"thrush/internal/core/gate"
	"thrush/internal/core/site"
	"thrush/internal/exit"
	"thrush/internal/history"
	"thrush/internal/reading"
	"thrush/internal/vcs"
)

// mostCommits is how far back a baseline is looked for.
const mostCommits = 500

// Choice says which baseline is wanted. The first of these that is given decides: a recording, a
// branch, the floor file, the nearest commit that the work began from.
type Choice struct {
	Named  *reading.Reader
	Branch string
	Since  string // the ref that the work left, or empty
	// Shown asks for a recording also where no rule holds anything, to show what moved.
	Shown bool
	// Store opens the history store, or gives nil if there is none. It is called only if the store
	// is needed.
	Store func(context.Context) (*history.Store, error)
	// IsSource tells whether a change of a path makes a commit another one.
	IsSource func(path string) bool
}

// Chosen is a baseline.
type Chosen struct {
	Recording *reading.Reader // nil if it is made of floors, or there is none
	Gate      *gate.Baseline  // what rules are told of it; nil if there is none
	Why       string          // there is none, in words; empty if nobody asked
}

// Choose finds what rules that hold are compared with. It is an error if the baseline that was
// named cannot serve, or none can be looked for.
func Choose(ctx context.Context, r *reading.Reader, rules []gate.Rule, c Choice) (Chosen, error) {
	level, holds := Held(rules)
	if c.Named != nil {
		if have, ok := site.LevelOf(c.Named.Recording.Info.Level); holds && (!ok || have < level) {
			return Chosen{}, exit.NoDataf("the baseline does not do: recording %s was made at level %s, and the rules ask for %s", c.Named.Recording.ID, c.Named.Recording.Info.Level, level)
		}
		return Chosen{Recording: c.Named, Gate: &gate.Baseline{From: "recording " + c.Named.Recording.ID}}, nil
	}
	if !holds && !c.Shown {
		return Chosen{}, nil
	}
	if c.Branch == "" && holds {
		floors, err := ReadFloors(r.Project)
		if floors != nil || err != nil {
			return Chosen{Gate: &gate.Baseline{From: "the floors in " + FloorName, Floors: floors}}, err
		}
	}
	w := Wanted{Project: r.Project, Judged: r.Recording, Level: level, Branch: c.Branch}
	if c.Branch == "" {
		var why string
		if w.Commits, why = commitsBefore(r, c); len(w.Commits) == 0 {
			return none(holds, why), nil
		}
	}
	if c.Store != nil {
		store, err := c.Store(ctx)
		if err != nil {
			return Chosen{}, err
		}
		if store != nil {
			defer store.Close()
			w.Store = store
		}
	}
	found, err := Find(ctx, w)
	if err != nil {
		return Chosen{}, err
	}
	if found.Recording == nil {
		return none(holds, found.Why+cutShort(r)), nil
	}
	was := *r
	was.Recording, was.Label = found.Recording, ""
	return Chosen{Recording: &was, Gate: &gate.Baseline{From: found.Says()}}, nil
}

// none says why there is no baseline, to those who asked for one.
func none(asked bool, why string) Chosen {
	if !asked {
		why = ""
	}
	return Chosen{Why: why}
}

// Held tells whether a rule holds anything, and at which level a recording tells of all of it.
func Held(rules []gate.Rule) (level site.Level, holds bool) {
	level = site.Lines
	for _, rule := range rules {
		for _, m := range rule.Hold {
			level, holds = max(level, m.Level()), true
		}
	}
	return level, holds
}

// cutShort is a hint where not all of the history is here.
func cutShort(r *reading.Reader) string {
	if repo, err := vcs.Open(r.Project.Root); err == nil && repo.Shallow() {
		return "; this is a shallow clone, so fetch more of its history (git fetch --deepen=100)"
	}
	return ""
}

// commitsBefore are the commits that the work at hand began from, the nearest first: from
// where it left a ref, or from the commit before the one that was recorded. If there is none,
// why says so.
func commitsBefore(r *reading.Reader, c Choice) (list []string, why string) {
	list, err := ancestors(r, c)
	switch {
	case err != nil:
		return nil, err.Error()
	case len(list) == 0:
		return nil, "the recorded commit has none before it here"
	}
	return list, ""
}

func ancestors(r *reading.Reader, c Choice) ([]string, error) {
	repo, err := vcs.Open(r.Project.Root)
	if err != nil {
		return nil, errors.New("this is no git work tree, so what came before is not known; name the baseline with --against")
	}
	head, dirty := repo.Commit(c.IsSource)
	info := r.Recording.Info
	if info.Commit != "" {
		head, dirty = info.Commit, info.Dirty
	}
	from := head
	if c.Since != "" {
		if from, err = repo.Base(c.Since); err != nil {
			return nil, fmt.Errorf("the commit that the work began from is not known: %w", err)
		}
	}
	if from == head && !dirty {
		from = repo.Parent(head)
	}
	if from == "" {
		return nil, nil
	}
	return repo.Ancestors(from, mostCommits)
}
