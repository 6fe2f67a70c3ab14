// Package site holds the tables that say what is measured in a source file:
// its functions, its statements and the outcomes of its decisions, and from
// which counters the count of each is read.
//
// A table says nothing about any language. Weaving makes it, a recording
// carries it, and everything that reports reads it.
package site

import (
	"cmp"
	"math"
)

// Pos is a place in a source file. Lines and columns are counted from 1;
// columns count bytes.
type Pos struct {
	Line, Column int
}

// Before tells whether p stands earlier in the file than q.
func (p Pos) Before(q Pos) bool {
	return p.Line < q.Line || p.Line == q.Line && p.Column < q.Column
}

// Compare orders places by where they stand in a file.
func (p Pos) Compare(q Pos) int {
	return cmp.Or(cmp.Compare(p.Line, q.Line), cmp.Compare(p.Column, q.Column))
}

// Span is a stretch of a source file, from the first byte of Start to the last
// byte before End.
type Span struct {
	Start, End Pos
}

// LastLine is the last line on which the span has text.
func (s Span) LastLine() int {
	if s.End.Column <= 1 && s.End.Line > s.Start.Line {
		return s.End.Line - 1
	}
	return s.End.Line
}

// Sum names the counters of a file that, added up, give the count of a site.
// An empty sum stands for a site that control cannot reach. Counts are only
// ever added, never subtracted: a difference would call things run that were
// left half-way.
type Sum []uint32

// Of reads the sum off the counters of a file. What grows too large stays at the largest
// number: it must not come out as never run.
func (s Sum) Of(counters []uint64) uint64 {
	var n uint64
	for _, i := range s {
		if n += counters[i]; n < counters[i] {
			return math.MaxUint64
		}
	}
	return n
}

// Level says how deep a file is looked into.
type Level uint8

// The levels, from the shallowest to the deepest.
const (
	Lines      Level = iota + 1 // functions and statements
	Branches                    // and the outcomes of decisions
	Conditions                  // and the operands of decisions
)

func (l Level) String() string {
	switch l {
	case Lines:
		return "lines"
	case Branches:
		return "branches"
	case Conditions:
		return "conditions"
	}
	return "unknown"
}

// LevelOf gives the level of a name.
func LevelOf(name string) (l Level, ok bool) {
	for l := Lines; l <= Conditions; l++ {
		if l.String() == name {
			return l, true
		}
	}
	return 0, false
}

// Keep says what a counter keeps.
type Keep uint8

// The two ways to keep.
const (
	Counts Keep = iota + 1 // how often
	Hits                   // only whether: 0 or 1 a process
)

func (k Keep) String() string {
	switch k {
	case Counts:
		return "counts"
	case Hits:
		return "hits"
	}
	return "unknown"
}

// Function is a function, a method or a function literal, or, with no span, what the
// file does outside all of them, which is no function anybody calls.
type Function struct {
	Name string // as the language's own stack traces name it, without the package
	Span Span
	Sum  Sum
	Mark uint64 // as SetMarks gives it, or 0
	// ByEnd says that the place where it ends tells the function from all others of the
	// file: macros may give one text several names and beginnings.
	ByEnd bool
}

// Statement is one executable statement, without the statements nested in it.
type Statement struct {
	Span     Span
	Head     Pos // where its own text ends and that of nested statements begins
	Function int // index into Table.Functions
	Sum      Sum
	Mark     uint64 // as SetMarks gives it
}

// Outcome is one way a decision can go.
type Outcome struct {
	Way
	Pos Pos // where the outcome's code begins, or the decision's own place
	Sum Sum
}

// Decision is a place that chooses where control goes.
type Decision struct {
	Kind     string // "if", "loop", "switch", "type switch", "select", "value"
	Pos      Pos
	Function int // index into Table.Functions
	Outcomes []Outcome
	Mark     uint64 // as SetMarks gives it
	// Logic are the boolean expressions that choose, at the level of conditions:
	// one, or one for each case of a switch.
	Logic []Logic
}

// Logic is a boolean expression in a decision.
type Logic struct {
	Pos        Pos
	Formula    string // as logic.Formula writes it
	Conditions []Condition
	// Ways are the counts of the ways through the formula, by their numbers. They
	// are missing where there are too many; then Both counts four things for each
	// condition: how often it was true, how often false, and how often it decided the
	// result being true and being false.
	Ways []Sum
	Both []Sum
}

// Condition is an operand of a boolean expression.
type Condition struct {
	Text string // as it stands in the source, on one line and maybe cut
	Pos  Pos
}

// Waiver takes the sites that begin on its lines out of the totals.
type Waiver struct {
	Line, EndLine int // both included
	Reason        string
}

// Block is a stretch between braces, kept so that a waiver can name it.
type Block struct {
	Line, EndLine int
}

// Table is everything that is measured in one source file.
type Table struct {
	Path     string // from the project's root, with slashes
	Language string
	Unit     string // identity of the woven text: 32 hexadecimal digits
	Digest   string // of the source text: 16 hexadecimal digits of XXH64
	Level    Level
	Keep     Keep
	Lines    int // lines in the file
	Counters int // how many counters the woven text has
	// Partial says that nothing can be told of the sites of the file that are not here:
	// what ran was made of the file by a tool, and they cannot be found in it.
	Partial bool

	Functions  []Function
	Statements []Statement
	Decisions  []Decision
	Waivers    []Waiver
	// Continued are the lines, in order, that carry code but on which no
	// statement or function begins.
	Continued []uint32
}
