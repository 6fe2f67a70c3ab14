package cfamily

import (
	"sync"

	grammarc "github.com/tree-sitter/tree-sitter-c/bindings/go"
	grammarcpp "github.com/tree-sitter/tree-sitter-cpp/bindings/go"

	"thrush/internal/lang/tree"
)

// Language is one of the two languages of the family.
type Language uint8

// The languages.
const (
	C Language = iota
	CPP
)

func (l Language) String() string {
	if l == CPP {
		return "c++"
	}
	return "c"
}

var grammars = [2]func() *tree.Grammar{
	C:   sync.OnceValue(func() *tree.Grammar { return tree.Load(grammarc.Language()) }),
	CPP: sync.OnceValue(func() *tree.Grammar { return tree.Load(grammarcpp.Language()) }),
}

// parse gives the trees of what stands at the top of an excerpt. Their offsets are
// those of the whole text.
func parse(e *excerpt, l Language, visit func(*tree.Node)) error {
	place := func(from, to int) (int, int) { return e.whole(from), e.end(from, to) }
	return grammars[l]().Parse(e.text, tree.Options{Place: place}, visit)
}
