package script

import (
	"encoding/json"
	"fmt"

	"thrush/internal/core/site"
	"thrush/internal/lang"
	"thrush/internal/weave"
)

// Language is JavaScript and TypeScript.
var Language = &lang.Language{Name: "JavaScript, TypeScript", Try: "npm test", IsSource: IsSource, IsTest: IsTest, IsVendored: IsVendored, Plain: true, Weave: weaveFile}

// CutsSuffix ends the names of lists of what has to be cut out of a woven text to have the
// text of the source again, as functions give it.
const CutsSuffix = ".cuts"

func weaveFile(s lang.Source) (w lang.Woven, err error) {
	if says := Generated(s.Text); says != "" {
		w.Generated = lang.SaysSo(says)
		return w, nil
	}
	if w.Generated = Bundled(s.Text); w.Generated != "" {
		return w, nil
	}
	if of := outputOf(s); of != "" {
		w.Generated = "by its source map a tool made it of " + of
		return w, nil
	}
	file, err := Read(s.Path, s.Text)
	if err != nil {
		return w, err
	}
	w.Table = &site.Table{Path: s.Path, Language: LanguageOf(s.Path), Unit: s.Unit, Digest: s.Digest}
	w.Plan = weave.Place(s.Text, file, w.Table, s.Options)
	site.SetMarks(w.Table, s.Text)
	text, cuts := w.Plan.SpellCut(New(file, w.Table))
	if err := Check(s.Path, text); err != nil {
		return w, fmt.Errorf("its woven text does not fit the grammar: %w", err)
	}
	list, err := json.Marshal(cuts)
	if err != nil {
		return w, err
	}
	w.Module = file.Module
	w.Texts = map[string][]byte{"": text, CutsSuffix: list}
	return w, nil
}
