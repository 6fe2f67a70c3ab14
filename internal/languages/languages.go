// Package languages lists the languages that are measured. Another language is a folder in lang and
// a line here.
package languages

import (
	"strings"

	"thrush/internal/lang"
	"thrush/internal/lang/cfamily"
	"thrush/internal/lang/golang"
	"thrush/internal/lang/java"
	"thrush/internal/lang/python"
	"thrush/internal/lang/script"
	"thrush/internal/project"
)

// All are the languages, in the order in which they are named.
var All = []*lang.Language{golang.Language, cfamily.Family, python.Language, java.Language, script.Language}

// Names names them in a sentence.
func Names() string {
	var out []string
	for _, l := range All {
		out = append(out, strings.Split(l.Name, ", ")...)
	}
	return strings.Join(out[:len(out)-1], ", ") + " or " + out[len(out)-1]
}

// Of gives the language of a path, or nil.
func Of(path string) *lang.Language {
	hidden := strings.HasPrefix(path, "_") || strings.Contains(path, "/_")
	for _, l := range All {
		if l.IsSource(path) && (l.Plain || !hidden) {
			return l
		}
	}
	return nil
}

// Classify tells the class of a path by the rules of its language.
func Classify(path string) project.Class {
	l := Of(path)
	switch {
	case l == nil:
		return project.Ignored
	case l.IsTest(path):
		return project.Test
	case l.IsVendored(path):
		return project.Vendored
	}
	return project.Source
}
