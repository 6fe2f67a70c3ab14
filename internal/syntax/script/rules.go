package script

import (
	"bytes"
	"path"
	"regexp"
	"strings"
)

var endings = map[string]bool{".js": true, ".mjs": true, ".cjs": true, ".jsx": true, ".ts": true, ".mts": true, ".cts": true, ".tsx": true}

// IsSource, IsTest and IsVendored tell by a path what a file is for. Files that only
// declare types are none.
func IsSource(p string) bool {
	stem := strings.TrimSuffix(p, path.Ext(p))
	return endings[path.Ext(p)] && !strings.HasSuffix(stem, ".d")
}

var testFolders = map[string]bool{"test": true, "tests": true, "__tests__": true, "__mocks__": true, "__fixtures__": true, "spec": true, "specs": true, "e2e": true, "testdata": true}

// IsTest tells whether a path is that of test code, or of the configuration of a tool.
func IsTest(p string) bool {
	dir, name := path.Split(p)
	for _, d := range strings.Split(strings.TrimSuffix(dir, "/"), "/") {
		if testFolders[strings.ToLower(d)] {
			return true
		}
	}
	stem := strings.TrimSuffix(name, path.Ext(name))
	for _, end := range []string{".test", ".spec", ".e2e", "-test", "-spec", "_test", ".config", ".conf", ".stories", ".bench"} {
		if strings.HasSuffix(stem, end) {
			return true
		}
	}
	switch strings.ToLower(stem) {
	case "test", "tests", "gruntfile", "gulpfile", "jakefile":
		return true
	}
	return strings.HasPrefix(stem, "test-") || strings.HasPrefix(stem, "test_")
}

// vendorFolders hold somebody else's code, wherever they are; madeFolders what tools make
// at the top of a project.
var (
	vendorFolders = map[string]bool{"vendor": true, "vendors": true, "third_party": true, "third-party": true, "bower_components": true, "jspm_packages": true}
	madeFolders   = map[string]bool{"dist": true, "build": true, "out": true, "coverage": true, "site": true}
)

// IsVendored tells whether a path lies in a copy of somebody else's code, or in what a
// tool made.
func IsVendored(p string) bool {
	for i, d := range strings.Split(path.Dir(p), "/") {
		if vendorFolders[d] || i == 0 && madeFolders[d] {
			return true
		}
	}
	stem := strings.TrimSuffix(path.Base(p), path.Ext(p))
	return strings.HasSuffix(stem, ".min") || strings.HasSuffix(stem, ".bundle")
}

var generated = regexp.MustCompile(`(?i)do not (edit|modify|change)|auto-?(matically)?[ -]?generated|generated (automatically )?by|@generated`)

// IsGenerated tells whether a file says in a comment above all code that a program wrote
// it.
func IsGenerated(text []byte) bool {
	in := false
	for _, line := range bytes.Split(text[:min(len(text), 2048)], newline) {
		line = bytes.TrimSpace(line)
		comment := in || bytes.HasPrefix(line, []byte("//")) || bytes.HasPrefix(line, []byte("/*"))
		switch {
		case len(line) == 0 || bytes.HasPrefix(line, []byte("#!")):
			continue
		case !comment:
			return false
		case generated.Match(line):
			return true
		}
		in = (in || bytes.HasPrefix(line, []byte("/*"))) && !bytes.Contains(line, []byte("*/"))
	}
	return false
}
