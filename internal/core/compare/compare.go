// Package compare says what became of a file's coverage from one recording to
// another, also when its source changed in between.
package compare

import (
	"cmp"
	"slices"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
	"thrush/internal/core/remap"
	"thrush/internal/core/site"
)

// Change says what became of a line or an outcome.
type Change string

// What can become of it.
const (
	Covered Change = "covered" // it did not run before, and does now
	Lost    Change = "lost"    // it ran before, and does not now
	Added   Change = "added"   // it is new, or was changed
	Removed Change = "removed" // it is gone, or was changed
)

// Because says why something was lost.
type Because string

// The two reasons. Where nothing in the function changed, what runs it did: the tests,
// or code elsewhere that called it.
const (
	Code  Because = "code"
	Tests Because = "tests"
)

// Item is a line, or an outcome of a decision on it, whose coverage is not as it was.
type Item struct {
	Path     string `json:"path"`
	Line     int    `json:"line,omitempty"`     // in the newer version, or 0 if it is gone
	WasLine  int    `json:"was_line,omitempty"` // in the older version, or 0 if it is new
	Function string `json:"function"`
	Outcome  string `json:"outcome,omitempty"` // of a decision: which, or empty for the line itself
	// Way is the code of that outcome, which stays the same however Outcome words it.
	Way     site.Code `json:"way,omitempty"`
	Change  Change    `json:"change"`
	Because Because   `json:"because,omitempty"` // of what was lost
	Ran     bool      `json:"ran"`               // it does now, or did before it was removed
	What    string    `json:"what"`              // in words
	In      int       `json:"-"`                 // index of its function, in the older version if it is gone
}

// Function is a function whose coverage is not as it was.
type Function struct {
	Path    string          `json:"path"`
	Name    string          `json:"name"`
	Line    int             `json:"line,omitempty"`
	WasLine int             `json:"was_line,omitempty"`
	Count   uint64          `json:"count"`
	Was     uint64          `json:"was_count"`
	Change  Change          `json:"change,omitempty"` // of being called at all
	Edited  bool            `json:"edited"`
	Before  coverage.Totals `json:"was"`
	After   coverage.Totals `json:"now"`
	In      int             `json:"-"` // its index, in the older version if it is gone
}

// File is what became of a file.
type File struct {
	Path      string          `json:"path"`
	Source    Source          `json:"source"`
	Was       coverage.Totals `json:"was"`
	Now       coverage.Totals `json:"now"`
	Functions []Function      `json:"functions"`
	Items     []Item          `json:"items"`
}

// Source says what became of a file's text.
type Source string

// What can become of it.
const (
	Same       Source = "same"
	Edited     Source = "edited"
	NewFile    Source = "added"
	RemovedOne Source = "removed"
)

// Moved tells whether anything about a file is not as it was.
func (f *File) Moved() bool {
	return len(f.Items) > 0 || f.Was.Moved(f.Now) ||
		slices.ContainsFunc(f.Functions, func(x Function) bool { return x.Change != "" })
}

// Files compares a file before and after; either may be nil, but not both.
func Files(was, now *coverage.File) *File {
	switch {
	case was == nil:
		return one(now, NewFile, Added)
	case now == nil:
		return one(was, RemovedOne, Removed)
	}
	c := &comparing{was: was, now: now, out: &File{Path: now.Path, Source: Same, Was: was.Totals, Now: now.Totals, Functions: []Function{}, Items: []Item{}}}
	if was.Digest == now.Digest {
		c.m = remap.ByPlace(was.Table, now.Table)
	} else {
		c.out.Source = Edited
		c.m = remap.Match(was.Table, now.Table)
	}
	c.lines()
	c.outcomes()
	c.functions()
	sortItems(c.out.Items)
	return c.out
}

func sortItems(list []Item) {
	slices.SortStableFunc(list, func(a, b Item) int {
		return cmp.Or(cmp.Compare(max(a.Line, a.WasLine), max(b.Line, b.WasLine)), strings.Compare(string(a.Change), string(b.Change)), strings.Compare(a.Outcome, b.Outcome))
	})
}

// one describes a file that there is only before or only after.
func one(f *coverage.File, s Source, change Change) *File {
	out := &File{Path: f.Path, Source: s, Functions: []Function{}, Items: []Item{}}
	if change == Added {
		out.Now = f.Totals
	} else {
		out.Was = f.Totals
	}
	for _, l := range f.Lines {
		if l.State == coverage.Waived {
			continue
		}
		i := Item{Path: f.Path, Function: f.Functions[l.Function].Name, In: l.Function, Change: change, Ran: l.Ran, What: ran(l.Ran)}
		if change == Added {
			i.Line = l.Number
		} else {
			i.WasLine = l.Number
		}
		out.Items = append(out.Items, i)
	}
	for j, fn := range f.Named() {
		x := Function{Path: f.Path, Name: fn.Name, Change: change, Edited: true, In: j}
		if change == Added {
			x.Line, x.Count, x.After = fn.Span.Start.Line, fn.Count, fn.Totals
		} else {
			x.WasLine, x.Was, x.Before = fn.Span.Start.Line, fn.Count, fn.Totals
		}
		out.Functions = append(out.Functions, x)
	}
	return out
}

func ran(yes bool) string {
	if yes {
		return "ran"
	}
	return gaps.NotRun
}

type comparing struct {
	was, now *coverage.File
	m        *remap.Matched
	out      *File
}

// because tells why something in a function of the newer version was lost.
func (c *comparing) because(function int) Because {
	if c.m.Same[function] {
		return Tests
	}
	return Code
}

func (c *comparing) lines() {
	before := map[int]int{} // a line's number before, by its number now
	is := map[int]int{}     // and the other way round
	note := func(was, now int) {
		if _, ok := before[now]; !ok {
			before[now] = was
		}
		is[was] = now
	}
	for j, i := range c.m.Functions {
		if i >= 0 {
			note(c.was.Functions[i].Span.Start.Line, c.now.Functions[j].Span.Start.Line)
		}
	}
	for j, i := range c.m.Statements {
		if i >= 0 {
			note(c.was.Statements[i].Span.Start.Line, c.now.Statements[j].Span.Start.Line)
		}
	}
	for _, l := range c.now.Lines {
		if l.State == coverage.Waived {
			continue
		}
		name := c.now.Functions[l.Function].Name
		at, known := before[l.Number]
		if !known {
			c.add(Item{Line: l.Number, Function: name, In: l.Function, Change: Added, Ran: l.Ran, What: ran(l.Ran)})
			continue
		}
		switch old, _ := c.was.At(at); {
		case old.Ran && !l.Ran && old.State != coverage.Waived:
			c.add(Item{Line: l.Number, WasLine: at, Function: name, In: l.Function, Change: Lost, Because: c.because(l.Function), What: "does not run any more"})
		case !old.Ran && l.Ran && old.State != coverage.Waived:
			c.add(Item{Line: l.Number, WasLine: at, Function: name, In: l.Function, Change: Covered, Ran: true, What: "runs now"})
		}
	}
	for _, l := range c.was.Lines {
		if _, known := is[l.Number]; !known && l.State != coverage.Waived {
			c.add(Item{WasLine: l.Number, Function: c.was.Functions[l.Function].Name, In: l.Function, Change: Removed, Ran: l.Ran, What: ran(l.Ran)})
		}
	}
}

func (c *comparing) add(i Item) {
	i.Path = c.out.Path
	c.out.Items = append(c.out.Items, i)
}

func (c *comparing) outcomes() {
	if c.was.Level < site.Branches || c.now.Level < site.Branches {
		return
	}
	for j, d := range c.now.Decisions {
		if d.Waived {
			continue
		}
		i := c.m.Decisions[j]
		for n, o := range d.Outcomes {
			item := Item{Line: o.Pos.Line, Function: c.now.Functions[d.Function].Name, In: d.Function, Outcome: d.Kind + ": " + gaps.Label(o.Way), Way: o.Code, Ran: o.Count > 0}
			if i < 0 || n >= len(c.was.Decisions[i].Outcomes) || c.was.Decisions[i].Outcomes[n].Way != o.Way {
				if o.Count == 0 {
					item.Change, item.What = Added, gaps.Says(c.now, d, n)
					c.add(item)
				}
				continue
			}
			old := c.was.Decisions[i].Outcomes[n]
			item.WasLine = old.Pos.Line
			switch {
			case old.Count > 0 && o.Count == 0:
				item.Change, item.Because, item.What = Lost, c.because(d.Function), "not "+gaps.Went(o.Way)+" any more"
				c.add(item)
			case old.Count == 0 && o.Count > 0:
				item.Change, item.What = Covered, "now "+gaps.Went(o.Way)
				c.add(item)
			}
		}
	}
}

func (c *comparing) functions() {
	known := map[int]bool{}
	for j, fn := range c.now.Named() {
		x := Function{Path: c.out.Path, Name: fn.Name, Line: fn.Span.Start.Line, Count: fn.Count, After: fn.Totals, Edited: !c.m.Same[j], In: j}
		i := c.m.Functions[j]
		if i < 0 {
			x.Change = Added
			c.out.Functions = append(c.out.Functions, x)
			continue
		}
		known[i] = true
		old := c.was.Functions[i]
		x.WasLine, x.Was, x.Before = old.Span.Start.Line, old.Count, old.Totals
		switch {
		case old.Count == 0 && fn.Count > 0:
			x.Change = Covered
		case old.Count > 0 && fn.Count == 0:
			x.Change = Lost
		}
		if x.Change != "" || x.Before != x.After {
			c.out.Functions = append(c.out.Functions, x)
		}
	}
	for i, fn := range c.was.Named() {
		if !known[i] {
			c.out.Functions = append(c.out.Functions, Function{Path: c.out.Path, Name: fn.Name, WasLine: fn.Span.Start.Line, Was: fn.Count, Before: fn.Totals, Change: Removed, Edited: true, In: i})
		}
	}
}
