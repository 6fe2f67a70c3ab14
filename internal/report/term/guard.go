package term

import (
	"bytes"
	"fmt"
	"io"
	"regexp"
	"strings"
)

// guard is what all text passes last on its way to a terminal or a log. Names, labels and
// reasons are made harmless where they are put into words (words.Safe); what is left to look
// at here is where they come to stand.
//
// Services that run pipelines read commands off the output of what they run: lines that begin
// with ::name:: or have ##name[ in them. Source code can look like that by chance, and a
// stranger's on purpose.
type guard struct {
	to     io.Writer
	log    bool // nobody but a log or a program reads it
	ascii  bool // only ASCII is to be drawn
	inside bool // of a line, after something that is no blank
	err    error
}

var command = regexp.MustCompile(`##([A-Za-z]*\[)`)

// Write writes a text, with what would be a command spelled out.
func (g *guard) Write(p []byte) (int, error) {
	whole, out := len(p), p
	if g.ascii {
		p = []byte(inASCII.Replace(string(p)))
		out = p
	}
	if g.log {
		out = make([]byte, 0, len(p)+8)
		for line := range bytes.Lines(p) {
			rest := bytes.TrimLeft(line, " \t")
			if !g.inside && len(rest) > 0 && rest[0] == ':' && (len(rest) == 1 || rest[1] == ':') {
				out = append(out, line[:len(line)-len(rest)]...)
				out = append(out, `\x3a`...)
				line = rest[1:]
				rest = line
			}
			out = append(out, command.ReplaceAll(line, []byte(`#\x23$1`))...)
			g.inside = !bytes.HasSuffix(line, []byte("\n")) && (g.inside || len(rest) > 0)
		}
	}
	if _, err := g.to.Write(spelled(out)); err != nil {
		g.err = err
		return 0, err
	}
	return whole, nil
}

// inASCII has for each mark one that is as wide and means the same.
var inASCII = strings.NewReplacer("▮", "#", "◧", "+", "▯", "-", "▨", "~", "▲", "^", "▼", "v", "…", "~", "·", "-", "–", "-", "┃", "|", "⋮", ":",
	"╰", "\\", "✓", "+", "→", ">", "◂", "<", "▸", ">", "“", "\"", "”", "\"")

// spelled spells out control characters, but for those that end lines, set columns or begin
// colours, which styles put there after all that comes from outside was made harmless.
func spelled(p []byte) []byte {
	bad := func(c byte) bool { return c < ' ' && c != '\n' && c != '\t' && c != 0x1b || c == 0x7f }
	if bytes.IndexFunc(p, func(r rune) bool { return r < 0x80 && bad(byte(r)) }) < 0 {
		return p
	}
	var out []byte
	for _, c := range p {
		if bad(c) {
			out = fmt.Appendf(out, `\x%02x`, c)
		} else {
			out = append(out, c)
		}
	}
	return out
}

// document is where whole documents are written, which nothing may be changed in.
type document struct{ *guard }

func (d document) Write(p []byte) (int, error) {
	n, err := d.to.Write(p)
	if err != nil {
		d.err = err
	}
	return n, err
}
