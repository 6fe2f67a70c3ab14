package launch

import (
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"path/filepath"
	"runtime"
	"slices"
	"time"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"
	"golang.org/x/sync/errgroup"

	"thrush/internal/bounded"
	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
	"thrush/internal/lang"
	"thrush/internal/lang/golang"
	"thrush/internal/languages"
	"thrush/internal/project"
	"thrush/internal/recording"
	"thrush/internal/trace"
	"thrush/internal/weave"
)

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

func plainError(err error) string {
	var path *fs.PathError
	if errors.As(err, &path) {
		return path.Err.Error()
	}
	return err.Error()
}
