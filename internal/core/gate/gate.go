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

// What rules can say.
const (
	All     On = "all"     // the whole of what was measured
	Changed On = "changed" // the changed lines only

	Whole    Each = "whole"
	Folder   Each = "folder"
	PerFile  Each = "file"
	Function Each = "function"
)

// Minimum is the least percentage of a metric.
type Minimum struct {
	Metric  coverage.Metric
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
	Hold  []coverage.Metric
	Slack float64 // percentage points by which they may
	// Unmeasured is Named if it is empty.
	Unmeasured Unmeasured
}

// Beyond gives a metric of the rule that a recording made at a level says nothing
// of, or nothing.
func (r Rule) Beyond(have site.Level) coverage.Metric {
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
	// Metric is what it counts for, and Way the way that was not gone, where that is missing: they
	// stay the same however Why words it.
	Metric coverage.Metric `json:"metric"`
	Way    site.Code       `json:"way,omitempty"`
	Why    string          `json:"why"` // in words
	// group is the same for all that is missing of one function that was not called, or of
	// one stretch that was not reached; of an idle function idle is its name.
	group int
	idle  string
}

// Result is the verdict on one scope and metric of a rule.
type Result struct {
	Scope    string          `json:"scope"` // "whole", a folder, a file, or FILE:LINE FUNCTION
	Metric   coverage.Metric `json:"metric"`
	Required float64         `json:"required"` // percent
	Covered  int             `json:"covered"`
	Total    int             `json:"total"`
	Met      bool            `json:"met"`
}

// Verdict is the verdict on one rule.
type Verdict struct {
	Name    string `json:"name"`
	On      On     `json:"on"`
	Each    Each   `json:"each"`
	Met     bool   `json:"met"`
	Note    string `json:"note,omitempty"`
	Against string `json:"against,omitempty"` // the baseline of a rule that holds, in words
	Looked  Looked `json:"looked_at"`
	// Unmeasured is source code in its scope of which nothing is known, and PassedOver
	// changed code that does not count: generated, vendored or skipped.
	Unmeasured []Unjudged `json:"unmeasured"`
	PassedOver []string   `json:"passed_over,omitempty"`
	// Open is the reason why the rule was not judged; then it is neither met nor not met.
	Open string `json:"not_judged,omitempty"`
	// Nowhere are the globs of the rule that match no source at all: misspelled, maybe.
	Nowhere []string `json:"matches_nothing,omitempty"`
	Results []Result `json:"results"`
	Lines   []Place  `json:"lines"`
}

// Looked says how much a rule looked at.
type Looked struct {
	Files int `json:"files"` // in its scope
	// Of a rule on changed lines: how many changed, and how many of them carry code.
	Changed  int `json:"changed_lines"`
	Measured int `json:"measured_lines"`
}

// Input is what rules are judged on, besides the files.
type Input struct {
	Changed  changed.Set // for rules on changed lines
	Baseline *Baseline   // for rules that hold, or nil if there is none yet
	// Strict has rules that hold not be met without a baseline, and rules on changed lines
	// not where some of these are in code that is unmeasured.
	Strict  bool
	Unknown Unknown
	// Paths are those of all sources that the recording knows, measured or not.
	Paths []string
	// Match tells whether a path matches one of the globs.
	Match func(globs []string, path string) bool
}

// Baseline is what rules that hold compare with.
type Baseline struct {
	From string // in words
	// Floors are percentages that must be kept. Without them files are compared with
	// what they were.
	Floors []Floor
}

// Judging is a rule being judged: files are added one by one, in any order,
// and none is kept.
type Judging struct {
	rule   Rule
	in     Input
	scopes map[string]*scope // by what does not change when lines move
	looked Looked
}

// Begin begins to judge a rule.
func Begin(r Rule, in Input) *Judging { return &Judging{rule: r, in: in, scopes: map[string]*scope{}} }

// Judge judges a rule on files.
func Judge(r Rule, in Input, files []coverage.Pair) Verdict {
	j := Begin(r, in)
	for _, f := range files {
		j.Add(f)
	}
	return j.Verdict()
}

// Verdict is the verdict on the files added so far.
func (j *Judging) Verdict() Verdict {
	r := j.rule
	v := Verdict{Name: r.Name, On: r.On, Each: r.Each, Met: true, Looked: j.looked, Results: []Result{}, Lines: []Place{}, Unmeasured: []Unjudged{}}
	if len(r.Hold) > 0 {
		j.about(&v)
	}
	for _, key := range slices.SortedFunc(maps.Keys(j.scopes), func(a, b string) int {
		return strings.Compare(j.scopes[a].name, j.scopes[b].name)
	}) {
		s := j.scopes[key]
		if !s.here {
			continue
		}
		for _, m := range r.Minimums {
			have := s.totals.Of(m.Metric)
			v.add(Result{Scope: s.name, Metric: m.Metric, Required: m.Percent, Covered: have.Covered, Total: have.Total,
				Met: reaches(have, m.Percent)}, s.missing[m.Metric])
		}
		for _, m := range r.Hold {
			j.hold(&v, key, s, m)
		}
	}
	j.unjudged(&v)
	j.nowhere(&v)
	if len(v.Results) == 0 && v.Note == "" && len(v.Unmeasured) == 0 {
		v.Note = "nothing to judge: no measured code is in its scope"
		if r.On == Changed {
			v.Note = "nothing to judge: no measured line in its scope changed"
		}
	}
	slices.SortStableFunc(v.Lines, comparePlaces)
	v.Lines = slices.CompactFunc(v.Lines, func(a, b Place) bool { return a == b })
	return v
}

func (v *Verdict) add(r Result, short []Place) {
	v.Results = append(v.Results, r)
	if !r.Met {
		v.Met = false
		v.Lines = append(v.Lines, short...)
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

// scope is what a rule must hold for by itself.
type scope struct {
	name    string
	here    bool // there is something in it now, not only in the baseline
	totals  coverage.Totals
	missing map[coverage.Metric][]Place
	was     coverage.Totals
	fallen  map[coverage.Metric][]Place // what ran in the baseline or is new, and does not run
	gone    int                         // lines that ran in the baseline and are no more
}

func (j *Judging) scope(key, name string) *scope {
	s := j.scopes[key]
	if s == nil {
		s = &scope{name: name, missing: map[coverage.Metric][]Place{}, fallen: map[coverage.Metric][]Place{}}
		j.scopes[key] = s
	}
	return s
}

// Add takes a file into account.
func (j *Judging) Add(f coverage.Pair) {
	if j.compares() {
		j.addWas(f)
	}
	if f.Now != nil {
		j.addNow(f.Now)
	}
}

func (j *Judging) addNow(f *coverage.File) {
	lines := j.in.Changed[f.Path]
	if !j.rule.in(f.Path, j.in) || j.rule.On == Changed && lines == nil {
		return
	}
	j.looked.Files++
	if j.rule.On == Changed {
		j.looked.Changed += len(lines.Within(f.LineCount))
	}
	collect(f, j.rule.On == Changed, lines, func(c *collector, m coverage.Metric, i coverage.Item) {
		key, name := j.key(f, i.Function)
		s := j.scope(key, name)
		s.name, s.here = name, true
		if j.rule.On == Changed && m == coverage.Lines {
			j.looked.Measured++
		}
		s.totals.Count(m, i.Covered)
		if !i.Covered && j.asks(m) {
			s.missing[m] = append(s.missing[m], c.place(m, i))
		}
	})
}

// in tells whether a rule looks at a path.
func (r Rule) in(path string, in Input) bool { return len(r.Where) == 0 || in.Match(r.Where, path) }

// key says in which scope a function is: what it is known by, also when lines have
// moved, and what it is called.
func (j *Judging) key(f *coverage.File, function int) (key, name string) {
	switch j.rule.Each {
	case Folder:
		dir := path.Dir(f.Path)
		return dir, dir
	case PerFile:
		return f.Path, f.Path
	case Function:
		x := f.Functions[outermost(f, function)]
		return fmt.Sprintf("%s %s", f.Path, x.Name), fmt.Sprintf("%s:%d %s", f.Path, x.Span.Start.Line, x.Name)
	}
	return "whole", "whole"
}

// asks tells whether the rule is about a metric.
func (j *Judging) asks(m coverage.Metric) bool {
	return slices.Contains(j.rule.Hold, m) || slices.ContainsFunc(j.rule.Minimums, func(x Minimum) bool { return x.Metric == m })
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
