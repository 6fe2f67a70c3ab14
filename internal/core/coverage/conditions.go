package coverage

import "thrush/internal/core/site"

// Conditions counts each condition twice: once for having been true, once for having been false.
const Conditions Metric = "conditions"

// Independence counts each condition once, for having been shown to decide an outcome on its own:
// modified condition/decision coverage with masking, as DO-178C and CAST-6 define it.
const Independence Metric = "independence"

var conditions = Definition{
	Metric: Conditions, Level: site.Conditions, Badge: "conditions", Column: "conditions_met", Rank: 4,
	About: []string{"A condition is an operand of a decision that has no boolean operator inside it. It counts twice: once for having been true, once for having been false. Conditions are counted at `--level conditions`."},
	Told:  func(*File) string { return "%d: each counts once for true and once for false" },
	Items: func(f *File, each func(Item)) {
		eachCondition(f, func(c *Condition, i Item) {
			i.Covered = c.True > 0
			each(i)
			i.Covered = c.False > 0
			each(i)
		})
	},
}

var independence = Definition{
	Metric: Independence, Level: site.Conditions, Badge: "independence", Column: "independence_shown", Rank: 3,
	About: []string{"A condition was seen to decide an outcome on its own if it was evaluated once as true and once as false, each time with every other condition letting it through or not evaluated. (Masking MC/DC, as in the CAST-6 position paper.) Opening a line shows the ways through its decision and which of them show what."},
	Told:  func(*File) string { return "%d conditions were seen to decide an outcome on their own" },
	Items: func(f *File, each func(Item)) {
		eachCondition(f, func(c *Condition, i Item) {
			i.Covered = c.Shown
			each(i)
		})
	},
}

func eachCondition(f *File, each func(*Condition, Item)) {
	for d := range f.Decisions {
		x := &f.Decisions[d]
		if x.Waived {
			continue
		}
		for l := range x.Logic {
			for i := range x.Logic[l].Conditions {
				c := &x.Logic[l].Conditions[i]
				each(c, Item{Function: x.Function, Line: c.Pos.Line, Also: x.Pos.Line, Decision: d, Logic: l, Condition: i})
			}
		}
	}
}
