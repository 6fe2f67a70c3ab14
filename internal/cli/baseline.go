package cli

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"path/filepath"

	"github.com/spf13/cobra"

	"thrush/internal/atomic"
	"thrush/internal/baseline"
	"thrush/internal/core/coverage"
	"thrush/internal/core/gate"
	"thrush/internal/core/site"
	"thrush/internal/exit"
	"thrush/internal/project"
	"thrush/internal/reading"
	"thrush/internal/vcs"
)

// base are the flags that say which baseline rules that hold are judged against.
type base struct {
	against, branch string
	strict          bool
	store           storeFlag
}

func (b *base) flags(c *cobra.Command) {
	c.Flags().StringVar(&b.against, "against", "", "the baseline: this `recording`, for rules that hold")
	c.Flags().StringVar(&b.branch, "against-branch", "", "the baseline: the latest recording of this `branch`")
	c.Flags().BoolVar(&b.strict, "strict", false, "rules that hold are not met without a baseline, nor rules on changed lines where changed sources are unmeasured")
	b.store.flag(c)
}

// was is the baseline when it is a recording.
type was struct {
	*reading.Reader
	totals coverage.Totals
}

func (w *was) reader() *reading.Reader {
	if w == nil {
		return nil
	}
	return w.Reader
}

// mostCommits is how far back a baseline is looked for.
const mostCommits = 500

// baseline finds what rules that hold compare with: the recording that was named, the
// latest of a branch, the floor file if there is one, or the recording of the nearest
// commit the work began from.
func (a *app) baseline(ctx context.Context, r *reading.Reader, j judging) (*was, *gate.Baseline, error) {
	p, b := r.Project, j.base
	level, holds := site.Lines, false
	for _, rule := range j.rules {
		for _, m := range rule.Hold {
			level, holds = max(level, m.Level()), true
		}
	}
	if b.against != "" && b.branch != "" {
		return nil, nil, exit.Usagef("--against and --against-branch both name the baseline; give one of them")
	}
	if b.against != "" {
		o, err := a.reader(b.against)
		if err != nil {
			return nil, nil, err
		}
		if err := deepEnough(o.Recording.Info.Level, j.rules...); err != nil && holds {
			return nil, nil, exit.NoDataf("the baseline does not do: %w", err)
		}
		return &was{Reader: o}, &gate.Baseline{From: "recording " + o.Recording.ID}, nil
	}
	if !holds && !j.whole {
		return nil, nil, nil
	}
	if b.branch == "" && holds {
		floors, err := readFloors(p)
		if floors != nil || err != nil {
			return nil, &gate.Baseline{From: "the floors in " + floorName, Floors: floors}, err
		}
	}
	w := baseline.Wanted{Project: p, Judged: r.Recording, Level: level, Branch: b.branch}
	if b.branch == "" {
		var err error
		if w.Commits, err = commitsBefore(r, j.since); err != nil || len(w.Commits) == 0 {
			if holds {
				a.say("no baseline: %s", none(err))
			}
			return nil, nil, nil
		}
	}
	found, err := a.findBaseline(ctx, w, b.store)
	if err != nil && !holds {
		a.warn("there is nothing to show the change against: %s", err)
		return nil, nil, nil
	}
	if err != nil {
		return nil, nil, err
	}
	if found.Recording == nil {
		if holds {
			a.say("no baseline: %s%s", found.Why, cutShort(p))
		}
		return nil, nil, nil
	}
	return &was{Reader: a.reads(p, found.Recording)}, &gate.Baseline{From: found.Says()}, nil
}

func (a *app) findBaseline(ctx context.Context, w baseline.Wanted, where storeFlag) (baseline.Found, error) {
	store, err := a.openStore(ctx, w.Project, where, false)
	if err != nil {
		return baseline.Found{}, err
	}
	if store != nil {
		defer store.Close()
		w.Store = store
	}
	found, err := baseline.Find(ctx, w)
	return found, storeProblem(err)
}

// cutShort is a hint where not all of the history is here.
func cutShort(p *project.Project) string {
	if repo, err := vcs.Open(p.Root); err == nil && repo.Shallow() {
		return "; this is a shallow clone, so fetch more of its history (git fetch --deepen=100)"
	}
	return ""
}

// none says why no commit comes before.
func none(err error) string {
	if err != nil {
		return err.Error()
	}
	return "the recorded commit has none before it here"
}

// commitsBefore are the commits that the work at hand began from, the nearest first: from
// where it left a reference, or from the commit before the one that was recorded.
func commitsBefore(r *reading.Reader, since string) ([]string, error) {
	repo, err := vcs.Open(r.Project.Root)
	if err != nil {
		return nil, errors.New("this is no git work tree, so what came before is not known; name the baseline with --against")
	}
	head, dirty := repo.Commit(isSource)
	info := r.Recording.Info
	if info.Commit != "" {
		head, dirty = info.Commit, info.Dirty
	}
	from := head
	if since != "" {
		if from, err = repo.Base(since); err != nil {
			return nil, err
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

// floorName is the file that keeps floors, at the project's root.
const floorName = "thrush-floor.json"

// floorFile is thrush.floor/1.
type floorFile struct {
	Schema string       `json:"schema"`
	Floors []gate.Floor `json:"floors"`
}

// readFloors reads the floor file, or gives nil if there is none.
func readFloors(p *project.Project) ([]gate.Floor, error) {
	text, err := p.Said(floorName)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	var f floorFile
	if err == nil {
		err = json.Unmarshal(text, &f)
	}
	if err == nil && f.Schema != "thrush.floor/1" {
		err = errors.New("its schema is not thrush.floor/1")
	}
	for _, x := range f.Floors {
		if err == nil && !(x.Percent >= 0 && x.Percent <= 100) {
			err = errors.New("a percentage in it is not between 0 and 100")
		}
	}
	if err != nil {
		return nil, exit.Usagef("%s cannot be read: %w", floorName, err)
	}
	return append([]gate.Floor{}, f.Floors...), nil
}

// raise writes the floor file so that nothing in it falls.
func (a *app) raise(p *project.Project, now []gate.Floor) error {
	if len(now) == 0 {
		return exit.Usagef("no rule holds anything, so there is no floor to raise; give one a hold in %s, as in hold = [\"lines\"]", project.ConfigName)
	}
	old, err := readFloors(p)
	if err != nil {
		return err
	}
	raised := gate.Raise(old, now)
	text, err := json.MarshalIndent(floorFile{"thrush.floor/1", raised}, "", "  ")
	if err != nil {
		return err
	}
	before := map[string]float64{}
	for _, f := range old {
		before[f.Gate+"\x00"+f.Scope+"\x00"+string(f.Metric)] = f.Percent
	}
	rose := 0
	for _, f := range raised {
		if was, ok := before[f.Gate+"\x00"+f.Scope+"\x00"+string(f.Metric)]; !ok || f.Percent > was {
			rose++
		}
	}
	if err := atomic.Write(filepath.Join(p.Root, floorName), append(text, '\n'), true); err != nil {
		return exit.Usagef("%s cannot be written: %w", floorName, err)
	}
	a.say("%s: %s", floorName, rises(rose, len(raised)))
	return nil
}

// rises says how many floors rose.
func rises(rose, all int) string {
	switch {
	case rose == 0:
		return "no floor rose"
	case all == 1:
		return "the floor rose"
	case rose == all:
		return fmt.Sprintf("all %d floors rose", all)
	}
	return fmt.Sprintf("%d of %d floors rose", rose, all)
}
