// Package launch puts woven sources in front of the user's build, runs the
// user's command and gathers the counts of its processes.
package launch

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"maps"
	"os"
	"path"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"
	"golang.org/x/sync/errgroup"

	"thrush/internal/bounded"
	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
	"thrush/internal/core/waiver"
	"thrush/internal/home"
	"thrush/internal/lang"
	"thrush/internal/lang/golang"
	"thrush/internal/languages"
	"thrush/internal/mirror"
	"thrush/internal/project"
	"thrush/internal/recording"
	"thrush/internal/trace"
	"thrush/internal/weave"
)

// Options say how to weave.
type Options struct {
	Level      site.Level
	Keep       site.Keep
	Only, Skip []string
	// Named says that the command names source files. Those are built whatever
	// their constraints say, so these cannot choose between two texts of a file.
	Named bool
	// Command is what is run, and Place where: in a copy of the project files that are woven
	// before somebody else reads them have their woven text.
	Command []string
	Place   Place
	// Gather says that the command has run: its copy of the project stays as it is.
	Gather bool
	// Version is that of Thrush; another one weaves anew.
	Version string
	// Progress is told how many of how many files are done, and which is under way the
	// longest; several times a second, so that one huge file does not look like standing
	// still. It may be nil.
	Progress func(done, total int, at string)
}

// Prepared is a project ready for its command to run.
type Prepared struct {
	Project *project.Project
	Options Options
	// Env are the variables, as NAME=VALUE, that put the woven sources in front
	// of the build.
	Env        []string
	Unmeasured []recording.Unmeasured
	// Obstacle is why whole languages of the project cannot be measured, or empty.
	Obstacle  string
	LeftOut   recording.LeftOut
	Problems  []Problem
	Passed    []string               // generated files, which do not count
	Generated []recording.Unmeasured // and why each of them does not
	Partly    []string               // what is to be said of files that did not run woven everywhere
	Woven     int                    // files woven in this call, not found in the cache
	Sources   int                    // source files that count

	woven  *home.Folder // where woven texts are kept
	inCopy bool
	copy   *mirror.Copy // in which the command runs, or nil
	files  []*cached
	native native
	led    []string // units of outputs that were led back to sources
	ahead  []string // folders to be put in front of PATH
}

// Problem is a waiver in a source file that cannot be honoured.
type Problem struct {
	Path string
	waiver.Problem
}

// NamesSources tells whether a command names Go source files.
func NamesSources(command []string) bool {
	return slices.ContainsFunc(command, golang.IsSource)
}

// Prepare weaves what changed since the last time.
func Prepare(p *project.Project, opt Options) (*Prepared, error) {
	// Trees and texts are made once and dropped: collecting less often is faster.
	defer debug.SetGCPercent(debug.SetGCPercent(400))
	woven, err := p.Folder("woven")
	if errors.As(err, new(*home.Untrusted)) {
		return nil, err
	}
	if err != nil {
		return nil, fmt.Errorf("cannot write under %s: %w", p.Dir(), err)
	}
	flags, err := readGoFlags()
	if err != nil {
		return nil, err
	}
	out := &Prepared{Project: p, Options: opt, woven: woven}
	found, err := p.Scan(languages.Classify, opt.Only, opt.Skip)
	if err != nil {
		return nil, fmt.Errorf("cannot look through %s: %w", p.Root, err)
	}
	key := out.key()
	packName := "pack-" + key
	old := readPack(woven, packName)
	start := time.Now().UnixNano()
	var todo []project.SourceFile
	for _, f := range found {
		if f.Class == project.Source && out.native.add(f) {
			continue
		}
		switch f.Class {
		case project.Test:
			out.LeftOut.Tests++
			if golang.IsSource(f.Path) && golang.Embeds(f.Path) {
				todo = append(todo, f)
			}
		case project.Vendored:
			out.LeftOut.Generated++
		case project.Skipped:
			out.LeftOut.Skipped++
		case project.Source:
			todo = append(todo, f)
		}
	}
	out.files = make([]*cached, len(todo))
	anew, err := out.weaveAll(todo, old, key)
	if err != nil {
		return nil, err
	}
	out.Woven = anew
	if anew > 0 || len(old.files) != len(out.files) {
		if err := writePack(woven, packName, out.files, start); err != nil {
			return nil, fmt.Errorf("cannot keep what was woven: %w", err)
		}
		out.prune(time.Now())
	}
	out.told()
	out.sort()
	out.spareEmbedded()
	out.spareHidden()
	out.placed()
	if out.inCopy {
		if out.copy, err = out.mirrored(); err != nil {
			return nil, err
		}
	}
	if err := out.frontGo(flags); err != nil {
		return nil, err
	}
	if err := cmp.Or(out.frontPython(), out.frontScript()); err != nil {
		return nil, err
	}
	out.native.cgo = out.withC()
	if err := out.native.front(out); err != nil {
		return nil, err
	}
	if len(out.ahead) > 0 {
		out.Env = append(out.Env, "PATH="+listed(append(out.ahead, os.Getenv("PATH"))))
	}
	out.Env = append(out.Env, trace.Env()...)
	for _, variable := range out.Env {
		trace.Note("set", "variable", variable)
	}
	return out, nil
}

// told traces what became of each file.
func (p *Prepared) told() {
	for _, c := range p.files {
		trace.Note("file", "path", c.Path, "is", c.Kind.String(), "why", c.Why, "counters", c.Counters, "text", wovenName(c), "anew", c.anew)
	}
}

// withC are the folders whose sources of C the go command builds: a Go file there imports
// them. Of a file that was not read, nobody knows.
func (p *Prepared) withC() map[string]bool {
	out := map[string]bool{}
	for _, c := range p.files {
		if c.isGo() && (c.Kind == woven && c.Named || c.Kind == generated || c.Kind == unmeasured) {
			out[path.Dir(c.Path)] = true
		}
	}
	return out
}

// key tells apart the ways of weaving: their woven texts differ.
func (p *Prepared) key() string {
	h := sha256.New()
	fmt.Fprintf(h, "%s|%s|%s|%t|%s", p.Options.Version, p.Options.Level, p.Options.Keep, p.Options.Named, p.Project.Root)
	return hex.EncodeToString(h.Sum(nil))[:16]
}

// weaveAll weaves, on all cores, the files that are not in the pack as they
// are now.
func (p *Prepared) weaveAll(todo []project.SourceFile, old *pack, key string) (anew int, err error) {
	var group errgroup.Group
	group.SetLimit(runtime.GOMAXPROCS(0))
	type result struct {
		turn int // in changed
		c    *cached
		err  error
	}
	var changed []int
	for i, f := range todo {
		c := old.files[f.Path]
		if c == nil || f.Err != nil || !old.fresh(c, f) || c.Kind == woven && !p.woven.Has(wovenName(c)) {
			changed = append(changed, i)
			continue
		}
		p.files[i] = c
	}
	// The largest first, so that no core is left with one at the end.
	slices.SortStableFunc(changed, func(a, b int) int { return cmp.Compare(todo[b].Size, todo[a].Size) })
	results := make(chan result, len(changed))
	go func() {
		for turn, i := range changed {
			group.Go(func() error {
				c, err := p.weaveFile(todo[i], old.files[todo[i].Path], key)
				results <- result{turn, c, err}
				return nil
			})
		}
	}()
	tick := time.NewTicker(200 * time.Millisecond)
	defer tick.Stop()
	done := make([]bool, len(changed))
	for first := 0; anew < len(changed); {
		select {
		case r := <-results:
			p.files[changed[r.turn]] = r.c
			if r.c != nil {
				r.c.anew = true
			}
			err = cmp.Or(err, r.err)
			done[r.turn] = true
			anew++
		case <-tick.C:
		}
		for first < len(done) && done[first] {
			first++
		}
		if p.Options.Progress != nil && first < len(done) {
			p.Options.Progress(anew, len(changed), todo[changed[first]].Path)
		}
	}
	return anew, err
}

// wovenName is how a file's woven text is called. Mostly it is no source file's name, so
// that programs that look for those do not come upon it.
func wovenName(c *cached) string {
	if c.Named {
		return c.Unit + ".go"
	}
	return c.Unit + ".woven"
}

// wovenPath is where it is.
func (p *Prepared) wovenPath(c *cached) string { return p.woven.Path(wovenName(c)) }

// weaveFile weaves one file. Only what keeps Thrush itself from working is an
// error; a file that cannot be woven runs as it is.
func (p *Prepared) weaveFile(f project.SourceFile, old *cached, key string) (*cached, error) {
	c := &cached{Path: f.Path, Size: f.Size, Mod: f.Mod, Inode: f.Inode, Kind: unmeasured}
	if f.Err != nil {
		c.Why = "cannot be read: " + plainError(f.Err)
		return c, nil
	}
	abs := filepath.Join(p.Project.Root, filepath.FromSlash(f.Path))
	if !utf8.ValidString(abs) {
		c.Why = "its path is not UTF-8 text, so it cannot be named in a recording"
		return c, nil
	}
	source, err := bounded.Read(abs, bounded.Source)
	if err != nil {
		c.Why = "cannot be read: " + plainError(err)
		return c, nil
	}
	c.Digest = fmt.Sprintf("%016x", xxhash.Sum64(source))
	if f.Class == project.Test {
		c.Kind, c.Embeds = test, golang.EmbedPatterns(source)
		return c, nil
	}
	if !c.isGo() {
		c.Content = contentDigest(source)
	}
	id := sha256.Sum256([]byte(key + "|" + f.Path + "|" + c.Digest))
	c.Unit = hex.EncodeToString(id[:])[:32]
	if old != nil && old.Digest == c.Digest && old.Unit == c.Unit && (old.Kind != woven || p.woven.Has(wovenName(old))) {
		again := *old
		again.Size, again.Mod, again.Inode = f.Size, f.Mod, f.Inode
		return &again, nil
	}
	texts, table, err := p.weaveText(c, abs, source)
	if err != nil {
		c.Why = err.Error()
		return c, nil
	}
	if c.Kind != woven {
		return c, nil
	}
	c.plan = nil
	c.Counters, c.Idle = table.Counters, coverage.Resolve(table, nil).Totals
	if c.table, err = recording.PackTable(table); err != nil {
		return c, err
	}
	for v, text := range texts {
		if err := p.woven.Add(wovenName(c)+v, text); err != nil {
			return c, err
		}
	}
	return c, nil
}

// weaveText fills in what kind of file it is and gives its woven text. A slip
// in weaving leaves the file as it is, like anything else that cannot be woven.
func (p *Prepared) weaveText(c *cached, abs string, source []byte) (texts map[string][]byte, table *site.Table, err error) {
	defer func() {
		if r := recover(); r != nil {
			trace.Fault(c.Path, r)
			texts, table, err = nil, nil, fmt.Errorf("cannot be woven: %v", r)
			c.Kind = unmeasured
		}
	}()
	w, err := languages.Of(c.Path).Weave(lang.Source{
		Path: c.Path, Abs: abs, Root: p.Project.Root, Text: source, Unit: c.Unit, Digest: c.Digest, Pending: p.Project.Dir("pending"),
		Named: p.Options.Named, Options: weave.Options{Level: p.Options.Level, Keep: p.Options.Keep},
	})
	c.Facts = w.Facts
	switch {
	case err != nil:
		return nil, nil, err
	case w.Generated != "":
		c.Kind, c.Why = generated, w.Generated
		return nil, nil, nil
	}
	c.Kind, c.Problems, c.plan = woven, w.Plan.Problems, w.Plan
	return w.Texts, w.Table, nil
}

// besides is the path of a file that the build is to see next to another, in
// its place in the order of names and for the same systems.
func besides(path string) string { return strings.TrimSuffix(path, ".go") + ".0race.go" }

func plainError(err error) string {
	var path *fs.PathError
	if errors.As(err, &path) {
		return path.Err.Error()
	}
	return err.Error()
}

// ownReport is in what the scripts of a report say of themselves.
const ownReport = "Code generated by thrush render"

// passed notes a file that does not count, as it was made of others.
func (p *Prepared) passed(path, why string) {
	if strings.Contains(why, ownReport) {
		return // a report of Thrush's own in the project is no part of it
	}
	p.LeftOut.Generated++
	p.Passed = append(p.Passed, path)
	p.Generated = append(p.Generated, recording.Unmeasured{Path: path, Reason: why})
}

// sort tells the files that are measured from those that are not.
func (p *Prepared) sort() {
	goos, goarch := cmp.Or(os.Getenv("GOOS"), runtime.GOOS), cmp.Or(os.Getenv("GOARCH"), runtime.GOARCH)
	for _, c := range p.files {
		for _, q := range c.Problems {
			p.Problems = append(p.Problems, Problem{c.Path, q})
		}
		switch c.Kind {
		case generated:
			p.passed(c.Path, c.Why)
		case unmeasured:
			p.Unmeasured = append(p.Unmeasured, recording.Unmeasured{Path: c.Path, Reason: c.Why})
		case woven:
			p.Sources++
			if why, out := golang.Excluded(c.Path, c.Built, goos, goarch); out && c.isGo() {
				c.Why = why
			}
		}
	}
}

// spareEmbedded leaves files as they are whose text goes into a program: that
// must not be the woven one.
func (p *Prepared) spareEmbedded() {
	var by []*cached
	for _, c := range p.files {
		if len(c.Embeds) > 0 {
			by = append(by, c)
		}
	}
	for _, c := range p.files {
		for _, e := range by {
			if c.Kind == woven && c.isGo() && slices.ContainsFunc(e.Embeds, func(pattern string) bool { return golang.Matches(e.Path, pattern, c.Path) }) {
				p.leave(c, "its text goes into the program: "+e.Path+" embeds it")
			}
		}
	}
}

// spareHidden leaves the files of a folder as they are if one of them gives a
// word of the language another meaning that weaving relies on.
func (p *Prepared) spareHidden() {
	by := map[string]*cached{}
	for _, c := range p.files {
		if c.Hides != "" {
			by[path.Dir(c.Path)] = c
		}
	}
	for _, c := range p.files {
		if h := by[path.Dir(c.Path)]; h != nil && c.Kind == woven && c.isGo() {
			p.leave(c, "its package has a "+h.Hides+" of its own ("+h.Path+"), and probes rely on Go's")
		}
	}
}

// leave has a file run as it is.
func (p *Prepared) leave(c *cached, why string) {
	c.Kind, c.Why = unmeasured, why
	p.Sources--
	p.Unmeasured = append(p.Unmeasured, recording.Unmeasured{Path: c.Path, Reason: why})
}

// frontGo writes the overlay and sets the variables that put it in front of the
// build.
func (p *Prepared) frontGo(flags goFlags) error {
	replace := map[string]string{}
	own, err := flags.overlay()
	if err != nil {
		return err
	}
	for from, to := range own {
		replace[from] = to
	}
	for _, c := range p.files {
		if c.Kind != woven || !c.isGo() {
			continue
		}
		for _, root := range p.everywhere() {
			from := filepath.Join(root, filepath.FromSlash(c.Path))
			if _, taken := own[from]; taken {
				p.leave(c, "the overlay named in GOFLAGS replaces it")
				break
			}
			replace[from] = p.wovenPath(c)
			if c.Split {
				replace[besides(from)] = p.wovenPath(c) + golang.RaceSuffix
			}
		}
	}
	text, err := json.MarshalIndent(map[string]any{"Replace": replace}, "", " ")
	if err != nil {
		return err
	}
	sum := sha256.Sum256(text)
	name := "overlay-" + hex.EncodeToString(sum[:])[:16] + ".json"
	if !p.woven.Has(name) {
		if err := p.woven.Write(name, text); err != nil {
			return fmt.Errorf("cannot write the overlay: %w", err)
		}
	}
	p.Env = append(p.Env, "GOFLAGS="+flags.with(p.woven.Path(name)))
	if !slices.ContainsFunc(p.files, (*cached).isGo) {
		return nil
	}
	return p.standForGo(p.woven.Path(name), flags)
}

// roots are the names under which the build may know the root: as it was
// reached, and without links.
func (p *Prepared) roots() []string {
	roots := []string{p.Project.Root}
	if real, err := filepath.EvalSymlinks(p.Project.Root); err == nil && real != p.Project.Root {
		roots = append(roots, real)
	}
	return roots
}

// everywhere are the names under which files are known: in the project and in its copy.
func (p *Prepared) everywhere() []string {
	if p.copy == nil {
		return p.roots()
	}
	return append(p.roots(), p.copy.To())
}

// Changed gives the files that are no longer as they were woven: the command
// itself changed them, and built what was there before.
func (p *Prepared) Changed() []string {
	var out []string
	for _, c := range p.files {
		if c.Kind != woven {
			continue
		}
		abs := filepath.Join(p.Project.Root, filepath.FromSlash(c.Path))
		info, err := os.Stat(abs)
		if err == nil && info.Size() == c.Size && info.ModTime().UnixNano() == c.Mod {
			continue
		}
		source, err := bounded.Read(abs, bounded.Source)
		if err != nil || fmt.Sprintf("%016x", xxhash.Sum64(source)) != c.Digest {
			out = append(out, c.Path)
		}
	}
	return out
}

// Files gives the measured files with their counts, for a recording. Files that
// are kept out of builds here, and that nobody ran either, are unmeasured.
func (p *Prepared) Files(counts *Counts) ([]recording.File, error) {
	out, err := p.native.collect(p, counts)
	if err != nil {
		return nil, err
	}
	var lost losses
	outputs, err := p.outputs(counts)
	if err != nil {
		return nil, err
	}
	for _, c := range p.files {
		if c.Kind != woven {
			continue
		}
		counters, led := counts.Of(c.Unit, c.Counters), outputs[c.Path]
		out = append(out, led...)
		told := slices.Sorted(maps.Keys(counts.spared[c.Path]))
		if len(told) > 0 && (counters != nil || led != nil) {
			p.Partly = append(p.Partly, fmt.Sprintf("%s ran without probes in some processes: %s", c.Path, strings.Join(told, "; ")))
		} else if len(told) > 0 {
			c.Why = strings.Join(told, "; ")
		}
		delete(counts.spared, c.Path)
		if led != nil && counters == nil {
			if err := lost.add(c, led); err != nil {
				return nil, err
			}
			continue
		}
		if c.Why != "" && counters == nil {
			p.Unmeasured = append(p.Unmeasured, recording.Unmeasured{Path: c.Path, Reason: c.Why})
			continue
		}
		out = append(out, recording.File{Path: c.Path, Digest: c.Digest, Table: c.table, NumCounters: c.Counters, Counters: counters, Idle: &c.Idle})
	}
	if note := lost.note(); note != "" {
		p.Partly = append(p.Partly, note)
	}
	for path, why := range counts.spared {
		p.unmeasured(path, strings.Join(slices.Sorted(maps.Keys(why)), "; "))
	}
	slices.SortStableFunc(p.Unmeasured, recording.Unmeasured.Compare)
	return out, nil
}
