package documents

import (
	"bytes"
	"encoding/json"
	"io"
	"slices"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
	"thrush/internal/core/site"
	"thrush/internal/recording"
	"thrush/internal/report/output"
	"thrush/internal/report/prose"
)

// Format is thrush.coverage/1 on one line.
var Format = output.Format{Name: "json", Write: func(to io.Writer, in output.Input) error { return Write(to, Coverage(in.Files, in.Info), "") }}

// Write writes a document as JSON, on one line or indented.
func Write(to io.Writer, document any, indent string) error {
	var text bytes.Buffer
	e := json.NewEncoder(&text)
	e.SetEscapeHTML(false)
	e.SetIndent("", indent)
	err := e.Encode(document)
	if err == nil {
		_, err = to.Write(prose.SafeJSON(text.Bytes()))
	}
	return err
}

// CoverageDocument is thrush.coverage/1: everything that is known of files.
type CoverageDocument struct {
	Schema     string         `json:"schema"`
	Recordings []Recording    `json:"recordings"`
	Files      []CoverageFile `json:"files"`
}

// Recording says where counts come from.
type Recording struct {
	ID        string   `json:"id,omitempty"` // of a part of a merge
	Labels    []string `json:"labels"`
	Command   []string `json:"command"`
	Commit    string   `json:"commit,omitempty"`
	Branch    string   `json:"branch,omitempty"`
	Dirty     bool     `json:"dirty"`
	Exit      int      `json:"exit"`
	Processes int      `json:"processes"`
	Level     string   `json:"level"`
	Keep      string   `json:"keep"`
}

// CoverageFile is one file.
type CoverageFile struct {
	Path      string     `json:"path"`
	Lines     []Line     `json:"lines"`
	Decisions []Decision `json:"decisions"`
	Functions []Function `json:"functions"`
	Waivers   []Waiver   `json:"waivers"`
}

// Line is a line of code.
type Line struct {
	Line  int    `json:"line"`
	State string `json:"state"`
	Count uint64 `json:"count"`
	// By are the labels that reached it, "" for recordings without one.
	By []string `json:"by,omitempty"`
}

// Decision is a decision with its outcomes.
type Decision struct {
	Line       int         `json:"line"`
	Column     int         `json:"column"`
	Kind       string      `json:"kind"`
	Outcomes   []Outcome   `json:"outcomes"`
	Conditions []Condition `json:"conditions"`
}

// Outcome is one way a decision can go.
type Outcome struct {
	// Way is the code of the way, which stays the same however Label words it.
	Way   site.Code `json:"way"`
	Label string    `json:"label"`
	Count uint64    `json:"count"`
}

// Condition is an operand of a decision, at the level of conditions.
type Condition struct {
	Line   int    `json:"line"`
	Column int    `json:"column"`
	Text   string `json:"text"`
	True   uint64 `json:"true"`
	False  uint64 `json:"false"`
	// Independent says that it was seen to decide an outcome on its own.
	Independent bool   `json:"independent"`
	Missing     string `json:"missing,omitempty"` // what a test needs, in words
}

// Function is a function.
type Function struct {
	Name    string `json:"name"`
	Line    int    `json:"line"`
	EndLine int    `json:"end_line"`
	Count   uint64 `json:"count"`
}

// Waiver is a stretch taken out of the totals.
type Waiver struct {
	Line    int    `json:"line"`
	EndLine int    `json:"end_line"`
	Reason  string `json:"reason"`
}

// Describe gives the facts about a recording that do not depend on when and
// where it was made.
func Describe(i recording.Info) Recording { return describe(i.Part, "") }

func describe(p recording.Part, id string) Recording {
	return Recording{ID: id, Labels: append([]string{}, p.Labels...), Command: append([]string{}, p.Command...), Commit: p.Commit, Branch: p.Branch,
		Dirty: p.Dirty, Exit: p.Exit, Processes: p.Processes, Level: p.Level, Keep: p.Keep}
}

// Coverage gives the document for files of a recording. Of a merge it lists all it was
// merged of.
func Coverage(files []*coverage.File, info recording.Info) CoverageDocument {
	d := CoverageDocument{Schema: "thrush.coverage/1", Recordings: []Recording{}, Files: []CoverageFile{}}
	for _, p := range info.Parts {
		d.Recordings = append(d.Recordings, describe(p, p.ID))
	}
	if !info.Merged() {
		d.Recordings = append(d.Recordings, Describe(info))
	}
	for _, f := range files {
		d.Files = append(d.Files, file(f))
	}
	return d
}

// Only leaves of each file what is on some lines, or of a line that continues a statement what is
// on the line that speaks for it, and the functions that these lines are part of.
func (d *CoverageDocument) Only(files []*coverage.File, from, to int) {
	for i, f := range files {
		low, high := from, to
		if l, ok := f.SpeaksFor(from); ok && from == to {
			low, high = l.Number, l.Number
		}
		off := func(line int) bool { return line < low || line > high }
		apart := func(from, to int) bool { return to < low || from > high }
		x := &d.Files[i]
		x.Lines = slices.DeleteFunc(x.Lines, func(l Line) bool { return off(l.Line) })
		x.Decisions = slices.DeleteFunc(x.Decisions, func(d Decision) bool { return off(d.Line) })
		x.Functions = slices.DeleteFunc(x.Functions, func(f Function) bool { return apart(f.Line, f.EndLine) })
		x.Waivers = slices.DeleteFunc(x.Waivers, func(w Waiver) bool { return apart(w.Line, w.EndLine) })
	}
}

func file(f *coverage.File) CoverageFile {
	out := CoverageFile{Path: f.Path, Lines: []Line{}, Decisions: []Decision{}, Functions: []Function{}, Waivers: waivers(f.Waivers)}
	for _, l := range f.Lines {
		out.Lines = append(out.Lines, Line{l.Number, l.State.String(), l.Count, by(f, l.By)})
	}
	for _, x := range f.Decisions {
		d := Decision{Line: x.Pos.Line, Column: x.Pos.Column, Kind: x.Kind, Outcomes: []Outcome{}, Conditions: []Condition{}}
		for _, o := range x.Outcomes {
			d.Outcomes = append(d.Outcomes, Outcome{o.Code, gaps.Label(o.Way), o.Count})
		}
		for _, l := range x.Logic {
			missing := gaps.Conditions(l)
			for i, c := range l.Conditions {
				d.Conditions = append(d.Conditions, Condition{c.Pos.Line, c.Pos.Column, c.Text, c.True, c.False, c.Shown, missing[i].Says(l)})
			}
		}
		out.Decisions = append(out.Decisions, d)
	}
	for _, x := range f.Named() {
		out.Functions = append(out.Functions, Function{x.Name, x.Span.Start.Line, x.Span.LastLine(), x.Count})
	}
	return out
}

func waivers(list []site.Waiver) []Waiver {
	out := []Waiver{}
	for _, w := range list {
		out = append(out, Waiver{w.Line, w.EndLine, w.Reason})
	}
	return out
}

// by are the labels of a set, where it matters which they are.
func by(f *coverage.File, set uint32) []string {
	if f.Sets == nil || set == 0 || len(f.Sets.Labels) == 1 && f.Sets.Labels[0] == "" {
		return nil
	}
	return f.Sets.Names(set)
}
