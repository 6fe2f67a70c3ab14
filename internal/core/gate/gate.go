// Package gate judges rules: how much of what must have run.
package gate

import (
	"cmp"
	"fmt"
	"maps"
	"math/big"
	"path"
	"slices"
	"strings"

	"thrush/internal/core/changed"
	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
)

// On says what a rule looks at.
type On string

// Each says for what a rule must hold by itself.
type Each string

// Metric names what a rule counts.
type Metric string

// What rules can say.
const (
	All     On = "all"     // the whole of what was measured
	Changed On = "changed" // the changed lines only

	Whole    Each = "whole"
	Folder   Each = "folder"
	PerFile  Each = "file"
	Function Each = "function"

	Lines     Metric = "lines"
	Branches  Metric = "branches"
	Functions Metric = "functions"
	// Conditions are counted both ways, and by whether they decided alone.
	Conditions   Metric = "conditions"
	Independence Metric = "independence"
)

// Level is the level a recording must have been made at to say something of a
// metric.
func (m Metric) Level() site.Level {
	switch m {
	case Branches:
		return site.Branches
	case Conditions, Independence:
		return site.Conditions
	}
	return site.Lines
}

// Minimum is the least percentage of a metric.
type Minimum struct {
	Metric  Metric
	Percent float64 // 0 to 100
}

// Rule is one gate.
type Rule struct {
	Name     string
	Where    []string // globs; empty means everywhere
	On       On
	Each     Each
	Minimums []Minimum
	// Hold are the metrics that must not fall below the baseline's.
	Hold  []Metric
	Slack float64 // percentage points by which they may
}

// Beyond gives a metric of the rule that a recording made at a level says nothing
// of, or nothing.
func (r Rule) Beyond(have site.Level) Metric {
	for _, m := range r.Hold {
		if m.Level() > have {
			return m
		}
	}
	for _, m := range r.Minimums {
		if m.Metric.Level() > have {
			return m.Metric
		}
	}
	return ""
}

// Place is a line that keeps a rule from being met.
type Place struct {
	Path string `json:"path"`
	Line int    `json:"line"`
	Why  string `json:"why"` // in words
}

// Result is the verdict on one scope and metric of a rule.
type Result struct {
	Scope    string  `json:"scope"` // "whole", a folder, a file, or FILE:LINE FUNCTION
	Metric   Metric  `json:"metric"`
	Required float64 `json:"required"` // percent
	Covered  int     `json:"covered"`
	Total    int     `json:"total"`
	Met      bool    `json:"met"`
}

// Verdict is the verdict on one rule.
type Verdict struct {
	Name    string   `json:"name"`
	On      On       `json:"on"`
	Each    Each     `json:"each"`
	Met     bool     `json:"met"`
	Note    string   `json:"note,omitempty"`
	Results []Result `json:"results"`
	Lines   []Place  `json:"lines"`
}

// Input is what rules are judged on, besides the files.
type Input struct {
	Changed  changed.Set      // for rules on changed lines
	Baseline *coverage.Totals // for rules that hold, or nil
	// Match tells whether a path matches one of the globs.
	Match func(globs []string, path string) bool
}

// Judging is a rule being judged: files are added one by one, in any order,
// and none is kept.
type Judging struct {
	rule   Rule
	in     Input
	scopes map[string]*scope
}

// Begin begins to judge a rule.
func Begin(r Rule, in Input) *Judging { return &Judging{r, in, map[string]*scope{}} }

// Judge judges a rule on files.
func Judge(r Rule, in Input, files []*coverage.File) Verdict {
	j := Begin(r, in)
	for _, f := range files {
		j.Add(f)
	}
	return j.Verdict()
}

// Verdict is the verdict on the files added so far.
func (j *Judging) Verdict() Verdict {
	r := j.rule
	v := Verdict{Name: r.Name, On: r.On, Each: r.Each, Met: true, Results: []Result{}, Lines: []Place{}}
	for _, name := range slices.Sorted(maps.Keys(j.scopes)) {
		s := j.scopes[name]
		for _, m := range r.Minimums {
			have := m.Metric.Of(s.totals)
			v.add(Result{Scope: name, Metric: m.Metric, Required: m.Percent, Covered: have.Covered, Total: have.Total,
				Met: reaches(have, m.Percent)}, s)
		}
		for _, m := range r.Hold {
			if j.in.Baseline == nil {
				v.Note = "there is no baseline yet, so nothing can have fallen"
				continue
			}
			was, have := m.Of(*j.in.Baseline), m.Of(s.totals)
			v.add(Result{Scope: name, Metric: m, Covered: have.Covered, Total: have.Total,
				Required: max(0, float64(was.HundredthsPercent())/100-r.Slack), Met: holds(was, have, r.Slack)}, s)
		}
	}
	if len(v.Results) == 0 && v.Note == "" {
		v.Note = "nothing to judge: no measured code is in its scope"
		if r.On == Changed {
			v.Note = "nothing to judge: no measured line in its scope changed"
		}
	}
	slices.SortStableFunc(v.Lines, comparePlaces)
	v.Lines = slices.CompactFunc(v.Lines, func(a, b Place) bool { return a == b })
	return v
}

func (v *Verdict) add(r Result, s *scope) {
	v.Results = append(v.Results, r)
	if !r.Met {
		v.Met = false
		v.Lines = append(v.Lines, s.missing[r.Metric]...)
	}
}

func comparePlaces(a, b Place) int {
	return cmp.Or(strings.Compare(a.Path, b.Path), cmp.Compare(a.Line, b.Line), strings.Compare(a.Why, b.Why))
}

// reaches compares exactly: no rounding helps a ratio over its minimum.
func reaches(r coverage.Ratio, percent float64) bool {
	if r.Total == 0 {
		return true
	}
	need := new(big.Rat)
	if _, ok := need.SetString(fmt.Sprint(percent)); !ok {
		return false
	}
	have := big.NewRat(int64(r.Covered)*100, int64(r.Total))
	return have.Cmp(need) >= 0
}

// holds tells whether a ratio is no lower than it was, but for the slack.
func holds(was, have coverage.Ratio, slack float64) bool {
	if was.Total == 0 || have.Total == 0 {
		return true
	}
	least := big.NewRat(int64(was.Covered)*100, int64(was.Total))
	allowed, ok := new(big.Rat).SetString(fmt.Sprint(slack))
	if ok {
		least.Sub(least, allowed)
	}
	return big.NewRat(int64(have.Covered)*100, int64(have.Total)).Cmp(least) >= 0
}

// Of picks the metric's ratio out of totals.
func (m Metric) Of(t coverage.Totals) coverage.Ratio {
	switch m {
	case Branches:
		return t.Branches
	case Functions:
		return t.Functions
	case Conditions:
		return t.Conditions
	case Independence:
		return t.Independence
	}
	return t.Lines
}

// scope is what a rule must hold for by itself.
type scope struct {
	totals  coverage.Totals
	missing map[Metric][]Place
}

// Add takes a file into account.
func (j *Judging) Add(f *coverage.File) {
	r := j.rule
	if len(r.Where) > 0 && !j.in.Match(r.Where, f.Path) {
		return
	}
	lines := j.in.Changed[f.Path]
	if r.On == Changed && lines == nil {
		return
	}
	name := func(function int) string {
		switch r.Each {
		case Folder:
			return path.Dir(f.Path)
		case PerFile:
			return f.Path
		case Function:
			x := f.Functions[outermost(f, function)]
			return fmt.Sprintf("%s:%d %s", f.Path, x.Span.Start.Line, x.Name)
		}
		return "whole"
	}
	collect(f, r.On == Changed, lines, func(function int, m Metric, covered bool, p Place) {
		n := name(function)
		s := j.scopes[n]
		if s == nil {
			s = &scope{missing: map[Metric][]Place{}}
			j.scopes[n] = s
		}
		switch m {
		case Lines:
			count(&s.totals.Lines, covered)
		case Branches:
			count(&s.totals.Branches, covered)
		case Functions:
			count(&s.totals.Functions, covered)
		case Conditions:
			count(&s.totals.Conditions, covered)
		case Independence:
			count(&s.totals.Independence, covered)
		}
		if !covered && j.asks(m) {
			s.missing[m] = append(s.missing[m], p)
		}
	})
}

// asks tells whether the rule is about a metric.
func (j *Judging) asks(m Metric) bool {
	return slices.Contains(j.rule.Hold, m) || slices.ContainsFunc(j.rule.Minimums, func(x Minimum) bool { return x.Metric == m })
}

func count(r *coverage.Ratio, covered bool) {
	r.Total++
	if covered {
		r.Covered++
	}
}

// outermost is the function that a literal stands in, so that a rule for each
// function is about the functions people name.
func outermost(f *coverage.File, i int) int {
	best := i
	for j, o := range f.Functions {
		if o.Span.Start.Before(f.Functions[best].Span.Start) && f.Functions[i].Span.Start.Before(o.Span.End) {
			best = j
		}
	}
	return best
}

// Expired is the verdict on a waiver that has ended.
func Expired(file string, line int, where, reason, until string) Verdict {
	return Verdict{
		Name: fmt.Sprintf("waiver of %s", where), On: All, Each: Whole, Met: false, Results: []Result{},
		Note:  fmt.Sprintf("it ended on %s (%s); test what it covers and remove it, or give it a new date", until, reason),
		Lines: []Place{{file, line, "waiver ended on " + until}},
	}
}
