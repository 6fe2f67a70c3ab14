package recording

import (
	"testing"

	"github.com/fxamacker/cbor/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
)

func sample(t testing.TB) []byte {
	table := &site.Table{
		Path: "fare/fare.go", Language: "go", Unit: "0123", Digest: "4567", Level: site.Branches, Keep: site.Counts, Lines: 9, Counters: 3,
		Functions:  []site.Function{{Name: "Price", Span: site.Span{Start: site.Pos{Line: 3, Column: 1}, End: site.Pos{Line: 9, Column: 2}}, Sum: site.Sum{0}}},
		Statements: []site.Statement{{Span: site.Span{Start: site.Pos{Line: 4, Column: 2}, End: site.Pos{Line: 6, Column: 3}}, Head: site.Pos{Line: 4, Column: 8}, Sum: site.Sum{1, 2}}},
		Decisions: []site.Decision{{Kind: "if", Pos: site.Pos{Line: 4, Column: 2}, Outcomes: []site.Outcome{
			{Way: site.True.Way(), Pos: site.Pos{Line: 4, Column: 2}, Sum: site.Sum{1}}, {Way: site.False.Way(), Pos: site.Pos{Line: 4, Column: 2}, Sum: site.Sum{2}}}}},
		Waivers:   []site.Waiver{{Line: 5, EndLine: 6, Reason: "cannot happen"}},
		Continued: []uint32{7},
	}
	data, err := Encode(Info{Part: Part{Command: []string{"go", "test"}, Labels: []string{"unit"}, Processes: 1}}, []File{
		{Path: "fare/fare.go", Digest: "4567", Table: mustPack(t, table), NumCounters: 3, Counters: []uint64{3, 1, 1 << 40}},
		{Path: "fare/idle.go", Digest: "89ab", Table: mustPack(t, &site.Table{Path: "fare/idle.go", Digest: "89ab", Counters: 2}), NumCounters: 2},
	}, nil)
	require.NoError(t, err)
	back, err := must(Decode("x", data)).Load(0)
	require.NoError(t, err)
	require.Equal(t, table, back.Table)
	require.Equal(t, []uint64{3, 1, 1 << 40}, back.Counters)
	return data
}

func mustPack(t testing.TB, table *site.Table) []byte {
	packed, err := PackTable(table)
	require.NoError(t, err)
	return packed
}

func mustEncode(t testing.TB, table *site.Table) []byte {
	wire, err := EncodeTable(table)
	require.NoError(t, err)
	return wire
}

func must(r *Recording, err error) *Recording {
	if err != nil {
		panic(err)
	}
	return r
}

func TestEveryFlippedBitIsNoticed(t *testing.T) {
	data := sample(t)
	for i := range data {
		for bit := range 8 {
			bad := append([]byte(nil), data...)
			bad[i] ^= 1 << bit
			_, err := Decode("bad.thrush", bad)
			require.Error(t, err, "byte %d, bit %d", i, bit)
			assert.Contains(t, err.Error(), "bad.thrush")
		}
	}
}

func TestEveryCutIsNoticed(t *testing.T) {
	data := sample(t)
	for n := range data {
		_, err := Decode("cut.thrush", data[:n])
		require.Error(t, err, "cut at %d", n)
	}
	_, err := Decode("long.thrush", append(data, 0))
	require.ErrorContains(t, err, "after its end")
}

// Whatever blocks hold, with all checksums right, is refused or can be read to the end. Nothing is
// packed but tables: that takes most of the time, and hides from a fuzzer what it changes.
func FuzzDecode(f *testing.F) {
	blocks, _, err := blocksOf("sample", sample(f))
	require.NoError(f, err)
	opened := func(kind string) []byte {
		raw, err := blocks[kind].open()
		require.NoError(f, err)
		return raw
	}
	var x index
	require.NoError(f, Unmarshal(opened(blockIndex), &x))
	table, ok := unpack(blocks[blockTables].stored[:x.Tables[0]])
	require.True(f, ok)
	x.Paths, x.Digests, x.Tables, x.Counters, x.Widths = x.Paths[:1], x.Digests[:1], x.Tables[:1], x.Counters[:1], []byte{1}
	f.Add(opened(blockInfo), mustMarshal(f, x), table, []byte{3, 1, 4}, []byte{})
	x.Labels, x.Sets = []string{"", "unit"}, [][]uint32{{0}, {0, 1}}
	f.Add(opened(blockInfo), mustMarshal(f, x), table, []byte{3, 1, 4}, []byte{1, 2, 0})
	for _, seed := range real(f) {
		f.Add(seed.info, seed.index, seed.table, seed.counts, seed.reached)
	}
	f.Fuzz(func(t *testing.T, info, index, table, counts, reached []byte) {
		tables := pack(table)
		w := begin(len(tables))
		for _, b := range []struct {
			kind string
			raw  []byte
		}{{blockInfo, info}, {blockIndex, sized(index, len(tables))}, {blockTables, tables}, {blockCounts, counts}, {blockReach, reached}} {
			w.block(b.kind, storedPlain, b.raw, len(b.raw))
		}
		r, err := Decode("fuzz", w.end())
		if err != nil {
			return
		}
		for i := range r.Len() {
			l, err := r.Load(i)
			if err != nil {
				continue
			}
			resolved := coverage.ResolveReach(l.Table, coverage.Counted{Counters: l.Counters, Reach: l.Reach, Sets: r.Sets})
			require.LessOrEqual(t, resolved.Totals.Of(coverage.Lines).Covered, resolved.Totals.Of(coverage.Lines).Total)
		}
	})
}

// realSeed is one file of a real recording, a merge at the level of conditions, in blocks of its
// own.
type realSeed struct{ info, index, table, counts, reached []byte }

func real(t testing.TB) (seeds []realSeed) {
	rec, err := Open("testdata/skerry.thrush")
	require.NoError(t, err)
	info := mustMarshal(t, rec.Info.plain())
	for _, one := range rec.rows {
		table, ok := unpack(one.table)
		require.True(t, ok)
		x := index{Paths: []string{one.path}, Digests: []string{one.digest}, Tables: []uint64{0}, Counters: []uint64{uint64(one.counters)}, Widths: []byte{one.width},
			Labels: []string{"e2e", "unit"}, Sets: [][]uint32{{0}, {1}, {0, 1}}}
		seed := realSeed{info: info, table: table}
		if one.width != notLoaded {
			seed.counts = rec.counts[one.at : one.at+one.counters*int(one.width)]
			seed.reached = rec.reach[one.reachAt : one.reachAt+one.counters*int(rec.each)]
		}
		seed.index = mustMarshal(t, x)
		seeds = append(seeds, seed)
	}
	require.NotEmpty(t, seeds)
	return seeds
}

// sized has an index of one file say how long its table is, which a fuzzer cannot know.
func sized(data []byte, table int) []byte {
	var x index
	if Unmarshal(data, &x) != nil || len(x.Tables) == 0 {
		return data
	}
	x.Tables = make([]uint64, len(x.Tables))
	x.Tables[0] = uint64(table)
	if out, err := cbor.Marshal(x); err == nil {
		return out
	}
	return data
}

func mustMarshal(t testing.TB, v any) []byte {
	data, err := cbor.Marshal(v)
	require.NoError(t, err)
	return data
}

func FuzzDecodeTable(f *testing.F) {
	for _, seed := range real(f) {
		f.Add(seed.table)
	}
	f.Add(mustEncode(f, &site.Table{Path: "a.go", Counters: 2, Functions: []site.Function{{Name: "f", Sum: site.Sum{1}}}}))
	f.Fuzz(func(t *testing.T, data []byte) {
		table, err := DecodeTable(data)
		if err != nil {
			return
		}
		counters := make([]uint64, min(table.Counters, 1<<16))
		for _, s := range table.Statements {
			if table.Counters <= len(counters) {
				s.Sum.Of(counters)
			}
			_ = table.Functions[s.Function]
		}
	})
}
