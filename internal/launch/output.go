package launch

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"

	"thrush/internal/atomic"
	"thrush/internal/bounded"
	"thrush/internal/core/coverage"
	"thrush/internal/core/origin"
	"thrush/internal/core/site"
	"thrush/internal/lang/script"
	"thrush/internal/lang/script/sourcemap"
	"thrush/internal/project"
	"thrush/internal/recording"
	"thrush/internal/trace"
	"thrush/internal/weave"
)

// Output is a text that a tool made of sources of the project, and that is about to run.
// Node asks for it to be woven, with the sites led back to the sources.
type Output struct {
	Text    string   `json:"text"`
	Map     string   `json:"map"`     // its source map
	Sources []string `json:"sources"` // paths from the root, for each of the map, or empty
	Root    string   `json:"root"`
	Store   string   `json:"store"` // folder
	Unit    string   `json:"unit"`
	Level   string   `json:"level"`
	Keep    string   `json:"keep"`
}

// led is what is kept of the sites of an output that were led back.
type led struct {
	Counters int       `json:"counters"` // of the output
	Files    []ledFile `json:"files"`
}

type ledFile struct {
	Path     string   `json:"path"`
	Digest   string   `json:"digest"`
	Table    []byte   `json:"table"`
	Counters []uint32 `json:"counters"` // which of the output's the table has
}

var isUnit = regexp.MustCompile(`^[0-9a-f]{32}$`)

// mostOutput bounds what is taken of Node, in bytes.
const mostOutput = 256 << 20

// WeaveOutput reads an Output, in JSON, and keeps its woven text and its tables in the
// store.
func WeaveOutput(from io.Reader) (err error) {
	defer func() {
		if r := recover(); r != nil {
			trace.Fault("an output", r)
			err = fmt.Errorf("it cannot be woven: %v", r)
		}
	}()
	var o Output
	if err := json.NewDecoder(io.LimitReader(from, mostOutput)).Decode(&o); err != nil {
		return fmt.Errorf("what is to be woven cannot be read: %w", err)
	}
	level, ok := site.LevelOf(o.Level)
	keep, err := project.ParseKeep(o.Keep)
	if !ok || err != nil || !isUnit.MatchString(o.Unit) {
		return errors.New("what is to be woven is not as Node should ask for it")
	}
	opt := weave.Options{Level: level, Keep: keep}
	m, err := sourcemap.Read([]byte(o.Map))
	if err != nil {
		return err
	}
	text := []byte(o.Text)
	flow, err := script.ReadOutput(outputName, text)
	if err != nil {
		return err
	}
	table := &site.Table{Path: outputName, Language: "javascript", Unit: o.Unit}
	plan := weave.Place(text, flow, table, opt)
	texts, of := make([][]byte, len(m.Sources)), make([]*origin.Text, len(m.Sources))
	for i := range min(len(of), len(o.Sources)) {
		if o.Sources[i] == "" || slices.Contains(o.Sources[:i], o.Sources[i]) {
			continue
		}
		if of[i], err = sourceOf(o.Root, o.Sources[i], opt); err != nil {
			return err
		}
		texts[i] = of[i].Source
	}
	out := led{Counters: table.Counters}
	back, found := origin.Back(origin.Text{Table: table, Source: text, Signs: script.Signs}, m.Links(text, texts), of)
	for _, t := range back {
		if t == nil {
			continue
		}
		narrow, counters := origin.Narrow(t)
		unit := sha256.Sum256([]byte(o.Unit + t.Path))
		narrow.Unit = hex.EncodeToString(unit[:16])
		packed, err := recording.PackTable(narrow)
		if err != nil {
			return err
		}
		out.Files = append(out.Files, ledFile{t.Path, t.Digest, packed, counters})
	}
	if !found {
		return errors.New("nothing in it leads back to sites of its sources")
	}
	woven, cuts := plan.SpellCut(script.New(flow, table))
	if err := script.Check(outputName, woven); err != nil {
		return fmt.Errorf("its woven text does not fit the grammar: %w", err)
	}
	data, err := json.Marshal(out)
	if err != nil {
		return err
	}
	list, err := json.Marshal(cuts)
	if err != nil {
		return err
	}
	for name, data := range map[string][]byte{ledSuffix: data, ".woven" + script.CutsSuffix: list} {
		if err := atomic.WriteAt(o.Store, o.Unit+name, data, false); err != nil {
			return err
		}
	}
	return atomic.WriteAt(o.Store, o.Unit+".woven", woven, false)
}

const ledSuffix = ".led"

// outputName stands for the name of what was made of a file: it has no types left, but may
// have JSX.
const outputName = "output.js"

// sourceOf reads a source with what is measured in it.
func sourceOf(root, path string, opt weave.Options) (*origin.Text, error) {
	source, err := bounded.Read(filepath.Join(root, filepath.FromSlash(path)), bounded.Source)
	if err != nil {
		return nil, err
	}
	flow, err := script.Read(path, source)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	t := &site.Table{Path: path, Language: script.LanguageOf(path), Digest: fmt.Sprintf("%016x", xxhash.Sum64(source))}
	weave.Place(source, flow, t, opt)
	site.SetMarks(t, source)
	return &origin.Text{Table: t, Source: source, Signs: script.Signs}, nil
}

// readLed reads what is kept of an output; ok is false for a unit that is none.
func (p *Prepared) readLed(unit string) (l led, ok bool) {
	if !isUnit.MatchString(unit) {
		return l, false
	}
	data, err := p.woven.Read(unit + ledSuffix)
	return l, err == nil && json.Unmarshal(data, &l) == nil
}

// outputs gives what the outputs that ran tell of the sources as they are, by path.
func (p *Prepared) outputs(counts *Counts) (map[string][]recording.File, error) {
	out := map[string][]recording.File{}
	digests := map[string]string{}
	own := map[string]bool{}
	for _, c := range p.files {
		digests[c.Path], own[c.Unit] = c.Digest, true
	}
	for _, unit := range counts.all() {
		if own[unit] {
			continue
		}
		l, ok := p.readLed(unit)
		counters := counts.Of(unit, l.Counters)
		if !ok || counters == nil {
			continue
		}
		for _, f := range l.Files {
			if digests[f.Path] != f.Digest {
				continue
			}
			p.led = append(p.led, unit)
			t, err := recording.UnpackTable(f.Table)
			if err != nil || t.Counters != len(f.Counters) {
				return nil, fmt.Errorf("what is kept of an output of %s cannot be read; remove %s and run the command again", f.Path, p.woven.Path())
			}
			picked := make([]uint64, len(f.Counters))
			for i, c := range f.Counters {
				if int(c) >= len(counters) {
					return nil, fmt.Errorf("what is kept of an output of %s does not hold together; remove %s and run the command again", f.Path, p.woven.Path())
				}
				picked[i] = counters[c]
			}
			out[f.Path] = append(out[f.Path], recording.File{Path: f.Path, Digest: f.Digest, Table: f.Table, NumCounters: t.Counters, Counters: picked})
		}
	}
	return out, nil
}

// losses are the code lines and outcomes of files that outputs of them tell nothing of.
type losses struct {
	lines, outcomes coverage.Ratio // covered are those that are lost
	most            int            // lines and outcomes of one file
	path            string         // that one
}

func (l *losses) add(c *cached, rows []recording.File) error {
	all, err := recording.Together(rows)
	if err != nil {
		return err
	}
	have := coverage.Resolve(all.Table, nil).Totals
	lost := func(to *coverage.Ratio, all, have int) int {
		to.Covered, to.Total = to.Covered+max(all-have, 0), to.Total+all
		return max(all-have, 0)
	}
	n := lost(&l.lines, c.Idle.Of(coverage.Lines).Total, have.Of(coverage.Lines).Total) + lost(&l.outcomes, c.Idle.Of(coverage.Branches).Total, have.Of(coverage.Branches).Total)
	if n > l.most {
		l.most, l.path = n, c.Path
	}
	return nil
}

// note says so.
func (l *losses) note() string {
	var what []string
	if l.lines.Covered > 0 {
		what = append(what, fmt.Sprintf("%d of %d code lines", l.lines.Covered, l.lines.Total))
	}
	if l.outcomes.Covered > 0 {
		what = append(what, fmt.Sprintf("%d of %d outcomes of decisions", l.outcomes.Covered, l.outcomes.Total))
	}
	if len(what) == 0 {
		return ""
	}
	text := fmt.Sprintf("of files that ran as a tool made them, %s have another shape there, most of them in %s; nothing can be told of these, and they are left out of the totals", strings.Join(what, " and "), l.path)
	if l.lines.Covered*20 > l.lines.Total {
		text += ": have the tool make it without shortening it, if it does, and with a source map"
	}
	return text
}
