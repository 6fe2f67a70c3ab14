// Package flow is the shape in which every language's syntax hands a source
// file to the weaver: functions, and in them statements in the order in which
// control reaches them, each with the places where text may be woven in.
//
// A front end builds it, one folder a language; the weaver decides from it
// alone where probes must stand.
package flow

import (
	"strings"

	"thrush/internal/core/logic"
	"thrush/internal/core/site"
	"thrush/internal/core/waiver"
)

// File is one source file.
type File struct {
	Functions []*Function // outermost first, in the order of the text
	// Notes are the comments that speak to Thrush.
	Notes []waiver.Note
	// Blocks are the stretches between braces, for waivers to name.
	Blocks []site.Block
	Lines  int
	// Code are the lines, in order, that carry more than blanks, comments and
	// closing brackets.
	Code []uint32
	// Generated is the sentence by which the file declares itself written by a program, or
	// empty.
	Generated string
	// Constraint is what must hold for the file to be built, in the
	// language's own words, or empty.
	Constraint   string
	ConstraintAt int // byte offset of it
	// FixedTop says that nothing can be added at the top of the file: it has a
	// byte order mark, or a constraint of an older form.
	FixedTop bool
	// Program says that the file belongs to a program rather than to a library.
	Program bool
	// Module says that the file is an ES module by its own words or name.
	Module bool
	// Hoists says that a function of it is hoisted.
	Hoists bool
	// Embeds are patterns, from the file's folder, of files whose very text
	// goes into the program.
	Embeds []string
	// Hides is a word of the language itself that the file gives another meaning
	// to, for all files of its folder, and that weaving relies on; or empty.
	Hides string
	// Moved says that the file itself gives its lines other names or numbers.
	Moved bool
	// Named says that its woven text needs the usual name of a source file,
	// since a tool looks at it.
	Named bool
	// Start is the place of the first token, Imports the byte offset where
	// imports may be added, Declare that where declarations may.
	Start            site.Pos
	StartAt          int
	Imports, Declare int
}

// Function is a function, a method or a function literal.
type Function struct {
	Name string
	Span site.Span
	Body *Block
	// Constant says that jumps of ours cannot stand in it; in C++, since a compiler may
	// work the function out, and what counts in it must not do so then.
	Constant bool
	// Hoisted says that it may be called before what stands above it has run.
	Hoisted bool
	// ByEnd is as site.Function says.
	ByEnd bool
	// Among says that its statements stand among the members of a class.
	Among Among
}

// Among says what statements do that stand among the members of a class, where a block of
// others may stand beside them.
type Among uint8

// What such statements make.
const (
	NotAmong Among = iota // they stand in a function
	OfClass               // the class
	OfObject              // each object of it
)

// Block is a list of statements with room for probes at its two ends.
type Block struct {
	Open  int // byte offset just inside the beginning
	Close int // byte offset just before the end
	Nodes []Node
	Bare  bool // it is a single statement, without braces
	// Leaves says that control may leave at the end, where what the block declares is
	// given up, or on the way of a jump out of it.
	Leaves bool
	// Entry is an expression in which coming into the block is counted, since no statement
	// may stand before it; or nil.
	Entry *Operand
	// Silent says of a function's single expression that it gives nothing.
	Silent bool
	// Yields says of a bare block that it is an expression, whose value is that of the
	// expression around it.
	Yields bool
}

// Operand is an expression that is worked out before all others around it.
type Operand struct {
	From, End int  // byte offsets
	Null      bool // it is the literal for no object, which has no type of its own
}

// Node is a statement: *Plain, *Jump, *Branch, *Loop, *Choice, *Switch, *Case,
// *Label, *Try or *Nested.
type Node interface {
	head() *Stmt
}

// Stmt is what all statements have.
type Stmt struct {
	At   int // byte offset where a probe that runs just before it may stand
	Span site.Span
	Head site.Pos // where its own text ends and that of nested statements begins
	// Counted is false for what has no effect when it runs, such as a type
	// declaration, and for what is counted through its parts.
	Counted bool
	// Leaves says that control may leave within the statement instead of
	// going on to the next: it calls, may panic, or may block for ever.
	Leaves bool
	// Literals are the function literals inside it, not those inside
	// statements nested in it.
	Literals []*Function
	// Values are the boolean expressions with operators in it whose value is used,
	// and those that choose between two values, not those that decide where the
	// statement itself leads.
	Values []*Logic
	// Picks are the expressions in it that choose by whether a value is there.
	Picks []*Pick
	// Inner are the blocks that stand in expressions of it.
	Inner []*Block
	// Placeless says that nothing can be declared for its expressions to use.
	Placeless bool
}

// Pick is an expression that chooses by whether a value is there.
type Pick struct {
	Kind      string
	Pos       site.Pos
	From, End int // byte offsets of the value, or, without There, of what runs if it is missing
	// There and Missing are the outcomes. Without There nothing runs, that
	// could be counted, where the value is there.
	There, Missing site.Code
}

// Logic is a boolean expression.
type Logic struct {
	Formula    *logic.Formula
	Conditions []Condition
	Pos        site.Pos
	Kind       string // of the decision that it is by itself; empty for "value"
	// True and False are its outcomes, if they are others than site.True and site.False.
	True, False site.Code
}

// Condition is an operand of a boolean expression.
type Condition struct {
	Pos       site.Pos
	From, End int    // byte offsets of its text
	Text      string // as it was written, where that differs from the text
	Kept      bool   // its very value goes on, not only whether it is true
	// Names says that it is a test for a type that gives names; or nil.
	Names *Naming
}

// Naming is a test for a type that gives the value a name, for what runs if it is of the
// type. Names are only known where nothing but more conditions that must be true stands in
// between.
type Naming struct {
	From, End int    // byte offsets of the value
	Type      string // empty where the test says more than a type
}

// Weaves tells whether what is said for true and for false can be put into all conditions.
func (l *Logic) Weaves() bool {
	for _, c := range l.Conditions {
		if c.Names != nil && c.Names.Type == "" {
			return false
		}
	}
	return true
}

// Caption is source text on one line and not too long.
func Caption(text []byte) string {
	out := []rune(strings.Join(strings.Fields(string(text)), " "))
	const most = 60
	if len(out) > most {
		return string(out[:most-1]) + "…"
	}
	return string(out)
}

func (s *Stmt) head() *Stmt { return s }

// Plain is a statement after which control goes to the next one, or leaves.
type Plain struct {
	Stmt
}

// JumpKind says where a jump goes.
type JumpKind uint8

// The kinds of jumps.
const (
	Away     JumpKind = iota // out of the function: return, panic
	Break                    // out of Target
	Continue                 // to the next round of Target
	Goto                     // to the label
	Fall                     // into the next arm of Target
)

// Jump is a statement after which control never goes to the next one.
type Jump struct {
	Stmt
	Kind   JumpKind
	Target Node   // the loop or choice, for Break and Continue
	Into   *Arm   // for Fall
	Label  *Label // the label it names, if any
	From   int    // byte offset of the statement
	End    int    // byte offset after the statement
}

// Branch is a two-way decision.
type Branch struct {
	Stmt
	Cond       *Logic
	CondAt     site.Pos
	CondLeaves bool // control may leave while the condition is worked out
	Then       *Block
	Else       *Block  // nil where there is none
	ElseIf     *Branch // the branch that hangs on its else, if any
	From, End  int     // byte offsets of the whole statement
	Listed     bool    // false when it hangs on another branch's else
	Settled    bool    // it can go one way only, so it decides nothing
}

// Loop is any loop.
type Loop struct {
	Stmt
	Endless bool   // only a jump leaves it
	Cond    *Logic // nil where it does not decide by a boolean expression
	Body    *Block
	End     int  // byte offset after the whole statement
	Tested  bool // each of the condition's operands may be woven into by itself
	Late    bool // the condition, always tested, comes after the body
	Settled bool // it decides nothing that was written here
	Once    bool // it never goes round again; breaks and continues lead to its end
	// Clause says that the language has a clause, Else if it is there, for when the
	// condition ends the loop.
	Clause bool
	Else   *Block
}

// Choice is an n-way decision.
type Choice struct {
	Stmt
	Kind string
	Arms []*Arm
	// Misses says that control may fall past all arms.
	Misses bool
	Close  int // byte offset just before the end
}

// Arm is one way through a choice.
type Arm struct {
	Label string
	Pos   site.Pos
	Cond  *Logic // of a choice by boolean expressions, one for each arm
	Block
	FallenInto bool // the arm before it may fall into it
}

// Switch is an n-way decision whose ways are marked by labels in its body, which
// control may run past.
type Switch struct {
	Stmt
	Body    *Block
	Misses  bool // control may fall past all labels
	Settled bool // it decides nothing that was written here
	// Declares says that its body declares what no jump to a label at its end may pass; breaks
	// may be spelled there then.
	Declares bool
	Labels   int // how many places in the body are marked
	// Permit is where the compiler can be told not to warn of what probes make of it, or nil.
	Permit *Permit
}

// Permit is where a declaration around a switch can say that control is meant to run from
// one label into the next: some compilers warn of it where statements stand in between, as
// probes do.
type Permit struct {
	From, End int  // byte offsets of the one thing that it permits so far; the same where a permit may stand
	Listed    bool // it has a list of what it permits, which is begun at From
}

// Case is a place in the body of a switch, with one label or more.
type Case struct {
	Stmt
	Of    *Switch
	Label string
	Pos   site.Pos
	After int // byte offset after the labels
}

// Try is a block with handlers of what is thrown in it.
type Try struct {
	Stmt
	Body     *Block
	Handlers []*Block
	Else     *Block // for when nothing was thrown, or nil
	Finally  *Block // for all cases, or nil
}

// Label names the statement after it.
type Label struct {
	Stmt
	Name  string
	After int  // byte offset after the label itself
	Inner Node // its At is that of the label
	Gotos []*Jump
	// Taken says that jumps may lead to it that do not name it.
	Taken bool
	// Breaks and Continues tell how many of them name the label.
	Breaks, Continues int
}

// Nested is a block that stands as a statement.
type Nested struct {
	Stmt
	Body *Block
}
