package gate

import "slices"

// Unmeasured says what becomes of a rule where code in its scope could not be measured, so
// that nothing is known of it.
type Unmeasured string

// What a rule can say of it.
const (
	Named Unmeasured = "named" // it is named beside the verdict
	Fails Unmeasured = "fails" // and the rule is not met
)

// Unjudged is source code of which a rule can say nothing.
type Unjudged struct {
	Path   string `json:"path"`
	Reason string `json:"reason"` // in words
}

// Unknown is what rules can say nothing of. It is given to rules, since whoever sends a change
// could otherwise have a file pass that cannot be measured.
type Unknown struct {
	// Changed are changed sources that are unmeasured, or of which it is not known what
	// changed in them.
	Changed []Unjudged
	// All are all sources that are unmeasured.
	All []Unjudged
	// Passed are changed sources that do not count, but for tests: that say that a program wrote
	// them, lie where somebody else's code does, or are left out by the configuration.
	Passed []string
}

// nowhere finds the globs of the rule that match nothing. A rule whose scope is misspelled
// guards nothing.
func (j *Judging) nowhere(v *Verdict) {
	if j.in.Match == nil || j.in.Paths == nil {
		return
	}
	for _, glob := range j.rule.Where {
		one := []string{glob}
		if !slices.ContainsFunc(j.in.Paths, func(path string) bool { return j.in.Match(one, path) }) {
			v.Nowhere = append(v.Nowhere, glob)
		}
	}
	if len(v.Nowhere) > 0 && j.in.Strict {
		v.Met = false
	}
}

// unjudged says what the rule could not judge, and what follows of it.
func (j *Judging) unjudged(v *Verdict) {
	list := j.in.Unknown.Changed
	if j.rule.On != Changed {
		list = nil
		if j.rule.Unmeasured == Fails {
			list = j.in.Unknown.All
		}
	}
	for _, u := range list {
		if j.rule.in(u.Path, j.in) {
			v.Unmeasured = append(v.Unmeasured, u)
		}
	}
	if j.rule.On == Changed {
		for _, path := range j.in.Unknown.Passed {
			if j.rule.in(path, j.in) {
				v.PassedOver = append(v.PassedOver, path)
			}
		}
	}
	switch counts := len(j.rule.Minimums)+len(j.rule.Hold) > 0; {
	case len(v.Unmeasured) == 0:
		if !counts {
			v.Note = "nothing in its scope is unmeasured"
		}
		return
	case len(v.Results) == 0 && counts && v.Note == "":
		v.Note = "nothing could be judged: what changed in its scope is unmeasured"
	}
	if j.in.Strict || j.rule.Unmeasured == Fails {
		v.Met = false
	}
}
