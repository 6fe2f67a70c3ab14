// Package reading turns a recording into coverage, with the project's waivers
// applied.
package reading

import (
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"time"

	"github.com/cespare/xxhash/v2"
	"golang.org/x/sync/errgroup"

	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
	"thrush/internal/core/tally"
	"thrush/internal/project"
	"thrush/internal/recording"
)

// Reader reads one recording for one project.
type Reader struct {
	Project   *project.Project
	Recording *recording.Recording
	Today     time.Time // waivers that ended before it do not hold
}

// Files gives the coverage of the files that keep wants, in the order of their
// paths; a nil keep wants all.
func (r *Reader) Files(keep func(path string) bool) ([]*coverage.File, error) {
	var wanted []int
	for i := range r.Recording.Len() {
		if keep == nil || keep(r.Recording.Name(i)) {
			wanted = append(wanted, i)
		}
	}
	out := make([]*coverage.File, len(wanted))
	var group errgroup.Group
	group.SetLimit(runtime.GOMAXPROCS(0))
	for at, i := range wanted {
		group.Go(func() error {
			t, counters, err := r.Recording.Load(i)
			if err != nil {
				return err
			}
			out[at] = coverage.Resolve(t, counters, r.waivers(t)...)
			return nil
		})
	}
	return out, group.Wait()
}

// waivers are those of thrush.toml for a file.
func (r *Reader) waivers(t *site.Table) []site.Waiver {
	var out []site.Waiver
	for _, w := range r.Project.Config.Waivers {
		if !w.Expired(r.Today) && project.MatchAny(w.Where, t.Path) {
			out = append(out, site.Waiver{Line: 1, EndLine: max(1, t.Lines), Reason: w.Reason})
		}
	}
	return out
}

// Expired are the waivers of thrush.toml that no longer hold.
func (r *Reader) Expired() []project.Waiver {
	var out []project.Waiver
	for _, w := range r.Project.Config.Waivers {
		if w.Expired(r.Today) {
			out = append(out, w)
		}
	}
	return out
}

// Items are the totals of files, for roll-ups.
func Items(files []*coverage.File) []tally.Item {
	out := make([]tally.Item, len(files))
	for i, f := range files {
		out[i] = tally.Item{Path: f.Path, Totals: f.Totals}
	}
	return out
}

// Source reads the text of a recorded file as it is now, and tells whether it
// is still the text that was measured.
func (r *Reader) Source(path string) (text []byte, same bool, err error) {
	i := r.Recording.Find(path)
	if i < 0 {
		return nil, false, fmt.Errorf("%s is not in the recording", path)
	}
	text, err = os.ReadFile(filepath.Join(r.Project.Root, filepath.FromSlash(path)))
	if err != nil {
		return nil, false, err
	}
	return text, fmt.Sprintf("%016x", xxhash.Sum64(text)) == r.Recording.Digest(i), nil
}
