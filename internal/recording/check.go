package recording

import (
	"cmp"
	"fmt"
	"strings"
	"time"

	"thrush/internal/core/coverage"
)

// Every number of a recording is checked where it is read, since whoever made the file chose
// it: code that draws and judges relies on it.

// mostCount bounds what is counted in a description: lines, processes, milliseconds.
const mostCount = 1 << 48

// ReadInfo reads what a recording says of itself.
func ReadInfo(data []byte) (Info, error) {
	var i Info
	if err := Unmarshal(data, &i); err != nil {
		return i, err
	}
	return i, i.check()
}

func (i *Info) check() error {
	err := i.Part.check()
	for _, p := range i.Parts {
		err = cmp.Or(err, p.check())
	}
	for _, n := range []int{i.LeftOut.Tests, i.LeftOut.Generated, i.LeftOut.Skipped} {
		err = cmp.Or(err, count("files left out", int64(n)))
	}
	if t := i.Totals; err == nil && t != nil {
		err = count("waived lines", int64(t.WaivedLines))
		for _, d := range coverage.Metrics {
			err = cmp.Or(err, ratio(string(d.Metric), t.Of(d.Metric)))
		}
	}
	return err
}

func (p *Part) check() error {
	for _, name := range []string{p.ID, p.Commit} {
		if !isName(name) {
			return fmt.Errorf("it names %q, which is the name of no recording and of no commit", name)
		}
	}
	if p.When != "" {
		if _, err := time.Parse(time.RFC3339, p.When); err != nil {
			return fmt.Errorf("it says that it was made at %q, which is no time", p.When)
		}
	}
	return cmp.Or(count("milliseconds", p.Took), count("processes", int64(p.Processes)), count("the exit status", int64(max(p.Exit, -p.Exit))))
}

// isName tells whether a text can be what recordings and commits are called: hexadecimal
// digits, or nothing.
func isName(s string) bool { return len(s) <= 64 && strings.Trim(s, "0123456789abcdef") == "" }

func count(what string, n int64) error {
	if n < 0 || n > mostCount {
		return fmt.Errorf("it says %d for %s, which cannot be", n, what)
	}
	return nil
}

func ratio(what string, r coverage.Ratio) error {
	if r.Covered < 0 || r.Covered > r.Total || r.Total > mostCount {
		return fmt.Errorf("it says that %d of %d %s ran, which cannot be", r.Covered, r.Total, what)
	}
	return nil
}

// The bounds of a source file: lines, and columns in bytes. Those who draw a file take memory
// by its lines, so a small table may not speak of very many.
const (
	mostLines   = 1 << 24
	mostColumns = 1 << 28
)

// linesOf is how many lines a file may have whose table has so many bytes. Lines without code
// take none.
func linesOf(table int) int { return min(mostLines, 1<<16+1<<10*table) }
