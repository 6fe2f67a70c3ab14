// Package merging makes one recording of many. They are read one after another, in
// any order; what is held meanwhile is as large as the result, however many they
// are.
package merging

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"thrush/internal/core/attribution"
	"thrush/internal/core/remap"
	"thrush/internal/core/site"
	"thrush/internal/recording"
)

// VersionsError says that recordings are about different texts of the same files.
type VersionsError struct{ Paths []string }

func (e *VersionsError) Error() string {
	list := e.Paths
	more := ""
	if len(list) > 5 {
		list, more = list[:5], fmt.Sprintf(" and %d more", len(list)-5)
	}
	return fmt.Sprintf("the recordings are about different versions of %s%s. Merge recordings of the same sources, or give --carry: then counts follow what is unchanged", strings.Join(list, ", "), more)
}

// SharedError says that the counts of a run are in two recordings, together with
// those of others, so that they cannot be taken apart.
type SharedError struct{ A, B, Run string }

func (e *SharedError) Error() string {
	return fmt.Sprintf("%s and %s are both merged from recording %s, each with others: its counts would count twice. Merge what they were merged from", e.A, e.B, e.Run)
}

// Options say how to merge.
type Options struct {
	// Carry has counts of older versions of a file follow what is unchanged.
	Carry bool
	// Gone tells of a path that no newer recording has whether the file is gone from
	// the project; nil if it cannot be known.
	Gone func(path string) bool
}

// Result is a merge.
type Result struct {
	Info    recording.Info
	Files   []recording.File
	Sets    *attribution.Sets // nil if all runs have the same labels
	Same    []string          // inputs that add nothing, since others hold all of their runs
	Carried int               // files whose counts were carried from an older version
	Lost    int               // statements that ran in an older version and could not be carried
	Left    []string          // files that are gone
}

// Data is the recording.
func (r *Result) Data() ([]byte, error) { return recording.Encode(r.Info, r.Files, r.Sets) }

// Loaded is an input that has been read.
func Loaded(r *recording.Recording) Input {
	return Input{r.Path, r.Identity, r.Info, func(*[]byte) (*recording.Recording, error) { return r, nil }}
}

// Merge makes one recording of many. The result does not depend on their order, nor
// on which of them were merged before.
func Merge(inputs []Input, opt Options) (*Result, error) {
	inputs, same, err := distinct(inputs)
	if err != nil {
		return nil, err
	}
	m := &merger{opt: opt, rows: map[string][]*row{}}
	for _, i := range inputs {
		m.parts = append(m.parts, i.parts()...)
	}
	slices.SortFunc(m.parts, func(a, b recording.Part) int { return strings.Compare(a.ID, b.ID) })
	m.label()
	if err := m.read(inputs); err != nil {
		return nil, err
	}
	out := &Result{Same: same, Sets: m.sets}
	if err := m.settle(out); err != nil {
		return nil, err
	}
	out.Info = m.info()
	out.Info.Notes = append(out.Info.Notes, m.notes(out)...)
	return out, nil
}

// row is a file as it was measured in one way, with all that was counted so far.
type row struct {
	recording.Row
	counters []uint64
	reach    []uint32
	when     string // of the newest run that has it
}

type merger struct {
	opt   Options
	parts []recording.Part
	said  said
	sets  *attribution.Sets
	rows  map[string][]*row // by path
}

// label finds the labels that are told apart, if any are.
func (m *merger) label() {
	var labels []string
	first, differ := strings.Join(m.parts[0].Reachers(), "\x00"), false
	for _, p := range m.parts {
		own := p.Reachers()
		differ = differ || strings.Join(own, "\x00") != first
		labels = append(labels, own...)
	}
	if differ {
		slices.Sort(labels)
		m.sets = attribution.Of(slices.Compact(labels))
	}
}

// read adds up all inputs. While one is added the next is read.
func (m *merger) read(inputs []Input) error {
	type opened struct {
		rec    *recording.Recording
		buffer *[]byte
		err    error
	}
	ahead := make(chan opened)
	buffers := make(chan *[]byte, 2)
	buffers <- new([]byte)
	buffers <- new([]byte)
	stop := make(chan struct{})
	defer close(stop)
	go func() {
		defer close(ahead)
		for _, in := range inputs {
			var buffer *[]byte
			select {
			case buffer = <-buffers:
			case <-stop:
				return
			}
			rec, err := in.Open(buffer)
			if err == nil && rec.Identity != in.Identity {
				err = fmt.Errorf("%s changed while it was read", in.Name)
			}
			select {
			case ahead <- opened{rec, buffer, err}:
			case <-stop:
				return
			}
		}
	}()
	for o := range ahead {
		if o.err != nil {
			return o.err
		}
		if err := m.add(o.rec); err != nil {
			return err
		}
		buffers <- o.buffer
	}
	return nil
}

func (m *merger) add(rec *recording.Recording) error {
	m.said.take(rec.Info)
	by := newReaching(m.sets, rec)
	for n := range rec.Rows() {
		have := rec.Row(n)
		to, err := m.find(have)
		if err != nil {
			return &recording.DamagedError{Path: rec.Path, What: err.Error()}
		}
		to.when = max(to.when, rec.Info.When)
		if !have.Loaded {
			continue
		}
		if to.counters == nil {
			to.counters = make([]uint64, have.Counters)
		}
		to.Loaded = true
		if by != nil {
			by.add(n, to)
		}
		rec.Counts(n, to.counters)
	}
	return nil
}

// find gives what a row is added to. A table that is new is read once, so that damage is found
// while it is known which recording has it.
func (m *merger) find(have recording.Row) (*row, error) {
	for _, r := range m.rows[have.Path] {
		if r.Counters == have.Counters && r.Digest == have.Digest && bytes.Equal(r.Table, have.Table) {
			return r, nil
		}
	}
	if err := have.Check(); err != nil {
		return nil, err
	}
	have.Table = bytes.Clone(have.Table) // so that the recording it is from need not be held
	r := &row{Row: have}
	m.rows[have.Path] = append(m.rows[have.Path], r)
	return r, nil
}

// settle makes files of what was added up. Where a file has several versions, they
// are refused, or counts carried to the newest.
func (m *merger) settle(out *Result) error {
	paths := make([]string, 0, len(m.rows))
	var differ []string
	for p, rows := range m.rows {
		paths = append(paths, p)
		if slices.ContainsFunc(rows, func(r *row) bool { return r.Digest != rows[0].Digest }) {
			differ = append(differ, p)
		}
	}
	slices.Sort(paths)
	if len(differ) > 0 && !m.opt.Carry {
		slices.Sort(differ)
		return &VersionsError{differ}
	}
	gone := m.gone(paths)
	for _, p := range paths {
		if gone[p] {
			out.Left = append(out.Left, p)
			continue
		}
		rows, err := m.carried(p, out)
		if err != nil {
			return err
		}
		for _, r := range rows {
			f := recording.File{Path: p, Digest: r.Digest, Table: r.Table, NumCounters: r.Counters, Counters: r.counters, Reach: r.reach}
			if !r.Loaded {
				f.Counters, f.Reach = nil, nil
			} else if m.sets != nil && f.Reach == nil {
				f.Reach = make([]uint32, r.Counters)
			}
			out.Files = append(out.Files, f)
		}
	}
	return nil
}

// gone are the files that the project no longer has. If it has none of them, it is
// another project's folder that one is in, and nothing is known.
func (m *merger) gone(paths []string) map[string]bool {
	out := map[string]bool{}
	if !m.opt.Carry || m.opt.Gone == nil {
		return out
	}
	for _, p := range paths {
		if m.opt.Gone(p) {
			out[p] = true
		}
	}
	if len(out) == len(paths) {
		clear(out)
	}
	return out
}

// carried gives the rows of a file, all of its newest version.
func (m *merger) carried(path string, out *Result) ([]*row, error) {
	rows := m.rows[path]
	slices.SortFunc(rows, func(a, b *row) int {
		if c := strings.Compare(b.when+b.Digest, a.when+a.Digest); c != 0 {
			return c
		}
		return bytes.Compare(a.Table, b.Table)
	})
	newest := rows[0]
	var to *site.Table
	var kept []*row
	for _, r := range rows {
		if r.Digest == newest.Digest {
			kept = append(kept, r)
			continue
		}
		if !r.Loaded {
			continue
		}
		from, err := recording.UnpackTable(r.Table)
		if err == nil && to == nil {
			to, err = newestTable(rows, newest.Digest)
		}
		if err != nil {
			return nil, fmt.Errorf("%s: %w", path, err)
		}
		t := remap.Table(from, to)
		out.Lost += lost(from, t, r.counters)
		if r.Table, err = recording.PackTable(t); err != nil {
			return nil, err
		}
		r.Digest = newest.Digest
		kept = append(kept, r)
		out.Carried++
	}
	return kept, nil
}

// newestTable is what is known of the newest version, all ways of measuring it
// together.
func newestTable(rows []*row, digest string) (*site.Table, error) {
	var tables []*site.Table
	for _, r := range rows {
		if r.Digest != digest {
			continue
		}
		t, err := recording.UnpackTable(r.Table)
		if err != nil {
			return nil, err
		}
		tables = append(tables, t)
	}
	if len(tables) == 1 {
		return tables[0], nil
	}
	// The deepest tells the most.
	deepest := slices.MaxFunc(tables, func(a, b *site.Table) int { return int(a.Level) - int(b.Level) })
	return deepest, nil
}

// lost counts the statements that ran and were not carried.
func lost(from, to *site.Table, counters []uint64) int {
	ran := func(t *site.Table) (n int) {
		for _, s := range t.Statements {
			if s.Sum.Of(counters) > 0 {
				n++
			}
		}
		return n
	}
	return max(0, ran(from)-ran(to))
}
