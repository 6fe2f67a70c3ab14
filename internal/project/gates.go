package project

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/pelletier/go-toml/v2"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gate"
)

// wireGate is a gate as it is written, but for the metrics, of which there are as many as
// coverage.Metrics lists.
type wireGate struct {
	Name       string   `toml:"name"`
	Where      any      `toml:"where"`
	On         string   `toml:"on"`
	Each       string   `toml:"each"`
	Hold       []string `toml:"hold"`
	Slack      *float64 `toml:"slack"`
	Unmeasured string   `toml:"unmeasured"`
}

var errUnknownKey = errors.New("unknown key")

// readGate reads a gate. An error comes with the key that is to blame, or none.
func readGate(table map[string]any) (r gate.Rule, key string, err error) {
	r = gate.Rule{On: gate.All, Each: gate.Whole}
	rest := maps.Clone(table)
	for _, name := range coverage.Names() {
		value, ok := table[name]
		if !ok {
			continue
		}
		delete(rest, name)
		percent, err := percentage(value)
		if err != nil {
			return r, name, err
		}
		r.Minimums = append(r.Minimums, gate.Minimum{Metric: coverage.Metric(name), Percent: percent})
	}
	g, key, err := decodeGate(rest)
	if err != nil {
		return r, key, err
	}
	r.Name = g.Name
	if r.Where, err = readGlobs(g.Where); err != nil {
		return r, "where", err
	}
	switch r.On = gate.On(g.On); r.On {
	case "":
		r.On = gate.All
	case gate.All, gate.Changed:
	default:
		return r, "on", fmt.Errorf("is %q; it can be \"all\" or \"changed\"", g.On)
	}
	switch r.Each = gate.Each(g.Each); r.Each {
	case "":
		r.Each = gate.Whole
	case gate.Whole, gate.Folder, gate.PerFile, gate.Function:
	default:
		return r, "each", fmt.Errorf("is %q; it can be \"whole\", \"folder\", \"file\" or \"function\"", g.Each)
	}
	for _, h := range g.Hold {
		if !slices.Contains(coverage.Names(), h) {
			return r, "hold", fmt.Errorf("names %q; it can name %s", h, quoted(coverage.Names()))
		}
		r.Hold = append(r.Hold, coverage.Metric(h))
	}
	if g.Slack != nil {
		if !(*g.Slack >= 0 && *g.Slack <= 100) {
			return r, "slack", fmt.Errorf("is %v; it lies between 0 and 100", *g.Slack)
		}
		r.Slack = *g.Slack
	}
	switch r.Unmeasured = gate.Unmeasured(g.Unmeasured); r.Unmeasured {
	case "", gate.Named, gate.Fails:
	default:
		return r, "unmeasured", fmt.Errorf("is %q; it can be \"named\" or \"fails\"", g.Unmeasured)
	}
	if len(r.Minimums) == 0 && len(r.Hold) == 0 && r.Unmeasured != gate.Fails {
		return r, "", fmt.Errorf("the gate asks for nothing; give %s, hold, or unmeasured = \"fails\"", strings.Join(coverage.Names(), ", "))
	}
	return r, "", nil
}

// decodeGate decodes the keys that all gates share.
func decodeGate(table map[string]any) (g wireGate, key string, err error) {
	for key, value := range table {
		text, err := toml.Marshal(map[string]any{key: value})
		if err != nil {
			return g, key, errors.New("cannot be read")
		}
		err = toml.NewDecoder(strings.NewReader(string(text))).DisallowUnknownFields().Decode(&g)
		if errors.As(err, new(*toml.StrictMissingError)) {
			return g, key, errUnknownKey
		}
		if err != nil {
			return g, key, fmt.Errorf("is %s; give %s", written(value), shape[key])
		}
	}
	return g, "", nil
}

// shape is what the keys of a gate take.
var shape = map[string]string{
	"name": "a text in quotes", "on": `"all" or "changed"`, "each": `"whole", "folder", "file" or "function"`, "unmeasured": `"named" or "fails"`,
	"hold": `a list of metrics, as in ["lines"]`, "slack": "a number from 0 to 100, as in 0.5",
}

// written is a value as it may stand in the file.
func written(value any) string {
	switch value.(type) {
	case string:
		return fmt.Sprintf("%q", value)
	case map[string]any:
		return "a table"
	case []any:
		return "a list"
	}
	return fmt.Sprint(value)
}

// percentage reads a number from 0 to 100.
func percentage(value any) (percent float64, err error) {
	switch v := value.(type) {
	case int64:
		percent = float64(v)
	case float64:
		percent = v
	default:
		return 0, fmt.Errorf("is %s; give a percentage, as in 90", written(value))
	}
	if !(percent >= 0 && percent <= 100) {
		return 0, fmt.Errorf("is %v; a percentage lies between 0 and 100", value)
	}
	return percent, nil
}

// quoted lists words in quotes, the last after "and".
func quoted(list []string) string {
	out := make([]string, len(list))
	for i, w := range list {
		out[i] = fmt.Sprintf("%q", w)
	}
	return strings.Join(out[:len(out)-1], ", ") + " and " + out[len(out)-1]
}
