package gaps

import (
	"fmt"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
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
	switch way := d.Outcomes[outcome].Way; way.Code {
	case site.True:
		return "only false so far"
	case site.False:
		return "only true so far"
	case site.Present:
		return "only missing so far"
	case site.Absent:
		return "only there so far"
	case site.Left:
		return "not left by its condition yet"
	case site.Unmatched:
		return "some case matched each time so far"
	case site.Entered, site.Assigned:
		return fmt.Sprintf("not %s yet", Label(way))
	case site.EnteredAgain:
		return "not entered a second time yet"
	case site.Default, site.FirstOperand, site.LastOperand:
		return Label(way) + " not used yet"
	default:
		return Label(way) + " not chosen yet"
	}
}

// labels are the ways in a word or two, as they stand beside their counts.
var labels = map[site.Code]string{
	site.True: "true", site.False: "false", site.Present: "there", site.Absent: "missing",
	site.FirstOperand: "the left", site.LastOperand: "the right", site.Default: "the default", site.Assigned: "assigned",
	site.Entered: "entered", site.EnteredAgain: "entered again", site.Left: "left by the condition", site.Unmatched: "none matched",
}

// Label names a way as it stands beside its count.
func Label(w site.Way) string {
	if w.Code == site.Chosen {
		return w.Detail
	}
	return labels[w.Code]
}

// Went names a way that a decision can go, as it is said of one that went it or goes it no
// more.
func Went(w site.Way) string {
	switch w.Code {
	case site.Left:
		return "left by its condition"
	case site.Unmatched:
		return "past all cases"
	case site.EnteredAgain:
		return "entered a second time"
	}
	return Label(w)
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
