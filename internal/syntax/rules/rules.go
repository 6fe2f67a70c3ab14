// Package rules tells what files are for, by what languages have in common.
package rules

import (
	"bytes"
	"path"
	"regexp"
	"strings"
)

// Set is a set of names of folders.
type Set map[string]bool

// SetOf makes a set of words.
func SetOf(words string) Set {
	out := Set{}
	for _, w := range strings.Fields(words) {
		out[w] = true
	}
	return out
}

// Under tells whether a path lies in a folder of the set, whatever its letters' case, or
// at the top in one of another.
func Under(p string, anywhere, top Set) bool {
	for i, d := range strings.Split(path.Dir(p), "/") {
		if anywhere[strings.ToLower(d)] || i == 0 && top[d] {
			return true
		}
	}
	return false
}

var generated = regexp.MustCompile(`(?i)do not (edit|modify|change)|auto-?(matically)?[ -]?generated|generated (automatically )?by|@generated`)

// IsGenerated tells whether a comment above all code says that a program wrote the file.
// Comments begin with one of the marks of a line, or stand between the two of a block.
func IsGenerated(text []byte, line, open, shut string) bool {
	in := false
	for _, l := range bytes.Split(text[:min(len(text), 2048)], []byte{'\n'}) {
		l = bytes.TrimSpace(l)
		opens := open != "" && bytes.HasPrefix(l, []byte(open))
		switch {
		case len(l) == 0 || bytes.HasPrefix(l, []byte("#!")):
			continue
		case !in && !opens && !bytes.HasPrefix(l, []byte(line)):
			return false
		case generated.Match(l):
			return true
		}
		in = (in || opens) && !bytes.Contains(l, []byte(shut))
	}
	return false
}
