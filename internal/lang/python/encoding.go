package python

import (
	"bytes"
	"fmt"
	"regexp"
	"strings"
	"unicode/utf8"
)

// declared is a line that names an encoding, as PEP 263 has it.
var declared = regexp.MustCompile(`^[ \t\f]*#.*?coding[:=][ \t]*([-_.a-zA-Z0-9]+)`)

// decode gives a source as UTF-8, without a byte order mark and with line feeds.
func decode(source []byte) ([]byte, error) {
	text := bytes.TrimPrefix(source, []byte("\ufeff"))
	name := "utf-8"
	if len(text) == len(source) {
		lines := bytes.SplitN(source, newline, 3)
		for i := range min(2, len(lines)) {
			if m := declared.FindSubmatch(lines[i]); m != nil {
				name = strings.ReplaceAll(strings.ToLower(string(m[1])), "_", "-")
				break
			}
			if trimmed := bytes.TrimSpace(lines[i]); len(trimmed) > 0 && trimmed[0] != '#' {
				break
			}
		}
	}
	switch name {
	case "utf-8", "utf8", "ascii", "us-ascii":
		if !utf8.Valid(text) {
			return nil, fmt.Errorf("it is not %s text", name)
		}
	case "latin-1", "latin1", "iso-8859-1", "iso8859-1", "l1":
		var out bytes.Buffer
		for _, c := range text {
			out.WriteRune(rune(c))
		}
		text = out.Bytes()
	default:
		return nil, fmt.Errorf("it is in the encoding %s, which Thrush does not read", name)
	}
	if bytes.IndexByte(text, '\r') < 0 {
		return text, nil
	}
	text = bytes.ReplaceAll(text, []byte("\r\n"), newline)
	if bytes.IndexByte(text, '\r') >= 0 {
		return nil, errFolded
	}
	return text, nil
}
