package pages

import (
	"bytes"
	"html"
	"strconv"
	"strings"
	"unicode/utf8"

	"thrush/internal/core/coverage"
	"thrush/internal/report/highlight"
	"thrush/internal/report/prose"
)

const (
	chunkLines   = 100  // lines that a browser lays out together, when they come into view
	longestShown = 4000 // bytes of a line; the rest is told of
)

// sourceLines are the lines of a file, made harmless, without their ends.
func sourceLines(text []byte) []string {
	text = bytes.TrimPrefix(text, []byte("\ufeff"))
	lines := strings.Split(strings.TrimSuffix(string(text), "\n"), "\n")
	for i, l := range lines {
		lines[i] = prose.Safe(strings.TrimSuffix(l, "\r"))
	}
	return lines
}

// linesWriter writes the rows of a source table. Rows are most of the bytes of a
// report, so they are written by hand and as short as HTML allows:
//
//	<tr id=L12 class=p><th>12<td>3<td>	<b>if</b> night {
//	<tr class="s p"><td><s>	</s>only false so far
type linesWriter struct {
	out     []byte
	file    *coverage.File
	shaded  [][]highlight.Piece
	notes   map[int][]prose.Note
	begins  map[int]bool // lines with more to tell than their count
	changed func(line int) bool
	source  []string
}

func (w *linesWriter) all(count int) []byte {
	at := 0
	for n := 1; n <= count; n++ {
		if (n-1)%chunkLines == 0 && (w.source != nil || n == 1) {
			w.out = append(w.out, "<tbody>\n"...)
		}
		var l coverage.Line
		if at < len(w.file.Lines) && w.file.Lines[at].Number == n {
			l = w.file.Lines[at]
			at++
		} else if w.source == nil {
			continue // without its text there is nothing to show of a line that is no code
		}
		w.line(n, l)
	}
	return w.out
}

// classes are the short names of states in the pages' style.
var classes = map[coverage.State]string{coverage.Full: "f", coverage.Part: "p", coverage.None: "n", coverage.Waived: "w"}

func (w *linesWriter) line(n int, l coverage.Line) {
	class := classes[l.State]
	if w.changed != nil && w.changed(n) {
		class = strings.TrimSpace(class + " c")
	}
	w.out = append(w.out, "<tr\nid=L"...) // the end of line stands where it is no text
	w.out = strconv.AppendInt(w.out, int64(n), 10)
	switch {
	case strings.Contains(class, " "):
		w.out = append(w.out, ` class="`+class+`"`...)
	case class != "":
		w.out = append(w.out, " class="+class...)
	}
	w.out = append(w.out, "><th>"...)
	w.out = strconv.AppendInt(w.out, int64(n), 10)
	w.count(l)
	w.out = append(w.out, "<td>"...)
	if n <= len(w.shaded) {
		w.code(w.shaded[n-1])
	}
	text := ""
	if n <= len(w.source) {
		text = w.source[n-1]
	}
	for _, note := range w.notes[n] {
		w.note(note, text, classes[l.State])
	}
}

// mostLead is how far from the left a note may begin, in columns.
const mostLead = 60

// note writes what is said of a line: a row below it, from the column on of what it is
// about. What leads there are blanks, of the width of the text above.
func (w *linesWriter) note(note prose.Note, text, class string) {
	if note.Waiver {
		class = "w"
	} else if class == "f" {
		class = "p" // its operands are not all shown
	}
	w.out = append(w.out, "<tr\nclass=\"s "+class+"\"><td>"...)
	at := len(text) - len(strings.TrimLeft(text, " \t"))
	if note.Column > 1 {
		at = min(note.Column-1, len(text))
	}
	if at > 0 {
		w.out = append(w.out, "<s>"...)
		for i, c := range text[:at] {
			switch {
			case i >= mostLead:
			case c == '\t':
				w.out = append(w.out, '\t')
			default:
				w.out = append(w.out, ' ')
			}
		}
		w.out = append(w.out, "</s>"...)
	}
	w.text(prose.Safe(prose.Brief(note.Text, text)))
}

// count writes how often a line ran, the exact number as a title where it is cut.
func (w *linesWriter) count(l coverage.Line) {
	if l.State == coverage.NotCode {
		w.out = append(w.out, "<td>"...)
		return
	}
	short := prose.Count(w.file, l)
	w.out = append(w.out, "<td"...)
	if l.Count >= 100_000 && w.file.Keep.String() != "hits" {
		w.out = append(w.out, ` title="`+prose.Number(l.Count)+`"`...)
	}
	w.out = append(w.out, '>')
	if w.begins[l.Number] {
		w.out = append(w.out, "<button tabindex=-1 aria-expanded=false>"+short+"</button>"...)
		return
	}
	w.out = append(w.out, short...)
}

// tags are the elements for what is set apart in source text.
var tags = map[highlight.Class]string{highlight.Keyword: "b", highlight.Comment: "i", highlight.Text: "q", highlight.Number: "u"}

func (w *linesWriter) code(pieces []highlight.Piece) {
	left := longestShown
	for i, p := range pieces {
		text := p.Text
		if len(text) > left {
			cut := left
			for cut > 0 && !utf8.RuneStart(text[cut]) {
				cut--
			}
			text = text[:cut]
		}
		left -= len(text)
		if tag := tags[p.Class]; tag != "" {
			w.out = append(w.out, '<')
			w.out = append(w.out, tag...)
			w.out = append(w.out, '>')
			w.text(text)
			w.out = append(w.out, "</"...)
			w.out = append(w.out, tag...)
			w.out = append(w.out, '>')
		} else {
			w.text(text)
		}
		if len(text) < len(p.Text) {
			rest := len(p.Text) - len(text)
			for _, more := range pieces[i+1:] {
				rest += len(more.Text)
			}
			w.out = append(w.out, " <em>… and "+prose.Plural(rest, "byte", "bytes")+" more on this line</em>"...)
			return
		}
	}
}

func (w *linesWriter) text(s string) {
	if strings.ContainsAny(s, `<>&"'`) {
		s = html.EscapeString(s)
	}
	w.out = append(w.out, s...)
}
