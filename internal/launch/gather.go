package launch

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"errors"
	"io/fs"
	"maps"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"thrush/internal/runtime"
	"thrush/internal/trace"
)

// Counts are what the processes of a command counted.
type Counts struct {
	Processes int  // how many reported anything
	Unclear   bool // programs without the run's environment are left out
	units     map[string][]uint64
	folders   []string                   // that were gathered
	spared    map[string]map[string]bool // why files ran as they are, by path
}

// Of gives the counters of a unit that has n of them, or nil if none reported.
func (c *Counts) Of(unit string, n int) []uint64 {
	counters := c.units[unit]
	if len(counters) != n {
		return nil
	}
	return counters
}

// all gives the units that reported.
func (c *Counts) all() []string { return slices.Sorted(maps.Keys(c.units)) }

// Strangers is how many of the units that reported are not among the files:
// their sources changed since they were built.
func (c *Counts) Strangers(p *Prepared) int {
	known := map[string]bool{}
	for _, f := range p.files {
		known[f.Unit] = true
	}
	for _, u := range append(p.native.known, p.led...) {
		known[u] = true
	}
	n := 0
	for unit := range c.units {
		if !known[unit] {
			n++
		}
	}
	return n
}

// Gather adds up the counter files in a folder, each left by one process that
// may have ended in any way, or still run; and those of programs that were adopted.
// What does not look like counters is passed over.
func Gather(dir string) (*Counts, error) {
	c := &Counts{units: map[string][]uint64{}, spared: map[string]map[string]bool{}}
	if err := c.gather(dir); err != nil {
		return nil, err
	}
	others, unclear := strays(dir)
	trace.Note("gathered", "from", dir, "beside", others, "whose is unclear", unclear)
	if c.Unclear = unclear; unclear {
		return c, nil
	}
	return c, c.gather(others)
}

func (c *Counts) gather(dir string) error {
	c.folders = append(c.folders, dir)
	entries, err := os.ReadDir(dir)
	if err != nil {
		if errors.Is(err, fs.ErrNotExist) {
			return nil
		}
		return err
	}
	for _, e := range entries {
		if strings.HasPrefix(e.Name(), "n") && e.Type().IsRegular() {
			if err := c.hear(filepath.Join(dir, e.Name())); err != nil {
				return err
			}
			continue
		}
		if len(e.Name()) < 2 || e.Name()[0] != 'p' && e.Name()[0] != 'c' || !e.Type().IsRegular() {
			continue
		}
		data, err := os.ReadFile(filepath.Join(dir, e.Name()))
		if err != nil {
			return err
		}
		if c.add(data) {
			c.Processes += processes(data)
		}
	}
	return nil
}

// hear reads what an interpreter told of files that it ran as they are: one JSON object
// a line. What is cut off or no such object is passed over.
func (c *Counts) hear(path string) error {
	data, err := os.ReadFile(path)
	if err != nil {
		return err
	}
	for _, line := range bytes.Split(data, []byte{'\n'}) {
		var told struct{ Path, Why string }
		if json.Unmarshal(line, &told) != nil || told.Path == "" {
			continue
		}
		if c.spared[told.Path] == nil {
			c.spared[told.Path] = map[string]bool{}
		}
		c.spared[told.Path][told.Why] = true
	}
	return nil
}

// processes is how many processes wrote to a file of counters.
func processes(data []byte) int {
	if !bytes.HasPrefix(data, []byte(runtime.PoolMagic)) || len(data) < 24 {
		return 1
	}
	return int(min(binary.LittleEndian.Uint64(data[16:]), 1<<31))
}

// widths are the bytes of a counter, by the kind that the head of its block names: whole
// numbers of one byte or eight, or, where a language has no others, floating ones.
var widths = map[byte]int{'1': 1, '8': 8, 'f': 8}

// add adds the counts of one process and tells whether there were any.
func (c *Counts) add(data []byte) bool {
	magic := []byte(runtime.Magic)
	found := false
	for {
		at := bytes.Index(data, magic)
		if at < 0 || len(data)-at < runtime.HeaderSize {
			return found
		}
		head := data[at+len(magic) : at+runtime.HeaderSize]
		unit := string(head[:32])
		n, err := strconv.ParseUint(string(head[32:40]), 16, 32)
		width, ok := widths[head[40]]
		data = data[at+runtime.HeaderSize:]
		if err != nil || !ok || uint64(len(data)) < n*uint64(width) {
			continue
		}
		sum := c.units[unit]
		if sum == nil {
			sum = make([]uint64, n)
		}
		if uint64(len(sum)) != n {
			continue
		}
		for i := range sum {
			switch head[40] {
			case '1':
				sum[i] = plus(sum[i], uint64(data[i]))
			case 'f':
				sum[i] = plus(sum[i], whole(math.Float64frombits(binary.LittleEndian.Uint64(data[i*8:]))))
			default:
				sum[i] = plus(sum[i], binary.LittleEndian.Uint64(data[i*8:]))
			}
		}
		c.units[unit] = sum
		found = true
		data = data[n*uint64(width):]
	}
}

// plus adds counts. What grows too large stays at the largest number: it must not come out as
// never run.
func plus(a, b uint64) uint64 {
	if s := a + b; s >= a {
		return s
	}
	return math.MaxUint64
}

// whole is a count that a language keeps as a floating number, whatever a program wrote there.
func whole(f float64) uint64 {
	switch {
	case !(f > 0): // not a number either
		return 0
	case f >= 1<<63:
		return math.MaxUint64
	}
	return uint64(f)
}

// Forget removes the counter files in a folder. Programs that still run go on
// counting into files that nobody can see any more.
func Forget(dir string) error {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return err
	}
	for _, e := range entries {
		if e.Type().IsRegular() {
			err = errors.Join(err, os.Remove(filepath.Join(dir, e.Name())))
		}
	}
	return errors.Join(err, os.RemoveAll(filepath.Join(dir, adopted)))
}
