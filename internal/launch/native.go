package launch

import (
	"cmp"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"sort"
	"strings"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"
	"github.com/fxamacker/cbor/v2"

	"thrush/internal/bounded"
	"thrush/internal/core/site"
	"thrush/internal/home"
	"thrush/internal/lang"
	"thrush/internal/lang/cfamily"
	"thrush/internal/lang/cfamily/wrapper"
	"thrush/internal/project"
	"thrush/internal/recording"
	"thrush/internal/trace"
	"thrush/internal/weave"
)

// native are the sources of C and C++. They are woven when they are compiled.
type native struct {
	files []project.SourceFile
	store *home.Folder // of site tables
	// cgo are the folders whose C sources the go command builds.
	cgo map[string]bool
	// compiled is how many units of the project's were compiled, and loaded how many
	// files were in a program that ran.
	compiled, loaded int
	// known are the units that were found to be of the sources as they are.
	known []string
	why   string // why none of them can be woven, or empty
}

// add takes a file over if it is one of C or C++.
func (n *native) add(f project.SourceFile) bool {
	if !cfamily.IsSource(f.Path) {
		return false
	}
	n.files = append(n.files, f)
	return true
}

// front puts stand-ins for compilers in front of the build.
func (n *native) front(p *Prepared) error {
	if len(n.files) == 0 {
		return nil
	}
	if n.why = p.unlistable(); n.why != "" {
		p.Obstacle = n.why
		return nil
	}
	bin, err := p.Project.Folder("standin")
	if err != nil {
		return err
	}
	path, err := bin.Folder("path")
	if err != nil {
		return err
	}
	if n.store, err = p.woven.Folder("units"); err != nil {
		return err
	}
	self, err := os.Executable()
	if err != nil {
		return err
	}
	for _, name := range []string{"cc1", "cc1plus"} {
		if err := linked(bin, name, self); err != nil {
			return fmt.Errorf("cannot put a stand-in for the compiler in place: %w", err)
		}
	}
	names := wrapper.Whole(os.Getenv("PATH"))
	for _, name := range names {
		if err := linked(path, name, self); err != nil {
			return fmt.Errorf("cannot put a stand-in for %s in place: %w", name, err)
		}
	}
	before := os.Getenv("COMPILER_PATH")
	plan := &wrapper.Plan{
		Roots: p.everywhere(), Level: p.Options.Level, Keep: p.Options.Keep, Home: p.Project.Dir("pending"),
		Store: n.store.Path(), Bin: bin.Path(), Path: before,
	}
	for _, f := range n.files {
		if f.Err == nil && utf8.ValidString(f.Path) && !n.cgo[filepath.ToSlash(filepath.Dir(f.Path))] {
			plan.Files = append(plan.Files, f.Path)
		}
	}
	name := "plan-" + p.key()
	text, err := plan.Encode()
	if err != nil {
		return err
	}
	if err := bin.Replace(name, text); err != nil {
		return err
	}
	if len(names) > 0 {
		p.ahead = append(p.ahead, path.Path())
	}
	search := bin.Path()
	if before != "" {
		search += string(os.PathListSeparator) + before
	}
	// What is kept of a compilation, to be used again, must not be woven.
	p.Env = append(p.Env, "COMPILER_PATH="+search, wrapper.PlanVariable+"="+bin.Path(name), "CCACHE_DISABLE=1")
	return nil
}

// Native tells whether there are sources that are woven when they are compiled.
func (p *Prepared) Native() bool { return len(p.native.files) > 0 }

// NothingCompiled tells whether there are sources of C or C++, none of which was
// compiled, and none of which was in a program that ran.
func (p *Prepared) NothingCompiled() bool {
	return p.native.why == "" && slices.ContainsFunc(p.native.files, p.native.isBuilt) && p.native.compiled == 0 && p.native.loaded == 0
}

// isBuilt tells whether a file is compiled by a compiler that is stood in for, and not by
// the go command.
func (n *native) isBuilt(f project.SourceFile) bool {
	return !n.cgo[filepath.ToSlash(filepath.Dir(f.Path))] && !cfamily.IsOnlyRead(f.Path)
}

// linked has a name lead to a program.
func linked(dir *home.Folder, name, program string) error {
	if at, ok := dir.Link(name); ok && at == program {
		return nil
	}
	temp := fmt.Sprintf("%s.%d", name, os.Getpid())
	if err := dir.Root().Symlink(program, temp); err != nil {
		return err
	}
	return dir.Root().Rename(temp, name)
}

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

func (p *Prepared) unmeasured(path, why string) {
	p.Unmeasured = append(p.Unmeasured, recording.Unmeasured{Path: path, Reason: why})
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
	var tables []*site.Table
	var counters []uint64
	loaded := false
	add := func(name string) error {
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
		loaded = loaded || own != nil
		if own == nil {
			own = make([]uint64, t.Counters)
		}
		tables, counters = append(tables, t), append(counters, own...)
		return nil
	}
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
	case len(tables) > 0:
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
		tables, counters = append(tables, t), make([]uint64, t.Counters)
	}
	t := tables[0]
	if len(tables) > 1 || site.Repeats(t) {
		t = site.Unite(tables)
	}
	data, err := recording.PackTable(t)
	if err != nil {
		return nil, err
	}
	out := &recording.File{Path: f.Path, Digest: digest, Table: data, NumCounters: t.Counters}
	if loaded {
		out.Counters = counters
		n.loaded++
	}
	p.Sources++
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
