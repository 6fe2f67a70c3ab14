// Package judge judges the rules of a project on a recording. It is the only judge: the gate
// command, the pages and all files for pipelines draw the Report that is made here, so none of
// them can say "met" where another says "not met".
//
// A rule that cannot be judged is never passed over. It is left open with the reason, and the
// Report carries the first such reason as an error for those commands that must not go on
// without a verdict.
package judge

import (
	"context"
	"path/filepath"
	"time"

	"thrush/internal/baseline"
	"thrush/internal/core/changed"
	"thrush/internal/core/coverage"
	"thrush/internal/core/gate"
	"thrush/internal/project"
	"thrush/internal/reading"
	"thrush/internal/recording"
)

// Case is what is judged, and by what.
type Case struct {
	Reader *reading.Reader
	Rules  []gate.Rule
	// Changed are the changed lines, or nil if nobody said what changed.
	Changed  changed.Set
	Baseline baseline.Choice
	// Strict has rules that hold fail without a baseline, and rules on changed lines fail where
	// changed sources are unmeasured.
	Strict bool
	// Whole asks for the totals of all files, not only for what rules look at.
	Whole bool
	// Doubt is a reason for which the recording should not be judged at all, or nil.
	Doubt error
}

// Report is everything that a verdict is drawn from.
type Report struct {
	Info      recording.Info
	ID        string
	Totals    coverage.Totals
	Was       *coverage.Totals // those of the baseline, if it is a recording
	Against   string           // the baseline, in words
	NoBase    string           // why there is no baseline, in words; empty if nobody asked for one
	Since     string           // the ref since when lines count as changed
	Changed   bool             // whether it is known what changed
	Rules     []string         // files that hold rules and are part of what changed
	Verdicts  []gate.Verdict   // one for each rule, in their order
	Expired   []gate.Expired   // waivers that have ended, each of which fails the gate
	Uncovered []gate.Place     // changed lines that did not run, outcomes there that were not taken
	Floors    []gate.Floor     // what rules that hold could be held to from now on
	// Refused is the first reason for which a rule could not be judged, with the exit status for
	// it; nil if all were.
	Refused error
	// Text gives a line of source, or nothing if it is not as it was recorded.
	Text func(path string, line int) string
}

// Count sums the verdicts up.
func (r *Report) Count() gate.Count { return gate.CountOf(r.Verdicts, len(r.Expired)) }

// Judge judges while files pass by, so that pages need not read them twice.
type Judge struct {
	c       Case
	report  Report
	rulings []ruling
	was     *reading.Reader
	keep    func(path string) bool
}

// ruling is a rule being judged, or the reason why it is not.
type ruling struct {
	*gate.Judging
	rule    gate.Rule
	refusal error
}

// Begin finds the baseline and decides which rules can be judged.
func Begin(ctx context.Context, c Case) (*Judge, error) {
	r := c.Reader
	j := &Judge{c: c, report: Report{Info: r.Recording.Info, ID: r.Recording.ID, Since: c.Baseline.Since, Changed: c.Changed != nil, Text: r.Lines()}}
	if c.Changed != nil {
		if err := r.Follow(c.Changed); err != nil {
			return nil, err
		}
	}
	c.Baseline.Shown = c.Whole
	base, problem := baseline.Choose(ctx, r, c.Rules, c.Baseline)
	j.was, j.report.NoBase = base.Recording, base.Why
	if base.Recording != nil {
		j.report.Was, j.report.Against = &coverage.Totals{}, base.Gate.From
	}
	j.keep = onlyChanged(c)
	fit := fitness{c: c}
	in := gate.Input{Changed: c.Changed, Match: project.MatchAny, Baseline: base.Gate, Strict: c.Strict, Unknown: r.Unknown(c.Changed), Paths: r.Paths()}
	for _, rule := range c.Rules {
		one := ruling{gate.Begin(rule, in), rule, fit.of(rule)}
		if one.refusal == nil && len(rule.Hold) > 0 {
			one.refusal = problem
		}
		j.rulings = append(j.rulings, one)
	}
	if j.report.Refused = fit.whole(); problem != nil && j.report.Refused == nil {
		if _, holds := baseline.Held(c.Rules); holds {
			j.report.Refused = problem
		} else {
			j.report.NoBase = problem.Error()
		}
	}
	for _, name := range []string{filepath.Base(r.Project.Config.File), baseline.FloorName} {
		if c.Changed[name] != nil {
			j.report.Rules = append(j.report.Rules, name)
		}
	}
	for _, w := range r.Expired() {
		j.report.Expired = append(j.report.Expired, gate.Expired{Path: filepath.Base(r.Project.Config.File), Line: w.Line,
			Where: w.Where, Reason: w.Reason, Until: w.Until.Format(time.DateOnly)})
	}
	return j, nil
}

// onlyChanged tells which files matter: the changed ones where all rules are about those.
func onlyChanged(c Case) func(path string) bool {
	if c.Changed == nil || c.Whole {
		return nil
	}
	for _, rule := range c.Rules {
		if rule.On != gate.Changed || len(rule.Hold) > 0 {
			return nil
		}
	}
	return func(path string) bool { return c.Changed[path] != nil }
}

// Was reads the baseline, if it is a recording; else it is nil.
func (j *Judge) Was() *reading.Reader { return j.was }

// Add takes a file into account.
func (j *Judge) Add(p coverage.Pair) {
	for _, one := range j.rulings {
		if one.refusal == nil {
			one.Add(p)
		}
	}
	if p.Was != nil && j.report.Was != nil {
		*j.report.Was = j.report.Was.Add(p.Was.Totals)
	}
	if p.Now != nil {
		j.report.Totals = j.report.Totals.Add(p.Now.Totals)
		j.report.Uncovered = append(j.report.Uncovered, gate.Uncovered(p.Now, j.c.Changed[p.Now.Path])...)
	}
}

// Report gives the verdicts on the files that were added.
func (j *Judge) Report() *Report {
	out := j.report
	for _, one := range j.rulings {
		switch {
		case one.refusal != nil:
			out.Verdicts = append(out.Verdicts, gate.Open(one.rule, one.refusal.Error()))
			if out.Refused == nil && one.refusal != errUnsaid {
				out.Refused = one.refusal
			}
		default:
			out.Verdicts = append(out.Verdicts, one.Verdict())
			out.Floors = append(out.Floors, one.Floors()...)
		}
	}
	return &out
}

// Run judges a case on all files it needs.
func Run(ctx context.Context, c Case) (*Report, error) {
	j, err := Begin(ctx, c)
	if err != nil {
		return nil, err
	}
	if report := j.Report(); report.Refused != nil {
		return report, nil
	}
	err = reading.EachPair(c.Reader, j.was, j.keep, func(p coverage.Pair) (coverage.Pair, error) { return p, nil },
		func(p coverage.Pair) error { j.Add(p); return nil })
	return j.Report(), err
}
