// Package term draws facts for a terminal: gauges, marks and tables in the
// colours that docs/decisions.md explains.
package term

import (
	"cmp"
	"fmt"
	"io"
	"os"
	"strings"

	"charm.land/lipgloss/v2"
	"github.com/charmbracelet/colorprofile"
	"golang.org/x/term"

	"thrush/internal/core/coverage"
)

// Out is where facts are drawn.
type Out struct {
	io.Writer
	// Terminal says that a person reads it: marks, gauges and colours are for
	// them. Otherwise the text is plain and easy to search.
	Terminal bool
	Width    int // columns
	// All has lists drawn to their end.
	All bool

	last *guard // what all text passes
}

// ASCII has marks drawn without any letter that is not in ASCII.
func (o *Out) ASCII() { o.last.ascii = true }

// plainLocale tells whether the environment says that texts are in an encoding other than
// UTF-8. Where it says nothing, as in many containers, they are in UTF-8.
func plainLocale(env []string) bool {
	value := map[string]string{}
	for _, e := range env {
		name, v, _ := strings.Cut(e, "=")
		value[name] = v
	}
	locale := strings.ToUpper(cmp.Or(value["LC_ALL"], value["LC_CTYPE"], value["LANG"]))
	return locale != "" && !strings.Contains(locale, "UTF-8") && !strings.Contains(locale, "UTF8")
}

// Stdout is the standard output.
func Stdout() *Out { return New(os.Stdout, os.Environ()) }

// Stderr is the standard error output.
func Stderr() *Out { return New(os.Stderr, os.Environ()) }

// New makes an Out of a file. Colours are left out where the file is no
// terminal, where it has none, and where NO_COLOR is set.
func New(f *os.File, env []string) *Out {
	terminal := term.IsTerminal(int(f.Fd()))
	last := &guard{to: f, log: !terminal, ascii: plainLocale(env)}
	colours := &colorprofile.Writer{Forward: last, Profile: colorprofile.Detect(f, env)}
	o := &Out{Writer: colours, Width: 100, last: last}
	if terminal {
		o.Terminal = true
		if w, _, err := term.GetSize(int(f.Fd())); err == nil && w > 0 {
			o.Width = w
		}
	}
	return o
}

// Err is the first failure to write, if there was one.
func (o *Out) Err() error { return o.last.err }

// Document is where whole documents go, such as JSON, in which nothing may be changed.
func (o *Out) Document() io.Writer { return document{o.last} }

// line prints a line without blanks at its end.
func (o *Out) line(format string, args ...any) {
	fmt.Fprintln(o, strings.TrimRight(fmt.Sprintf(format, args...), " "))
}

// The palette: safe for colour-blind eyes, readable on light and on dark.
var (
	ran    = lipgloss.NewStyle().Foreground(lipgloss.Color("#23958d"))
	part   = lipgloss.NewStyle().Foreground(lipgloss.Color("#9b6bc7"))
	none   = lipgloss.NewStyle().Foreground(lipgloss.Color("#db6524"))
	waived = lipgloss.NewStyle().Foreground(lipgloss.Color("#868d96"))
	faint  = lipgloss.NewStyle().Faint(true)
	edge   = lipgloss.NewStyle().Foreground(lipgloss.Color("#4486c6"))
	bold   = lipgloss.NewStyle().Bold(true)
	// Comments are set apart by their slant, not by a colour.
	comment = lipgloss.NewStyle().Italic(true)
)

// Strong, Faint, Good, Half, Bad and Edge colour a text.
func Strong(s string) string { return bold.Render(s) }

// Faint is for what matters least.
func Faint(s string) string { return faint.Render(s) }

// Good is for what ran.
func Good(s string) string { return ran.Render(s) }

// Half is for what ran in part.
func Half(s string) string { return part.Render(s) }

// Bad is for what did not run.
func Bad(s string) string { return none.Render(s) }

// Edge is for what changed.
func Edge(s string) string { return edge.Render(s) }

// Mark is the one-column mark of a line's state.
func Mark(s coverage.State) string {
	switch s {
	case coverage.Full:
		return ran.Render("▮")
	case coverage.Part:
		return part.Render("◧")
	case coverage.None:
		return none.Render("▯")
	case coverage.Waived:
		return waived.Render("▨")
	}
	return " "
}

// Gauge draws a ratio: full blocks for what ran, a half one for the rest of a
// block, empty ones for what did not. Only all of it fills the gauge, and only
// nothing leaves it empty.
func Gauge(r coverage.Ratio, width int) string {
	if r.Total == 0 {
		return strings.Repeat(" ", width)
	}
	full := r.Covered * width / r.Total
	half := 0
	if full < width && (r.Covered*width*2/r.Total)%2 == 1 || r.Covered > 0 && full == 0 {
		half = 1
	}
	return ran.Render(strings.Repeat("▮", full)) + part.Render(strings.Repeat("◧", half)) +
		none.Render(strings.Repeat("▯", width-full-half))
}

// Change writes how a percentage moved, in points, or nothing if it did not.
func Change(was, now coverage.Ratio) string {
	d := now.HundredthsPercent() - was.HundredthsPercent()
	switch {
	case was.Total == 0 || now.Total == 0 || d == 0:
		return ""
	case d > 0:
		return ran.Render(fmt.Sprintf("▲ %d.%02d", d/100, d%100))
	}
	return none.Render(fmt.Sprintf("▼ %d.%02d", -d/100, -d%100))
}

// Width is the number of columns a text takes.
func Width(s string) int { return lipgloss.Width(s) }

// Pad fills a text up with blanks on the right; PadLeft on the left.
func Pad(s string, width int) string { return s + strings.Repeat(" ", max(0, width-Width(s))) }

// PadLeft fills a text up with blanks on the left.
func PadLeft(s string, width int) string { return strings.Repeat(" ", max(0, width-Width(s))) + s }

// Cut shortens a text to a number of columns, at its end.
func Cut(s string, width int) string {
	if Width(s) <= width {
		return s
	}
	r := []rune(s)
	if width < 2 || len(r) <= width {
		return string(r[:min(len(r), max(0, width))])
	}
	return string(r[:width-1]) + "…"
}

// Middle shortens a name to a number of columns, in its middle: what tells names apart
// stands at their ends.
func Middle(s string, width int) string {
	if Width(s) <= width {
		return s
	}
	r := []rune(s)
	if width < 3 || len(r) <= width {
		return Cut(s, width)
	}
	tail := width * 3 / 5
	return string(r[:width-tail-1]) + "…" + string(r[len(r)-tail:])
}

// Wrap breaks a text between words so that it fits between an indent and the right edge of a
// terminal; elsewhere it stays on one line. Only the lines after the first are indented.
func (o *Out) Wrap(text string, indent int) string {
	room := max(o.Width-indent, 16)
	if !o.Terminal || Width(text) <= room {
		return text
	}
	var out strings.Builder
	at := 0
	for i, word := range strings.Fields(text) {
		switch w := Width(word); {
		case i == 0:
			at = w
		case at+1+w > room:
			out.WriteString("\n" + strings.Repeat(" ", indent))
			at = w
		default:
			out.WriteByte(' ')
			at += 1 + w
		}
		out.WriteString(word)
	}
	return out.String()
}
