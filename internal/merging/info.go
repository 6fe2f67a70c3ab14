package merging

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"thrush/internal/core/site"
	"thrush/internal/recording"
)

// info says of the merge what holds for all of its parts. It depends on them alone,
// not on the order in which they came.
func (m *merger) info() recording.Info {
	first := m.parts[0]
	out := recording.Info{Part: recording.Part{Tool: first.Tool, Command: first.Command, Commit: first.Commit, Branch: first.Branch}, Parts: m.parts}
	level, keep := site.Conditions, site.Counts
	for _, p := range m.parts {
		out.When = max(out.When, p.When)
		out.Took += p.Took
		out.Processes += p.Processes
		out.Exit = max(out.Exit, p.Exit)
		out.Dirty = out.Dirty || p.Dirty
		out.Labels = append(out.Labels, p.Labels...)
		out.Tool = max(out.Tool, p.Tool)
		if !slices.Equal(out.Command, p.Command) {
			out.Command = nil
		}
		if out.Commit != p.Commit {
			out.Commit = ""
		}
		if out.Branch != p.Branch {
			out.Branch = ""
		}
		if l, ok := site.LevelOf(p.Level); ok {
			level = min(level, l)
		}
		if p.Keep == site.Hits.String() {
			keep = site.Hits
		}
	}
	out.Labels = unique(out.Labels)
	out.Level, out.Keep = level.String(), keep.String()
	m.said.tell(&out)
	return out
}

// said gathers what recordings say besides their counts.
type said struct {
	project                           string
	unmeasured, generated             map[recording.Unmeasured]bool
	passed, problems, notes           map[string]bool
	leftTests, leftGenerated, skipped int
}

// take takes into account what one says.
func (s *said) take(i recording.Info) {
	if s.unmeasured == nil {
		s.unmeasured, s.generated = map[recording.Unmeasured]bool{}, map[recording.Unmeasured]bool{}
		s.passed, s.problems, s.notes = map[string]bool{}, map[string]bool{}, map[string]bool{}
	}
	s.project = max(s.project, i.Project)
	for _, u := range i.Unmeasured {
		s.unmeasured[u] = true
	}
	for _, g := range i.Generated {
		s.generated[g] = true
	}
	for _, p := range i.Passed {
		s.passed[p] = true
	}
	for _, p := range i.Problems {
		s.problems[p] = true
	}
	for _, n := range i.Notes {
		if !strings.HasPrefix(n, mixed) {
			s.notes[n] = true
		}
	}
	s.leftTests, s.leftGenerated, s.skipped = max(s.leftTests, i.LeftOut.Tests), max(s.leftGenerated, i.LeftOut.Generated), max(s.skipped, i.LeftOut.Skipped)
}

// tell puts all that was said into a description.
func (s *said) tell(out *recording.Info) {
	out.Project = s.project
	out.Passed, out.Problems, out.Notes = slices.Sorted(maps.Keys(s.passed)), slices.Sorted(maps.Keys(s.problems)), slices.Sorted(maps.Keys(s.notes))
	out.Unmeasured = slices.SortedFunc(maps.Keys(s.unmeasured), recording.Unmeasured.Compare)
	out.Generated = slices.SortedFunc(maps.Keys(s.generated), recording.Unmeasured.Compare)
	out.LeftOut = recording.LeftOut{Tests: s.leftTests, Generated: s.leftGenerated, Skipped: s.skipped}
}

func unique(list []string) []string {
	slices.Sort(list)
	return slices.Compact(list)
}

// mixed begins the note on what recordings of different depth can say together.
const mixed = "merged of recordings made at different "

// notes say what the merge can still promise.
func (m *merger) notes(r *Result) []string {
	var out []string
	levels, keeps := map[string][]string{}, map[string][]string{}
	for _, p := range m.parts {
		who := strings.Join(p.Labels, ",")
		if who == "" {
			who = p.ID[:min(8, len(p.ID))]
		}
		levels[p.Level] = append(levels[p.Level], who)
		keeps[p.Keep] = append(keeps[p.Keep], who)
	}
	if len(levels) > 1 {
		out = append(out, fmt.Sprintf("%slevels (%s): together they tell %s, which all of them looked for", mixed, spread(levels), tells(r.Info.Level)))
	}
	if len(keeps) > 1 {
		out = append(out, fmt.Sprintf("%skeeps (%s): together they tell whether something ran, not how often", mixed, spread(keeps)))
	}
	return out
}

func tells(level string) string {
	switch level {
	case site.Lines.String():
		return "lines and functions"
	case site.Branches.String():
		return "lines, functions and branches"
	}
	return "everything"
}

// spread names who made recordings in which way.
func spread(by map[string][]string) string {
	var out []string
	for what, who := range by {
		who = unique(who)
		if len(who) > 3 {
			who = append(who[:3:3], fmt.Sprintf("%d more", len(who)-3))
		}
		out = append(out, what+": "+strings.Join(who, ", "))
	}
	slices.Sort(out)
	return strings.Join(out, "; ")
}
