// Package changed holds sets of changed lines.
package changed

import "slices"

// Lines is a set of line numbers of the new text of a file.
type Lines struct {
	all     bool
	numbers []int // in order, each once
	// Text holds what the change says the lines contain, where it is known.
	Text map[int]string
	// Why says why it is not known which lines changed, if so; then the set is empty.
	Why string
	// Untracked says that git does not know the file: no change that somebody sends has it.
	Untracked bool
	// ByDiff says that a diff could have told, made another way.
	ByDiff bool
}

// Set maps paths, from the project's root, to their changed lines.
type Set map[string]*Lines

// All is the set of every line of a file.
func All() *Lines { return &Lines{all: true} }

// Unknown is the set where it is not known which lines changed.
func Unknown(why string) *Lines { return &Lines{Why: why} }

// Add puts a line into the set, with its text.
func (l *Lines) Add(number int, text string) {
	if i, ok := slices.BinarySearch(l.numbers, number); !ok {
		l.numbers = slices.Insert(l.numbers, i, number)
	}
	if l.Text == nil {
		l.Text = map[int]string{}
	}
	l.Text[number] = text
}

// Has tells whether a line is in the set.
func (l *Lines) Has(number int) bool {
	if l == nil {
		return false
	}
	_, ok := slices.BinarySearch(l.numbers, number)
	return l.all || ok
}

// HasAny tells whether a line from one number to another is in the set.
func (l *Lines) HasAny(from, to int) bool {
	if l == nil {
		return false
	}
	i, _ := slices.BinarySearch(l.numbers, from)
	return l.all || i < len(l.numbers) && l.numbers[i] <= to
}

// Within gives the lines in order, none beyond the last line of the file.
func (l *Lines) Within(last int) []int {
	if l == nil {
		return nil
	}
	if l.all {
		out := make([]int, last)
		for i := range out {
			out[i] = i + 1
		}
		return out
	}
	i, _ := slices.BinarySearch(l.numbers, last+1)
	return l.numbers[:i]
}
