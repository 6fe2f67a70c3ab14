package gaps

import (
	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
)

// Words says what is missing of the items of a file that are not covered.
type Words struct {
	file *coverage.File
	// What conditions lack is worked out for a whole expression at a time.
	decision, logic int
	missing         []Missing
}

// Speak begins to speak of a file.
func Speak(f *coverage.File) *Words { return &Words{file: f, decision: -1} }

// Lack is what an item that is not covered lacks.
type Lack struct {
	Text string    // in words
	Way  site.Code // the way that was not gone, where that is what is missing
	// Untouched says that control never came there, so that there is no more to say than that.
	Untouched bool
}

// Of says what an item lacks. A metric that is not named here brings words of its own.
func (w *Words) Of(m coverage.Metric, i coverage.Item) Lack {
	switch m {
	case coverage.Lines:
		return Lack{Text: i.Lacks + NotRun, Untouched: true}
	case coverage.Functions:
		return Lack{Text: w.file.Functions[i.Function].Name + ": " + NotCalled, Untouched: true}
	case coverage.Branches:
		d := w.file.Decisions[i.Decision]
		return Lack{Says(w.file, d, i.Outcome), d.Outcomes[i.Outcome].Code, !Reached(w.file, d)}
	case coverage.Conditions, coverage.Independence:
		l := w.expression(i)
		c := l.Conditions[i.Condition]
		why := Lacks(c)
		if m == coverage.Independence {
			if needs := w.needs(i, l); needs != "" {
				why = needs
			}
		}
		lack := Lack{Text: Of(c.Text, why), Untouched: c.True+c.False == 0}
		switch {
		case lack.Untouched:
		case c.True == 0:
			lack.Way = site.True
		case c.False == 0:
			lack.Way = site.False
		}
		return lack
	}
	return Lack{Text: i.Lacks}
}

// needs says which values a test needs to show that a condition decides.
func (w *Words) needs(i coverage.Item, l *coverage.Logic) string {
	if w.decision != i.Decision || w.logic != i.Logic {
		w.decision, w.logic, w.missing = i.Decision, i.Logic, Conditions(*l)
	}
	return w.missing[i.Condition].Says(*l)
}

func (w *Words) expression(i coverage.Item) *coverage.Logic {
	return &w.file.Decisions[i.Decision].Logic[i.Logic]
}
