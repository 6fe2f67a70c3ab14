package tree

import (
	"bytes"
	"strings"

	"thrush/internal/core/waiver"
)

// Notes gives the comments that speak to Thrush, of all between the given offsets in the
// order of the text. Code begins at an offset; said gives what a comment says, without the
// marks that make it one.
func (t *Text) Notes(comments [][2]int, code int, said func(comment string) string) (notes []waiver.Note) {
	alone := map[int]bool{} // lines that are comment alone
	for _, c := range comments {
		if len(bytes.TrimSpace(t.Before(c[0]))) == 0 && len(bytes.TrimSpace(t.After(c[1]))) == 0 {
			for line := t.Pos(c[0]).Line; line <= t.last(c); line++ {
				alone[line] = true
			}
		}
	}
	for _, c := range comments {
		text := said(string(t.Bytes[c[0]:c[1]]))
		if !strings.HasPrefix(strings.TrimSpace(text), "thrush:") {
			continue
		}
		line := t.Pos(c[0]).Line
		n := waiver.Note{Line: line, Next: t.last(c) + 1, Alone: alone[line], Top: c[0] < code, Text: text}
		for alone[n.Next] {
			n.Next++
		}
		notes = append(notes, n)
	}
	return notes
}

// last is the line that a comment ends on.
func (t *Text) last(comment [2]int) int { return t.Pos(max(comment[1]-1, comment[0])).Line }

// SaidInSlashes is what a comment says after two slashes, or between stars.
func SaidInSlashes(comment string) string {
	return strings.TrimSuffix(strings.TrimPrefix(strings.TrimPrefix(comment, "//"), "/*"), "*/")
}
