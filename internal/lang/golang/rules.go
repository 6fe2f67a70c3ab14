package golang

import (
	"bytes"
	"go/build/constraint"
	"path"
	"strings"
)

// IsSource, IsTest and IsVendored tell by a path what a Go file is for. Data of
// tests is test code.
func IsSource(p string) bool { return strings.HasSuffix(p, ".go") }

// IsTest tells whether a path is that of test code.
func IsTest(p string) bool {
	return strings.HasSuffix(p, "_test.go") || hasFolder(p, "testdata")
}

// IsVendored tells whether a path lies in a copy of somebody else's code.
func IsVendored(p string) bool { return hasFolder(p, "vendor") }

// Embeds tells whether the go command looks for files to embed in a file.
func Embeds(p string) bool { return strings.HasSuffix(p, ".go") && !hasFolder(p, "testdata") }

// EmbedPatterns are the patterns of files to embed in a source text.
func EmbedPatterns(source []byte) (out []string) {
	for line := range bytes.Lines(source) {
		out = append(out, embedded(strings.TrimRight(string(line), "\r\n"))...)
	}
	return out
}

// Matches tells whether a pattern in a file (go doc embed) covers another file,
// by its name or a folder it is in.
func Matches(from, pattern, file string) bool {
	pattern = path.Join(path.Dir(from), strings.TrimPrefix(pattern, "all:"))
	for p := file; p != "."; p = path.Dir(p) {
		if ok, err := path.Match(pattern, p); ok && err == nil {
			return true
		}
	}
	return pattern == "."
}

func hasFolder(p, name string) bool {
	return strings.HasPrefix(p, name+"/") || strings.Contains(p, "/"+name+"/")
}

var systems = words("aix android darwin dragonfly freebsd hurd illumos ios js linux nacl netbsd openbsd plan9 solaris wasip1 windows zos")
var machines = words("386 amd64 arm arm64 loong64 mips mips64 mips64le mipsle ppc64 ppc64le riscv riscv64 s390x sparc64 wasm")
var unixes = words("aix android darwin dragonfly freebsd hurd illumos ios linux netbsd openbsd solaris")

func words(s string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(s) {
		m[w] = true
	}
	return m
}

// Excluded tells whether a Go file is never built for a system and machine, and
// why, from its name and its build constraint (go help buildconstraint). Tags
// that the user may set are taken to be set or not, whichever builds it.
func Excluded(file, built, goos, goarch string) (why string, excluded bool) {
	if os, arch := fromName(path.Base(file)); os != "" && !matchesOS(os, goos) || arch != "" && arch != goarch {
		return "its name keeps it out of builds for " + goos + "/" + goarch, true
	}
	if built == "" {
		return "", false
	}
	expr, err := constraint.Parse(built)
	if err != nil {
		return "", false
	}
	if can(expr, true, goos, goarch) {
		return "", false
	}
	return "its constraint " + built + " keeps it out of builds for " + goos + "/" + goarch, true
}

func fromName(base string) (os, arch string) {
	base, _, _ = strings.Cut(base, ".")
	parts := strings.Split(base, "_")
	n := len(parts)
	switch {
	case n >= 3 && systems[parts[n-2]] && machines[parts[n-1]]:
		return parts[n-2], parts[n-1]
	case n >= 2 && systems[parts[n-1]]:
		return parts[n-1], ""
	case n >= 2 && machines[parts[n-1]]:
		return "", parts[n-1]
	}
	return "", ""
}

func matchesOS(os, goos string) bool {
	return os == goos || os == "linux" && goos == "android" || os == "darwin" && goos == "ios"
}

// can tells whether an expression can come out as wanted.
func can(e constraint.Expr, want bool, goos, goarch string) bool {
	switch e := e.(type) {
	case *constraint.NotExpr:
		return can(e.X, !want, goos, goarch)
	case *constraint.AndExpr:
		if want {
			return can(e.X, true, goos, goarch) && can(e.Y, true, goos, goarch)
		}
		return can(e.X, false, goos, goarch) || can(e.Y, false, goos, goarch)
	case *constraint.OrExpr:
		if want {
			return can(e.X, true, goos, goarch) || can(e.Y, true, goos, goarch)
		}
		return can(e.X, false, goos, goarch) && can(e.Y, false, goos, goarch)
	case *constraint.TagExpr:
		switch {
		case systems[e.Tag]:
			return matchesOS(e.Tag, goos) == want
		case machines[e.Tag]:
			return (e.Tag == goarch) == want
		case e.Tag == "unix":
			return unixes[goos] == want
		case e.Tag == "gc" || strings.HasPrefix(e.Tag, "go1."):
			return want
		case e.Tag == "gccgo" || e.Tag == "ignore":
			return !want
		}
	}
	return true
}
