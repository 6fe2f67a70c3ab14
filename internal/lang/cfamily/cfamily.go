package cfamily

import (
	"thrush/internal/core/site"
	"thrush/internal/lang"
	"thrush/internal/weave"
)

// Family is C and C++. Their files are woven when they are compiled, in package wrapper.
var Family = &lang.Language{Name: "C, C++", Try: "make check", IsSource: IsSource, IsTest: IsTest, IsVendored: IsVendored, Plan: planFile}

func planFile(path string, text []byte, t *site.Table, opt weave.Options) (*weave.Plan, error) {
	f, err := ReadPlain(path, text, LanguageOf(path))
	if err != nil {
		return nil, err
	}
	t.Language = LanguageOf(path).String()
	return weave.Place(text, f.Flow, t, opt), nil
}
