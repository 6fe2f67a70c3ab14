package site

// Way says which way a decision went. Ways are compared and kept by their codes; the words for
// them are package gaps' and may change.
type Way struct {
	Code Code
	// Detail is the text of the case, for Chosen; else it is empty.
	Detail string
}

// Code is a kind of way, as recordings and JSON documents write it.
type Code string

// The kinds of ways.
const (
	True         Code = "true"
	False        Code = "false"
	Present      Code = "present"           // a value was there, so what follows it was done
	Absent       Code = "absent"            // a value was missing, so it was not
	FirstOperand Code = "first_operand"     // the value of an operator was that of its first operand
	LastOperand  Code = "last_operand"      // or that of its last one
	Default      Code = "default"           // a default took the place of a value that was missing
	Assigned     Code = "assigned"          // an assignment that depends on the old value was made
	Entered      Code = "entered"           // the body of a loop was begun
	EnteredAgain Code = "entered_again"     // it was begun a second time, where the first is sure
	Left         Code = "left_by_condition" // the loop ended because its condition did not hold
	Chosen       Code = "chosen"            // a case was chosen
	Unmatched    Code = "unmatched"         // no case was chosen, and there is no default
)

// Codes are all kinds of ways.
var Codes = []Code{True, False, Present, Absent, FirstOperand, LastOperand, Default, Assigned, Entered, EnteredAgain, Left, Chosen, Unmatched}

// Way is the way of that kind, for all but Chosen.
func (c Code) Way() Way { return Way{Code: c} }

// Case is the way on which the case of a text was chosen.
func Case(text string) Way { return Way{Chosen, text} }
