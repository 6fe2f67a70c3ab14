// Package reading turns a recording into coverage, with the project's waivers
// applied.
package reading

import (
	"fmt"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"time"

	"github.com/cespare/xxhash/v2"
	"golang.org/x/sync/errgroup"

	"thrush/internal/bounded"
	"thrush/internal/core/changed"
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
	// Counts tells whether a path is one of source code that would be measured.
	Counts func(path string) bool
	// LeftOut tells which are source code, but no tests, that would not be, by their paths.
	LeftOut func(path string) bool
	// Label has only what recordings with this label reached count as run, or is
	// empty.
	Label string
}

// Files gives the coverage of the files that keep wants, in the order of their
// paths; a nil keep wants all.
func (r *Reader) Files(keep func(path string) bool) ([]*coverage.File, error) {
	var out []*coverage.File
	err := Each(r, keep, func(f *coverage.File) (*coverage.File, error) { return f, nil },
		func(f *coverage.File) error { out = append(out, f); return nil })
	return out, err
}

// Each resolves the files that keep wants, a few at a time, and holds on to
// none: work is called on several at once, then with what it made of each, in
// the order of their paths.
func Each[T any](r *Reader, keep func(path string) bool, work func(*coverage.File) (T, error), then func(T) error) error {
	return EachPair(r, nil, keep, func(p coverage.Pair) (T, error) { return work(p.Now) }, then)
}

// EachPair is Each for the files of two recordings: each as it is, and as it was, if
// was is not nil.
func EachPair[T any](r, was *Reader, keep func(path string) bool, work func(coverage.Pair) (T, error), then func(T) error) error {
	type made struct {
		value T
		err   error
	}
	window := make(chan chan made, 4*runtime.GOMAXPROCS(0))
	stop := make(chan struct{})
	go func() {
		defer close(window)
		for _, path := range paths(r, was) {
			if keep != nil && !keep(path) {
				continue
			}
			one := make(chan made, 1)
			select {
			case <-stop:
				return
			case window <- one:
			}
			go func() {
				var m made
				var p coverage.Pair
				if p.Now, m.err = r.file(path); m.err == nil {
					p.Was, m.err = was.file(path)
				}
				if m.err == nil {
					m.value, m.err = work(p)
				}
				one <- m
			}()
		}
	}()
	defer close(stop)
	for one := range window {
		m := <-one
		if m.err == nil {
			m.err = then(m.value)
		}
		if m.err != nil {
			return m.err
		}
	}
	return nil
}

// paths are those of one recording or the other, in order.
func paths(r, was *Reader) []string {
	var out []string
	for _, x := range []*Reader{r, was} {
		if x != nil {
			for i := range x.Recording.Len() {
				out = append(out, x.Recording.Name(i))
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// file reads the coverage of a file, or gives nil if the recording does not have it.
func (r *Reader) file(path string) (*coverage.File, error) {
	if r == nil {
		return nil, nil
	}
	if i := r.Recording.Find(path); i >= 0 {
		return r.resolve(i)
	}
	return nil, nil
}

// resolve reads the coverage of file i.
func (r *Reader) resolve(i int) (*coverage.File, error) {
	l, err := r.Recording.Load(i)
	if err != nil {
		return nil, err
	}
	counted := coverage.Counted{Counters: l.Counters, Reach: l.Reach, Sets: r.Recording.Sets}
	if r.Label != "" {
		counted = counted.Only(r.Label)
		l.Table.Keep = site.Hits // how often, all labels together know
	}
	return coverage.ResolveReach(l.Table, counted, r.waivers(l.Table)...), nil
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
	if !filepath.IsLocal(filepath.FromSlash(path)) {
		return nil, false, fmt.Errorf("%s lies outside the project", path)
	}
	text, err = bounded.Read(filepath.Join(r.Project.Root, filepath.FromSlash(path)), bounded.Map)
	if err != nil {
		return nil, false, err
	}
	return text, fmt.Sprintf("%016x", xxhash.Sum64(text)) == r.Recording.Digest(i), nil
}

// Kept is what is known of a kept recording without looking into its files.
type Kept struct {
	ID       string // its short name
	Identity string
	Info     recording.Info
	Totals   coverage.Totals // with the waivers that held then
	Pinned   bool            // it is spared when old ones are dropped
	Problem  string          // why it cannot be read, if so
}

// Describe reads what a kept recording says of itself.
func Describe(path, id string) Kept {
	k := Kept{ID: id}
	info, identity, err := recording.Peek(path)
	if err != nil {
		k.Problem = err.Error()
		return k
	}
	k.Info, k.Identity = info, identity
	if info.Totals != nil {
		k.Totals = *info.Totals
	}
	return k
}

// Outdated are the recorded files, among those that keep wants, whose texts are
// no longer what was recorded.
func (r *Reader) Outdated(keep func(path string) bool) ([]string, error) {
	old := make([]bool, r.Recording.Len())
	var group errgroup.Group
	group.SetLimit(2 * runtime.GOMAXPROCS(0))
	for i := range old {
		if !keep(r.Recording.Name(i)) {
			continue
		}
		group.Go(func() error {
			_, same, err := r.Source(r.Recording.Name(i))
			old[i] = err != nil || !same
			return nil
		})
	}
	err := group.Wait()
	var out []string
	for i, o := range old {
		if o {
			out = append(out, r.Recording.Name(i))
		}
	}
	return out, err
}

// Mismatch gives the first changed line of a recorded file that does not have
// the text the change says it has, or 0.
func (r *Reader) Mismatch(path string, lines *changed.Lines) int {
	if len(lines.Text) == 0 {
		return 0
	}
	text, _, err := r.Source(path)
	if err != nil {
		return 1
	}
	have := strings.Split(string(text), "\n")
	for _, n := range lines.Within(1 << 30) {
		if n > len(have) || strings.TrimRight(have[n-1], "\r") != lines.Text[n] {
			return n
		}
	}
	return 0
}

// Some gives the first of a list, and how many more there are.
func Some(list []string, most int) []string {
	if len(list) <= most {
		return list
	}
	return append(list[:most:most], fmt.Sprintf("and %d more", len(list)-most))
}

// Lines gives lines of recorded files without what ends them, and nothing of files that are no
// longer as they were. It keeps the texts it has read.
func (r *Reader) Lines() func(path string, line int) string {
	texts := map[string][]string{}
	return func(path string, line int) string {
		lines, ok := texts[path]
		if !ok {
			if text, same, err := r.Source(path); err == nil && same {
				lines = strings.Split(string(text), "\n")
			}
			texts[path] = lines
		}
		if line < 1 || line > len(lines) {
			return ""
		}
		return strings.TrimSuffix(lines[line-1], "\r")
	}
}
