package gate

import (
	"cmp"
	"fmt"
	"math/big"
	"slices"
	"strings"

	"thrush/internal/core/compare"
	"thrush/internal/core/coverage"
)

// about says what a rule that holds compares with, or that there is nothing yet.
func (j *Judging) about(v *Verdict) {
	switch {
	case j.in.Baseline != nil:
		v.Against = j.in.Baseline.From
	case j.in.Strict:
		v.Met, v.Note = false, "there is no baseline to compare with, and --strict asks for one"
	default:
		v.Note = "there is no baseline yet, so nothing can have fallen"
	}
}

// compares tells whether the files of the baseline matter.
func (j *Judging) compares() bool {
	return len(j.rule.Hold) > 0 && j.in.Baseline != nil && j.in.Baseline.Floors == nil
}

// hold judges one metric of one scope against the baseline.
func (j *Judging) hold(v *Verdict, key string, s *scope, m coverage.Metric) {
	have := s.totals.Of(m)
	if j.in.Baseline == nil || have.Total == 0 {
		return
	}
	least, ok := j.least(key, s, m)
	if !ok {
		return // the scope is new: nothing can have fallen
	}
	allowed, valid := new(big.Rat).SetString(fmt.Sprint(j.rule.Slack))
	if valid {
		least.Sub(least, allowed)
	}
	required, _ := least.Float64()
	r := Result{Scope: s.name, Metric: m, Required: max(0, float64(int(required*100))/100), Covered: have.Covered, Total: have.Total,
		Met: big.NewRat(int64(have.Covered)*100, int64(have.Total)).Cmp(least) >= 0}
	short := s.fallen[m]
	if !j.compares() {
		short = j.touched(s.missing[m])
	}
	if v.add(r, short); !r.Met && len(short) == 0 && s.gone > 0 {
		v.Note = fmt.Sprintf("no line was lost: of those that ran, %d are gone, so what never ran weighs more", s.gone)
	}
}

// touched gives those places that changed, or all if none did or nobody knows: against a
// floor it is not known which lines made the share fall.
func (j *Judging) touched(list []Place) []Place {
	var out []Place
	for _, p := range list {
		if j.in.Changed[p.Path].Has(p.Line) {
			out = append(out, p)
		}
	}
	if len(out) == 0 {
		return list
	}
	return out
}

// least is the percentage that must be kept, before slack.
func (j *Judging) least(key string, s *scope, m coverage.Metric) (*big.Rat, bool) {
	if j.compares() {
		was := s.was.Of(m)
		if was.Total == 0 {
			return nil, false
		}
		return big.NewRat(int64(was.Covered)*100, int64(was.Total)), true
	}
	i := slices.IndexFunc(j.in.Baseline.Floors, func(f Floor) bool { return f.Gate == j.rule.Name && f.Scope == key && f.Metric == m })
	if i < 0 {
		return nil, false
	}
	least, ok := new(big.Rat).SetString(fmt.Sprint(j.in.Baseline.Floors[i].Percent))
	return least, ok
}

// addWas takes into account what a file was in the baseline.
func (j *Judging) addWas(f coverage.Pair) {
	at := f.Now
	if at == nil {
		at = f.Was
	}
	if at == nil || !j.rule.in(at.Path, j.in) {
		return
	}
	if f.Was != nil {
		collect(f.Was, false, nil, func(_ *collector, m coverage.Metric, i coverage.Item) {
			j.scope(j.key(f.Was, i.Function)).was.Count(m, i.Covered)
		})
	}
	for _, i := range compare.Files(f.Was, f.Now).Items {
		j.fell(f, i)
	}
}

// fell notes a line or an outcome that was lost, or is new and never ran.
func (j *Judging) fell(f coverage.Pair, i compare.Item) {
	if i.Change == compare.Removed {
		if i.Ran && i.Outcome == "" {
			j.scope(j.key(f.Was, i.In)).gone++
		}
		return
	}
	if i.Ran || i.Change == compare.Covered {
		return
	}
	if j.rule.On == Changed && !j.in.Changed[i.Path].Has(i.Line) {
		return
	}
	m, why := coverage.Lines, i.What
	if i.Outcome != "" {
		m = coverage.Branches
	}
	if i.Change == compare.Added {
		why = i.What + " (new)"
	}
	s := j.scope(j.key(f.Now, i.In))
	s.fallen[m] = append(s.fallen[m], Place{Path: i.Path, Line: i.Line, Metric: m, Way: i.Way, Why: why})
	if fn := f.Now.Functions[i.In]; i.Outcome == "" && fn.Span.Start.Line == i.Line {
		s.fallen[coverage.Functions] = append(s.fallen[coverage.Functions], Place{Path: i.Path, Line: i.Line, Metric: coverage.Functions, Why: fn.Name + " is not called"})
	}
}

// Floor is a percentage that must be kept.
type Floor struct {
	Gate    string          `json:"gate"`
	Scope   string          `json:"scope"`
	Metric  coverage.Metric `json:"metric"`
	Percent float64         `json:"percent"` // in hundredths, rounded down
}

// Floors are what a rule that holds could be held to from now on.
func (j *Judging) Floors() []Floor {
	var out []Floor
	for key, s := range j.scopes {
		for _, m := range j.rule.Hold {
			if have := s.totals.Of(m); have.Total > 0 {
				out = append(out, Floor{j.rule.Name, key, m, float64(have.HundredthsPercent()) / 100})
			}
		}
	}
	return out
}

// Raise gives floors that are at least as high as both the old and the new ones. What
// there is no more of has none.
func Raise(old, now []Floor) []Floor {
	out := slices.Clone(now)
	for i := range out {
		for _, o := range old {
			if o.Gate == out[i].Gate && o.Scope == out[i].Scope && o.Metric == out[i].Metric {
				out[i].Percent = max(out[i].Percent, o.Percent)
			}
		}
	}
	slices.SortFunc(out, compareFloors)
	return out
}

func compareFloors(a, b Floor) int {
	return cmp.Or(strings.Compare(a.Gate, b.Gate), strings.Compare(a.Scope, b.Scope), strings.Compare(string(a.Metric), string(b.Metric)))
}
