package main

import (
	"fmt"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"thrush/internal/core/site"
	"thrush/internal/launch"
	project_ "thrush/internal/project"
)

// weaving compares the first weave of a project with parsing it, both on all
// cores.
func weaving(_, dir string) []row {
	files, lines := library(dir, 1000, 1<<30, nil)
	p, err := project_.Find(dir)
	check(err)
	opt := launch.Options{Level: site.Branches, Keep: site.Counts, Only: []string{"**"}}
	round := 0
	woven, parsed := pair(5, func() {
		// What the last round wrote is moved away rather than removed: for some
		// seconds a file system may be slow to make files after many were removed.
		round++
		if round > 1 {
			check(os.Rename(p.Dir(), fmt.Sprintf("%s.round%d", dir, round)))
		}
		_, err := launch.Prepare(p, opt)
		check(err)
	}, func() { parse(dir) })
	return []row{{
		what: fmt.Sprintf("first weave of %d files, %d lines, against parsing alone", files, lines), budget: "2×", aim: "1.3×",
		measured: fmt.Sprintf("%.2f×", float64(woven)/float64(parsed)), note: fmt.Sprintf("(%s, %s)", ms(woven), ms(parsed)),
	}}
}

// parse reads and parses every Go file, with comments, and does nothing else.
func parse(dir string) time.Duration {
	start := time.Now()
	var group errgroup.Group
	group.SetLimit(runtime.GOMAXPROCS(0))
	check(filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.Contains(path, "/.thrush/") {
			return err
		}
		group.Go(func() error {
			text, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			_, _ = parser.ParseFile(token.NewFileSet(), path, text, parser.ParseComments|parser.SkipObjectResolution)
			return nil
		})
		return nil
	}))
	check(group.Wait())
	return time.Since(start)
}
