package recording

import (
	"bytes"
	"encoding/binary"
	"slices"
	"strings"

	"github.com/cespare/xxhash/v2"
	"github.com/fxamacker/cbor/v2"

	"thrush/internal/core/attribution"
	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
)

// File is one source file to put into a recording, as it was measured in one way.
type File struct {
	Path, Digest string
	Table        []byte   // as PackTable gives it
	NumCounters  int      // how many counters the table has
	Counters     []uint64 // nil if no process had the file in it
	Reach        []uint32 // of a merge: for each counter, the set of labels that reached it
	// Idle are the totals of the file if nothing of it ran, where they are known. They
	// are not stored.
	Idle *coverage.Totals
}

// PackTable gives the stored form of a table, as it stands in a recording.
func PackTable(t *site.Table) ([]byte, error) {
	raw, err := EncodeTable(t)
	if err != nil {
		return nil, err
	}
	return pack(raw), nil
}

// Encode gives the bytes of a recording. Files are put in the order of their
// paths. sets are nil unless the files tell who reached them.
func Encode(info Info, files []File, sets *attribution.Sets) ([]byte, error) {
	slices.SortStableFunc(files, func(a, b File) int {
		if c := strings.Compare(a.Path, b.Path); c != 0 {
			return c
		}
		return bytes.Compare(a.Table, b.Table)
	})
	var x index
	var counts, reached []byte
	size := 0
	for _, f := range files {
		width := byte(notLoaded)
		if f.Counters != nil {
			width = widthOf(slices.Max(append(f.Counters[:len(f.Counters):len(f.Counters)], 0)))
			counts = put(counts, f.Counters, width)
		}
		x.Paths, x.Digests = append(x.Paths, f.Path), append(x.Digests, f.Digest)
		x.Tables, x.Counters = append(x.Tables, uint64(len(f.Table))), append(x.Counters, uint64(f.NumCounters))
		x.Widths = append(x.Widths, width)
		size += len(f.Table)
	}
	if sets != nil {
		var ids []uint32
		ids, x.Sets = number(files, sets)
		x.Labels = sets.Labels
		reached = put(nil, ids, widthOf(uint64(len(x.Sets))))
	}
	infoBytes, err := cbor.Marshal(info.plain())
	if err != nil {
		return nil, err
	}
	indexBytes, err := cbor.Marshal(x)
	if err != nil {
		return nil, err
	}
	tables := make([]byte, 0, size)
	for _, f := range files {
		tables = append(tables, f.Table...)
	}
	w := begin(size + len(counts)/2 + len(indexBytes))
	w.block(blockInfo, storedPacked, pack(infoBytes), len(infoBytes))
	w.block(blockIndex, storedPacked, pack(indexBytes), len(indexBytes))
	w.block(blockTables, storedPlain, tables, len(tables))
	w.block(blockCounts, storedPacked, pack(counts), len(counts))
	w.block(blockReach, storedPacked, pack(reached), len(reached))
	return w.end(), nil
}

// number gives the sets of all counters, numbered in the order in which they first
// come, and the sets.
func number(files []File, sets *attribution.Sets) (ids []uint32, lists [][]uint32) {
	again := map[uint32]uint32{0: 0}
	for _, f := range files {
		if f.Counters == nil {
			continue
		}
		for _, s := range f.Reach {
			n, ok := again[s]
			if !ok {
				lists = append(lists, sets.Members(s))
				n = uint32(len(lists))
				again[s] = n
			}
			ids = append(ids, n)
		}
	}
	return ids, lists
}

// put appends numbers, each in so many bytes.
func put[T uint32 | uint64](to []byte, list []T, width byte) []byte {
	to = slices.Grow(to, len(list)*int(width))
	switch width {
	case 1:
		for _, n := range list {
			to = append(to, byte(n))
		}
	case 2:
		for _, n := range list {
			to = binary.LittleEndian.AppendUint16(to, uint16(n))
		}
	case 4:
		for _, n := range list {
			to = binary.LittleEndian.AppendUint32(to, uint32(n))
		}
	case 8:
		for _, n := range list {
			to = binary.LittleEndian.AppendUint64(to, uint64(n))
		}
	}
	return to
}

// writer gathers blocks, and their heads once more for the checksum at the end.
type writer struct{ out, heads []byte }

// numBlocks is how many blocks there are before the end.
const numBlocks = 5

func begin(size int) *writer {
	w := &writer{out: make([]byte, 0, size+4096)}
	w.out = append(w.out, magic...)
	w.out = binary.LittleEndian.AppendUint32(w.out, Version)
	w.out = binary.LittleEndian.AppendUint32(w.out, numBlocks)
	return w
}

func (w *writer) end() []byte {
	sum := binary.LittleEndian.AppendUint64(nil, xxhash.Sum64(w.heads))
	w.block(blockEnd, storedPlain, sum, len(sum))
	return w.out
}

func (w *writer) block(kind string, how uint32, stored []byte, raw int) {
	head := binary.LittleEndian.AppendUint32([]byte(kind), how)
	head = binary.LittleEndian.AppendUint64(head, uint64(len(stored)))
	head = binary.LittleEndian.AppendUint64(head, uint64(raw))
	head = binary.LittleEndian.AppendUint64(head, xxhash.Sum64(stored))
	w.heads = append(w.heads, head...)
	w.out = append(append(w.out, head...), stored...)
}
