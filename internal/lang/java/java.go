package java

import (
	"errors"

	"thrush/internal/core/site"
	"thrush/internal/lang"
	"thrush/internal/weave"
)

// Language is Java. Its woven files stand in a copy of the project.
var Language = &lang.Language{Name: "Java", Try: "mvn test", IsSource: IsSource, IsTest: IsTest, IsVendored: IsVendored, Plain: true, Weave: weaveFile}

// mostProbes is the most probes that a method has room for: the code of one holds 64 KB, and
// a probe takes about 11 bytes of that.
const mostProbes = 2000

func weaveFile(s lang.Source) (w lang.Woven, err error) {
	if says := Generated(s.Text); says != "" {
		w.Generated = lang.SaysSo(says)
		return w, nil
	}
	file, err := Read(s.Text)
	if err != nil {
		return w, err
	}
	w.Table = &site.Table{Path: s.Path, Language: "java", Unit: s.Unit, Digest: s.Digest}
	w.Plan = weave.Place(s.Text, file, w.Table, s.Options)
	site.SetMarks(w.Table, s.Text)
	if crowded(w.Table) {
		return w, errors.New("it has a method that is so long that probes might not fit into what Java allows one (64 KB)")
	}
	text, class := Spell(w.Plan, s.Text, s.Pending)
	if !Fits(text) {
		return w, errors.New("its woven text does not fit the grammar")
	}
	w.Texts = map[string][]byte{"": append(text, class...)}
	return w, nil
}

// crowded tells whether a function has more probes than it may have room for.
func crowded(t *site.Table) bool {
	probes := make([]int, len(t.Functions))
	for _, s := range t.Statements {
		probes[s.Function]++
	}
	for _, d := range t.Decisions {
		probes[d.Function] += len(d.Outcomes)
	}
	for _, n := range probes {
		if n > mostProbes {
			return true
		}
	}
	return false
}
