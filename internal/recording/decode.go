package recording

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math"
	"os"
	"path"
	"path/filepath"
	"slices"

	"thrush/internal/core/attribution"
	"thrush/internal/exit"
)

// ErrNewer says that a recording was written by a newer Thrush.
var ErrNewer = exit.NoDataf("written by a newer Thrush; update this one to read it")

// DamagedError says that a file is no whole recording.
type DamagedError struct {
	Path string
	What string
}

func (e *DamagedError) Error() string {
	return fmt.Sprintf("%s is damaged: %s. Nothing of it is used; record again, or use another recording", e.Path, e.What)
}

// ExitStatus is the one for no usable data.
func (e *DamagedError) ExitStatus() int { return exit.NoData }

// Recording is a recording opened for reading. Site tables are decoded when
// they are asked for.
type Recording struct {
	Path string
	ID   string // its short name, the first 8 digits of Identity
	// Identity names the content: 16 hexadecimal digits.
	Identity string
	Info     Info
	// Sets are the sets of labels that reached something.
	Sets *attribution.Sets

	rows   []row
	files  [][2]int // first row of each file, and the first after it
	byPath map[string]int
	counts []byte
	reach  []byte
	each   byte // bytes of a number in reach, or 0 if there is none
}

// row is a file as it was measured in one way.
type row struct {
	path, digest string
	table        []byte
	counters     int
	width        byte
	at, reachAt  int // offsets of its first counter, and of that counter's set
}

// Open reads a recording and checks every byte of it.
func Open(path string) (*Recording, error) { return OpenInto(new([]byte), path) }

// OpenInto is Open with a buffer for the file's bytes, which grows as needed. The
// recording must not be used any more when the buffer is used again.
func OpenInto(buffer *[]byte, path string) (*Recording, error) {
	f, err := os.Open(path)
	if err != nil {
		if errors.Is(err, fs.ErrNotExist) {
			return nil, fmt.Errorf("there is no recording %s", path)
		}
		return nil, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	if !info.Mode().IsRegular() {
		return nil, fmt.Errorf("%s is no file", path)
	}
	if size := info.Size(); int64(cap(*buffer)) < size {
		*buffer = make([]byte, size)
	}
	data := (*buffer)[:info.Size()]
	if _, err := io.ReadFull(f, data); err != nil {
		return nil, fmt.Errorf("%s changed while it was read: %w", path, err)
	}
	return Decode(path, data)
}

// Decode reads a recording from its bytes, which must not change afterwards. The
// path is only named in errors.
func Decode(path string, data []byte) (*Recording, error) {
	r := &Recording{Path: path}
	blocks, identity, err := blocksOf(path, data)
	if err != nil {
		return nil, err
	}
	r.Identity, r.ID = identity, identity[:8]
	if err := r.read(blocks, len(data)); err != nil {
		if !errors.As(err, new(*DamagedError)) {
			err = &DamagedError{path, err.Error()}
		}
		return nil, err
	}
	return r, nil
}

func (r *Recording) read(blocks map[string]block, size int) error {
	for _, kind := range []string{blockInfo, blockIndex, blockTables, blockCounts, blockReach} {
		if _, ok := blocks[kind]; !ok {
			return fmt.Errorf("it has no block %q", kind)
		}
	}
	info, err := blocks[blockInfo].open()
	if err != nil {
		return err
	}
	if r.Info, err = ReadInfo(info); err != nil {
		return fmt.Errorf("its description cannot be read: %v", err)
	}
	list, err := blocks[blockIndex].open()
	if err != nil {
		return err
	}
	var x index
	if err := Unmarshal(list, &x); err != nil {
		return fmt.Errorf("its index cannot be read: %v", err)
	}
	if r.counts, err = blocks[blockCounts].open(); err != nil {
		return err
	}
	if r.reach, err = blocks[blockReach].open(); err != nil {
		return err
	}
	if err := r.readIndex(&x, blocks[blockTables].stored, size); err != nil {
		return err
	}
	return r.readSets(&x)
}

// mostCounters is how many counters a recording of so many bytes may have: each
// site takes several bytes in its table.
func mostCounters(size int) uint64 { return 1<<16 + 64*uint64(size) }

func (r *Recording) readIndex(x *index, tables []byte, size int) error {
	n := len(x.Paths)
	if len(x.Digests) != n || len(x.Tables) != n || len(x.Counters) != n || len(x.Widths) != n {
		return errors.New("its index does not hold together")
	}
	r.byPath = make(map[string]int, n)
	r.rows = make([]row, n)
	r.each = widthOf(uint64(len(x.Sets)))
	var counters uint64
	at, reachAt := 0, 0
	for i, p := range x.Paths {
		if !filepath.IsLocal(filepath.FromSlash(p)) || path.Clean(p) != p || p == "." {
			return fmt.Errorf("it names %q, which is no file of a project", p)
		}
		if x.Tables[i] > uint64(len(tables)) {
			return fmt.Errorf("the table of %q lies outside it", p)
		}
		if counters += x.Counters[i]; x.Counters[i] > math.MaxInt32 || counters > mostCounters(size) {
			return fmt.Errorf("it says that %q has %d counters, which cannot be", p, x.Counters[i])
		}
		one := row{path: p, digest: x.Digests[i], table: tables[:x.Tables[i]], counters: int(x.Counters[i]), width: x.Widths[i], at: at, reachAt: reachAt}
		tables = tables[x.Tables[i]:]
		if one.width != notLoaded {
			if one.width != widthOf(1<<(8*uint64(one.width)-1)) && one.width != 0 {
				return fmt.Errorf("the counts of %q are not as they were written", p)
			}
			if one.counters*int(one.width) > len(r.counts)-at || one.counters*int(r.each) > len(r.reach)-reachAt {
				return fmt.Errorf("the counts of %q lie outside it", p)
			}
			at += one.counters * int(one.width)
			reachAt += one.counters * int(r.each)
		}
		r.rows[i] = one
		switch last := len(r.files) - 1; {
		case i == 0 || x.Paths[i-1] < p:
			r.byPath[p] = len(r.files)
			r.files = append(r.files, [2]int{i, i + 1})
		case x.Paths[i-1] == p && x.Digests[i-1] == x.Digests[i]:
			r.files[last][1] = i + 1
		default:
			return fmt.Errorf("%q is not where it belongs in its index", p)
		}
	}
	if len(tables) != 0 || at != len(r.counts) || reachAt != len(r.reach) {
		return errors.New("it has more in it than its index says")
	}
	return nil
}

func (r *Recording) readSets(x *index) error {
	if len(x.Sets) == 0 {
		r.Sets = attribution.Of(r.Info.Reachers())
		return nil
	}
	if !slices.IsSorted(x.Labels) {
		return errors.New("its labels are not in order")
	}
	r.Sets = attribution.Of(x.Labels)
	for _, s := range x.Sets {
		if _, err := r.Sets.Add(s); err != nil {
			return err
		}
	}
	return nil
}

// Reachers are the labels that what ran in one run counts for, or "" if the run has
// none.
func (p *Part) Reachers() []string {
	if len(p.Labels) == 0 {
		return []string{""}
	}
	out := slices.Clone(p.Labels)
	slices.Sort(out)
	return slices.Compact(out)
}

// Len is the number of files.
func (r *Recording) Len() int { return len(r.files) }

// Name is the path of file i, from the project's root.
func (r *Recording) Name(i int) string { return r.rows[r.files[i][0]].path }

// Digest is the digest of the text of file i that was measured.
func (r *Recording) Digest(i int) string { return r.rows[r.files[i][0]].digest }

// Find gives the index of the file with the given path, or -1.
func (r *Recording) Find(path string) int {
	if i, ok := r.byPath[path]; ok {
		return i
	}
	return -1
}
