package launch

import (
	"strings"

	"thrush/internal/lang/cfamily"
	"thrush/internal/lang/golang"
	"thrush/internal/lang/java"
	"thrush/internal/lang/python"
	"thrush/internal/lang/script"
	"thrush/internal/project"
)

// Language is a language, or a family of such, that is measured.
type Language struct {
	Name string
	Try  string // a command that runs the tests of most projects in it

	isSource, isTest, isVendored func(path string) bool
	// plain says that names that begin with an underscore are like any others.
	plain bool
}

// Languages are those that are measured.
var Languages = []Language{
	{"Go", "go test ./...", golang.IsSource, golang.IsTest, golang.IsVendored, false},
	{"C, C++", "make check", cfamily.IsSource, cfamily.IsTest, cfamily.IsVendored, false},
	{"Python", "python3 -m pytest", python.IsSource, python.IsTest, python.IsVendored, true},
	{"Java", "mvn test", java.IsSource, java.IsTest, java.IsVendored, true},
	{"JavaScript, TypeScript", "npm test", script.IsSource, script.IsTest, script.IsVendored, true},
}

// Measured names the languages in a sentence.
const Measured = "Go, C, C++, Python, Java, JavaScript or TypeScript"

// LanguageOf gives the language of a path, or nil.
func LanguageOf(path string) *Language {
	hidden := strings.HasPrefix(path, "_") || strings.Contains(path, "/_")
	for i := range Languages {
		if l := &Languages[i]; l.isSource(path) && (l.plain || !hidden) {
			return l
		}
	}
	return nil
}

// Classify tells the class of a path by the rules of its language.
func Classify(path string) project.Class {
	l := LanguageOf(path)
	switch {
	case l == nil:
		return project.Ignored
	case l.isTest(path):
		return project.Test
	case l.isVendored(path):
		return project.Vendored
	}
	return project.Source
}
