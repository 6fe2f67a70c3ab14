// Package junit writes verdicts as JUnit XML, which pipelines show as tests: each gate
// is a test case. There is no standard for it; only what all readers know is written.
package junit

import (
	"encoding/xml"
	"fmt"
	"io"
	"strings"

	"thrush/internal/core/gate"
	"thrush/internal/judge"
	"thrush/internal/report/output"
	"thrush/internal/report/prose"
)

type suites struct {
	XMLName  xml.Name `xml:"testsuites"`
	Name     string   `xml:"name,attr"`
	Tests    int      `xml:"tests,attr"`
	Failures int      `xml:"failures,attr"`
	Skipped  int      `xml:"skipped,attr"`
	Suites   []suite  `xml:"testsuite"`
}

type suite struct {
	Name     string     `xml:"name,attr"`
	Tests    int        `xml:"tests,attr"`
	Failures int        `xml:"failures,attr"`
	Skipped  int        `xml:"skipped,attr"`
	Cases    []testcase `xml:"testcase"`
}

type testcase struct {
	Name    string   `xml:"name,attr"`
	Class   string   `xml:"classname,attr"`
	Failure *failure `xml:"failure,omitempty"`
	Skipped *skipped `xml:"skipped,omitempty"`
	Out     string   `xml:"system-out,omitempty"`
}

type skipped struct {
	Message string `xml:"message,attr"`
}

type failure struct {
	Message string `xml:"message,attr"`
	Type    string `xml:"type,attr"`
	Text    string `xml:",chardata"`
}

// Format is the format.
var Format = output.Format{Name: "junit", About: "it as JUnit XML, each gate a test", Judged: true, Write: func(to io.Writer, in output.Input) error {
	text, err := Write(in.Report)
	if err == nil {
		_, err = to.Write(text)
	}
	return err
}}

// Write gives the document.
func Write(r *judge.Report) ([]byte, error) {
	count := r.Count()
	s := suite{Name: "thrush gate", Tests: len(r.Verdicts) + len(r.Expired), Failures: count.Unmet + count.Expired, Skipped: count.Open}
	for _, v := range r.Verdicts {
		c := testcase{Name: prose.Safe(v.Name), Class: "gate." + string(v.On)}
		text := results(v)
		switch {
		case v.Open != "":
			c.Skipped = &skipped{prose.Safe("not judged: " + v.Open)}
		case v.Met:
			c.Out = text
		default:
			c.Failure = &failure{Message: message(v), Type: "not met", Text: text + places(v)}
		}
		s.Cases = append(s.Cases, c)
	}
	for _, w := range r.Expired {
		said := prose.Safe(prose.Expired(w))
		s.Cases = append(s.Cases, testcase{Name: prose.Safe("waiver of " + strings.Join(w.Where, ", ")), Class: "waiver",
			Failure: &failure{Message: said, Type: "ended", Text: fmt.Sprintf("%s:%d %s\n", prose.Safe(w.Path), w.Line, said)}})
	}
	out, err := xml.MarshalIndent(suites{Name: "thrush", Tests: s.Tests, Failures: s.Failures, Skipped: s.Skipped, Suites: []suite{s}}, "", "  ")
	return append(append([]byte(xml.Header), out...), '\n'), err
}

func message(v gate.Verdict) string {
	for _, r := range v.Results {
		if !r.Met {
			return prose.Safe(prose.Required(v, r))
		}
	}
	if v.Note == "" && len(v.Unmeasured)+len(v.Nowhere) > 0 {
		return prose.Safe(prose.Unjudged(v)[0])
	}
	return prose.Safe(v.Note)
}

func results(v gate.Verdict) string {
	var b strings.Builder
	for _, note := range append([]string{v.Against, v.Note, prose.PassedOver(v)}, prose.Unjudged(v)...) {
		if note != "" {
			b.WriteString(prose.Safe(note) + "\n")
		}
	}
	for _, r := range v.Results {
		b.WriteString(prose.Safe(prose.Required(v, r)) + "\n")
	}
	return b.String()
}

func places(v gate.Verdict) string {
	var b strings.Builder
	for _, p := range v.Lines {
		fmt.Fprintf(&b, "%s:%d %s\n", prose.Safe(p.Path), p.Line, prose.Safe(p.Why))
	}
	return b.String()
}
