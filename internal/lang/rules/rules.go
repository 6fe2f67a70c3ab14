// Package rules tells what files are for, by what languages have in common.
package rules

import (
	"path"
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
