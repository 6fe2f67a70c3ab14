// Package sarif writes what a change leaves untested as SARIF 2.1.0 (OASIS), which code
// hosts show beside the lines.
package sarif

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/url"
	"strings"

	"github.com/cespare/xxhash/v2"
	"github.com/owenrumney/go-sarif/v3/pkg/report/v210/sarif"

	"thrush/internal/core/gate"
	"thrush/internal/judge"
	"thrush/internal/report/output"
	"thrush/internal/report/prose"
	"thrush/internal/version"
)

// The rules that results name.
const (
	notRun  = "changed-code-not-run"
	notMet  = "gate-not-met"
	notSeen = "changed-code-unmeasured"
	ended   = "waiver-ended"
	notSaid = "gate-not-judged"
)

// Format is the format.
var Format = output.Format{Name: "sarif", About: "it as SARIF 2.1.0, for notes beside the lines", Judged: true, Write: func(to io.Writer, in output.Input) error {
	text, err := Write(in.Report, version.String())
	if err == nil {
		_, err = to.Write(prose.SafeJSON(text))
	}
	return err
}}

// Write gives the document.
func Write(r *judge.Report, version string) ([]byte, error) {
	tool := sarif.NewTool().WithDriver(sarif.NewToolComponent().WithName("Thrush").WithVersion(version).WithRules([]*sarif.ReportingDescriptor{
		sarif.NewRule(notRun).WithShortDescription(text("A changed line did not run, or a decision on it did not go one way")).
			WithHelp(text("Write a test that runs it, or waive it with a reason.")),
		sarif.NewRule(notMet).WithShortDescription(text("A gate is not met")).
			WithHelp(text("thrush gate prints what it requires, what was measured, and the lines that fall short.")),
		sarif.NewRule(notSeen).WithShortDescription(text("A changed source is unmeasured, so nothing is known of its lines")).
			WithHelp(text("Change it so that it can be measured, as the message says, or look at it by hand.")),
		sarif.NewRule(ended).WithShortDescription(text("A waiver has ended")).
			WithHelp(text("Test what it covers and remove it, or give it a new date.")),
		sarif.NewRule(notSaid).WithShortDescription(text("A gate was not judged")).
			WithHelp(text("Do as the message says, so that it can be judged.")),
	}))
	run := sarif.NewRun().WithTool(tool).WithResults([]*sarif.Result{}).WithColumnKind("utf16CodeUnits")
	for _, v := range r.Verdicts {
		switch {
		case v.Open != "":
			run.AddResult(left(v))
		case !v.Met:
			run.AddResult(unmet(v))
		}
	}
	for _, w := range r.Expired {
		run.AddResult(expired(w))
	}
	for _, u := range unmeasured(r) {
		run.AddResult(u)
	}
	for _, p := range r.Uncovered {
		run.AddResult(uncovered(r, p))
	}
	report := sarif.NewReport()
	report.Schema = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"
	report.AddRun(run)
	var out bytes.Buffer
	if err := report.Write(&out); err != nil {
		return nil, err
	}
	return brief(out.Bytes())
}

// brief leaves out what says no more than that nothing is said: empty lists, and numbers
// that stand for none.
func brief(text []byte) ([]byte, error) {
	var doc any
	d := json.NewDecoder(bytes.NewReader(text))
	d.UseNumber()
	if err := d.Decode(&doc); err != nil {
		return nil, err
	}
	out, err := json.MarshalIndent(without(doc), "", "  ")
	return append(out, '\n'), err
}

func without(v any) any {
	switch v := v.(type) {
	case map[string]any:
		for k, x := range v {
			list, isList := x.([]any)
			if isList && len(list) == 0 && k != "results" || x == json.Number("-1") {
				delete(v, k)
			} else {
				v[k] = without(x)
			}
		}
	case []any:
		for i := range v {
			v[i] = without(v[i])
		}
	}
	return v
}

func text(s string) *sarif.MultiformatMessageString {
	return sarif.NewMultiformatMessageString().WithText(s)
}

func uncovered(r *judge.Report, p gate.Place) *sarif.Result {
	source := strings.TrimSpace(r.Text(p.Path, p.Line))
	print := fmt.Sprintf("%016x", xxhash.Sum64String(strings.Join([]string{p.Path, source, string(p.Metric), string(p.Way)}, "\x00")))
	return sarif.NewRuleResult(notRun).WithRuleIndex(0).WithLevel("warning").WithKind("fail").
		WithMessage(sarif.NewTextMessage(prose.Safe("This change is not tested: " + p.Why + "."))).
		WithLocations([]*sarif.Location{at(p)}).
		WithPartialFingerprints(map[string]string{"thrushPlace/v1": print})
}

// unmeasured gives a result for each changed source of which nothing is known.
func unmeasured(r *judge.Report) (out []*sarif.Result) {
	seen := map[string]bool{}
	for _, v := range r.Verdicts {
		for _, u := range v.Unmeasured {
			if v.On != gate.Changed || seen[u.Path] {
				continue
			}
			seen[u.Path] = true
			out = append(out, sarif.NewRuleResult(notSeen).WithRuleIndex(2).WithLevel("warning").WithKind("fail").
				WithMessage(sarif.NewTextMessage(prose.Safe("This change is unmeasured: "+u.Reason+"."))).
				WithLocations([]*sarif.Location{at(gate.Place{Path: u.Path, Line: 1})}).
				WithPartialFingerprints(map[string]string{"thrushUnmeasured/v1": fmt.Sprintf("%016x", xxhash.Sum64String(u.Path))}))
		}
	}
	return out
}

// unmet gives the result of a gate. It stands at the first line that falls short, since
// those who show results want a place.
func unmet(v gate.Verdict) *sarif.Result {
	var said []string
	for _, r := range v.Results {
		if !r.Met && len(said) < 3 {
			said = append(said, prose.Required(v, r))
		}
	}
	if v.Note != "" {
		said = append(said, v.Note)
	}
	said = append(said, prose.Unjudged(v)...)
	out := sarif.NewRuleResult(notMet).WithRuleIndex(1).WithLevel("error").WithKind("fail").
		WithMessage(sarif.NewTextMessage(prose.Safe(fmt.Sprintf("The gate %q is not met: %s.", v.Name, strings.Join(said, "; "))))).
		WithPartialFingerprints(map[string]string{"thrushGate/v1": fmt.Sprintf("%016x", xxhash.Sum64String(v.Name))})
	if len(v.Lines) > 0 {
		out = out.WithLocations([]*sarif.Location{at(v.Lines[0])})
	}
	return out
}

// left gives the result of a gate that was not judged.
func left(v gate.Verdict) *sarif.Result {
	return sarif.NewRuleResult(notSaid).WithRuleIndex(4).WithLevel("note").WithKind("open").
		WithMessage(sarif.NewTextMessage(prose.Safe(fmt.Sprintf("The gate %q was not judged: %s.", v.Name, v.Open)))).
		WithPartialFingerprints(map[string]string{"thrushOpen/v1": fmt.Sprintf("%016x", xxhash.Sum64String(v.Name))})
}

// expired gives the result of a waiver that has ended, at the waiver.
func expired(w gate.Expired) *sarif.Result {
	return sarif.NewRuleResult(ended).WithRuleIndex(3).WithLevel("error").WithKind("fail").
		WithMessage(sarif.NewTextMessage(prose.Safe("In the configuration, " + prose.Expired(w) + "."))).
		WithLocations([]*sarif.Location{at(gate.Place{Path: w.Path, Line: w.Line})}).
		WithPartialFingerprints(map[string]string{"thrushWaiver/v1": fmt.Sprintf("%016x", xxhash.Sum64String(strings.Join(w.Where, "\x00")))})
}

func at(p gate.Place) *sarif.Location {
	uri := (&url.URL{Path: p.Path}).EscapedPath()
	return sarif.NewLocation().WithPhysicalLocation(sarif.NewPhysicalLocation().
		WithArtifactLocation(sarif.NewSimpleArtifactLocation(uri).WithURIBaseID("%SRCROOT%")).
		WithRegion(sarif.NewRegion().WithStartLine(max(1, p.Line))))
}
