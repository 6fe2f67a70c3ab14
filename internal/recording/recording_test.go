package recording

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/site"
)

func sample(t testing.TB) []byte {
	table := &site.Table{
		Path: "fare/fare.go", Language: "go", Unit: "0123", Digest: "4567", Level: site.Branches, Keep: site.Counts, Lines: 9, Counters: 3,
		Functions:  []site.Function{{Name: "Price", Span: site.Span{Start: site.Pos{Line: 3, Column: 1}, End: site.Pos{Line: 9, Column: 2}}, Sum: site.Sum{0}}},
		Statements: []site.Statement{{Span: site.Span{Start: site.Pos{Line: 4, Column: 2}, End: site.Pos{Line: 6, Column: 3}}, Head: site.Pos{Line: 4, Column: 8}, Sum: site.Sum{1, 2}}},
		Decisions: []site.Decision{{Kind: "if", Pos: site.Pos{Line: 4, Column: 2}, Outcomes: []site.Outcome{
			{Label: "true", Pos: site.Pos{Line: 4, Column: 2}, Sum: site.Sum{1}}, {Label: "false", Pos: site.Pos{Line: 4, Column: 2}, Sum: site.Sum{2}}}}},
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

func FuzzDecode(f *testing.F) {
	f.Add(sample(f))
	f.Fuzz(func(t *testing.T, data []byte) {
		r, err := Decode("fuzz", data)
		if err != nil {
			return
		}
		for i := range r.Len() {
			_, _ = r.Load(i)
		}
	})
}

func FuzzDecodeTable(f *testing.F) {
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
