// Package waiver decides what a waiver in a source file covers.
package waiver

import (
	"strings"

	"thrush/internal/core/site"
)

// Note is a comment that speaks to Thrush: its text has "thrush:" in it.
type Note struct {
	Line int
	// Next is the line after the comment and the comments that follow it
	// without a gap.
	Next int
	// Alone says that nothing but comment stands on its lines.
	Alone bool
	// Top says that it stands above all code of the file.
	Top  bool
	Text string // without the comment marks
}

// Problem is a waiver that cannot be honoured.
type Problem struct {
	Line int
	What string
}

const (
	mark     = "thrush:waive"
	fileMark = "thrush:waive-file"
)

// FromNotes gives the waivers that a file's notes ask for. A note on a line of
// code covers the statement, function or block that begins there; a note of
// its own covers what begins on the next line.
func FromNotes(notes []Note, blocks []site.Block, t *site.Table) ([]site.Waiver, []Problem) {
	var waivers []site.Waiver
	var problems []Problem
	for _, n := range notes {
		text := strings.TrimSpace(n.Text)
		if !strings.HasPrefix(text, mark) {
			continue
		}
		whole := strings.HasPrefix(text, fileMark)
		word := mark
		if whole {
			word = fileMark
		}
		rest := text[len(word):]
		reason := strings.Join(strings.Fields(rest), " ")
		switch {
		case rest != "" && rest[0] != ' ' && rest[0] != '\t':
			problems = append(problems, Problem{n.Line, "unknown word " + strings.Fields(text)[0] + "; write " + mark + " REASON or " + fileMark + " REASON"})
		case reason == "":
			problems = append(problems, Problem{n.Line, word + " gives no reason; write why after it"})
		case whole && !n.Top:
			problems = append(problems, Problem{n.Line, fileMark + " must stand above all code of the file"})
		case whole:
			waivers = append(waivers, site.Waiver{Line: 1, EndLine: max(t.Lines, 1), Reason: reason})
		default:
			line := n.Line
			if n.Alone {
				line = n.Next
			}
			end := reach(line, blocks, t)
			if end == 0 {
				problems = append(problems, Problem{n.Line, mark + " stands on nothing that is measured; put it on, or right above, a statement, block or function"})
				continue
			}
			waivers = append(waivers, site.Waiver{Line: line, EndLine: end, Reason: reason})
		}
	}
	return waivers, problems
}

// reach is the last line of what begins on a line: of the longest function or
// statement, or else of a block. It is 0 where nothing begins.
func reach(line int, blocks []site.Block, t *site.Table) int {
	end := 0
	for i := range t.Functions {
		if s := t.Functions[i].Span; s.Start.Line == line {
			end = max(end, s.LastLine())
		}
	}
	for i := range t.Statements {
		if s := t.Statements[i].Span; s.Start.Line == line {
			end = max(end, s.LastLine())
		}
	}
	if end > 0 {
		return end
	}
	for _, b := range blocks {
		if b.Line == line {
			end = max(end, b.EndLine)
		}
	}
	return end
}
