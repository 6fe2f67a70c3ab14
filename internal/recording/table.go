package recording

import (
	"encoding/binary"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"

	"github.com/fxamacker/cbor/v2"

	"thrush/internal/core/site"
)

// wireTable is a site table as it is stored: columns of integers, which are
// small and quick to read. docs/recording-format.md describes it.
type wireTable struct {
	Path     string `cbor:"path"`
	Language string `cbor:"language"`
	Unit     string `cbor:"unit"`
	Digest   string `cbor:"digest"`
	Level    uint8  `cbor:"level"`
	Keep     uint8  `cbor:"keep"`
	Lines    int    `cbor:"lines"`
	Counters int    `cbor:"counters"`
	Partial  bool   `cbor:"partial,omitempty"`

	FunctionNames []string `cbor:"function_names"`
	FunctionSpans []uint32 `cbor:"function_spans"` // 4 a function
	FunctionSums  []uint32 `cbor:"function_sums"`  // length, counters, length, …
	FunctionMarks []byte   `cbor:"function_marks"` // 8 bytes each
	// Indexes, in order, of the functions that the place where they end tells from others.
	FunctionsByEnd []uint32 `cbor:"functions_by_end,omitempty"`

	StatementSpans     []uint32 `cbor:"statement_spans"` // 6 a statement: start, end, head
	StatementFunctions []uint32 `cbor:"statement_functions"`
	StatementSums      []uint32 `cbor:"statement_sums"`
	StatementMarks     []byte   `cbor:"statement_marks"`

	DecisionKinds     []string `cbor:"decision_kinds"`
	DecisionPlaces    []uint32 `cbor:"decision_places"` // 3 a decision: line, column, outcomes
	DecisionFunctions []uint32 `cbor:"decision_functions"`
	DecisionMarks     []byte   `cbor:"decision_marks"`
	OutcomeWays       []string `cbor:"outcome_ways"`   // the code; of cases, what putWay makes of it
	OutcomePlaces     []uint32 `cbor:"outcome_places"` // 2 an outcome
	OutcomeSums       []uint32 `cbor:"outcome_sums"`

	// At the level of conditions.
	LogicDecisions  []uint32 `cbor:"logic_decisions,omitempty"` // the decision it belongs to, in order
	LogicFormulas   []string `cbor:"logic_formulas,omitempty"`
	LogicPlaces     []uint32 `cbor:"logic_places,omitempty"` // 3 each: line, column, 1 if ways are counted
	LogicSums       []uint32 `cbor:"logic_sums,omitempty"`   // how many, then each
	ConditionTexts  []string `cbor:"condition_texts,omitempty"`
	ConditionPlaces []uint32 `cbor:"condition_places,omitempty"` // 2 a condition

	WaiverLines   []uint32 `cbor:"waiver_lines"` // 2 a waiver
	WaiverReasons []string `cbor:"waiver_reasons"`
	Continued     []uint32 `cbor:"continued"`
}

// putWay writes a way as one text: its code and, after a colon, its detail.
func putWay(w site.Way) string {
	if w.Detail == "" {
		return string(w.Code)
	}
	return string(w.Code) + ":" + w.Detail
}

func (r *columns) way(s string) site.Way {
	code, detail, cut := strings.Cut(s, ":")
	w := site.Way{Code: site.Code(code), Detail: detail}
	r.bad = r.bad || !slices.Contains(site.Codes, w.Code) || cut && w.Code != site.Chosen
	return w
}

func putPos(to []uint32, places ...site.Pos) []uint32 {
	for _, p := range places {
		to = append(to, uint32(p.Line), uint32(p.Column))
	}
	return to
}

func putSum(to []uint32, s site.Sum) []uint32 {
	return append(append(to, uint32(len(s))), s...)
}

// EncodeTable gives the stored form of a table.
func EncodeTable(t *site.Table) ([]byte, error) {
	w := wireTable{
		Path: t.Path, Language: t.Language, Unit: t.Unit, Digest: t.Digest,
		Level: uint8(t.Level), Keep: uint8(t.Keep), Lines: t.Lines, Counters: t.Counters, Partial: t.Partial,
		Continued: t.Continued,
	}
	for i, f := range t.Functions {
		if f.ByEnd {
			w.FunctionsByEnd = append(w.FunctionsByEnd, uint32(i))
		}
		w.FunctionNames = append(w.FunctionNames, f.Name)
		w.FunctionSpans = putPos(w.FunctionSpans, f.Span.Start, f.Span.End)
		w.FunctionSums = putSum(w.FunctionSums, f.Sum)
		w.FunctionMarks = binary.LittleEndian.AppendUint64(w.FunctionMarks, f.Mark)
	}
	for _, s := range t.Statements {
		w.StatementSpans = putPos(w.StatementSpans, s.Span.Start, s.Span.End, s.Head)
		w.StatementFunctions = append(w.StatementFunctions, uint32(s.Function))
		w.StatementSums = putSum(w.StatementSums, s.Sum)
		w.StatementMarks = binary.LittleEndian.AppendUint64(w.StatementMarks, s.Mark)
	}
	for i, d := range t.Decisions {
		w.DecisionKinds = append(w.DecisionKinds, d.Kind)
		w.DecisionPlaces = append(putPos(w.DecisionPlaces, d.Pos), uint32(len(d.Outcomes)))
		w.DecisionFunctions = append(w.DecisionFunctions, uint32(d.Function))
		w.DecisionMarks = binary.LittleEndian.AppendUint64(w.DecisionMarks, d.Mark)
		for _, o := range d.Outcomes {
			w.OutcomeWays = append(w.OutcomeWays, putWay(o.Way))
			w.OutcomePlaces = putPos(w.OutcomePlaces, o.Pos)
			w.OutcomeSums = putSum(w.OutcomeSums, o.Sum)
		}
		for _, l := range d.Logic {
			w.putLogic(i, l)
		}
	}
	for _, v := range t.Waivers {
		w.WaiverLines = append(w.WaiverLines, uint32(v.Line), uint32(v.EndLine))
		w.WaiverReasons = append(w.WaiverReasons, v.Reason)
	}
	return cbor.Marshal(w)
}

// DecodeTable reads the stored form of a table and checks that it holds
// together: every sum names counters that exist, every site a function.
func DecodeTable(data []byte) (*site.Table, error) {
	var w wireTable
	if err := Unmarshal(data, &w); err != nil {
		return nil, fmt.Errorf("site table: %w", err)
	}
	r := &columns{counters: w.Counters, functions: len(w.FunctionNames), lines: w.Lines}
	t := &site.Table{
		Path: w.Path, Language: w.Language, Unit: w.Unit, Digest: w.Digest,
		Level: site.Level(w.Level), Keep: site.Keep(w.Keep), Lines: w.Lines, Counters: w.Counters, Partial: w.Partial,
		Continued: w.Continued,
	}
	if w.Counters < 0 || w.Counters > maxCounters || w.Lines < 0 || w.Lines > linesOf(len(data)) {
		r.bad = true
	}
	for _, n := range w.Continued {
		r.line(n)
	}
	t.Functions = make([]site.Function, len(w.FunctionNames))
	for i := range t.Functions {
		t.Functions[i] = site.Function{Name: w.FunctionNames[i], Span: r.span(&w.FunctionSpans), Sum: r.sum(&w.FunctionSums), Mark: r.mark(&w.FunctionMarks)}
	}
	for _, i := range w.FunctionsByEnd {
		if i := r.function(i); i < len(t.Functions) {
			t.Functions[i].ByEnd = true
		}
	}
	t.Statements = make([]site.Statement, len(w.StatementFunctions))
	for i := range t.Statements {
		t.Statements[i] = site.Statement{
			Span: r.span(&w.StatementSpans), Head: r.pos(&w.StatementSpans),
			Function: r.function(w.StatementFunctions[i]), Sum: r.sum(&w.StatementSums), Mark: r.mark(&w.StatementMarks),
		}
	}
	t.Decisions = make([]site.Decision, min(len(w.DecisionKinds), len(w.DecisionFunctions)))
	ways := w.OutcomeWays
	for i := range t.Decisions {
		d := site.Decision{Kind: w.DecisionKinds[i], Pos: r.pos(&w.DecisionPlaces), Function: r.function(w.DecisionFunctions[i]), Mark: r.mark(&w.DecisionMarks)}
		n := int(r.next(&w.DecisionPlaces))
		if n > len(ways) {
			r.bad = true
		}
		if r.bad {
			break
		}
		d.Outcomes = make([]site.Outcome, n)
		for j := range d.Outcomes {
			d.Outcomes[j] = site.Outcome{Way: r.way(ways[j]), Pos: r.pos(&w.OutcomePlaces), Sum: r.sum(&w.OutcomeSums)}
		}
		ways = ways[n:]
		t.Decisions[i] = d
	}
	r.logic(&w, t.Decisions)
	for _, reason := range w.WaiverReasons {
		t.Waivers = append(t.Waivers, site.Waiver{Line: r.line(r.next(&w.WaiverLines)), EndLine: r.line(r.next(&w.WaiverLines)), Reason: reason})
	}
	if r.bad {
		return nil, fmt.Errorf("site table of %q does not hold together", w.Path)
	}
	return t, nil
}

// Unmarshal reads CBOR with arrays as long as the largest files need.
func Unmarshal(data []byte, to any) error { return decMode().Unmarshal(data, to) }

var decMode = sync.OnceValue(func() cbor.DecMode {
	m, err := cbor.DecOptions{MaxArrayElements: 1<<31 - 1, MaxMapPairs: 1 << 20}.DecMode()
	if err != nil {
		panic(err) // options are constant
	}
	return m
})

const maxCounters = 1 << 28

// columns takes values off the front of columns and notes when one runs out.
type columns struct {
	counters, functions int
	lines               int // of the file
	bad                 bool
}

func (r *columns) next(from *[]uint32) uint32 {
	if len(*from) == 0 {
		r.bad = true
		return 0
	}
	v := (*from)[0]
	*from = (*from)[1:]
	return v
}

func (r *columns) mark(from *[]byte) uint64 {
	if len(*from) < 8 {
		r.bad = true
		return 0
	}
	v := binary.LittleEndian.Uint64(*from)
	*from = (*from)[8:]
	return v
}

func (r *columns) pos(from *[]uint32) site.Pos {
	line, column := r.line(r.next(from)), r.next(from)
	if column > mostColumns {
		r.bad = true
	}
	return site.Pos{Line: line, Column: int(column)}
}

// line is a line of the file, or the one after its last, at which a span can end.
func (r *columns) line(n uint32) int {
	if int64(n) > int64(r.lines)+1 {
		r.bad = true
	}
	return int(n)
}

func (r *columns) span(from *[]uint32) site.Span {
	start := r.pos(from)
	return site.Span{Start: start, End: r.pos(from)}
}

func (r *columns) function(i uint32) int {
	if int(i) >= r.functions {
		r.bad = true
	}
	return int(i)
}

func (r *columns) sum(from *[]uint32) site.Sum {
	n := int(r.next(from))
	if n > len(*from) {
		r.bad = true
		return nil
	}
	s := (*from)[:n:n]
	*from = (*from)[n:]
	for _, c := range s {
		if int(c) >= r.counters {
			r.bad = true
		}
	}
	return s
}

// UnpackTable reads what PackTable gave.
func UnpackTable(packed []byte) (*site.Table, error) {
	raw, ok := unpack(packed)
	if !ok {
		return nil, errors.New("a site table does not decompress")
	}
	return DecodeTable(raw)
}
