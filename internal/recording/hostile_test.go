package recording

import (
	"fmt"
	"os"
	"path/filepath"
	"runtime"
	"testing"
	"time"

	"github.com/fxamacker/cbor/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/attribution"
	"thrush/internal/core/site"
)

// forged is a recording with whatever blocks one likes, all of its checksums right.
func forged(t testing.TB, x index, tables []byte, change func(kind string, stored *[]byte, raw *int)) []byte {
	info, err := cbor.Marshal(Info{})
	require.NoError(t, err)
	list, err := cbor.Marshal(x)
	require.NoError(t, err)
	w := begin(0)
	put := func(kind string, how uint32, stored []byte, raw int) {
		if change != nil {
			change(kind, &stored, &raw)
		}
		w.block(kind, how, stored, raw)
	}
	put(blockInfo, storedPacked, pack(info), len(info))
	put(blockIndex, storedPacked, pack(list), len(list))
	put(blockTables, storedPlain, tables, len(tables))
	put(blockCounts, storedPacked, pack(nil), 0)
	put(blockReach, storedPacked, pack(nil), 0)
	return w.end()
}

func one(path string, table int, counters uint64, width byte) index {
	return index{Paths: []string{path}, Digests: []string{"00"}, Tables: []uint64{uint64(table)}, Counters: []uint64{counters}, Widths: []byte{width}}
}

// Whoever made it, a file is refused before it takes more time or memory than its size
// deserves.
func TestHostileRecordingsAreRefused(t *testing.T) {
	bomb := pack(make([]byte, 256<<20))
	runtime.GC()
	for name, c := range map[string]struct {
		data []byte
		says string
	}{
		"outside":       {forged(t, one("../../etc/passwd", 0, 0, notLoaded), nil, nil), "no file of a project"},
		"absolute":      {forged(t, one("/etc/passwd", 0, 0, notLoaded), nil, nil), "no file of a project"},
		"not clean":     {forged(t, one("fare//fare.go", 0, 0, notLoaded), nil, nil), "no file of a project"},
		"no name":       {forged(t, one("", 0, 0, notLoaded), nil, nil), "no file of a project"},
		"many counters": {forged(t, one("fare.go", 0, 1<<30, 0), nil, nil), "which cannot be"},
		"more":          {forged(t, one("fare.go", 0, 1<<62, 8), nil, nil), "which cannot be"},
		"table outside": {forged(t, one("fare.go", 99, 1, 0), nil, nil), "lies outside"},
		"count outside": {forged(t, one("fare.go", 0, 9, 8), nil, nil), "lie outside"},
		"odd width":     {forged(t, one("fare.go", 0, 1, 3), nil, nil), "not as they were written"},
		"left over":     {forged(t, index{}, []byte("more"), nil), "more in it than its index says"},
		"uneven":        {forged(t, index{Paths: []string{"a.go", "b.go"}, Digests: []string{"00"}}, nil, nil), "does not hold together"},
		"out of order":  {forged(t, index{Paths: []string{"b.go", "a.go"}, Digests: []string{"0", "0"}, Tables: []uint64{0, 0}, Counters: []uint64{0, 0}, Widths: []byte{255, 255}}, nil, nil), "not where it belongs"},
		"two texts":     {forged(t, index{Paths: []string{"a.go", "a.go"}, Digests: []string{"0", "1"}, Tables: []uint64{0, 0}, Counters: []uint64{0, 0}, Widths: []byte{255, 255}}, nil, nil), "not where it belongs"},
		"strange set":   {forged(t, index{Labels: []string{"unit"}, Sets: [][]uint32{{7}}}, nil, nil), "set of labels"},
		"bomb": {forged(t, index{}, nil, func(kind string, stored *[]byte, raw *int) {
			if kind == blockCounts {
				*stored, *raw = bomb, 256<<20
			}
		}), "which cannot be"},
		"hidden bomb": {forged(t, index{}, nil, func(kind string, stored *[]byte, raw *int) {
			if kind == blockCounts {
				*stored = bomb
			}
		}), "does not decompress"},
		"huge": {forged(t, index{}, nil, func(kind string, _ *[]byte, raw *int) {
			if kind == blockInfo {
				*raw = 1 << 60
			}
		}), "which cannot be"},
	} {
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		start := time.Now()
		_, err := Decode("hostile.thrush", c.data)
		runtime.ReadMemStats(&after)
		if assert.Error(t, err, name) {
			assert.Contains(t, err.Error(), c.says, name)
			assert.Contains(t, err.Error(), "hostile.thrush is damaged", name)
		}
		assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(8<<20), name)
		assert.Less(t, time.Since(start), 2*time.Second, name)
	}
	rec, err := Decode("x", forged(t, one("fare.go", len(bomb), 1, notLoaded), bomb, nil))
	require.NoError(t, err)
	_, err = rec.Load(0)
	require.ErrorContains(t, err, "does not decompress")
}

// What is honest is read, also if nearly all of it is zero.
func TestIdleRecordingsAreRead(t *testing.T) {
	var files []File
	for i := range 20 {
		own := &site.Table{Path: fmt.Sprintf("fare/f%02d.go", i), Counters: 60_000, Functions: []site.Function{{Name: "Price"}}}
		for k := range own.Counters {
			own.Statements = append(own.Statements, site.Statement{Sum: site.Sum{uint32(k)}, Mark: uint64(k) * 0x9e3779b97f4a7c15})
		}
		f := File{Path: own.Path, Table: mustPack(t, own), NumCounters: own.Counters, Counters: make([]uint64, own.Counters)}
		f.Counters[7] = 1 << 40
		files = append(files, f)
	}
	data, err := Encode(Info{}, files, nil)
	require.NoError(t, err)
	rec, err := Decode("idle.thrush", data)
	require.NoError(t, err)
	l, err := rec.Load(19)
	require.NoError(t, err)
	require.EqualValues(t, 1<<40, l.Counters[7])
}

// A file is read whole or refused, also by looking at its beginning only.
func FuzzPeek(f *testing.F) {
	sets := attribution.Of([]string{"", "unit"})
	table := mustPack(f, &site.Table{Path: "fare.go", Digest: "00", Counters: 2})
	data, err := Encode(Info{Parts: []Part{{ID: "a"}, {ID: "b", Labels: []string{"unit"}}}}, []File{
		{Path: "fare.go", Digest: "00", Table: table, NumCounters: 2, Counters: []uint64{1, 2}, Reach: []uint32{sets.All(), sets.Named([]string{"unit"})}}}, sets)
	require.NoError(f, err)
	f.Add(data)
	whole, err := os.ReadFile("testdata/skerry.thrush")
	require.NoError(f, err)
	f.Add(whole)
	path := filepath.Join(f.TempDir(), "x.thrush")
	f.Fuzz(func(t *testing.T, data []byte) {
		require.NoError(t, os.WriteFile(path, data, 0o666))
		info, identity, err := Peek(path)
		rec, whole := Open(path)
		if whole == nil {
			require.NoError(t, err)
			require.Equal(t, rec.Identity, identity)
			require.Equal(t, rec.Info.Parts, info.Parts)
			for i := range rec.Len() {
				if l, err := rec.Load(i); err == nil && l.Reach != nil {
					for _, set := range l.Reach {
						rec.Sets.Names(set)
					}
				}
			}
			_, pieces, err := Cut(path, data)
			require.NoError(t, err)
			_, again, err := pieces.Join(rec.Identity)
			require.NoError(t, err)
			require.Equal(t, data, again)
		}
	})
}
