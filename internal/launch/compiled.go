package launch

import (
	"cmp"
	"fmt"
	"maps"
	"path/filepath"
	"slices"
	"sort"
	"strings"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"
	"github.com/fxamacker/cbor/v2"

	"thrush/internal/bounded"
	"thrush/internal/core/site"
	"thrush/internal/lang"
	"thrush/internal/lang/cfamily"
	"thrush/internal/lang/cfamily/wrapper"
	"thrush/internal/project"
	"thrush/internal/recording"
	"thrush/internal/trace"
	"thrush/internal/weave"
)

// gathered is what became of the units of a run.
type gathered struct {
	made     []wrapper.Made
	byUnit   map[string]string
	byKey    map[string][]string
	compiled map[string]bool // units
	empty    map[string]bool // paths of files that were read, and in which nothing is measured
	unread   map[string]bool // and of those in which something could not be
	paths    map[string]bool // what names of tables begin with, of files that were compiled
}

// collect gives the measured files with their counts.
func (n *native) collect(p *Prepared, counts *Counts) ([]recording.File, error) {
	if n.why != "" {
		for _, f := range n.files {
			p.unmeasured(f.Path, n.why)
		}
	}
	if len(n.files) == 0 || n.why != "" {
		return nil, nil
	}
	g := gathered{compiled: map[string]bool{}, empty: map[string]bool{}, unread: map[string]bool{}, paths: map[string]bool{}}
	var err error
	if g.byUnit, g.byKey, err = wrapper.Tables(n.store.Path()); err != nil {
		return nil, err
	}
	for _, dir := range counts.folders {
		made, err := wrapper.ReadMade(dir)
		if err != nil {
			return nil, err
		}
		g.made = append(g.made, made...)
	}
	n.compiled = len(g.made)
	left := map[string]string{}    // why a unit was left as it was
	without := map[string]string{} // and what that means for files that it includes
	for _, m := range g.made {
		for _, u := range m.Units {
			g.compiled[u] = true
			path, _, _ := strings.Cut(g.byUnit[u], "-")
			g.paths[path] = true
		}
		for _, path := range m.Empty {
			g.empty[path] = true
		}
		for _, u := range m.Unread {
			g.unread[u.Path] = true
		}
		if m.Why != "" {
			left[m.Source] = m.Why
			for _, path := range m.Files {
				if path != m.Source {
					without[path] = fmt.Sprintf("where %s has it, what ran is missing: %s", cmp.Or(m.Source, "a unit outside the project"), m.Why)
				}
			}
		}
	}
	var out []recording.File
	for _, f := range n.files {
		file, err := n.file(p, f, &g, counts, cmp.Or(left[f.Path], without[f.Path]))
		if err != nil {
			return nil, err
		}
		if why := without[f.Path]; why != "" && file != nil {
			p.unmeasured(f.Path, why)
		}
		if file != nil {
			out = append(out, *file)
		}
	}
	p.tellOf(g.made)
	return out, nil
}

// tellOf lists the functions that could not be woven, and the waivers that cannot be
// honoured.
func (p *Prepared) tellOf(made []wrapper.Made) {
	functions := map[wrapper.Unread]bool{}
	problems := map[Problem]bool{}
	for _, m := range made {
		for _, u := range m.Unread {
			functions[u] = true
		}
		for _, q := range m.Problems {
			problems[Problem{q.Path, q.Problem}] = true
		}
	}
	for _, u := range slices.SortedFunc(maps.Keys(functions), func(a, b wrapper.Unread) int {
		return cmp.Or(strings.Compare(a.Path, b.Path), cmp.Compare(a.Line, b.Line), strings.Compare(a.Name, b.Name))
	}) {
		p.unmeasured(u.Path, fmt.Sprintf("line %d, function %s: %s", u.Line, u.Name, u.Why))
	}
	for q := range problems {
		p.Problems = append(p.Problems, q)
	}
	sort.Slice(p.Problems, func(i, j int) bool {
		a, b := p.Problems[i], p.Problems[j]
		return a.Path < b.Path || a.Path == b.Path && a.Line < b.Line
	})
}

// file gives one file with its counts, or nothing if it does not count.
func (n *native) file(p *Prepared, f project.SourceFile, g *gathered, counts *Counts, why string) (*recording.File, error) {
	switch {
	case f.Err != nil:
		p.unmeasured(f.Path, "cannot be read: "+plainError(f.Err))
		return nil, nil
	case !utf8.ValidString(f.Path):
		p.unmeasured(f.Path, "its path is not UTF-8 text, so it cannot be named in a recording")
		return nil, nil
	case n.cgo[filepath.ToSlash(filepath.Dir(f.Path))]:
		p.unmeasured(f.Path, "Go code in its folder imports it, so the go command builds it, and keeps what it built for builds without Thrush")
		return nil, nil
	}
	source, err := bounded.Read(filepath.Join(p.Project.Root, filepath.FromSlash(f.Path)), bounded.Map)
	if err != nil {
		p.unmeasured(f.Path, "cannot be read: "+plainError(err))
		return nil, nil
	}
	if says := cfamily.Generated(source); says != "" {
		p.passed(f.Path, lang.SaysSo(says))
		return nil, nil
	}
	digest := fmt.Sprintf("%016x", xxhash.Sum64(source))
	key := wrapper.Key(f.Path, digest, p.Options.Level, p.Options.Keep)
	var u units
	add := func(name string) error { return n.unit(&u, counts, name) }
	names := g.byKey[key]
	for _, name := range names {
		unit := name[len(key):]
		if g.compiled[unit] || counts.units[unit] != nil {
			if err := add(name); err != nil {
				return nil, fmt.Errorf("the site table %s cannot be read: %w; run the command again from a clean build", name, err)
			}
		}
	}
	switch {
	case len(u.tables) > 0:
	case why != "":
		p.unmeasured(f.Path, why)
		return nil, nil
	case g.unread[f.Path]:
		return nil, nil // which is listed
	case g.paths[strings.SplitN(key, "-", 2)[0]]:
		p.unmeasured(f.Path, "it changed since it was compiled")
		return nil, nil
	case len(names) > 0:
		// It was compiled before, and nothing of it is in a program that ran.
		if err := add(names[len(names)-1]); err != nil {
			return nil, err
		}
	case g.empty[f.Path]:
		return nil, nil
	default:
		t, why := n.remembered(p, f.Path, digest, source)
		if t == nil {
			if why != "" {
				p.unmeasured(f.Path, why)
			}
			return nil, nil
		}
		u.tables, u.counters = []*site.Table{t}, make([]uint64, t.Counters)
	}
	out, err := u.file(f.Path, digest)
	if err != nil {
		return nil, err
	}
	if u.loaded {
		n.loaded++
	}
	p.Sources++
	return out, nil
}

// units are the tables of the units of a file, with their counters.
type units struct {
	tables   []*site.Table
	counters []uint64
	loaded   bool // one of them was in a program that ran
}

// unit adds the table of a unit, by its name in the store.
func (n *native) unit(u *units, counts *Counts, name string) error {
	data, err := n.store.Read(name)
	if err != nil {
		return err
	}
	t, err := recording.DecodeTable(data)
	if err != nil {
		return err
	}
	n.known = append(n.known, t.Unit)
	own := counts.Of(t.Unit, t.Counters)
	u.loaded = u.loaded || own != nil
	if own == nil {
		own = make([]uint64, t.Counters)
	}
	u.tables, u.counters = append(u.tables, t), append(u.counters, own...)
	return nil
}

// file joins what the units made of a file.
func (u *units) file(path, digest string) (*recording.File, error) {
	t := u.tables[0]
	if len(u.tables) > 1 || site.Repeats(t) {
		t = site.Unite(u.tables)
	}
	data, err := recording.PackTable(t)
	if err != nil {
		return nil, err
	}
	out := &recording.File{Path: path, Digest: digest, Table: data, NumCounters: t.Counters}
	if u.loaded {
		out.Counters = u.counters
	}
	return out, nil
}

// uncompiled is what was found of a file that was never compiled.
type uncompiled struct {
	Table []byte `cbor:"table"` // none if nothing is measured
	Why   string `cbor:"why"`   // why it cannot be
}

// remembered gives what plain does, which is not worked out again for the same text.
func (n *native) remembered(p *Prepared, path, digest string, source []byte) (t *site.Table, why string) {
	name := ".plain-" + p.key() + "-" + wrapper.Key(path, digest, p.Options.Level, p.Options.Keep)
	var was uncompiled
	if data, err := n.store.Read(name); err == nil && recording.Unmarshal(data, &was) == nil {
		if was.Table == nil {
			return nil, was.Why
		}
		if t, err := recording.DecodeTable(was.Table); err == nil {
			return t, ""
		}
	}
	if t, was.Why = n.plain(p, path, digest, source); t != nil {
		data, err := recording.EncodeTable(t)
		if err != nil {
			return nil, "its site table cannot be kept: " + err.Error()
		}
		was.Table = data
	}
	if data, err := cbor.Marshal(was); err == nil {
		_ = n.store.Replace(name, data) // else it is worked out again
	}
	return t, was.Why
}

// plain gives the table of a file that was never compiled, if it can be read as it
// stands.
func (n *native) plain(p *Prepared, path, digest string, source []byte) (t *site.Table, why string) {
	if cfamily.IsMade(path) {
		return nil, "a parser or a scanner is made of it, and this command compiled none that says by #line that it was"
	}
	if cfamily.IsOnlyRead(path) {
		return nil, ""
	}
	defer func() {
		if r := recover(); r != nil {
			trace.Fault(path, r)
			t, why = nil, fmt.Sprintf("this command did not compile it, and its text alone cannot be read: %v", r)
		}
	}()
	f, err := cfamily.ReadPlain(path, source, cfamily.LanguageOf(path))
	switch {
	case err != nil:
		return nil, "this command did not compile it, and its text alone cannot be read: " + err.Error()
	case len(f.Unread) > 0:
		return nil, fmt.Sprintf("this command did not compile it, and its text alone cannot be read (line %d)", f.Unread[0].Line)
	case len(f.Flow.Functions) == 0:
		return nil, ""
	}
	t = &site.Table{Path: path, Language: cfamily.LanguageOf(path).String(), Digest: digest, Unit: digest + digest}
	weave.Place(source, f.Flow, t, weave.Options{Level: p.Options.Level, Keep: p.Options.Keep})
	site.SetMarks(t, source)
	return t, ""
}
