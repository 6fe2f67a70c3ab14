package judge

import (
	"errors"
	"maps"
	"slices"
	"strings"

	"thrush/internal/core/changed"
	"thrush/internal/core/gate"
	"thrush/internal/core/site"
	"thrush/internal/exit"
	"thrush/internal/reading"
)

// errUnsaid leaves a rule on changed lines open where nobody said what changed.
var errUnsaid = errors.New("it is about changed lines, and nobody said what changed: add --since main, or --diff FILE")

// fitness decides whether rules can be judged on a recording. What takes reading all sources is
// found out once, and only if a rule needs it.
type fitness struct {
	c            Case
	all, changed *error
}

// of gives the reason why a rule cannot be judged, or nil.
func (f *fitness) of(rule gate.Rule) error {
	if err := f.recording(); err != nil {
		return err
	}
	if err := DeepEnough(f.c.Reader.Recording.Info.Level, rule); err != nil {
		return err
	}
	if rule.On == gate.Changed && f.c.Changed == nil {
		return errUnsaid
	}
	if rule.On == gate.Changed && len(rule.Hold) == 0 {
		return once(&f.changed, func() error {
			return UpToDate(f.c.Reader, f.c.Changed, func(path string) bool { return f.c.Changed[path] != nil })
		})
	}
	return f.everything()
}

// whole gives the reason why totals of the whole cannot be told, if they are asked for.
func (f *fitness) whole() error {
	if !f.c.Whole {
		return nil
	}
	if err := f.recording(); err != nil {
		return err
	}
	return f.everything()
}

// recording gives the reason why no rule can be judged on the recording.
func (f *fitness) recording() error {
	info := f.c.Reader.Recording.Info
	switch {
	case f.c.Doubt != nil:
		return f.c.Doubt
	case len(info.Problems) > 0:
		return exit.Usagef("a waiver cannot be honoured: %s", strings.Join(info.Problems, "; "))
	}
	return nil
}

func (f *fitness) everything() error {
	return once(&f.all, func() error {
		return UpToDate(f.c.Reader, f.c.Changed, func(string) bool { return true })
	})
}

func once(known **error, find func() error) error {
	if *known == nil {
		err := find()
		*known = &err
	}
	return **known
}

// DeepEnough refuses a recording whose level says nothing of a rule's metrics.
func DeepEnough(level string, rule gate.Rule) error {
	have, ok := site.LevelOf(level)
	if !ok {
		return exit.NoDataf("the recording was made at a level that this Thrush does not know, %q", level)
	}
	if m := rule.Beyond(have); m != "" {
		return exit.NoDataf("%q is about %s, but the recording was made at level %s; record with --level %s, all of it if it was merged", rule.Name, m, have, m.Level())
	}
	return nil
}

// UpToDate refuses a recording that is about other texts than those at hand, among the files that
// keep wants, or than those that the change speaks of.
func UpToDate(r *reading.Reader, set changed.Set, keep func(string) bool) error {
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
