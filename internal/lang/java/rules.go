package java

import (
	"path"
	"strings"

	"thrush/internal/lang/rules"
)

// IsSource, IsTest and IsVendored tell by a path what a file is for. Files that only
// describe a module or a package are none.
func IsSource(p string) bool {
	base := path.Base(p)
	return path.Ext(p) == ".java" && base != "module-info.java" && base != "package-info.java"
}

var testFolders = rules.SetOf("test tests testing it jmh benchmark benchmarks testdata")

// IsTest tells whether a path is that of test code. By the layout of most builds what lies
// in src/main is none, whatever it is called; what lies in another folder of src is, if
// that one is called after tests.
func IsTest(p string) bool {
	folders := strings.Split(path.Dir(p), "/")
	for i, d := range folders[:len(folders)-1] {
		if set := strings.ToLower(folders[i+1]); d == "src" && set != "java" {
			switch {
			case set == "main":
				return false
			case strings.Contains(set, "test"), testFolders[set]:
				return true
			}
		}
	}
	if rules.Under(p, testFolders, nil) {
		return true
	}
	stem := strings.TrimSuffix(path.Base(p), ".java")
	for _, end := range []string{"Test", "Tests", "TestCase", "IT", "ITCase", "Benchmark"} {
		if strings.HasSuffix(stem, end) && stem != end {
			return true
		}
	}
	rest, ok := strings.CutPrefix(stem, "Test")
	return ok && rest != "" && rest[0] >= 'A' && rest[0] <= 'Z'
}

// vendorFolders hold somebody else's code, and madeFolders what builds make, wherever they are.
var (
	vendorFolders = rules.SetOf("vendor third_party third-party generated generated-sources generated-src generated_src src-gen")
	madeFolders   = rules.SetOf("target build out bin dist")
)

// IsVendored tells whether a path lies in a copy of somebody else's code, or in what a
// build made: in a folder of that name that is not part of a package's name.
func IsVendored(p string) bool {
	if before, _, ok := strings.Cut(p, "/java/"); ok {
		p = before + "/x"
	}
	return rules.Under(p, vendorFolders, madeFolders) || made(p)
}

// made tells whether a path lies in what the build of a module made.
func made(p string) bool {
	return rules.Under(p, rules.SetOf("target"), nil) || strings.Contains(p, "/build/generated/") || strings.Contains(p, "/build/classes/")
}

// Generated gives the sentence by which a file says, in a comment above all code, that a
// program wrote it; or nothing.
func Generated(text []byte) string { return rules.Generated(rules.Top(text, "//", "/*", "*/")) }
