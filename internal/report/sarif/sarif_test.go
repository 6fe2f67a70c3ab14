package sarif

import (
	"encoding/json"
	"encoding/xml"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gate"
	"thrush/internal/judge"
	"thrush/internal/report/junit"
)

func report() *judge.Report {
	place := gate.Place{Path: "fare/a b\x01%.go", Line: 7, Why: "not run yet"}
	return &judge.Report{Text: func(string, int) string { return "\treturn 900" }, Uncovered: []gate.Place{place},
		Verdicts: []gate.Verdict{
			{Name: "fares are safe ]]> \x00 <b>", On: gate.Changed, Each: gate.Whole, Lines: []gate.Place{place}, Results: []gate.Result{{Scope: "whole", Metric: coverage.Lines, Required: 100, Total: 3}}},
			{Name: "waiver", Note: "it ended"},
			{Name: "never backwards", Met: true},
		}}
}

// schema is the one that OASIS publishes. It comes with the library, in its source.
func schema(t *testing.T) *jsonschema.Schema {
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/owenrumney/go-sarif/v3").Output()
	require.NoError(t, err)
	source, err := os.ReadFile(filepath.Join(strings.TrimSpace(string(dir)), "pkg", "report", "v210", "sarif", "schema.go"))
	require.NoError(t, err)
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(strings.Split(string(source), "`")[1]))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource("sarif.json", doc))
	out, err := c.Compile("sarif.json")
	require.NoError(t, err)
	return out
}

// What is written fits the schema, and says each thing once.
func TestItFitsTheSchema(t *testing.T) {
	fits := schema(t)
	for _, r := range []*judge.Report{report(), {}} {
		text, err := Write(r, "1.2.3")
		require.NoError(t, err)
		doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(text)))
		require.NoError(t, err)
		require.NoError(t, fits.Validate(doc))
	}
	text, err := Write(report(), "1.2.3")
	require.NoError(t, err)
	var doc struct {
		Runs []struct{ Results []struct{ RuleID string } }
	}
	require.NoError(t, json.Unmarshal(text, &doc))
	var rules []string
	for _, r := range doc.Runs[0].Results {
		rules = append(rules, r.RuleID)
	}
	assert.Equal(t, []string{"gate-not-met", "gate-not-met", "changed-code-not-run"}, rules)
	assert.Contains(t, string(text), `"uri": "fare/a%20b%01%25.go"`)
}

// The same report as JUnit XML is well-formed whatever is in it.
func TestJUnitIsWellFormed(t *testing.T) {
	text, err := junit.Write(report())
	require.NoError(t, err)
	d := xml.NewDecoder(strings.NewReader(string(text)))
	cases, failures := 0, 0
	for {
		token, err := d.Token()
		if token == nil {
			require.ErrorContains(t, err, "EOF")
			break
		}
		if e, ok := token.(xml.StartElement); ok {
			cases += b2i(e.Name.Local == "testcase")
			failures += b2i(e.Name.Local == "failure")
		}
	}
	assert.Equal(t, []int{3, 2}, []int{cases, failures})
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}
