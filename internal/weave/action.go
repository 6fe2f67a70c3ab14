package weave

import (
	"thrush/internal/flow"
)

// Op is what an action does. The planner decides on actions; a dialect spells them.
type Op string

// Statements, and parts of statements. They stand between statements, and end so that another
// may follow.
const (
	Enter Op = "enter" // at the top of every function that is in no other, or is hoisted
	Probe Op = "probe" // counts
	After Op = "after" // counts, right after a statement's end
	Else  Op = "else"  // an else that counts, right after a branch without one
	Begin Op = "begin" // opens a block
	Wrap  Op = "wrap"  // opens a block and counts
	End   Op = "end"   // closes such a block

	Give  Op = "give"  // before the expression of a function without braces, in a block of its own
	Given Op = "given" // closes that block
	Yield Op = "yield" // before an expression, in a block of its own, that is the value of one around it

	LastArm   Op = "last arm"   // an arm that counts, of a choice that may fall past all arms
	LastLabel Op = "last label" // a label that counts, of a switch that may fall past all labels
	// FirstLabel is the same at the top of the switch, where control does not run on into what is below.
	FirstLabel Op = "first label"
	// LastLower is the same as LastLabel and Lower in one.
	LastLower Op = "last lower"

	Drop Op = "drop" // takes the text away
)

// Jumps, for languages that have a goto. In functions of others flow.Function.Constant is set, or
// nothing is asked that needs one.
const (
	Label Op = "label" // a label of ours, where a statement could stand
	Goto  Op = "goto"  // a jump to it, maybe in place of another jump
)

// Variables of ours, which stand at the top of a function.
const (
	Flag  Op = "flag"  // declares a flag
	Raise Op = "raise" // sets it, before control falls on
	Lower Op = "lower" // clears it if it is set, or else counts
	Sum   Op = "sum"   // declares a sum, 0
	Bits  Op = "bits"  // declares bits, none set
)

// Expressions: text before and after one.
const (
	// Operand has what is said for true or for false be worked out when an operand of a boolean
	// expression turns out so. The operand stays as true or false as it is.
	Operand Op = "operand"
	// FreshSum and FreshBits stand around the first operand, so that a sum or bits are 0 there also
	// if an earlier evaluation was left half-way.
	FreshSum  Op = "fresh sum"
	FreshBits Op = "fresh bits"
	// Pick has what is said be worked out when a value turns out to be there, or missing. Without
	// True it stands around an expression that only runs when another is missing.
	Pick Op = "pick"
	// First counts right before an expression is worked out.
	First Op = "first"
)

// Patterns, for languages in which a test for a type gives a name, around which no text can stand.
// All three have the same text before the value, so that they may stand around one another.
const (
	Unless     Op = "unless"      // says what is said for false if a value is not of the type
	FreshNamed Op = "fresh named" // is as FreshBits, around a value whose type is the first operand
	// Permit stands at the two ends of a permit, so that the compiler does not warn of control that
	// runs from one label of a switch into the next.
	Permit Op = "permit"
)

// Action is an operation with its operands.
type Action struct {
	Op
	Counter int // that counts
	Name    int // number of the label, flag, sum or bits that it is about
	// True and False are what is said when an operand turns out so, or a value to be there or missing.
	True, False *Say
	Type        string // of Unless

	Function  *flow.Function  // of Enter
	Condition *flow.Condition // of Operand
	Value     *flow.Operand   // of First
	Permit    *flow.Permit

	// Constant says that a compiler may work the function out, and must not count then; Among what the
	// statement does among the members of a class.
	Constant bool
	Among    flow.Among
}

// Saying is what is said in an expression.
type Saying string

// What can be said.
const (
	Tick   Saying = "tick"    // counts
	Add    Saying = "add"     // adds a weight to a sum
	TickAt Saying = "tick at" // counts by the counter, of so many, that is the sum further than the first
	Note   Saying = "note"    // counts a condition, and notes which conditions decide
)

// Say is something said in an expression.
type Say struct {
	Saying
	Counter int // of Tick; the first of TickAt and Note
	Name    int // of the sum or the bits
	Weight  int // of Add
	Ways    int // of TickAt: how many counters there are
	Noted
}

// Noted is what Note notes of a condition in an expression whose ways are not counted one by one:
// it counts the condition by the first of its four counters if it was true, else by the second;
// notes that it decides, and that those of the mask do not any more; and with Done also counts what
// is noted, by all third and fourth counters, and clears it.
type Noted struct {
	Index int // of the condition
	True  bool
	Masks uint64
	Done  bool
}

// Edit puts an action in place of Del bytes at an offset, mostly none. An action around an
// expression makes two edits.
type Edit struct {
	At, Del int
	*Action
	Behind bool // what stands after the expression

	rank  int // at one offset, expressions end, then come statements, then expressions begin
	order int // of expressions, the inner end first and begin last
}
