package golang

import (
	"thrush/internal/core/site"
	"thrush/internal/lang"
	"thrush/internal/weave"
)

// Language is Go.
var Language = &lang.Language{Name: "Go", Try: "go test ./...", IsSource: IsSource, IsTest: IsTest, IsVendored: IsVendored, Weave: weaveFile}

// RaceSuffix ends the name of the woven text for builds with the race detector.
const RaceSuffix = ".race"

func weaveFile(s lang.Source) (w lang.Woven, err error) {
	file, err := Read(s.Path, s.Text)
	if err != nil {
		return w, err
	}
	w.Facts = lang.Facts{Built: file.Constraint, Named: file.Named, Embeds: file.Embeds, Hides: file.Hides}
	if file.Generated != "" {
		w.Generated = lang.SaysSo(file.Generated)
		return w, nil
	}
	w.Table = &site.Table{Path: s.Path, Language: "go", Unit: s.Unit, Digest: s.Digest}
	w.Plan = weave.Place(s.Text, file, w.Table, s.Options)
	site.SetMarks(w.Table, s.Text)
	spell := func(v Variant) []byte {
		return w.Plan.Spell(New(file, len(s.Text), s.Abs, s.Pending, w.Table, v))
	}
	if w.Split = !s.Named && !w.Named && Splits(file, s.Abs); !w.Split {
		w.Texts = map[string][]byte{"": spell(Alone)}
		return w, nil
	}
	w.Texts = map[string][]byte{"": spell(Direct), RaceSuffix: spell(ForRace)}
	return w, nil
}
