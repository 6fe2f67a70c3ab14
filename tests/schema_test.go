package tests

import (
	"maps"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Everything that is printed as JSON is as docs/schema describes it, and the
// schemas let nothing pass that they do not describe.
func TestSchemas(t *testing.T) {
	dir := ferries(t)
	kept, err := filepath.Glob(filepath.Join(dir, ".thrush", "recordings", "*.thrush"))
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(kept), 1)
	run := func(args ...string) {
		cmd := exec.Command("thrush", args...)
		cmd.Dir = dir
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, string(out))
	}
	folder := t.TempDir()
	first, last, merged := filepath.Join(folder, "first.thrush"), kept[len(kept)-1], filepath.Join(folder, "merged.thrush")
	run("record", "-q", "--label", "fares", "--level", "conditions", "-o", first, "--", "go", "test", "./fare")
	run("merge", "-q", "-o", merged, first, last)
	for _, c := range []struct {
		schema string
		args   []string
	}{
		{"tally", []string{"tally"}},
		{"coverage", []string{"source", "."}},
		{"gaps", []string{"gaps", "--most", "100"}},
		{"hot", []string{"gaps", "--hot"}},
		{"gate", []string{"gate", "--since", "main"}},
		{"gate", []string{"gate", "--require", "lines=1,conditions=1,independence=1"}},
		{"log", []string{"log"}},
		{"compare", []string{"compare", first, last}},
		{"coverage", []string{"export", merged}},
		{"gate", []string{"gate", "--since", "main", "--against", first, last}},
		{"config", []string{"config"}},
	} {
		cmd := exec.Command("thrush", append(c.args, "--format", "json")...)
		cmd.Dir = dir
		out, _ := cmd.Output() // a gate that is not met has another exit status
		doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(out)))
		require.NoError(t, err, "%v: %s", c.args, out)
		schema, err := jsonschema.NewCompiler().Compile(filepath.Join("..", "docs", "schema", c.schema+".json"))
		require.NoError(t, err)
		assert.NoError(t, schema.Validate(doc), "%v", c.args)
		undescribed(t, c.schema, doc, schema)
	}
}

// undescribed fails for what a document has and its schema does not speak of.
func undescribed(t *testing.T, at string, doc any, schema *jsonschema.Schema) {
	t.Helper()
	switch doc := doc.(type) {
	case map[string]any:
		for schema.Ref != nil {
			schema = schema.Ref
		}
		known := properties(schema)
		others, _ := schema.AdditionalProperties.(*jsonschema.Schema)
		for key, value := range doc {
			if known[key] == nil && others != nil {
				known[key] = others
			}
			if assert.NotNil(t, known[key], "%s.%s is not in the schema", at, key) {
				undescribed(t, at+"."+key, value, known[key])
			}
		}
	case []any:
		for _, value := range doc {
			undescribed(t, at+"[]", value, schema.Items2020)
		}
	}
}

// properties are those of a schema and of all that it is made of.
func properties(schema *jsonschema.Schema) map[string]*jsonschema.Schema {
	out := map[string]*jsonschema.Schema{}
	if schema == nil {
		return out
	}
	maps.Copy(out, schema.Properties)
	for _, part := range append([]*jsonschema.Schema{schema.Ref}, schema.AllOf...) {
		maps.Copy(out, properties(part))
	}
	return out
}
