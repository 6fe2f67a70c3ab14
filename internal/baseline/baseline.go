// Package baseline finds the recording that a change is judged against: that of the
// nearest commit it began from of which there is one, here or in the history store.
package baseline

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/history"
	"thrush/internal/merging"
	"thrush/internal/project"
	"thrush/internal/reading"
	"thrush/internal/recording"
)

// Wanted says which recordings can be a baseline.
type Wanted struct {
	Project *project.Project
	Store   *history.Store       // or nil
	Judged  *recording.Recording // what it is for
	Level   site.Level           // the shallowest that tells enough
	// Commits are those it may be of, the nearest first; or it is the latest of Branch.
	Commits []string
	Branch  string
}

// Found is a baseline, or nothing but why there is none.
type Found struct {
	Recording *recording.Recording
	Commit    string
	Away      int    // commits from the nearest one looked for
	Where     string // in words
	Why       string // there is none, in words
}

// candidate is a recording that may be part of the baseline.
type candidate struct {
	info     recording.Info
	identity string
	where    string
	open     func(*[]byte) (*recording.Recording, error)
}

// Find finds the baseline. Of a commit, all recordings with labels of the one that is
// judged are taken together.
func Find(ctx context.Context, w Wanted) (Found, error) {
	all, err := w.candidates(ctx)
	if err != nil {
		return Found{}, err
	}
	others := map[string]bool{}
	fit := slices.DeleteFunc(all, func(c candidate) bool {
		if !w.commit(c) || w.holds(c) {
			return true
		}
		if !w.labelled(c) {
			for _, l := range reachers(c.info) {
				others[l] = true
			}
			return true
		}
		level, _ := site.LevelOf(c.info.Level)
		return level < w.Level
	})
	commits := w.Commits
	if w.Branch != "" {
		slices.SortStableFunc(fit, func(a, b candidate) int { return strings.Compare(b.info.When, a.info.When) })
		if len(fit) > 0 {
			commits = []string{fit[0].info.Commit}
		}
	}
	for away, commit := range commits {
		of := slices.DeleteFunc(slices.Clone(fit), func(c candidate) bool { return c.info.Commit != commit })
		if len(of) == 0 {
			continue
		}
		rec, err := together(w.Project, of)
		if err != nil {
			return Found{}, err
		}
		return Found{Recording: rec, Commit: commit, Away: away, Where: where(of)}, nil
	}
	return Found{Why: w.why(others)}, nil
}

// why says why there is no baseline.
func (w Wanted) why(others map[string]bool) string {
	of := fmt.Sprintf("of any of the %d commits before", len(w.Commits))
	if w.Branch != "" {
		of = "of branch " + w.Branch
	} else if len(w.Commits) == 1 {
		of = "of the commit before"
	}
	text := "there is no recording " + of
	if len(others) > 0 {
		list := make([]string, 0, len(others))
		for l := range others {
			list = append(list, l)
		}
		slices.Sort(list)
		if list[0] == "" {
			list[0] = "none"
		}
		text += " with the labels of this one (those there are have: " + strings.Join(reading.Some(list, 5), ", ") + ")"
	}
	return text
}

// commit tells whether a recording is of a commit that is looked for, as it is.
func (w Wanted) commit(c candidate) bool {
	if c.info.Dirty || c.info.Processes == 0 {
		return false
	}
	return w.Branch != "" || slices.Contains(w.Commits, c.info.Commit)
}

// holds tells whether a recording is the one that is judged, or part of it.
func (w Wanted) holds(c candidate) bool {
	j := w.Judged
	if c.identity == j.Identity {
		return true
	}
	return slices.ContainsFunc(j.Info.Parts, func(p recording.Part) bool { return p.ID == c.identity })
}

// labelled tells whether all labels of a recording are among those of the one that is
// judged.
func (w Wanted) labelled(c candidate) bool {
	own := reachers(w.Judged.Info)
	for _, l := range reachers(c.info) {
		if !slices.Contains(own, l) {
			return false
		}
	}
	return true
}

func reachers(i recording.Info) []string {
	if !i.Merged() {
		return i.Reachers()
	}
	var out []string
	for _, p := range i.Parts {
		out = append(out, p.Reachers()...)
	}
	return out
}

// candidates lists the recordings kept here and those of the store.
func (w Wanted) candidates(ctx context.Context) ([]candidate, error) {
	var out []candidate
	seen := map[string]bool{}
	paths, err := w.Project.Recordings()
	if err != nil {
		return nil, err
	}
	for _, path := range paths {
		k := reading.Describe(path, "")
		if k.Problem == "" && (w.Branch == "" || k.Info.Branch == w.Branch) {
			seen[k.Identity] = true
			out = append(out, candidate{k.Info, k.Identity, "kept here", func(b *[]byte) (*recording.Recording, error) { return recording.OpenInto(b, path) }})
		}
	}
	if w.Store == nil {
		return out, nil
	}
	q := history.Query{Project: w.Project.Config.Name, Branch: w.Branch}
	if w.Branch == "" {
		q.Commits = w.Commits
	}
	if len(q.Commits) == 0 && q.Branch == "" {
		return out, nil
	}
	list, err := w.Store.List(ctx, q)
	if err != nil {
		return nil, err
	}
	for _, e := range list {
		if !seen[e.Identity] && e.Problem == "" {
			out = append(out, candidate{e.Info, e.Identity, "in the history store", func(*[]byte) (*recording.Recording, error) {
				rec, _, err := w.Store.Pull(ctx, q.Project, e.Identity)
				return rec, err
			}})
		}
	}
	return out, nil
}

// together makes one recording of those of a commit. Where they overlap, or tell of
// different texts, such as of a file that git does not know, the one that holds the most
// is taken.
func together(p *project.Project, list []candidate) (*recording.Recording, error) {
	if len(list) == 1 {
		return list[0].open(new([]byte))
	}
	var inputs []merging.Input
	for _, c := range list {
		inputs = append(inputs, merging.Input{Name: c.identity[:8], Identity: c.identity, Info: c.info, Open: c.open})
	}
	merged, err := merging.Merge(inputs, merging.Options{})
	if errors.As(err, new(*merging.SharedError)) || errors.As(err, new(*merging.VersionsError)) {
		most := slices.MaxFunc(list, func(a, b candidate) int { return len(a.info.Parts) - len(b.info.Parts) })
		return most.open(new([]byte))
	}
	if err != nil {
		return nil, err
	}
	merged.Info.Project = p.Config.Name
	data, err := merged.Data()
	if err != nil {
		return nil, err
	}
	return recording.Decode("the baseline", data)
}

// where says where the recordings are.
func where(list []candidate) string {
	var ids, places []string
	for _, c := range list {
		ids = append(ids, c.identity[:8])
		if !slices.Contains(places, c.where) {
			places = append(places, c.where)
		}
	}
	slices.Sort(places)
	return strings.Join(reading.Some(ids, 4), ", ") + " " + strings.Join(places, " and ")
}

// Says writes in words which recording was found.
func (f Found) Says() string {
	text := fmt.Sprintf("commit %.12s", f.Commit)
	switch {
	case f.Away == 1:
		text += ", 1 commit further back than looked for"
	case f.Away > 1:
		text += fmt.Sprintf(", %d commits further back than looked for", f.Away)
	}
	return text + " (recording " + f.Where + ")"
}
