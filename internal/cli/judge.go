package cli

import (
	"context"
	"maps"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"thrush/internal/core/changed"
	"thrush/internal/core/gate"
	"thrush/internal/core/site"
	"thrush/internal/exit"
	"thrush/internal/launch"
	"thrush/internal/project"
	"thrush/internal/reading"
	"thrush/internal/report/facts"
)

// judging is what is judged, and on what.
type judging struct {
	reader *reading.Reader
	rules  []gate.Rule
	set    changed.Set // what changed, or nil if nobody said
	since  string
	base   base
	whole  bool // the totals of everything are wanted, not only what rules look at
}

// judged is what came of it.
type judged struct {
	facts.Report
	floors []gate.Floor
}

// judgeNamed judges the recordings that are named on what is said to have changed.
func (a *app) judgeNamed(ctx context.Context, j judging, f changing, names []string) (judged, error) {
	p, err := a.project()
	if err != nil {
		return judged{}, err
	}
	if len(names) == 0 {
		if err := cutOff(p); err != nil {
			return judged{}, err
		}
	}
	if j.set, err = a.changed(p, f, j.rules); err != nil {
		return judged{}, err
	}
	if j.reader, err = a.reader(names...); err != nil {
		return judged{}, err
	}
	j.since = f.since
	return a.judge(ctx, j)
}

// cutOff refuses to take the latest recording for that of a record which came later and kept
// none, as its Thrush was killed or its disk was full.
func cutOff(p *project.Project) error {
	runs, err := p.Existing("runs")
	if runs == nil {
		return err
	}
	defer runs.Close()
	number, err := p.Number()
	for _, left := range launch.LeftBehind(runs.Path()) {
		if err == nil && left.Number > number {
			return exit.NoDataf("a later record than the latest recording was cut off before it kept one; to judge what it counted: thrush gather --from %s; to judge an earlier one, name it", left.Path)
		}
	}
	return err
}

// judge checks that the recording is about the sources at hand and judges.
func (a *app) judge(ctx context.Context, j judging) (judged, error) {
	r := j.reader
	var out judged
	if len(r.Recording.Info.Problems) > 0 {
		return out, exit.Usagef("a waiver cannot be honoured: %s", strings.Join(r.Recording.Info.Problems, "; "))
	}
	if r.Recording.Info.Processes == 0 {
		return out, exit.With(exit.NoData, nothingReported(r.Recording, nil))
	}
	if err := deepEnough(r.Recording.Info.Level, j.rules...); err != nil {
		return out, err
	}
	if j.set != nil {
		if err := r.Follow(j.set); err != nil {
			return out, err
		}
	}
	onlyChanged := j.set != nil && !j.whole
	for _, rule := range j.rules {
		onlyChanged = onlyChanged && rule.On == gate.Changed && len(rule.Hold) == 0
	}
	keep := func(path string) bool { return !onlyChanged || j.set[path] != nil }
	if err := a.upToDate(r, j.set, keep); err != nil {
		return out, err
	}
	was, baseline, err := a.baseline(ctx, r, j)
	if err != nil {
		return out, err
	}
	in := gate.Input{Changed: j.set, Match: project.MatchAny, Baseline: baseline, Strict: j.base.strict, Unknown: r.Unknown(j.set), Paths: r.Paths()}
	var all []*gate.Judging
	for _, rule := range j.rules {
		all = append(all, gate.Begin(rule, in))
	}
	out.Report = facts.Report{Info: r.Recording.Info, ID: r.Recording.ID, Since: j.since, Changed: j.set != nil, Text: lineReader(r)}
	for _, name := range []string{filepath.Base(r.Project.Config.File), floorName} {
		if j.set[name] != nil {
			out.Rules = append(out.Rules, name)
		}
	}
	if was != nil {
		out.Was, out.Against = &was.totals, baseline.From
	}
	err = reading.EachPair(r, was.reader(), keep, func(p gate.Pair) (gate.Pair, error) { return p, nil }, func(p gate.Pair) error {
		for _, one := range all {
			one.Add(p)
		}
		if p.Was != nil {
			was.totals = was.totals.Add(p.Was.Totals)
		}
		if p.Now != nil {
			out.Totals = out.Totals.Add(p.Now.Totals)
			out.Uncovered = append(out.Uncovered, gate.Uncovered(p.Now, j.set[p.Now.Path])...)
		}
		return nil
	})
	if err != nil {
		return out, err
	}
	for _, one := range all {
		out.Verdicts = append(out.Verdicts, one.Verdict())
		out.floors = append(out.floors, one.Floors()...)
	}
	for _, w := range r.Expired() {
		out.Verdicts = append(out.Verdicts, gate.Expired(filepath.Base(r.Project.Config.File), w.Line, strings.Join(w.Where, ", "), w.Reason, w.Until.Format(time.DateOnly)))
	}
	return out, nil
}

// deepEnough refuses a recording that says nothing of what a rule is about.
func deepEnough(level string, rules ...gate.Rule) error {
	have, ok := site.LevelOf(level)
	if !ok {
		return exit.NoDataf("the recording was made at a level that this Thrush does not know, %q", level)
	}
	for _, rule := range rules {
		if m := rule.Beyond(have); m != "" {
			return exit.NoDataf("%q is about %s, but the recording was made at level %s; record with --level %s, all of it if it was merged", rule.Name, m, have, m.Level())
		}
	}
	return nil
}

// upToDate refuses a recording that is about other texts than those at hand.
func (a *app) upToDate(r *reading.Reader, set changed.Set, keep func(string) bool) error {
	old, err := r.Outdated(keep)
	if err != nil {
		return err
	}
	for _, path := range slices.Sorted(maps.Keys(set)) {
		lines := set[path]
		switch {
		case lines.Why != "" && lines.ByDiff && (r.Recording.Find(path) >= 0 || r.Unrecorded(path)):
			return exit.NoDataf("which lines of %s changed is not known: %s", path, lines.Why)
		case lines.Why != "":
		case r.Recording.Find(path) >= 0:
			if n := r.Mismatch(path, lines); n > 0 {
				return exit.NoDataf("the diff does not fit %s: its line %d is not as the diff says; the recording and the diff must be about the same sources", path, n)
			}
		case r.Unrecorded(path):
			old = append(old, path)
		}
	}
	if len(old) == 0 {
		return nil
	}
	return exit.NoDataf("these files are not as they were when the recording was made, so its lines cannot be judged: %s. Record again", strings.Join(reading.Some(old, 5), ", "))
}
