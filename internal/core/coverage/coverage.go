// Package coverage reads what ran off site tables and counters: the state of
// every line, the count of every function, statement and outcome, and the
// totals. docs/counting.md explains each number with examples.
package coverage

import (
	"cmp"
	"iter"
	"slices"

	"thrush/internal/core/attribution"
	"thrush/internal/core/site"
)

// State is the state of a line.
type State uint8

// The states. A line on which nothing begins is not code.
const (
	NotCode State = iota
	Full          // all that begins there ran, all outcomes of its decisions were taken
	Part          // something that begins there ran, but not all
	None          // nothing that begins there ran
	Waived        // taken out of the totals
)

func (s State) String() string {
	switch s {
	case Full:
		return "full"
	case Part:
		return "part"
	case None:
		return "none"
	case Waived:
		return "waived"
	}
	return ""
}

// Ratio is how many of how many.
type Ratio struct {
	Covered int `json:"covered"`
	Total   int `json:"total"`
}

// Add gives the sum of two ratios.
func (r Ratio) Add(o Ratio) Ratio { return Ratio{r.Covered + o.Covered, r.Total + o.Total} }

func (r *Ratio) count(covered bool) {
	r.Total++
	if covered {
		r.Covered++
	}
}

// Missing is how many are left.
func (r Ratio) Missing() int { return r.Total - r.Covered }

// HundredthsPercent is the ratio in hundredths of a percent, rounded down, so
// that only all of it gives 10000. The ratio of nothing is 10000.
func (r Ratio) HundredthsPercent() int {
	if r.Total == 0 {
		return 10000
	}
	return int(int64(r.Covered) * 10000 / int64(r.Total))
}

// Line is a line of code.
type Line struct {
	Number int
	State  State
	// Count is the largest count of what begins on the line.
	Count uint64
	// Ran says that something that begins on the line began to run.
	Ran bool
	// Function is the index of the innermost function it belongs to.
	Function int
	By       uint32 // which labels reached what begins on it: a set of File.Sets
}

// Function is a function with its count, or what a file does outside all functions.
type Function struct {
	Name    string
	Span    site.Span
	Count   uint64
	By      uint32
	Waived  bool
	Literal bool // it stands inside another function
	Totals  Totals
}

// Statement is a statement with its count.
type Statement struct {
	Span     site.Span
	Head     site.Pos
	Function int
	Count    uint64
	By       uint32
}

// Outcome is one way a decision can go, with its count.
type Outcome struct {
	site.Way
	Pos   site.Pos
	Count uint64
	By    uint32
}

// Decision is a decision with the counts of its outcomes.
type Decision struct {
	Kind     string
	Pos      site.Pos
	Function int
	Outcomes []Outcome
	Logic    []Logic // its boolean expressions, at the level of conditions
	Waived   bool
}

// File is the coverage of one source file.
type File struct {
	Path, Language, Digest string
	Level                  site.Level
	Keep                   site.Keep
	Loaded                 bool // a process that had the file in it reported
	LineCount              int  // lines in the file, code or not
	Sets                   *attribution.Sets
	Table                  *site.Table // what it was read off

	Lines      []Line // lines of code, in order
	Functions  []Function
	Statements []Statement
	Decisions  []Decision
	Waivers    []site.Waiver
	Continued  []uint32
	Totals     Totals
}

// Resolve reads the coverage of a file off its table and counters. No counters
// mean that nothing of it ran. The waivers are added to those of the table.
func Resolve(t *site.Table, counters []uint64, waivers ...site.Waiver) *File {
	return ResolveReach(t, Counted{Counters: counters}, waivers...)
}

// ResolveReach is Resolve where it is known who reached what.
func ResolveReach(t *site.Table, c Counted, waivers ...site.Waiver) *File {
	f := &File{
		Path: t.Path, Language: t.Language, Digest: t.Digest, Level: t.Level, Keep: t.Keep, Table: t, Sets: c.Sets,
		Loaded: c.Counters != nil, LineCount: t.Lines, Continued: t.Continued,
		Waivers: slices.Concat(t.Waivers, waivers),
	}
	slices.SortStableFunc(f.Waivers, func(a, b site.Waiver) int { return cmp.Compare(a.Line, b.Line) })
	if c.Counters == nil {
		c.Counters, c.Reach = make([]uint64, t.Counters), nil
	}
	read := func(s site.Sum) uint64 {
		n := s.Of(c.Counters)
		if t.Keep == site.Hits && n > 1 {
			n = 1
		}
		return n
	}
	by := func(s site.Sum) (set uint32) {
		if c.Reach != nil {
			for _, i := range s {
				set = c.Sets.Union(set, c.Reach[i])
			}
		}
		return set
	}
	f.Functions = make([]Function, len(t.Functions))
	for i, x := range t.Functions {
		f.Functions[i] = Function{Name: x.Name, Span: x.Span, Count: read(x.Sum), By: by(x.Sum), Waived: f.waived(x.Span.Start.Line)}
	}
	f.Statements = make([]Statement, len(t.Statements))
	for i, x := range t.Statements {
		f.Statements[i] = Statement{Span: x.Span, Head: x.Head, Function: x.Function, Count: read(x.Sum), By: by(x.Sum)}
	}
	f.Decisions = make([]Decision, len(t.Decisions))
	for i, x := range t.Decisions {
		d := Decision{Kind: x.Kind, Pos: x.Pos, Function: x.Function, Waived: f.waived(x.Pos.Line)}
		d.Outcomes = make([]Outcome, len(x.Outcomes))
		for j, o := range x.Outcomes {
			d.Outcomes[j] = Outcome{Way: o.Way, Pos: o.Pos, Count: read(o.Sum), By: by(o.Sum)}
		}
		for _, l := range x.Logic {
			d.Logic = append(d.Logic, resolveLogic(l, read))
		}
		f.Decisions[i] = d
	}
	f.nest()
	f.readLines()
	f.add()
	return f
}

// nest finds the functions that stand inside others.
func (f *File) nest() {
	var open []int
	order := make([]int, len(f.Functions))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		return f.Functions[a].Span.Start.Compare(f.Functions[b].Span.Start)
	})
	for _, i := range order {
		for len(open) > 0 && !f.Functions[i].Span.Start.Before(f.Functions[open[len(open)-1]].Span.End) {
			open = open[:len(open)-1]
		}
		f.Functions[i].Literal = len(open) > 0
		open = append(open, i)
	}
}

func (f *File) waived(line int) bool {
	for _, w := range f.Waivers {
		if w.Line <= line && line <= w.EndLine {
			return true
		}
	}
	return false
}

// readLines works out the lines of code.
func (f *File) readLines() {
	at := make(map[int]int, len(f.Statements))
	begin := func(pos site.Pos, function int, count uint64, by uint32) {
		i, ok := at[pos.Line]
		if !ok {
			i = len(f.Lines)
			at[pos.Line] = i
			f.Lines = append(f.Lines, Line{Number: pos.Line, State: Full, Function: function})
		}
		l := &f.Lines[i]
		l.Count = max(l.Count, count)
		if by != 0 {
			l.By = f.Sets.Union(l.By, by)
		}
		if count > 0 {
			l.Ran = true
		} else {
			l.State = None // for now: not all of it ran
		}
	}
	for i, x := range f.Named() {
		begin(x.Span.Start, i, x.Count, x.By)
	}
	for _, x := range f.Statements {
		begin(x.Span.Start, x.Function, x.Count, x.By)
	}
	for _, d := range f.Decisions {
		for _, o := range d.Outcomes {
			if i, ok := at[d.Pos.Line]; ok && o.Count == 0 {
				f.Lines[i].State = None
			}
		}
	}
	for i := range f.Lines {
		l := &f.Lines[i]
		switch {
		case f.waived(l.Number):
			l.State = Waived
		case l.State == None && l.Ran:
			l.State = Part
		}
	}
	slices.SortFunc(f.Lines, func(a, b Line) int { return cmp.Compare(a.Number, b.Number) })
}

// add works out the totals of the file and of each function.
func (f *File) add() {
	for i, d := range Metrics {
		d.Items(f, func(x Item) {
			f.Totals.ratios[i].count(x.Covered)
			f.Functions[x.Function].Totals.ratios[i].count(x.Covered)
		})
	}
	for _, l := range f.Lines {
		if l.State == Waived {
			f.Totals.WaivedLines++
			f.Functions[l.Function].Totals.WaivedLines++
		}
	}
}

// Outside tells whether it stands for what a file does outside all functions.
func (f *Function) Outside() bool { return f.Span == (site.Span{}) }

// Named gives the functions of a file, by their indices.
func (f *File) Named() iter.Seq2[int, Function] {
	return func(yield func(int, Function) bool) {
		for i := range f.Functions {
			if !f.Functions[i].Outside() && !yield(i, f.Functions[i]) {
				return
			}
		}
	}
}

// From gives the lines of code that come at or after a line number.
func (f *File) From(number int) []Line {
	i, _ := slices.BinarySearchFunc(f.Lines, number, func(l Line, n int) int { return cmp.Compare(l.Number, n) })
	return f.Lines[i:]
}

// At gives the line with the given number, if it is a line of code.
func (f *File) At(number int) (Line, bool) {
	i, ok := slices.BinarySearchFunc(f.Lines, number, func(l Line, n int) int { return cmp.Compare(l.Number, n) })
	if !ok {
		return Line{}, false
	}
	return f.Lines[i], true
}

// Pair is a file as it is and as it was, in two recordings; either may be nil.
type Pair struct{ Now, Was *File }
