// Package lang says what Thrush has to know of a language. Each language is a folder below, which
// exports one Language; package languages lists them.
package lang

import (
	"fmt"

	"thrush/internal/core/site"
	"thrush/internal/weave"
)

// Language is a language, or a family of such, that is measured.
type Language struct {
	Name string // in a sentence, such as "C, C++"
	Try  string // a command that runs the tests of most projects in it

	// IsSource tells by a path whether a file is of the language, IsTest whether it is test code or
	// what tests read, IsVendored whether others wrote it. Paths are from the project's root, with
	// slashes.
	IsSource, IsTest, IsVendored func(path string) bool
	// Plain says that names that begin with an underscore are like any others.
	Plain bool

	// Weave weaves a file before anybody reads it. It is nil for languages whose files are woven while
	// a compiler compiles them.
	Weave func(Source) (Woven, error)
	// Plan plans a file by its text alone, of those languages.
	Plan func(path string, text []byte, t *site.Table, opt weave.Options) (*weave.Plan, error)
}

// Source is a file that is to be woven.
type Source struct {
	Path string // from the project's root
	Abs  string // the whole path
	Root string // the project's
	Text []byte
	// Unit and Digest name what is woven, and the text, as site.Table has them.
	Unit, Digest string
	// Pending is the folder for counter files of processes that know of no other.
	Pending string
	// Named says that the command names source files, so that all of them are built.
	Named bool
	weave.Options
}

// Woven is what became of a file.
type Woven struct {
	// Generated is why the file does not count, in words: a program wrote it. Nothing else is told
	// then.
	Generated string
	Table     *site.Table
	Plan      *weave.Plan
	// Texts are the woven text, by "", and what goes with it, by the ends of its names.
	Texts map[string][]byte
	Facts
}

// Facts are what is known of a file that matters when woven files are put in front of tools.
type Facts struct {
	Built  string   `cbor:"built,omitempty"`  // what must hold for the file to be built, in the language's words
	Named  bool     `cbor:"named,omitempty"`  // a tool looks at its name
	Split  bool     `cbor:"split,omitempty"`  // there is a text for the race detector too
	Embeds []string `cbor:"embeds,omitempty"` // patterns of files whose text goes into the program
	Hides  string   `cbor:"hides,omitempty"`  // a word of the language that it gives another meaning to
	Module bool     `cbor:"module,omitempty"` // it is an ES module
}

// SaysSo is why a file does not count that says of itself, in a sentence, who wrote it.
func SaysSo(sentence string) string {
	return fmt.Sprintf("a comment at its top says that a program wrote it: %q", sentence)
}
