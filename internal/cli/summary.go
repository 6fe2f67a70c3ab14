package cli

import (
	"slices"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
	"thrush/internal/core/tally"
	"thrush/internal/project"
	"thrush/internal/reading"
	"thrush/internal/recording"
	"thrush/internal/report/term"
)

// summary prints what a recording holds and what to do next; causes are what may have kept
// everything from running, if nothing did.
func (a *app) summary(p *project.Project, rec *recording.Recording, causes ...string) error {
	for _, n := range rec.Info.Notes {
		a.warn("%s", n)
	}
	if rec.Info.Processes == 0 {
		a.warnOf(nothingReported(rec, causes))
		return nil
	}
	if a.quiet {
		return nil
	}
	r := a.reads(p, rec)
	files, err := r.Files(nil)
	if err != nil {
		return err
	}
	s := term.Summary{Info: rec.Info, ID: rec.ID, Totals: tally.Sum(reading.Items(files)), Items: reading.Items(files)}
	s.Gaps = gaps.Find(files)
	var idle []string
	for _, f := range files {
		if !f.Loaded {
			s.NotLoaded++
			idle = append(idle, f.Path)
		}
	}
	if p.Config.File == "" {
		s.Asides = gaps.Asides(idle)
	}
	if before := previous(p, rec); before != nil {
		s.Was, s.Against = before.Totals, against(before, rec.Info)
	}
	a.err.Summary(s)
	return nil
}

func totalsOf(files []*coverage.File) coverage.Totals { return tally.Sum(reading.Items(files)) }

// mostTried is how many recordings are looked at for one to compare with.
const mostTried = 50

// previous gives the last recording made here before this one that is like it: with the same
// labels, of the same command at the same level, about the same files; merged if this one is.
func previous(p *project.Project, rec *recording.Recording) *recording.Info {
	all, err := p.Recordings()
	if err != nil {
		return nil
	}
	tried := 0
	for _, path := range all {
		if path >= rec.Path || !project.MadeHere(path) || tried > mostTried {
			continue
		}
		tried++
		info, _, err := recording.Peek(path)
		if err == nil && info.Processes > 0 && info.Totals != nil && likeThis(info, rec.Info) {
			return &info
		}
	}
	return nil
}

// likeThis tells whether the totals of two recordings can be compared: what differs between
// them is what the code and its tests are, and not what was run or counted.
func likeThis(a, b recording.Info) bool {
	if a.Merged() != b.Merged() || !slices.Equal(a.Labels, b.Labels) {
		return false
	}
	return a.Merged() || slices.Equal(a.Command, b.Command) && a.Level == b.Level
}

// against says, in words, what the totals are compared with.
func against(was *recording.Info, now recording.Info) string {
	text := "the last run of this command"
	if now.Merged() {
		text = "the last merge"
	}
	if len(now.Labels) > 0 {
		text += " with the same label"
	}
	if was.Commit != "" && was.Commit != now.Commit {
		text += ", at " + was.Commit[:min(8, len(was.Commit))]
	}
	return text
}
