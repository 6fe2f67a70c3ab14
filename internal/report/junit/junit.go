// Package junit writes verdicts as JUnit XML, which pipelines show as tests: each gate
// is a test case. There is no standard for it; only what all readers know is written.
package junit

import (
	"encoding/xml"
	"fmt"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gate"
	"thrush/internal/report/facts"
	"thrush/internal/report/words"
)

type suites struct {
	XMLName  xml.Name `xml:"testsuites"`
	Name     string   `xml:"name,attr"`
	Tests    int      `xml:"tests,attr"`
	Failures int      `xml:"failures,attr"`
	Suites   []suite  `xml:"testsuite"`
}

type suite struct {
	Name     string     `xml:"name,attr"`
	Tests    int        `xml:"tests,attr"`
	Failures int        `xml:"failures,attr"`
	Cases    []testcase `xml:"testcase"`
}

type testcase struct {
	Name    string   `xml:"name,attr"`
	Class   string   `xml:"classname,attr"`
	Failure *failure `xml:"failure,omitempty"`
	Out     string   `xml:"system-out,omitempty"`
}

type failure struct {
	Message string `xml:"message,attr"`
	Type    string `xml:"type,attr"`
	Text    string `xml:",chardata"`
}

// Write gives the document.
func Write(r *facts.Report) ([]byte, error) {
	s := suite{Name: "thrush gate", Tests: len(r.Verdicts), Failures: r.Unmet()}
	for _, v := range r.Verdicts {
		c := testcase{Name: words.Safe(v.Name), Class: "gate." + string(v.On)}
		text := results(v)
		if v.Met {
			c.Out = text
		} else {
			c.Failure = &failure{Message: message(v), Type: "not met", Text: text + places(v)}
		}
		s.Cases = append(s.Cases, c)
	}
	out, err := xml.MarshalIndent(suites{Name: "thrush", Tests: s.Tests, Failures: s.Failures, Suites: []suite{s}}, "", "  ")
	return append(append([]byte(xml.Header), out...), '\n'), err
}

func message(v gate.Verdict) string {
	for _, r := range v.Results {
		if !r.Met {
			return said(v, r)
		}
	}
	if v.Note == "" && len(v.Unmeasured)+len(v.Nowhere) > 0 {
		return words.Safe(words.Unjudged(v)[0])
	}
	return words.Safe(v.Note)
}

func said(v gate.Verdict, r gate.Result) string {
	scope := ""
	if v.Each != gate.Whole {
		scope = words.Safe(r.Scope) + " "
	}
	have := coverage.Ratio{Covered: r.Covered, Total: r.Total}
	return fmt.Sprintf("%s%s: required %s, measured %s (%s)", scope, r.Metric, words.Points(r.Required), words.Percent(have), words.Of(have))
}

func results(v gate.Verdict) string {
	var b strings.Builder
	for _, note := range append([]string{v.Against, v.Note, words.PassedOver(v)}, words.Unjudged(v)...) {
		if note != "" {
			b.WriteString(words.Safe(note) + "\n")
		}
	}
	for _, r := range v.Results {
		b.WriteString(said(v, r) + "\n")
	}
	return b.String()
}

func places(v gate.Verdict) string {
	var b strings.Builder
	for _, p := range v.Lines {
		fmt.Fprintf(&b, "%s:%d %s\n", words.Safe(p.Path), p.Line, words.Safe(p.Why))
	}
	return b.String()
}
