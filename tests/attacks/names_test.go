//go:build attacks

package attacks

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// hostile are texts that do something where they are printed, or are put into a command, a path,
// a page or a table, as they are. The harness checks all output for what is left of them.
var hostile = []string{
	"::error file=fare.py::boom", "a\n::error::boom", "\n  ::set-output name=x::y", "##[add-mask]fare", "x##vso[task.complete result=Succeeded]", "##teamcity[x]",
	"esc\x1b[31m\x1b]0;title\x07", "back\rspace\b\b", "\u202egnp.exe", "=1+1", "-rf", "--output=x", "$(touch $CANARY)", "`touch $CANARY`", "a;touch $CANARY;",
	"'\"><script>alert(1)<", "](http://harbour.example) @crew #1 | a", "%s%n%d", "a\tb", "\xff\xfe", "nul-not-possible", "..", "a b",
}

// Names of files, labels, reasons, rules and projects are printed, written and drawn by every
// command, and none is taken for anything else.
func TestNames(t *testing.T) {
	y := newYard(t)
	var toml strings.Builder
	toml.WriteString("[project]\nname = \"::error::ferry\\n::warning::x\"\n")
	for _, h := range hostile {
		name := strings.ReplaceAll(h, "/", "∕")
		y.write("ferry/"+name+".py", "def refund(paid):\n    # thrush:waive "+strings.NewReplacer("\n", " ", "\r", " ").Replace(h)+"\n    return paid / 2\n\n\ndef other(paid):\n    return paid\n")
	}
	y.write("ferry/broken\n::error::x.py", "def (:\n")
	y.write("ferry/broken ##[error]x.js", "function (\n")
	quoted := func(s string) string {
		var b strings.Builder
		for _, c := range strings.ToValidUTF8(s, "?") {
			switch {
			case c == '"' || c == '\\':
				b.WriteString("\\" + string(c))
			case c == '\n':
				b.WriteString("\\n")
			case c == '\r':
				b.WriteString("\\r")
			case c < ' ':
				b.WriteString("\\u00" + string("0123456789abcdef"[c>>4]) + string("0123456789abcdef"[c&15]))
			default:
				b.WriteRune(c)
			}
		}
		return `"` + b.String() + `"`
	}
	for _, h := range hostile {
		toml.WriteString("[[gate]]\nname = " + quoted(h) + "\non = \"changed\"\neach = \"function\"\nlines = 100\n")
		toml.WriteString("[[waiver]]\nwhere = \"nowhere/*\"\nreason = " + quoted(h) + "\nuntil = 2020-01-01\n")
	}
	y.write("ferry/thrush.toml", toml.String())
	y.git("add", "-A")
	y.hold(func() {
		var labels []string
		for _, h := range hostile {
			labels = append(labels, "--label", strings.ReplaceAll(h, ",", ""))
		}
		y.record(labels...)
		y.record("--label", "::error::unit")
		y.everything()
	})
	for _, file := range []string{"c.md", "n.sarif", "j.xml"} {
		text, err := os.ReadFile(filepath.Join(y.dir, "results", file))
		require.NoError(t, err)
		assert.NotContains(t, string(text), "\x1b", file)
		for line := range strings.Lines(string(text)) {
			assert.NotRegexp(t, command, line, file)
		}
	}
	for _, h := range hostile { // as words of a command, most of which are wrong
		for _, args := range [][]string{{h}, {"tally", h}, {"source", h}, {"explain", h + ":1"}, {"gate", "--require", h}, {"gate", "--since", h}, {"merge", h}, {"record", "--level", h, "--", "true"},
			{"tally", "--only", h}, {"gate", "--diff", h}, {"render", "--single", y.dir + "/results/" + strings.ReplaceAll(h, "/", "∕")}, {"pull", "--commit", h}, {"log", "--branch", h}, {"badge", "--of", h}, {"push", "--store", "gopher://" + h}} {
			y.thrush(args...)
		}
	}
	assert.NoFileExists(t, filepath.Join(y.dir, canary))
}
