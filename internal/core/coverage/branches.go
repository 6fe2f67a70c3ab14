package coverage

import (
	"fmt"

	"thrush/internal/core/site"
)

// Branches counts the outcomes of decisions: the ways that control can go. One counts as reached
// if control went that way.
const Branches Metric = "branches"

var branches = Definition{
	Metric: Branches, Level: site.Branches, Badge: "branches taken", Column: "branches_taken", Rank: 8, Share: true, Noun: "outcomes",
	About: []string{"A decision is where control chooses its way; each way is an outcome, and branches counts outcomes. An `if` has two, true and false. A loop has two, entered and left by the condition; a loop left by `break`, `return` or a panic was not left by its condition. A `switch` has one for each case, and “none matched” where there is no default."},
	Told: func(f *File) string {
		noun := "decisions"
		if len(f.Decisions) == 1 {
			noun = "decision"
		}
		return fmt.Sprintf("%%d outcomes of %d %s were taken", len(f.Decisions), noun)
	},
	Items: func(f *File, each func(Item)) {
		for d := range f.Decisions {
			x := &f.Decisions[d]
			if x.Waived {
				continue
			}
			for i, o := range x.Outcomes {
				each(Item{Function: x.Function, Line: o.Pos.Line, Also: x.Pos.Line, Covered: o.Count > 0, Decision: d, Outcome: i})
			}
		}
	},
}
