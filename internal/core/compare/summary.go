package compare

// Counts is how many lines, and how many outcomes, became what.
type Counts struct {
	Covered   int `json:"covered"`
	LostCode  int `json:"lost_code"`  // in functions that changed
	LostTests int `json:"lost_tests"` // in functions that did not
	AddedRan  int `json:"added_ran"`
	AddedNot  int `json:"added_not_run"`
	Removed   int `json:"removed"` // that ran before
	RemovedNo int `json:"removed_not_run"`
}

// Lost is what ran before and does not now.
func (c Counts) Lost() int { return c.LostCode + c.LostTests }

// Add gives the sum of two.
func (c Counts) Add(o Counts) Counts {
	return Counts{c.Covered + o.Covered, c.LostCode + o.LostCode, c.LostTests + o.LostTests, c.AddedRan + o.AddedRan, c.AddedNot + o.AddedNot,
		c.Removed + o.Removed, c.RemovedNo + o.RemovedNo}
}

// Count counts the items of a file: lines, and outcomes apart.
func (f *File) Count() (lines, outcomes Counts) {
	for _, i := range f.Items {
		to := &lines
		if i.Outcome != "" {
			to = &outcomes
		}
		to.count(i)
	}
	return lines, outcomes
}

func (c *Counts) count(i Item) {
	switch {
	case i.Change == Covered:
		c.Covered++
	case i.Change == Lost && i.Because == Code:
		c.LostCode++
	case i.Change == Lost:
		c.LostTests++
	case i.Change == Added && i.Ran:
		c.AddedRan++
	case i.Change == Added:
		c.AddedNot++
	case i.Ran:
		c.Removed++
	default:
		c.RemovedNo++
	}
}
