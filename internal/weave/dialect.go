package weave

import "thrush/internal/core/site"

// Dialect spells out, in one language, what the planner decided. No text may contain a line break.
type Dialect interface {
	// Spell gives the text of an action, and of one around an expression the text behind it. What a
	// language has no use for is empty.
	Spell(a *Action) (text, behind string)
	// Resume says which place of the source the text after it has; empty where a language cannot say
	// so.
	Resume(line, column int) string
	// Frame gives the text that goes with the file itself.
	Frame(t *site.Table) []Insertion
}

// Insertion is text to put in place of Del bytes at an offset, mostly none.
type Insertion struct {
	At, Del int
	Text    string
}

// Braces spells the actions that are the same in all languages with braces, given how they spell a
// probe; ok is false for all others.
func Braces(a *Action, probe func(counter int) string) (text string, ok bool) {
	switch a.Op {
	case Probe:
		return probe(a.Counter), true
	case Else:
		return " else {" + probe(a.Counter) + "}", true
	case Begin:
		return "{", true
	case Wrap:
		return "{" + probe(a.Counter), true
	case End:
		return "}", true
	}
	return "", false
}
