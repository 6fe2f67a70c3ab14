package python

import (
	"path"
	"strings"

	"thrush/internal/lang/rules"
)

// IsSource, IsTest and IsVendored tell by a path what a file is for.
func IsSource(p string) bool { return strings.HasSuffix(p, ".py") || strings.HasSuffix(p, ".pyw") }

var (
	testFolders = rules.SetOf("test tests testdata")
	topTests    = rules.SetOf("testing")
)

// IsTest tells whether a path is that of test code, or of what runs tests.
func IsTest(p string) bool {
	stem := strings.TrimSuffix(path.Base(p), path.Ext(p))
	return rules.Under(p, testFolders, topTests) || strings.HasPrefix(stem, "test_") || strings.HasSuffix(stem, "_test") ||
		stem == "test" || stem == "tests" || stem == "conftest" || stem == "noxfile"
}

// vendorFolders hold somebody else's code, wherever they are; madeFolders what tools make
// at the top of a project.
var (
	vendorFolders = rules.SetOf("vendor _vendor vendored third_party site-packages dist-packages")
	madeFolders   = rules.SetOf("build dist venv env virtualenv")
)

// IsVendored tells whether a path lies in a copy of somebody else's code, or in what a
// tool made.
func IsVendored(p string) bool {
	return rules.Under(p, vendorFolders, madeFolders) || strings.HasSuffix(p, "_pb2.py") || strings.HasSuffix(p, "_pb2_grpc.py")
}

// Generated gives the sentence by which a file says, in a comment above all code, that a
// program wrote it; or nothing.
func Generated(text []byte) string { return rules.Generated(rules.Top(text, "#", "", "")) }
