package recording

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math"
	"os"
	"path"
	"path/filepath"
	"slices"

	"github.com/cespare/xxhash/v2"

	"thrush/internal/core/reach"
	"thrush/internal/core/site"
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
	Sets *reach.Sets

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

// block is a block as it is stored.
type block struct {
	kind   string
	how    uint32
	raw    uint64
	stored []byte
}

// blocksOf checks the checksums and gives the blocks and what the content is called.
func blocksOf(path string, data []byte) (map[string]block, string, error) {
	damaged := func(format string, args ...any) (map[string]block, string, error) {
		return nil, "", &DamagedError{path, fmt.Sprintf(format, args...)}
	}
	if len(data) < fileHeadSize || !bytes.Equal(data[:8], magic) {
		if len(data) >= 6 && bytes.Equal(data[:6], magic[:6]) {
			return damaged("its beginning is cut short or was changed as if it were text")
		}
		return damaged("it does not begin as a recording does")
	}
	switch v := binary.LittleEndian.Uint32(data[8:]); {
	case v == 0:
		return damaged("its version is 0")
	case v < Version:
		return damaged("it is of version %d of the format, which was never in a release", v)
	case v > Version:
		return nil, "", fmt.Errorf("%s: %w", path, ErrNewer)
	case binary.LittleEndian.Uint32(data[12:]) != numBlocks:
		return damaged("its head is not as it was written")
	}
	blocks := map[string]block{}
	var heads []byte
	for at := fileHeadSize; ; {
		if len(data)-at < blockHeadSize {
			return damaged("it is cut short at byte %d", len(data))
		}
		head := data[at : at+blockHeadSize]
		b := block{kind: string(head[:4]), how: binary.LittleEndian.Uint32(head[4:]), raw: binary.LittleEndian.Uint64(head[16:])}
		size := binary.LittleEndian.Uint64(head[8:])
		body := at + blockHeadSize
		if b.how > storedPlain {
			return damaged("the head of the block at byte %d is not as it was written", at)
		}
		if size > uint64(len(data)-body) {
			return damaged("it is cut short at byte %d", len(data))
		}
		b.stored = data[body : body+int(size)]
		if xxhash.Sum64(b.stored) != binary.LittleEndian.Uint64(head[24:]) {
			return damaged("the block %q at byte %d does not match its checksum", b.kind, at)
		}
		if b.how == storedPlain && b.raw != size || b.absurd(len(data)) {
			return damaged("the block %q at byte %d says it has %d bytes, which cannot be", b.kind, at, b.raw)
		}
		if b.kind == blockEnd {
			if size != 8 || b.raw != 8 || b.how != storedPlain || binary.LittleEndian.Uint64(b.stored) != xxhash.Sum64(heads) {
				return damaged("the blocks before byte %d do not match the checksum at the end", at)
			}
			if body+8 != len(data) {
				return damaged("there are %d bytes after its end", len(data)-body-8)
			}
			return blocks, fmt.Sprintf("%016x", binary.LittleEndian.Uint64(b.stored)), nil
		}
		heads = append(heads, head...)
		blocks[b.kind] = b
		at = body + int(size)
	}
}

// absurd tells whether a block cannot become as many bytes as it says, in a file of so
// many. Counters may: most of them are zero.
func (b block) absurd(file int) bool {
	if b.kind == blockCounts || b.kind == blockReach {
		return b.raw > mostRaw || b.raw > 8*mostCounters(file)
	}
	return absurd(b.raw, len(b.stored))
}

// open gives what is in a block.
func (b block) open() ([]byte, error) {
	if b.how == storedPlain {
		return b.stored, nil
	}
	out, ok := unpackTo(b.stored, b.raw)
	if !ok {
		return nil, fmt.Errorf("the block %q does not decompress", b.kind)
	}
	return out, nil
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
		r.Sets = reach.Of(r.Info.Reachers())
		return nil
	}
	if !slices.IsSorted(x.Labels) {
		return errors.New("its labels are not in order")
	}
	r.Sets = reach.Of(x.Labels)
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

// Loaded is what a recording holds of a file.
type Loaded struct {
	Table    *site.Table
	Counters []uint64 // nil if no process had the file in it
	Reach    []uint32 // for each counter, which of the recording's Sets reached it
}

// Load gives what is held of file i. What was measured in several ways is united:
// at the shallowest level, and with counts only if all of it has them, since that is
// what all of it can say.
func (r *Recording) Load(i int) (Loaded, error) {
	var u uniting
	for n := r.files[i][0]; n < r.files[i][1]; n++ {
		one := &r.rows[n]
		t, err := one.open()
		if err != nil {
			return Loaded{}, &DamagedError{r.Path, err.Error()}
		}
		if one.width == notLoaded {
			u.add(t, nil, nil)
			continue
		}
		counters, reached := make([]uint64, one.counters), make([]uint32, one.counters)
		r.Counts(n, counters)
		r.Reached(n, counters, reached)
		u.add(t, counters, reached)
	}
	return u.loaded(), nil
}

// Together gives what Load will give of a file that is put into a recording, but for
// who reached what.
func Together(rows []File) (Loaded, error) {
	var u uniting
	for _, f := range rows {
		t, err := UnpackTable(f.Table)
		if err != nil {
			return Loaded{}, err
		}
		u.add(t, f.Counters, nil)
	}
	return u.loaded(), nil
}

// uniting puts together what is known of a file that was measured in several ways.
type uniting struct {
	tables, ran []*site.Table
	counters    []uint64
	reach       []uint32
}

func (u *uniting) add(t *site.Table, counters []uint64, reached []uint32) {
	u.tables = append(u.tables, t)
	if counters != nil {
		u.ran = append(u.ran, t)
	} else {
		counters = make([]uint64, t.Counters)
	}
	if reached == nil {
		reached = make([]uint32, t.Counters)
	}
	u.counters, u.reach = append(u.counters, counters...), append(u.reach, reached...)
}

func (u *uniting) loaded() Loaded {
	out := Loaded{Table: u.tables[0]}
	if len(u.tables) > 1 {
		out.Table = site.Unite(u.tables)
		// Where a file was in no program that ran, nothing of it ran, however deep one
		// looked.
		if len(u.ran) > 0 {
			site.Limit(out.Table, u.ran)
		} else {
			site.Limit(out.Table, u.tables)
		}
	}
	if u.ran != nil {
		out.Counters, out.Reach = u.counters, u.reach
		if out.Counters == nil {
			out.Counters = []uint64{} // a file without counters may have been loaded too
		}
	}
	return out
}

func (one *row) open() (*site.Table, error) {
	raw, ok := unpack(one.table)
	if !ok {
		return nil, fmt.Errorf("the site table of %q does not decompress", one.path)
	}
	t, err := DecodeTable(raw)
	if err == nil && (t.Counters != one.counters || t.Path != one.path || t.Digest != one.digest) {
		err = fmt.Errorf("the site table of %q does not belong to it", one.path)
	}
	return t, err
}
