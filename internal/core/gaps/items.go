package gaps

import "thrush/internal/core/coverage"

// Words says what is missing of the items of a file that are not covered.
type Words struct {
	file *coverage.File
	// What conditions lack is worked out for a whole expression at a time.
	decision, logic int
	missing         []Missing
}

// Speak begins to speak of a file.
func Speak(f *coverage.File) *Words { return &Words{file: f, decision: -1} }

// Of says what an item lacks. A metric that is not named here brings words of its own.
func (w *Words) Of(m coverage.Metric, i coverage.Item) string {
	switch m {
	case coverage.Lines:
		return i.Lacks + NotRun
	case coverage.Branches:
		return Says(w.file, w.file.Decisions[i.Decision], i.Outcome)
	case coverage.Functions:
		return w.file.Functions[i.Function].Name + ": " + NotCalled
	case coverage.Conditions:
		c := w.expression(i).Conditions[i.Condition]
		return Of(c.Text, Lacks(c))
	case coverage.Independence:
		l := w.expression(i)
		if w.decision != i.Decision || w.logic != i.Logic {
			w.decision, w.logic, w.missing = i.Decision, i.Logic, Conditions(*l)
		}
		c := l.Conditions[i.Condition]
		why := w.missing[i.Condition].Says(*l)
		if why == "" {
			why = Lacks(c)
		}
		return Of(c.Text, why)
	}
	return i.Lacks
}

func (w *Words) expression(i coverage.Item) *coverage.Logic {
	return &w.file.Decisions[i.Decision].Logic[i.Logic]
}
