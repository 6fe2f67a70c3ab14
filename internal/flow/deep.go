package flow

import "fmt"

// Deepest is how many levels deep code may nest. Front ends go down a level at a time, and some
// of what they do grows with the square of that: code that a program wrote, or somebody to keep
// others waiting, would take them minutes, or more stack than there is.
const Deepest = 5000

// TooDeep says that code nests deeper than Deepest.
type TooDeep struct{ Line int }

func (e *TooDeep) Error() string {
	return fmt.Sprintf("line %d nests more than %d levels deep", e.Line, Deepest)
}
