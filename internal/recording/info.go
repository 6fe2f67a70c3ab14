package recording

import (
	"cmp"
	"crypto/rand"
	"encoding/hex"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"thrush/internal/core/coverage"
)

// Unmeasured is a source file, or a function of one, that could not be measured.
type Unmeasured struct {
	Path   string `cbor:"path" json:"path"`
	Reason string `cbor:"reason" json:"reason"`
}

// Compare orders by path, then by the line that a reason begins with, if it does, then by
// the reason.
func (u Unmeasured) Compare(o Unmeasured) int {
	line := func(reason string) (n int) {
		_, _ = fmt.Sscanf(reason, "line %d", &n)
		return n
	}
	return cmp.Or(strings.Compare(u.Path, o.Path), cmp.Compare(line(u.Reason), line(o.Reason)), strings.Compare(u.Reason, o.Reason))
}

// UnmeasuredFiles is how many files have something that could not be measured.
func (i *Info) UnmeasuredFiles() int {
	paths := map[string]bool{}
	for _, u := range i.Unmeasured {
		paths[u.Path] = true
	}
	return len(paths)
}

// LeftOut counts the source files that are left out by rule.
type LeftOut struct {
	Tests     int `cbor:"tests" json:"tests"`         // test code and its data
	Generated int `cbor:"generated" json:"generated"` // written by a program, or vendored
	Skipped   int `cbor:"skipped" json:"skipped"`     // by only and skip in the configuration
}

// Part is one run of a command that a recording comes from.
type Part struct {
	ID        string   `cbor:"id,omitempty"` // of its own recording, whole; empty in Info
	Tool      string   `cbor:"tool"`         // version of Thrush
	When      string   `cbor:"when"`         // RFC 3339, UTC, when the command began
	Took      int64    `cbor:"took_ms"`      // milliseconds the command took
	Command   []string `cbor:"command"`
	Exit      int      `cbor:"exit"` // exit status of the command
	Commit    string   `cbor:"commit,omitempty"`
	Branch    string   `cbor:"branch,omitempty"`
	Dirty     bool     `cbor:"dirty,omitempty"` // the work tree differed from the commit
	Labels    []string `cbor:"labels,omitempty"`
	Level     string   `cbor:"level"`
	Keep      string   `cbor:"keep"`
	Processes int      `cbor:"processes"` // how many reported counts
}

// Info says where a recording comes from. Of a merge, the fields it shares with
// Part say what holds for all of it: the latest time, the sum of what was taken and
// of processes, the worst exit status, the labels of any, the shallowest level, and
// the command, commit and branch if they are the same in all.
type Info struct {
	Part
	Project    string           `cbor:"project"`       // its name
	Run        string           `cbor:"run,omitempty"` // random, so that no two runs are the same recording
	Parts      []Part           `cbor:"parts,omitempty"`
	Totals     *coverage.Totals `cbor:"totals,omitempty"` // with the waivers that held then
	Unmeasured []Unmeasured     `cbor:"unmeasured,omitempty"`
	LeftOut    LeftOut          `cbor:"left_out"`
	Passed     []string         `cbor:"passed,omitempty"`    // generated files that would count otherwise
	Generated  []Unmeasured     `cbor:"generated,omitempty"` // why each of them does not
	Problems   []string         `cbor:"problems,omitempty"`  // waivers in the sources that cannot be honoured
	Notes      []string         `cbor:"notes,omitempty"`     // what a reader should know
}

// NewRun gives a name that no other run has.
func NewRun() string {
	var b [8]byte
	_, _ = rand.Read(b[:])
	return hex.EncodeToString(b[:])
}

// Merged tells whether a recording was merged of others.
func (i *Info) Merged() bool { return len(i.Parts) > 0 }

// plain spells out the bytes that are no UTF-8 text, which names of files and
// words of commands may hold but the format cannot.
func (i Info) plain() Info {
	i.Part, i.Project = i.Part.plain(), Plain(i.Project)
	i.Parts = slices.Clone(i.Parts)
	for j, p := range i.Parts {
		i.Parts[j] = p.plain()
	}
	i.Passed, i.Problems, i.Notes = plainAll(i.Passed), plainAll(i.Problems), plainAll(i.Notes)
	i.Unmeasured, i.Generated = plainOf(i.Unmeasured), plainOf(i.Generated)
	return i
}

func plainOf(list []Unmeasured) []Unmeasured {
	out := slices.Clone(list)
	for j, u := range out {
		out[j] = Unmeasured{Plain(u.Path), Plain(u.Reason)}
	}
	return out
}

func (p Part) plain() Part {
	p.Command, p.Labels, p.Branch = plainAll(p.Command), plainAll(p.Labels), Plain(p.Branch)
	return p
}

func plainAll(list []string) []string {
	out := slices.Clone(list)
	for j := range out {
		out[j] = Plain(out[j])
	}
	return out
}

// Plain is a text as recordings hold it: bytes that are no UTF-8 text are spelled out.
func Plain(s string) string {
	if utf8.ValidString(s) {
		return s
	}
	var b strings.Builder
	for len(s) > 0 {
		c, n := utf8.DecodeRuneInString(s)
		if c == utf8.RuneError && n == 1 {
			fmt.Fprintf(&b, `\x%02x`, s[0])
		} else {
			b.WriteString(s[:n])
		}
		s = s[n:]
	}
	return b.String()
}
