package script

import (
	"path"
	"strings"

	"thrush/internal/lang/rules"
)

var endings = map[string]bool{".js": true, ".mjs": true, ".cjs": true, ".jsx": true, ".ts": true, ".mts": true, ".cts": true, ".tsx": true}

// IsSource, IsTest and IsVendored tell by a path what a file is for. Files that only
// declare types are none.
func IsSource(p string) bool {
	stem := strings.TrimSuffix(p, path.Ext(p))
	return endings[path.Ext(p)] && !strings.HasSuffix(stem, ".d")
}

var testFolders = rules.SetOf("test tests __tests__ __mocks__ __fixtures__ spec specs e2e testdata")

// IsTest tells whether a path is that of test code, or of the configuration of a tool.
func IsTest(p string) bool {
	if rules.Under(p, testFolders, nil) {
		return true
	}
	stem := strings.TrimSuffix(path.Base(p), path.Ext(p))
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
	vendorFolders = rules.SetOf("vendor vendors third_party third-party bower_components jspm_packages")
	madeFolders   = rules.SetOf("dist build out coverage site")
)

// IsVendored tells whether a path lies in a copy of somebody else's code, or in what a
// tool made.
func IsVendored(p string) bool {
	stem := strings.TrimSuffix(path.Base(p), path.Ext(p))
	return rules.Under(p, vendorFolders, madeFolders) || strings.HasSuffix(stem, ".min") || strings.HasSuffix(stem, ".bundle")
}

// Generated gives the sentence by which a file says, in a comment above all code, that a
// program wrote it; or nothing.
func Generated(text []byte) string { return rules.Generated(rules.Top(text, "//", "/*", "*/")) }
