package cfamily

import "bytes"

// token is a word, a number, a literal or a mark of a text.
type token struct {
	from, to int
}

func isWord(c byte) bool {
	return c == '_' || c == '$' || c >= '0' && c <= '9' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= 0x80
}

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

// scanner takes C text apart into tokens, as phase 3 of translation does (ISO C
// 5.1.1.2); a line break after a backslash counts as a blank. What looks like no
// token is a token of one byte.
type scanner struct {
	text []byte
	at   int
	// comment, where set, is told of each comment.
	comment func(from, to int)
	// directives says that lines which begin with a # are passed over.
	directives bool
	fresh      bool // nothing but blanks since the line began
	// patterns says that what begins a comment which does not end is none.
	patterns bool
}

// next gives the next token; ok is false at the end.
func (s *scanner) next() (t token, ok bool) {
	for s.at < len(s.text) {
		c := s.text[s.at]
		switch {
		case c == '\n':
			s.at++
			s.fresh = true
		case c == ' ' || c == '\t' || c == '\r' || c == '\f' || c == '\v':
			s.at++
		case c == '\\' && s.lineGoesOn():
		case c == '/' && (s.peek(1) == '/' || s.peek(1) == '*') && !(s.patterns && s.peek(1) == '*' && !bytes.Contains(s.text[s.at+2:], []byte("*/"))):
			s.pastComment()
		case c == '#' && s.fresh && s.directives:
			s.skipDirective()
		default:
			s.fresh = false
			from := s.at
			s.at = s.end(from)
			return token{from, s.at}, true
		}
	}
	return token{}, false
}

func (s *scanner) peek(n int) byte {
	if s.at+n < len(s.text) {
		return s.text[s.at+n]
	}
	return 0
}

// lineGoesOn passes over a backslash that ends a line.
func (s *scanner) lineGoesOn() bool {
	i := s.at + 1
	if i < len(s.text) && s.text[i] == '\r' {
		i++
	}
	if i < len(s.text) && s.text[i] == '\n' {
		s.at = i + 1
		return true
	}
	return false
}

// lineEnd is where the line that goes on at an offset ends.
func (s *scanner) lineEnd(at int) int {
	for {
		n := bytes.IndexByte(s.text[at:], '\n')
		if n < 0 {
			return len(s.text)
		}
		at += n
		end := bytes.TrimSuffix(s.text[:at], []byte{'\r'})
		if !bytes.HasSuffix(end, []byte{'\\'}) {
			return at
		}
		at++
	}
}

// skipDirective passes over a directive, up to the end of its line.
func (s *scanner) skipDirective() {
	for s.at < len(s.text) {
		switch c := s.text[s.at]; {
		case c == '\n':
			return
		case c == '\\' && s.lineGoesOn():
		case c == '/' && (s.peek(1) == '/' || s.peek(1) == '*'):
			s.pastComment()
		case c == '"' || c == '\'':
			s.at = s.quoteEnd(s.at, c)
		default:
			s.at++
		}
	}
}

// pastComment passes over the comment that begins here.
func (s *scanner) pastComment() {
	from := s.at
	if s.peek(1) == '/' {
		s.at = s.lineEnd(from)
	} else if end := bytes.Index(s.text[from+2:], []byte("*/")); end >= 0 {
		s.at = from + 2 + end + 2
	} else {
		s.at = len(s.text)
	}
	if s.comment != nil {
		s.comment(from, s.at)
	}
}

// end is where the token that begins at an offset ends.
func (s *scanner) end(at int) int {
	c := s.text[at]
	switch {
	case isDigit(c) || c == '.' && at+1 < len(s.text) && isDigit(s.text[at+1]):
		return s.numberEnd(at)
	case c == '"' || c == '\'':
		return s.quoteEnd(at, c)
	case isWord(c):
		to := at + 1
		for to < len(s.text) && isWord(s.text[to]) {
			to++
		}
		if to < len(s.text) && (s.text[to] == '"' || s.text[to] == '\'') && to-at <= 3 {
			switch word := string(s.text[at:to]); word {
			case "R", "LR", "uR", "UR", "u8R":
				return s.rawEnd(to)
			case "L", "u", "U", "u8":
				return s.quoteEnd(to, s.text[to])
			}
		}
		return to
	}
	for _, mark := range marks {
		if bytes.HasPrefix(s.text[at:], mark) {
			return at + len(mark)
		}
	}
	return at + 1
}

// marks are those of more than one byte, the longest first.
var marks = bytes.Fields([]byte("<<= >>= ... ->* <=> :: -> ++ -- << >> <= >= == != && || += -= *= /= %= &= |= ^= ##"))

func (s *scanner) numberEnd(at int) int {
	for at++; at < len(s.text); at++ {
		c := s.text[at]
		switch {
		case isWord(c) || c == '.':
		case c == '\'' && at+1 < len(s.text) && isWord(s.text[at+1]):
		case (c == '+' || c == '-') && bytes.IndexByte([]byte("eEpP"), s.text[at-1]) >= 0:
		default:
			return at
		}
	}
	return at
}

func (s *scanner) quoteEnd(at int, quote byte) int {
	for at++; at < len(s.text); at++ {
		switch s.text[at] {
		case '\\':
			at++
		case quote:
			return at + 1
		case '\n':
			return at
		}
	}
	return len(s.text)
}

func (s *scanner) rawEnd(at int) int {
	open := bytes.IndexByte(s.text[at:], '(')
	if open < 0 || open > 17 {
		return s.quoteEnd(at, '"')
	}
	end := append(append([]byte{')'}, s.text[at+1:at+open]...), '"')
	if n := bytes.Index(s.text[at+open:], end); n >= 0 {
		return at + open + n + len(end)
	}
	return len(s.text)
}
