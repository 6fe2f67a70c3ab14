package flow

// Target is a statement that breaks may lead out of.
type Target struct {
	Label string
	Node  Node // nil for one with a label that is neither a loop nor a switch
}

// Targets are those around a place, outermost first.
type Targets []Target

// Within reads what lies in one more.
func (t *Targets) Within(one Target, read func()) {
	*t = append(*t, one)
	read()
	*t = (*t)[:len(*t)-1]
}

// Lead finds where a break leads, or a jump that goes on with the next round of a loop.
// With a label it is the statement of that name. Out of one that is neither a loop nor a
// switch a break just leads away.
func (t Targets) Lead(j *Jump, label string, goesOn bool) {
	for i := len(t) - 1; i >= 0; i-- {
		to := t[i]
		_, loop := to.Node.(*Loop)
		switch {
		case label != "" && to.Label != label, label == "" && to.Node == nil, goesOn && !loop:
			continue
		case to.Node == nil:
		case goesOn:
			j.Kind, j.Target = Continue, to.Node
		default:
			j.Kind, j.Target = Break, to.Node
		}
		return
	}
}
