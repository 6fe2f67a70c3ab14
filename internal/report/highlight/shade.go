// Package highlight finds what to set apart in source text for its readers:
// keywords, comments, texts and numbers. It colours nothing itself.
package highlight

import (
	"embed"
	"path"
	"strings"
	"sync"

	"github.com/alecthomas/chroma/v2"
)

// Class says what a piece of source text is.
type Class uint8

// The classes. What is none of the others is Plain.
const (
	Plain Class = iota
	Keyword
	Comment
	Text // a string or character literal
	Number
)

// Piece is a stretch of one line.
type Piece struct {
	Class Class
	Text  string
}

// mostBytes is the size above which the general lexers, which read a few
// hundred kilobytes a second, are not asked.
const mostBytes = 128 << 10

// Lines gives the pieces of each line. Together they are the text as it was.
func Lines(name string, lines []string) [][]Piece {
	if path.Ext(name) == ".go" {
		return goLines(lines)
	}
	size := 0
	for _, l := range lines {
		size += len(l) + 1
	}
	if lexer := lexerOf(name); lexer != nil && size <= mostBytes {
		if out, ok := lexed(lexer, lines); ok {
			return out
		}
	}
	return plain(lines)
}

// rules are those of the general lexers for the languages that Thrush measures. They
// are the library's own, which reads those of hundreds of languages at every start.
//
//go:embed lexers/*.xml
var rules embed.FS

var (
	languages = map[string]string{
		".c": "c", ".h": "c", ".inc": "c", ".def": "c", ".y": "c", ".l": "c",
		".cc": "c++", ".cpp": "c++", ".cxx": "c++", ".c++": "c++", ".C": "c++", ".hh": "c++", ".hpp": "c++", ".hxx": "c++", ".ipp": "c++", ".tpp": "c++", ".inl": "c++",
		".java": "java", ".js": "javascript", ".mjs": "javascript", ".cjs": "javascript", ".jsx": "javascript",
		".ts": "typescript", ".tsx": "typescript", ".mts": "typescript", ".cts": "typescript", ".py": "python", ".pyi": "python",
	}
	lexers sync.Map // by language
)

func lexerOf(name string) chroma.Lexer {
	language, ok := languages[path.Ext(name)]
	if !ok {
		return nil
	}
	if l, ok := lexers.Load(language); ok {
		return l.(chroma.Lexer)
	}
	l, err := chroma.NewXMLLexer(rules, "lexers/"+language+".xml")
	if err != nil {
		return nil
	}
	lexers.Store(language, l)
	return l
}

func plain(lines []string) [][]Piece {
	out := make([][]Piece, len(lines))
	for i, l := range lines {
		if l != "" {
			out[i] = []Piece{{Plain, l}}
		}
	}
	return out
}

// lexed asks a lexer, and does not take its word for it: ok tells whether what
// it gave is the text.
func lexed(lexer chroma.Lexer, lines []string) (out [][]Piece, ok bool) {
	tokens, err := chroma.Coalesce(lexer).Tokenise(nil, strings.Join(lines, "\n")+"\n")
	if err != nil {
		return nil, false
	}
	for _, line := range chroma.SplitTokensIntoLines(tokens.Tokens()) {
		var pieces []Piece
		for _, t := range line {
			pieces = add(pieces, class(t.Type), strings.TrimSuffix(t.Value, "\n"))
		}
		out = append(out, pieces)
	}
	if len(out) < len(lines) {
		return nil, false
	}
	out = out[:len(lines)]
	for i, pieces := range out {
		n := 0
		for _, p := range pieces {
			if n > len(lines[i]) || !strings.HasPrefix(lines[i][n:], p.Text) {
				return nil, false
			}
			n += len(p.Text)
		}
		if n != len(lines[i]) {
			return nil, false
		}
	}
	return out, true
}

func class(t chroma.TokenType) Class {
	switch {
	case t.InCategory(chroma.Comment):
		return Comment
	case t.InCategory(chroma.Keyword):
		return Keyword
	case t.InSubCategory(chroma.LiteralString):
		return Text
	case t.InSubCategory(chroma.LiteralNumber):
		return Number
	}
	return Plain
}

// add puts a piece at the end of a line, together with the one before if that
// is of the same class.
func add(line []Piece, c Class, text string) []Piece {
	if text == "" {
		return line
	}
	if n := len(line); n > 0 && line[n-1].Class == c {
		line[n-1].Text += text
		return line
	}
	return append(line, Piece{c, text})
}
