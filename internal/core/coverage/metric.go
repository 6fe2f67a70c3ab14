package coverage

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"

	"github.com/fxamacker/cbor/v2"

	"thrush/internal/core/site"
)

// Metric names something that is counted: how many of how many items were reached. It is the
// word for it in configurations, options, tables and documents.
type Metric string

// Definition is what there is to know about a metric. Configuration, gates, badges, tables, pages
// and documents range over Metrics and know none of them by name, so that another metric needs
// nothing but a definition in the list.
type Definition struct {
	Metric
	// Level is the shallowest level at which a recording says something of it.
	Level site.Level
	// About says how it is counted, a paragraph each, with code between back quotes.
	About []string
	// Noun is what it counts, as far as that differs from its name.
	Noun string
	// Badge is what a badge says of it, and Column the name of the column of what was reached.
	Badge, Column string
	// Told says what a total is made of, for a file; "%d of " goes before it, and %d in it is how many
	// there are in all.
	Told func(f *File) string
	// Rank orders metrics by how long they are shown where there is little room: the least goes
	// first. Both the share and the numbers of those with Share are shown, of others the numbers.
	Rank  int
	Share bool
	// Items hands over all items of a file that count. What is waived does not.
	Items func(f *File, each func(Item))
	// Changed hands over the items that lines which changed stand for. If it is nil, those items are
	// meant that stand on such a line.
	Changed func(f *File, lines []int, each func(Item))
}

// Item is one of the things that a metric counts.
type Item struct {
	Function int // index of the function it belongs to
	// Line is where it stands. It reaches to EndLine, if that is more; it changes with the line Also
	// as well, if that is not 0.
	Line, EndLine, Also int
	Covered             bool
	Row                 bool // it is a line of code; those that stand together are told together
	// Decision, Outcome, Logic and Condition are indices of what it is about, as far as they apply.
	Decision, Outcome, Logic, Condition int
	// Lacks says what is missing, if it is not covered and the metric has words of its own.
	Lacks string
}

// Metrics are all metrics, in the order in which they are shown.
var Metrics = []Definition{lines, branches, functions, conditions, independence}

// mostMetrics is how many metrics totals have room for.
const mostMetrics = 8

// Find gives the definition of a metric; ok is false if there is none of this name.
func (m Metric) Find() (d Definition, ok bool) {
	if i := m.index(); i >= 0 {
		return Metrics[i], true
	}
	return d, false
}

func (m Metric) index() int {
	return slices.IndexFunc(Metrics, func(d Definition) bool { return d.Metric == m })
}

// Level is the shallowest level at which a recording says something of a metric.
func (m Metric) Level() site.Level {
	d, _ := m.Find()
	return d.Level
}

// Names are those of all metrics.
func Names() []string {
	var out []string
	for _, d := range Metrics {
		out = append(out, string(d.Metric))
	}
	return out
}

// Totals is what is counted of a file, a folder, a function or a project.
type Totals struct {
	ratios      [mostMetrics]Ratio // in the order of Metrics
	WaivedLines int
}

// Of is the ratio of a metric.
func (t Totals) Of(m Metric) Ratio {
	if i := m.index(); i >= 0 {
		return t.ratios[i]
	}
	return Ratio{}
}

// With gives totals in which a metric has another ratio.
func (t Totals) With(m Metric, r Ratio) Totals {
	if i := m.index(); i >= 0 {
		t.ratios[i] = r
	}
	return t
}

// Count counts one more item of a metric.
func (t *Totals) Count(m Metric, covered bool) { t.ratios[m.index()].count(covered) }

// Add gives the sum of two totals.
func (t Totals) Add(o Totals) Totals {
	for i := range t.ratios {
		t.ratios[i] = t.ratios[i].Add(o.ratios[i])
	}
	t.WaivedLines += o.WaivedLines
	return t
}

// Moved tells whether a metric differs, whatever is waived.
func (t Totals) Moved(o Totals) bool { return t.ratios != o.ratios }

const waivedLines = "waived_lines"

// MarshalJSON writes an object with a ratio for each metric, in their order.
func (t Totals) MarshalJSON() ([]byte, error) {
	var b bytes.Buffer
	b.WriteByte('{')
	for _, d := range Metrics {
		if err := member(&b, string(d.Metric), t.Of(d.Metric)); err != nil {
			return nil, err
		}
		b.WriteByte(',')
	}
	err := member(&b, waivedLines, t.WaivedLines)
	b.WriteByte('}')
	return b.Bytes(), err
}

func member(b *bytes.Buffer, name string, value any) error {
	key, err := json.Marshal(name)
	if err != nil {
		return err
	}
	text, err := json.Marshal(value)
	b.Write(key)
	b.WriteByte(':')
	b.Write(text)
	return err
}

// MarshalCBOR writes a map with a ratio for each metric, in canonical order (RFC 8949, 4.2.1).
func (t Totals) MarshalCBOR() ([]byte, error) {
	out := map[string]any{waivedLines: t.WaivedLines}
	for _, d := range Metrics {
		out[string(d.Metric)] = t.Of(d.Metric)
	}
	return canonical.Marshal(out)
}

// UnmarshalCBOR reads such a map. Metrics that this Thrush does not know are passed over.
func (t *Totals) UnmarshalCBOR(data []byte) error {
	var in map[string]cbor.RawMessage
	if err := cbor.Unmarshal(data, &in); err != nil {
		return err
	}
	*t = Totals{}
	for i, d := range Metrics {
		if text := in[string(d.Metric)]; text != nil {
			if err := cbor.Unmarshal(text, &t.ratios[i]); err != nil {
				return fmt.Errorf("%s: %w", d.Metric, err)
			}
		}
	}
	if text := in[waivedLines]; text != nil {
		return cbor.Unmarshal(text, &t.WaivedLines)
	}
	return nil
}

var canonical, _ = cbor.CanonicalEncOptions().EncMode()
