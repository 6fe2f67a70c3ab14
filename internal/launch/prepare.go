// Package launch puts woven sources in front of the user's build, runs the
// user's command and gathers the counts of its processes.
package launch

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"
	"time"

	"github.com/cespare/xxhash/v2"

	"thrush/internal/bounded"
	"thrush/internal/core/site"
	"thrush/internal/core/waiver"
	"thrush/internal/home"
	"thrush/internal/lang/golang"
	"thrush/internal/languages"
	"thrush/internal/project"
	"thrush/internal/recording"
	"thrush/internal/trace"
	"thrush/internal/workcopy"
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
	copy   *workcopy.Copy // in which the command runs, or nil
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
	todo := out.divide(found)
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
	return out, out.install(flags)
}

// divide counts what is left out, and gives the files to weave now.
func (p *Prepared) divide(found []project.SourceFile) (todo []project.SourceFile) {
	for _, f := range found {
		if f.Class == project.Source && p.native.add(f) {
			continue
		}
		switch f.Class {
		case project.Test:
			p.LeftOut.Tests++
			if golang.IsSource(f.Path) && golang.Embeds(f.Path) {
				todo = append(todo, f)
			}
		case project.Vendored:
			p.LeftOut.Generated++
		case project.Skipped:
			p.LeftOut.Skipped++
		case project.Source:
			todo = append(todo, f)
		}
	}
	return todo
}

// install puts what was woven, and what weaves, before the tools of each language.
func (p *Prepared) install(flags goFlags) error {
	if err := p.frontGo(flags); err != nil {
		return err
	}
	if err := cmp.Or(p.frontPython(), p.frontScript()); err != nil {
		return err
	}
	p.native.cgo = p.withC()
	if err := p.native.front(p); err != nil {
		return err
	}
	if len(p.ahead) > 0 {
		p.Env = append(p.Env, "PATH="+listed(append(p.ahead, os.Getenv("PATH"))))
	}
	p.Env = append(p.Env, trace.Env()...)
	for _, variable := range p.Env {
		trace.Note("set", "variable", variable)
	}
	return nil
}

// told traces what became of each file.
func (p *Prepared) told() {
	for _, c := range p.files {
		trace.Note("file", "path", c.Path, "is", c.Kind.String(), "why", c.Why, "counters", c.Counters, "text", wovenName(c), "anew", c.anew)
	}
}

// key tells apart the ways of weaving: their woven texts differ.
func (p *Prepared) key() string {
	h := sha256.New()
	fmt.Fprintf(h, "%s|%s|%s|%t|%s", p.Options.Version, p.Options.Level, p.Options.Keep, p.Options.Named, p.Project.Root)
	return hex.EncodeToString(h.Sum(nil))[:16]
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

// leave has a file run as it is.
func (p *Prepared) leave(c *cached, why string) {
	c.Kind, c.Why = unmeasured, why
	p.Sources--
	p.Unmeasured = append(p.Unmeasured, recording.Unmeasured{Path: c.Path, Reason: why})
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
