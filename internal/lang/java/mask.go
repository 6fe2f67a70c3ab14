package java

import (
	"bytes"
	"fmt"
	"regexp"
	"unicode/utf8"

	"thrush/internal/lang/tree"
)

// masked gives the text as the parser is to read it, byte for byte in its place: what is
// not UTF-8, of a file in another encoding, stands as letters, and so does what follows a
// backslash that is itself an escape.
func masked(text []byte) []byte {
	valid := utf8.Valid(text)
	if valid && !escaped.Match(text) {
		return text
	}
	out := bytes.Clone(text)
	for i, c := range out {
		if !valid && c >= utf8.RuneSelf {
			out[i] = 'x'
		}
	}
	for _, at := range escaped.FindAllIndex(out, -1) {
		copy(out[at[0]:at[1]], bytes.Repeat([]byte{'x'}, at[1]-at[0]))
	}
	return out
}

// escaped is a backslash written as a Unicode escape, and what it is before.
var escaped = regexp.MustCompile(`\\u+005[cC](\\u+[0-9a-fA-F]{4}|[^\\\n])`)

// newer are forms of the language that the grammar does not know. Their first group is
// blanked, or has another first letter, so that it is a name.
var newer = []struct {
	form  *regexp.Regexp
	blank bool
}{
	{regexp.MustCompile(`(?m)^\s*import\s+(module)\s`), true},
	{regexp.MustCompile(`\bcase\s+null\s*,\s*(default)\b`), false},
	{regexp.MustCompile(`[;}](?:\s|//.*\n|/\*(?s:.*?)\*/)*(super|this)\s*\(`), false}, // not as the first statement of a constructor
}

// maskedMore masks what may be of a newer version of the language than the grammar.
func maskedMore(text []byte) []byte {
	out := bytes.Clone(text)
	for _, n := range newer {
		for _, at := range n.form.FindAllSubmatchIndex(out, -1) {
			if n.blank {
				blank(out[at[2]:at[3]])
			} else {
				out[at[2]] = '_'
			}
		}
	}
	return unnamed(out)
}

func blank(text []byte) { copy(text, bytes.Repeat([]byte{' '}, len(text))) }

// labels are those of a case, without its guard.
var labels = regexp.MustCompile(`\bcase\s[^;{}"'?]*?(->|:|\bwhen\b)`)

// unnamed gives names to values in patterns that have none. Lists of patterns, in which
// nothing has a name, look like lists of expressions.
func unnamed(text []byte) []byte {
	for _, at := range labels.FindAllIndex(text, -1) {
		found := text[at[0]:at[1]]
		if !bytes.Contains(found, []byte{'_'}) {
			continue
		}
		list, depth := false, 0
		for _, c := range found {
			depth += nesting[c]
			list = list || c == ',' && depth == 0
		}
		for _, sign := range unnamedValue.FindAllSubmatchIndex(found, -1) {
			if list {
				blank(found[sign[2]:sign[3]])
			} else {
				found[sign[3]-1] = 'x'
			}
		}
		for i, c := range found {
			if depth += min(nesting[c], 0); list && depth > 0 {
				found[i] = ' '
			}
			depth += max(nesting[c], 0)
		}
	}
	return text
}

var nesting = map[byte]int{'(': 1, '<': 1, ')': -1, '>': -1}

// unnamedValue is a type and the sign for a value without a name, which is the group.
var unnamedValue = regexp.MustCompile(`[\w>\])](\s+_)\s*(?:[,):-]|when\b)`)

// Escapes that stand for what ends a line, a text or a character are read before all else,
// so that the text is not what it looks like.
var misleading = regexp.MustCompile(`\\u+00(?i:0a|0d|22|27|5c)`)

// escapes refuses a text with such escapes, but for a quote in a literal of the other kind.
func (r *reader) escapes(top []tree.Node) error {
	text := masked(r.text.Bytes)
	for _, at := range misleading.FindAllIndex(text, -1) {
		backslashes := 0
		for i := at[0] - 1; i >= 0 && text[i] == '\\'; i-- {
			backslashes++
		}
		in, which := literalAt(top, at[0]), string(text[at[1]-2:at[1]])
		switch {
		case backslashes%2 != 0, in == "string_literal" && which == "27", in == "character_literal" && which == "22":
		case r.commented(at[0]) && which != "0a" && which != "0d" && which != "0A" && which != "0D":
		default:
			return fmt.Errorf("line %d writes a quote, a backslash or the end of a line as a Unicode escape", r.text.Pos(at[0]).Line)
		}
	}
	return nil
}

// literalAt gives the kind of the literal at an offset, or nothing.
func literalAt(top []tree.Node, at int) (kind string) {
	for i := range top {
		top[i].Each(func(n *tree.Node) bool {
			if n.From > at || at >= n.To {
				return false
			}
			if n.Kind == "string_literal" || n.Kind == "character_literal" {
				kind = n.Kind
			}
			return true
		})
	}
	return kind
}

func (r *reader) commented(at int) bool {
	for _, c := range r.comments {
		if c[0] <= at && at < c[1] {
			return true
		}
	}
	return false
}
