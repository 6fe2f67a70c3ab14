package random

import (
	"fmt"
	"strings"
)

// Text is a program in a language.
type Text struct {
	Lines []string
	// Statements, Decisions and Operands tell on which line each stands, by what the witness
	// calls them.
	Statements, Decisions map[int]int
	Operands              map[int]int
	// Functions are the lines on which functions begin.
	Functions map[int]int
}

// String is the text.
func (t *Text) String() string { return strings.Join(t.Lines, "\n") + "\n" }

// Print writes the program, with a witness in it or as it is. Both have the same lines.
func (p *Program) Print(l *Language, witness bool) *Text {
	w := &printer{l: l, witness: witness, out: &Text{Statements: map[int]int{}, Decisions: map[int]int{}, Operands: map[int]int{}, Functions: map[int]int{}}}
	w.lines(strings.Replace(l.top, "SEED", fmt.Sprint(p.Seed%30000+1), 1))
	for _, f := range p.Functions {
		w.function(f)
	}
	w.lines(l.bottom(len(p.Functions)))
	return w.out
}

type printer struct {
	l       *Language
	witness bool
	out     *Text
	indent  int
	fn      int
	names   int
	labels  map[*Node]string // of loops
	bare    []bool           // of the function literals around: it gives nothing
}

func (w *printer) lines(text string) {
	if text != "" {
		w.out.Lines = append(w.out.Lines, strings.Split(strings.Trim(text, "\n"), "\n")...)
	}
}

func (w *printer) here() int { return len(w.out.Lines) + 1 }

func (w *printer) line(format string, args ...any) {
	w.out.Lines = append(w.out.Lines, strings.Repeat("\t", w.indent)+fmt.Sprintf(format, args...))
}

// begins gives what stands before a statement.
func (w *printer) begins(s *Node) string {
	w.out.Statements[s.ID] = w.here()
	if !w.witness {
		return ""
	}
	return fmt.Sprintf("H(%d)%s ", s.ID, w.l.end)
}

func (w *printer) name(prefix string) string {
	w.names++
	return fmt.Sprintf("%s%d", prefix, w.names)
}

// decides writes the condition of a statement.
func (w *printer) decides(s *Node) string {
	w.out.Decisions[s.ID] = w.here()
	text := w.cond(s.Cond, 0)
	if w.witness {
		return fmt.Sprintf("C(%d, %s)", s.ID, text)
	}
	return text
}

func (w *printer) cond(c *Cond, around int) string {
	switch c.Op {
	case 0:
		w.out.Operands[c.ID] = w.here()
		text := fmt.Sprintf("t(%d)", c.ID)
		switch c.ID % 4 {
		case 1:
			text = fmt.Sprintf("v %s %d", []string{"<", ">", "!=", "<="}[c.ID/4%4], c.ID%7)
		case 2:
			text = "b"
		}
		if w.witness {
			return fmt.Sprintf("K(%d, %s)", c.ID, text)
		}
		return text
	case '!':
		return w.l.not + "(" + w.cond(c.X, 0) + ")"
	case '&':
		text := w.cond(c.X, 2) + w.l.and + w.cond(c.Y, 2)
		if around > 2 || around == 1 {
			return "(" + text + ")"
		}
		return text
	}
	text := w.cond(c.X, 1) + w.l.or + w.cond(c.Y, 1)
	if around > 1 {
		return "(" + text + ")"
	}
	return text
}

func (w *printer) function(f *Function) {
	w.fn, w.indent, w.labels = f.ID, 0, map[*Node]string{}
	w.out.Functions[f.ID] = w.here()
	w.line(w.l.head, f.ID)
	w.indent = 1
	for _, text := range w.l.locals {
		w.line("%s", text)
	}
	w.list(f.Body)
	if len(f.Body) == 0 || !ends(f.Body[len(f.Body)-1]) {
		w.line("%s", w.l.result)
	}
	w.indent = 0
	if w.l.close != "" {
		w.line("%s", w.l.close)
	}
}

func (w *printer) list(list []*Node) {
	for _, s := range list {
		w.l.say(w, s)
	}
}

// block writes a block under a head.
func (w *printer) block(list []*Node) {
	w.indent++
	w.list(list)
	w.indent--
}

// closed writes a block and the lines that end it.
func (w *printer) closed(list []*Node, ends ...string) {
	w.block(list)
	for _, e := range ends {
		w.line("%s", e)
	}
}

// called is a call of a function before the one at hand, or of what only gives a number.
func (w *printer) called(s *Node) string {
	if w.fn == 0 || s.Number == 0 {
		return fmt.Sprintf("may(%d)", s.ID)
	}
	return fmt.Sprintf("f%d(v)", s.ID%w.fn)
}
