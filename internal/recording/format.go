// Package recording reads and writes *.thrush files: what one run of a command
// under Thrush, or a merge of such runs, measured. docs/recording-format.md
// describes the format for those who want to read it with other programs.
package recording

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"

	"io/fs"
	"os"
	"slices"
	"strings"
	"sync"
	"unicode/utf8"

	"github.com/cespare/xxhash/v2"
	"github.com/fxamacker/cbor/v2"
	"github.com/klauspost/compress/zstd"

	"thrush/internal/core/site"
)

// Version is the version of the format that this program writes. It reads
// no newer one.
const Version = 1

// Extension ends the name of every recording.
const Extension = ".thrush"

var magic = []byte("thrush\r\n")

// The kinds of blocks.
const (
	blockInfo   = "info"
	blockIndex  = "indx"
	blockTables = "tabl"
	blockCounts = "cnts"
	blockEnd    = "end\n"
)

// Before each block's bytes stand its kind (4 bytes), 4 bytes of zero, and as
// 64-bit integers how many bytes are stored, compressed with zstd (RFC 8878), how
// many they become, and the XXH64 of those stored. All integers are little-endian.
const blockHeadSize = 32

// Unmeasured is a source file that could not be measured.
type Unmeasured struct {
	Path   string `cbor:"path" json:"path"`
	Reason string `cbor:"reason" json:"reason"`
}

// LeftOut counts the source files that are left out by rule.
type LeftOut struct {
	Tests     int `cbor:"tests" json:"tests"`         // test code and its data
	Generated int `cbor:"generated" json:"generated"` // written by a program, or vendored
	Skipped   int `cbor:"skipped" json:"skipped"`     // by only and skip in the configuration
}

// Info says where a recording comes from.
type Info struct {
	Tool       string       `cbor:"tool"`    // version of Thrush
	Project    string       `cbor:"project"` // its name
	When       string       `cbor:"when"`    // RFC 3339, UTC, when the command began
	Took       int64        `cbor:"took_ms"` // milliseconds the command took
	Command    []string     `cbor:"command"`
	Exit       int          `cbor:"exit"` // exit status of the command
	Commit     string       `cbor:"commit,omitempty"`
	Dirty      bool         `cbor:"dirty,omitempty"` // the work tree differed from the commit
	Labels     []string     `cbor:"labels,omitempty"`
	Level      string       `cbor:"level"`
	Keep       string       `cbor:"keep"`
	Processes  int          `cbor:"processes"` // how many reported counts
	Unmeasured []Unmeasured `cbor:"unmeasured,omitempty"`
	LeftOut    LeftOut      `cbor:"left_out"`
	Passed     []string     `cbor:"passed,omitempty"`   // generated files that would count otherwise
	Problems   []string     `cbor:"problems,omitempty"` // waivers in the sources that cannot be honoured
	Notes      []string     `cbor:"notes,omitempty"`    // what a reader should know
}

// plain spells out the bytes that are no UTF-8 text, which names of files and
// words of commands may hold but the format cannot.
func (i Info) plain() Info {
	all := func(list []string) []string {
		out := slices.Clone(list)
		for j := range out {
			out[j] = plain(out[j])
		}
		return out
	}
	i.Project, i.Command, i.Labels = plain(i.Project), all(i.Command), all(i.Labels)
	i.Passed, i.Problems, i.Notes = all(i.Passed), all(i.Problems), all(i.Notes)
	i.Unmeasured = slices.Clone(i.Unmeasured)
	for j, u := range i.Unmeasured {
		i.Unmeasured[j] = Unmeasured{plain(u.Path), plain(u.Reason)}
	}
	return i
}

func plain(s string) string {
	if utf8.ValidString(s) {
		return s
	}
	var b strings.Builder
	for len(s) > 0 {
		c, n := utf8.DecodeRuneInString(s)
		if c == utf8.RuneError && n == 1 {
			fmt.Fprintf(&b, `\x%02x`, s[0])
		} else {
			b.WriteString(s[:n])
		}
		s = s[n:]
	}
	return b.String()
}

// entry is a file's line in the index.
type entry struct {
	Path     string `cbor:"path"`
	Digest   string `cbor:"digest"`
	Table    uint64 `cbor:"table"` // offset in the tables block
	Size     uint64 `cbor:"size"`
	Counters uint64 `cbor:"counters"` // how many
	At       uint64 `cbor:"at"`       // index of its first counter in the counts block, if loaded
	Loaded   bool   `cbor:"loaded"`   // a process that had the file in it reported
}

// File is one source file to put into a recording.
type File struct {
	Path, Digest string
	Table        []byte   // as EncodeTable gives it
	NumCounters  int      // how many counters the table has
	Counters     []uint64 // nil if no process had the file in it
}

// Kept gives the compressed form of bytes that it has seen before, or has them
// compressed and remembers it. Site tables seldom change, and compressing them
// takes longer than all the rest.
type Kept func(raw []byte, compress func() []byte) []byte

// Encode gives the bytes of a recording. Files are put in the order of their
// paths. kept may be nil.
func Encode(info Info, files []File, kept Kept) ([]byte, error) {
	if kept == nil {
		kept = func(_ []byte, compress func() []byte) []byte { return compress() }
	}
	slices.SortFunc(files, func(a, b File) int { return bytes.Compare([]byte(a.Path), []byte(b.Path)) })
	var tables, counts []byte
	index := make([]entry, 0, len(files))
	at := uint64(0)
	for _, f := range files {
		e := entry{Path: f.Path, Digest: f.Digest, Table: uint64(len(tables)), Size: uint64(len(f.Table)),
			Counters: uint64(f.NumCounters), Loaded: f.Counters != nil}
		if e.Loaded {
			e.At = at
			at += e.Counters
			for _, n := range f.Counters {
				counts = binary.LittleEndian.AppendUint64(counts, n)
			}
		}
		tables = append(tables, f.Table...)
		index = append(index, e)
	}
	infoBytes, err := cbor.Marshal(info.plain())
	if err != nil {
		return nil, err
	}
	indexBytes, err := cbor.Marshal(index)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	out.Write(magic)
	_ = binary.Write(&out, binary.LittleEndian, []uint32{Version, 4})
	put := func(kind string, raw []byte) { putHead(&out, kind, compress(raw), len(raw)) }
	put(blockInfo, infoBytes)
	put(blockIndex, indexBytes)
	putHead(&out, blockTables, kept(tables, func() []byte { return compress(tables) }), len(tables))
	put(blockCounts, counts)
	sum := binary.LittleEndian.AppendUint64(nil, xxhash.Sum64(out.Bytes()))
	putHead(&out, blockEnd, sum, len(sum))
	return out.Bytes(), nil
}

var encoder = sync.OnceValue(func() *zstd.Encoder {
	e, err := zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest), zstd.WithEncoderConcurrency(1))
	if err != nil {
		panic(err) // options are constant
	}
	return e
})

var decoder = sync.OnceValue(func() *zstd.Decoder {
	d, err := zstd.NewReader(nil, zstd.WithDecoderConcurrency(1), zstd.WithDecoderMaxMemory(4<<30))
	if err != nil {
		panic(err) // options are constant
	}
	return d
})

func compress(raw []byte) []byte { return encoder().EncodeAll(raw, nil) }

func putHead(out *bytes.Buffer, kind string, stored []byte, raw int) {
	out.WriteString(kind)
	_ = binary.Write(out, binary.LittleEndian, uint32(0))
	_ = binary.Write(out, binary.LittleEndian, []uint64{uint64(len(stored)), uint64(raw), xxhash.Sum64(stored)})
	out.Write(stored)
}

// ErrNewer says that a recording was written by a newer Thrush.
var ErrNewer = errors.New("written by a newer Thrush; update this one to read it")

// DamagedError says that a file is no whole recording.
type DamagedError struct {
	Path string
	What string
}

func (e *DamagedError) Error() string {
	return fmt.Sprintf("%s is damaged: %s. Nothing of it is used; record again, or use another recording", e.Path, e.What)
}

// Recording is a recording opened for reading. Site tables are decoded when
// they are asked for.
type Recording struct {
	Path string
	ID   string // as ID gives it
	Info Info

	index  []entry
	byPath map[string]int
	tables []byte
	counts []byte
}

// Open reads a recording and checks every byte of it.
func Open(path string) (*Recording, error) {
	data, err := os.ReadFile(path)
	if err != nil {
		if errors.Is(err, fs.ErrNotExist) {
			return nil, fmt.Errorf("there is no recording %s", path)
		}
		return nil, err
	}
	return Decode(path, data)
}

// Decode reads a recording from its bytes. The path is only named in errors.
func Decode(path string, data []byte) (*Recording, error) {
	damaged := func(format string, args ...any) (*Recording, error) {
		return nil, &DamagedError{path, fmt.Sprintf(format, args...)}
	}
	if len(data) < 16 || !bytes.Equal(data[:8], magic) {
		if len(data) >= 6 && bytes.Equal(data[:6], magic[:6]) {
			return damaged("its beginning is cut short or was changed as if it were text")
		}
		return damaged("it does not begin as a recording does")
	}
	if v := binary.LittleEndian.Uint32(data[8:]); v == 0 {
		return damaged("its version is 0")
	} else if v > Version {
		return nil, fmt.Errorf("%s: %w", path, ErrNewer)
	}
	blocks := map[string][]byte{}
	for at := 16; ; {
		if len(data)-at < blockHeadSize {
			return damaged("it is cut short at byte %d", len(data))
		}
		kind := string(data[at : at+4])
		stored := binary.LittleEndian.Uint64(data[at+8:])
		raw := binary.LittleEndian.Uint64(data[at+16:])
		sum := binary.LittleEndian.Uint64(data[at+24:])
		body := at + blockHeadSize
		if binary.LittleEndian.Uint32(data[at+4:]) != 0 {
			return damaged("the head of the block at byte %d is not as it was written", at)
		}
		if stored > uint64(len(data)-body) {
			return damaged("it is cut short at byte %d", len(data))
		}
		payload := data[body : body+int(stored)]
		if xxhash.Sum64(payload) != sum {
			return damaged("the block %q at byte %d does not match its checksum", kind, at)
		}
		if kind == blockEnd {
			if stored != 8 || raw != 8 || binary.LittleEndian.Uint64(payload) != xxhash.Sum64(data[:at]) {
				return damaged("the bytes before %d do not match the checksum at the end", at)
			}
			if body+8 != len(data) {
				return damaged("there are %d bytes after its end", len(data)-body-8)
			}
			break
		}
		out, err := decoder().DecodeAll(payload, make([]byte, 0, min(raw, 64<<20)))
		if err != nil || uint64(len(out)) != raw {
			return damaged("the block %q at byte %d does not decompress", kind, at)
		}
		blocks[kind] = out
		at = body + int(stored)
	}
	r := &Recording{Path: path, ID: ID(data), tables: blocks[blockTables], counts: blocks[blockCounts]}
	if err := Unmarshal(blocks[blockInfo], &r.Info); err != nil {
		return damaged("its description cannot be read: %v", err)
	}
	if err := Unmarshal(blocks[blockIndex], &r.index); err != nil {
		return damaged("its index cannot be read: %v", err)
	}
	r.byPath = make(map[string]int, len(r.index))
	for i, e := range r.index {
		r.byPath[e.Path] = i
		if e.Table > uint64(len(r.tables)) || e.Size > uint64(len(r.tables))-e.Table {
			return damaged("the table of %q lies outside it", e.Path)
		}
		if n := uint64(len(r.counts)) / 8; e.Loaded && (e.At > n || e.Counters > n-e.At) {
			return damaged("the counts of %q lie outside it", e.Path)
		}
	}
	return r, nil
}

// Len is the number of files.
func (r *Recording) Len() int { return len(r.index) }

// Name is the path of file i, from the project's root.
func (r *Recording) Name(i int) string { return r.index[i].Path }

// Digest is the digest of the text of file i that was measured.
func (r *Recording) Digest(i int) string { return r.index[i].Digest }

// Find gives the index of the file with the given path, or -1.
func (r *Recording) Find(path string) int {
	if i, ok := r.byPath[path]; ok {
		return i
	}
	return -1
}

// Load gives the site table and the counters of file i. The counters are nil
// if no process had the file in it.
func (r *Recording) Load(i int) (*site.Table, []uint64, error) {
	e := r.index[i]
	t, err := DecodeTable(r.tables[e.Table : e.Table+e.Size])
	if err == nil && (uint64(t.Counters) != e.Counters || t.Path != e.Path) {
		err = fmt.Errorf("site table of %q does not belong to it", e.Path)
	}
	if err != nil {
		return nil, nil, &DamagedError{r.Path, err.Error()}
	}
	if !e.Loaded {
		return t, nil, nil
	}
	counters := make([]uint64, e.Counters)
	for j := range counters {
		counters[j] = binary.LittleEndian.Uint64(r.counts[(e.At+uint64(j))*8:])
	}
	return t, counters, nil
}

// ID is a short name for a recording's bytes: 8 hexadecimal digits.
func ID(data []byte) string { return fmt.Sprintf("%016x", xxhash.Sum64(data))[:8] }
