package gaps

import (
	"fmt"
	"strings"

	"thrush/internal/core/coverage"
)

// What is said of code that no test reached so far. All outputs say it in these words, which
// tell what is missing for a test.
const (
	NotRun     = "not run yet"
	NotCalled  = "not called yet"
	NotReached = "not reached yet"
	// NotWorkedOut is said of conditions.
	NotWorkedOut = "not worked out yet"
)

// Says says of an outcome that was not taken what that means: of a decision that control
// never came to, that and no more.
func Says(f *coverage.File, d coverage.Decision, outcome int) string {
	if !Reached(f, d) {
		return NotReached
	}
	return untaken(d, outcome)
}

func untaken(d coverage.Decision, outcome int) string {
	switch label := d.Outcomes[outcome].Label; label {
	case "true":
		return "only false so far"
	case "false":
		return "only true so far"
	case "there":
		return "only missing so far"
	case "missing":
		return "only there so far"
	case "left by the condition":
		return "not left by its condition yet"
	case "none matched":
		return "some case matched each time so far"
	case "entered", "assigned":
		return fmt.Sprintf("not %s yet", label)
	case "entered again":
		return "not entered a second time yet"
	case "the default", "the left", "the right":
		return label + " not used yet"
	default:
		return label + " not chosen yet"
	}
}

// Way names a way that a decision can go, as it is said of one that went it or goes it no
// more.
func Way(label string) string {
	switch label {
	case "true", "false", "there", "missing", "entered", "assigned":
		return label
	case "left by the condition":
		return "left by its condition"
	case "none matched":
		return "past all cases"
	case "entered again":
		return "entered a second time"
	}
	return label
}

// Construct names, in a word, what decides.
func Construct(kind string) string {
	switch kind {
	case "value":
		return "expression"
	case "?:":
		return "choice"
	}
	return kind
}

// Of puts the text of a condition before what is said of it.
func Of(condition, what string) string {
	if strings.HasPrefix(what, "has ") || strings.HasPrefix(what, "decided ") {
		return condition + " " + what
	}
	return condition + ": " + what
}

// Lacks says what is missing of a condition that was not shown to decide on its own.
func Lacks(c coverage.Condition) string {
	switch {
	case c.True+c.False == 0:
		return NotWorkedOut
	case c.True == 0:
		return "only false so far"
	case c.False == 0:
		return "only true so far"
	case c.Decided[0]:
		return "decided the outcome only when true so far"
	case c.Decided[1]:
		return "decided the outcome only when false so far"
	}
	return "has not decided the outcome yet"
}
