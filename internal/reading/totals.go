package reading

import (
	"runtime"

	"golang.org/x/sync/errgroup"

	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
	"thrush/internal/recording"
)

// Totals are those of files that are about to be put into a recording.
func (r *Reader) Totals(files []recording.File) (coverage.Totals, error) {
	var paths []string
	rows := map[string][]recording.File{}
	for _, f := range files {
		if rows[f.Path] == nil {
			paths = append(paths, f.Path)
		}
		rows[f.Path] = append(rows[f.Path], f)
	}
	each := make([]coverage.Totals, len(paths))
	var group errgroup.Group
	group.SetLimit(runtime.GOMAXPROCS(0))
	for i, path := range paths {
		own := rows[path]
		waivers := r.waivers(&site.Table{Path: path, Lines: 1})
		if own[0].Idle != nil && own[0].Counters == nil && len(own) == 1 && waivers == nil {
			each[i] = *own[0].Idle
			continue
		}
		group.Go(func() error {
			l, err := recording.Together(own)
			if err == nil {
				each[i] = coverage.Resolve(l.Table, l.Counters, r.waivers(l.Table)...).Totals
			}
			return err
		})
	}
	err := group.Wait()
	var out coverage.Totals
	for _, t := range each {
		out = out.Add(t)
	}
	return out, err
}
