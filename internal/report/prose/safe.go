// Package prose writes facts in words and numbers, the same for terminals and
// pages. Text from outside, such as source lines and file names, is made
// harmless first.
package prose

import (
	"fmt"
	"regexp"
	"strings"
	"unicode/utf8"
)

// Safe makes a text from outside harmless on a terminal and in a log: control characters,
// escape sequences, what turns the direction of writing, and what services that run pipelines
// take for a command wherever it stands are spelled out. What is spelled out already stays.
func Safe(s string) string {
	if strings.Contains(s, "##") {
		s = command.ReplaceAllString(s, `#\x23$1`)
	}
	clean := true
	for _, c := range s {
		if unsafe(c) {
			clean = false
			break
		}
	}
	if clean && utf8.ValidString(s) {
		return s
	}
	var b strings.Builder
	for i := 0; i < len(s); {
		c, n := utf8.DecodeRuneInString(s[i:])
		switch {
		case c == utf8.RuneError && n == 1:
			fmt.Fprintf(&b, `\x%02x`, s[i])
		case c == '\t':
			b.WriteByte('\t')
		case c == '\n':
			b.WriteString(`\n`)
		case unsafe(c) && c < 0x80:
			fmt.Fprintf(&b, `\x%02x`, c)
		case unsafe(c):
			fmt.Fprintf(&b, `\u%04x`, c)
		default:
			b.WriteRune(c)
		}
		i += n
	}
	return b.String()
}

// SafeJSON says the same otherwise in a JSON document, where what services take for a command can
// only be part of a string.
func SafeJSON(document []byte) []byte {
	return command.ReplaceAll(document, []byte(`#\u0023$1`))
}

// command begins a command to a service: ##name[.
var command = regexp.MustCompile(`##([A-Za-z]*\[)`)

func unsafe(c rune) bool {
	return c < ' ' || c >= 0x7f && c < 0xa0 || c >= 0x202a && c <= 0x202e || c >= 0x2066 && c <= 0x2069 ||
		c == 0x200e || c == 0x200f || c == 0x061c || c == 0x2028 || c == 0x2029 || c == 0xfffe || c == 0xffff
}

// By says which labels reached something, "" standing for recordings without one.
func By(labels []string) string {
	out := make([]string, 0, len(labels))
	for _, l := range labels {
		if l != "" {
			out = append(out, l)
		}
	}
	if len(out) < len(labels) {
		out = append(out, "a recording without a label")
	}
	return strings.Join(out, ", ")
}
