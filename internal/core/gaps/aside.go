package gaps

import (
	"slices"
	"strings"
)

// asides are folders whose code tests are seldom about: it shows, explains or times the
// product, or builds on it. What is left to test there comes last.
var asides = map[string]bool{
	"benchmarks": true, "bench": true, "contrib": true, "demo": true, "demos": true, "doc": true, "docs": true,
	"downstream": true, "example": true, "examples": true, "website": true,
}

// Aside gives the folder at or below the top by which a path is no product code, or nothing.
func Aside(path string) string {
	folders := strings.Split(path, "/")
	for i, f := range folders[:len(folders)-1] {
		if asides[strings.ToLower(f)] && i < 2 {
			return strings.Join(folders[:i+1], "/")
		}
	}
	return ""
}

// Asides are the folders of that kind that hold some of the paths, in order.
func Asides(paths []string) (out []string) {
	for _, p := range paths {
		if a := Aside(p); a != "" && !slices.Contains(out, a) {
			out = append(out, a)
		}
	}
	slices.Sort(out)
	return out
}
