package python

import (
	"thrush/internal/core/site"
	"thrush/internal/lang"
	"thrush/internal/weave"
)

// Language is Python.
var Language = &lang.Language{Name: "Python", Try: "python3 -m pytest", IsSource: IsSource, IsTest: IsTest, IsVendored: IsVendored, Plain: true, Weave: weaveFile}

func weaveFile(s lang.Source) (w lang.Woven, err error) {
	if says := Generated(s.Text); says != "" {
		w.Generated = lang.SaysSo(says)
		return w, nil
	}
	file, err := Read(s.Text)
	if err != nil {
		return w, err
	}
	w.Table = &site.Table{Path: s.Path, Language: "python", Unit: s.Unit, Digest: s.Digest}
	w.Plan = weave.Place(file.Text, file.Flow, w.Table, s.Options)
	site.SetMarks(w.Table, file.Text)
	w.Texts = map[string][]byte{"": Spell(w.Plan, file)}
	return w, nil
}
