package pages

import (
	"fmt"
	"net/url"
	"strings"
)

// linker knows how pages are reached from one another: as files of a folder, or
// as parts of a single file.
type linker struct {
	book   *book
	single bool
	root   string // from the page at hand to the report's folder, as in "../../"
}

// from gives the linker for a page of the given name.
func (l linker) from(name string) linker {
	l.root = strings.Repeat("../", strings.Count(name, "/"))
	return l
}

// Page is the address of a page about all files: index, functions or how.
func (l linker) Page(name, part string) string {
	if part != "" {
		part = "#" + part
	}
	if !l.single {
		return l.root + name + ".html" + part
	}
	return "#" + name + ".html" + strings.Replace(part, "#", ":", 1)
}

// File is the address of a file's page, at a line unless that is 0.
func (l linker) File(path string, line int) string {
	i, ok := l.book.pageOf[path]
	if !ok {
		return ""
	}
	at := l.root + (&url.URL{Path: l.book.pageNames[i]}).EscapedPath()
	mark := "#"
	if l.single {
		at, mark = "#"+l.book.pageNames[i], ":"
	}
	if line == 0 {
		return at
	}
	return fmt.Sprintf("%s%sL%d", at, mark, line)
}
