package gate

// Expired is a waiver of the configuration that has ended. It fails the gate by itself: nobody
// said any more that what it covers need not be tested.
type Expired struct {
	Path   string   `json:"path"` // the file it stands in, from the project's root
	Line   int      `json:"line"`
	Where  []string `json:"where"`
	Reason string   `json:"reason"`
	Until  string   `json:"until"` // the last day on which it held, as in 2027-01-31
}

// Count sums verdicts up.
type Count struct {
	Met, Unmet, Open int // rules
	Expired          int // waivers
}

// CountOf counts verdicts, beside waivers that have ended.
func CountOf(list []Verdict, expired int) Count {
	c := Count{Expired: expired}
	for _, v := range list {
		switch {
		case v.Open != "":
			c.Open++
		case v.Met:
			c.Met++
		default:
			c.Unmet++
		}
	}
	return c
}

// Fails tells whether the gate is closed.
func (c Count) Fails() bool { return c.Unmet+c.Expired > 0 }

// Judged is how many rules were judged.
func (c Count) Judged() int { return c.Met + c.Unmet }

// Open is what is said of a rule that cannot be judged.
func Open(r Rule, why string) Verdict {
	return Verdict{Name: r.Name, On: r.On, Each: r.Each, Open: why, Results: []Result{}, Lines: []Place{}, Unmeasured: []Unjudged{}}
}
