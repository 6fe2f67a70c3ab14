package cfamily

import (
	"path"
	"strings"

	"thrush/internal/lang/rules"
)

// compiled are the endings of files that are compiled by themselves, and included
// those of files that others include.
var (
	compiled = map[string]Language{".c": C, ".cc": CPP, ".cpp": CPP, ".cxx": CPP, ".c++": CPP, ".C": CPP, ".cp": CPP, ".CPP": CPP}
	headers  = map[string]bool{".h": true, ".hh": true, ".hpp": true, ".hxx": true, ".h++": true, ".H": true, ".ipp": true, ".tpp": true, ".txx": true, ".tcc": true, ".inl": true}
	others   = map[string]bool{".inc": true, ".def": true, ".y": true, ".yy": true, ".ypp": true, ".l": true, ".ll": true, ".lpp": true, ".re": true, ".rl": true}
)

// IsSource, IsTest and IsVendored tell by a path what a file is for.
func IsSource(p string) bool {
	_, ok := compiled[path.Ext(p)]
	return ok || headers[path.Ext(p)] || others[path.Ext(p)]
}

// IsOnlyRead tells whether a file is C only where some unit includes it, or was made
// from it.
func IsOnlyRead(p string) bool { return others[path.Ext(p)] }

// hasPatterns tells whether patterns of a language of their own stand in a file, before each
// piece of C.
func hasPatterns(p string) bool {
	switch path.Ext(p) {
	case ".l", ".ll", ".lpp", ".re", ".rl":
		return true
	}
	return false
}

// IsMade tells whether a file is one of which a parser or a scanner is made.
func IsMade(p string) bool { return isGrammar(p) || hasPatterns(p) }

// isGrammar tells whether a file is one of which a parser is made.
func isGrammar(p string) bool {
	switch path.Ext(p) {
	case ".y", ".yy", ".ypp":
		return true
	}
	return false
}

// LanguageOf gives the language of a path. A header is C unless only C++ has such.
func LanguageOf(p string) Language {
	if l, ok := compiled[path.Ext(p)]; ok {
		return l
	}
	if ext := path.Ext(p); ext != ".h" && ext != ".inc" && ext != ".def" && ext != ".y" && ext != ".l" {
		return CPP
	}
	return C
}

// testFolders hold tests and what they need.
var testFolders = map[string]bool{"test": true, "tests": true, "testing": true, "unittest": true, "unittests": true, "unit_tests": true, "testdata": true, "googletest": true, "gtest": true}

// IsTest tells whether a path is that of test code.
func IsTest(p string) bool {
	dir, name := path.Split(p)
	for _, d := range strings.Split(dir, "/") {
		if testFolders[strings.ToLower(d)] {
			return true
		}
	}
	stem := strings.ToLower(strings.TrimSuffix(name, path.Ext(name)))
	return strings.HasPrefix(stem, "test_") || strings.HasPrefix(stem, "test-") || stem == "test" || stem == "tests" ||
		strings.HasSuffix(stem, "_test") || strings.HasSuffix(stem, "-test") || strings.HasSuffix(stem, "_tests") || strings.HasSuffix(stem, "_unittest")
}

// vendorFolders hold somebody else's code, or what a build system made.
var vendorFolders = map[string]bool{"vendor": true, "third_party": true, "third-party": true, "thirdparty": true, "3rdparty": true, "external": true, "CMakeFiles": true, "_deps": true, "subprojects": true, "autom4te.cache": true}

// IsVendored tells whether a path lies in a copy of somebody else's code.
func IsVendored(p string) bool {
	for _, d := range strings.Split(path.Dir(p), "/") {
		if vendorFolders[d] {
			return true
		}
	}
	return path.Base(p) == "conftest.c" || path.Base(p) == "conftest.cpp"
}

// mostTop is how far from the beginning of a file comments are looked for that say who wrote
// it, in bytes.
const mostTop = 4096

// Generated gives the sentence by which a file says, in a comment above all code, that a
// program wrote it; or nothing.
func Generated(text []byte) string {
	text = text[:min(len(text), mostTop)]
	var above strings.Builder
	scan := scanner{text: text, directives: true, fresh: true}
	scan.comment = func(from, to int) {
		above.Write(text[from:to])
		above.WriteString("\n\n")
	}
	_, _ = scan.next()
	return rules.Generated(above.String())
}
