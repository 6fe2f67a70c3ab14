package python

import (
	"bytes"
	"path"
	"regexp"
	"strings"
)

// IsSource, IsTest and IsVendored tell by a path what a file is for.
func IsSource(p string) bool { return strings.HasSuffix(p, ".py") || strings.HasSuffix(p, ".pyw") }

var testFolders = map[string]bool{"test": true, "tests": true, "testdata": true}

// IsTest tells whether a path is that of test code, or of what runs tests.
func IsTest(p string) bool {
	dir, name := path.Split(p)
	for _, d := range strings.Split(strings.TrimSuffix(dir, "/"), "/") {
		if testFolders[strings.ToLower(d)] {
			return true
		}
	}
	stem := strings.TrimSuffix(name, path.Ext(name))
	return strings.HasPrefix(p, "testing/") || strings.HasPrefix(stem, "test_") || strings.HasSuffix(stem, "_test") ||
		stem == "test" || stem == "tests" || stem == "conftest" || stem == "noxfile"
}

// vendorFolders hold somebody else's code, wherever they are; madeFolders what tools make
// at the top of a project.
var (
	vendorFolders = map[string]bool{"vendor": true, "_vendor": true, "vendored": true, "third_party": true, "site-packages": true, "dist-packages": true}
	madeFolders   = map[string]bool{"build": true, "dist": true, "venv": true, "env": true, "virtualenv": true}
)

// IsVendored tells whether a path lies in a copy of somebody else's code, or in what a
// tool made.
func IsVendored(p string) bool {
	for i, d := range strings.Split(path.Dir(p), "/") {
		if vendorFolders[d] || i == 0 && madeFolders[d] {
			return true
		}
	}
	return strings.HasSuffix(p, "_pb2.py") || strings.HasSuffix(p, "_pb2_grpc.py")
}

var generated = regexp.MustCompile(`(?i)do not (edit|modify|change)|auto-?(matically)?[ -]?generated|generated (automatically )?by|@generated`)

// IsGenerated tells whether a file says in a comment above all code that a program
// wrote it.
func IsGenerated(text []byte) bool {
	for _, line := range bytes.Split(text[:min(len(text), 2048)], newline) {
		line = bytes.TrimSpace(line)
		switch {
		case len(line) == 0:
		case line[0] != '#':
			return false
		case generated.Match(line):
			return true
		}
	}
	return false
}
