package merging

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/site"
	"thrush/internal/recording"
)

func pos(line int) site.Pos { return site.Pos{Line: line, Column: 2} }

// table is a file of one function with so many statements on lines of their own, each
// with a counter of its own, and an if on the second line, if the level tells of it.
func table(path string, statements int, level site.Level, keep site.Keep) *site.Table {
	span := func(from, to int) site.Span {
		return site.Span{Start: pos(from), End: site.Pos{Line: to, Column: 9}}
	}
	t := &site.Table{Path: path, Language: "Go", Digest: fmt.Sprintf("%016x", statements), Level: level, Keep: keep, Lines: statements + 2, Counters: statements + 2,
		Functions: []site.Function{{Name: "Price", Span: span(1, statements+2), Sum: site.Sum{0}, Mark: 7}}}
	for i := range statements {
		t.Statements = append(t.Statements, site.Statement{Span: span(i+2, i+2), Head: site.Pos{Line: i + 2, Column: 9}, Sum: site.Sum{uint32(i)}, Mark: uint64(100 + i)})
	}
	if level >= site.Branches {
		t.Decisions = []site.Decision{{Kind: "if", Pos: pos(2), Mark: 9, Outcomes: []site.Outcome{
			{Way: site.True.Way(), Pos: pos(2), Sum: site.Sum{uint32(statements)}}, {Way: site.False.Way(), Pos: pos(2), Sum: site.Sum{uint32(statements + 1)}}}}}
	}
	return t
}

// random makes a recording of some of three files.
func random(t *testing.T, r *rand.Rand, n int, mixed bool) *recording.Recording {
	level, keep := site.Branches, site.Counts
	if mixed {
		level, keep = site.Level(1+r.IntN(2)), site.Keep(1+r.IntN(2))
	}
	info := recording.Info{Run: fmt.Sprint(n), Project: "skerry-ferries", Part: recording.Part{
		Tool: "test", When: fmt.Sprintf("2026-03-02T08:00:%02dZ", r.IntN(60)), Took: int64(r.IntN(9)), Command: []string{"go", "test"}, Exit: r.IntN(2),
		Level: level.String(), Keep: keep.String(), Processes: 1, Commit: "c0ffee"}}
	for _, l := range []string{"unit", "e2e", "load"} {
		if r.IntN(3) == 0 {
			info.Labels = append(info.Labels, l)
		}
	}
	if r.IntN(2) == 0 {
		info.Notes = []string{fmt.Sprint("note ", r.IntN(3))}
		info.Unmeasured = []recording.Unmeasured{{Path: "deck/plan.go", Reason: fmt.Sprint("reason ", r.IntN(2))}}
	}
	var files []recording.File
	for i, path := range []string{"deck/deck.go", "fare/fare.go", "timetable/timetable.go"} {
		if r.IntN(4) == 0 {
			continue
		}
		own := table(path, 3+i, level, keep)
		packed, err := recording.PackTable(own)
		require.NoError(t, err)
		f := recording.File{Path: path, Digest: own.Digest, Table: packed, NumCounters: own.Counters}
		if r.IntN(3) > 0 {
			f.Counters = make([]uint64, own.Counters)
			for j := range f.Counters {
				f.Counters[j] = uint64(r.IntN(3)) << r.IntN(40)
			}
		}
		files = append(files, f)
	}
	data, err := recording.Encode(info, files, nil)
	require.NoError(t, err)
	rec, err := recording.Decode(fmt.Sprintf("run %d", n), data)
	require.NoError(t, err)
	return rec
}

func merged(t *testing.T, list ...*recording.Recording) (*recording.Recording, []byte) {
	var inputs []Input
	for _, r := range list {
		inputs = append(inputs, Loaded(r))
	}
	m, err := Merge(inputs, Options{})
	require.NoError(t, err)
	data, err := m.Data()
	require.NoError(t, err)
	rec, err := recording.Decode("merged", data)
	require.NoError(t, err)
	return rec, data
}

// tree merges a list in some order, some of it first.
func tree(t *testing.T, r *rand.Rand, list []*recording.Recording) *recording.Recording {
	list = slices.Clone(list)
	r.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
	for len(list) > 1 {
		n := 2 + r.IntN(len(list)-1)
		one, _ := merged(t, list[:n]...)
		list = append(list[n:], one)
	}
	one, _ := merged(t, list...)
	return one
}

// Merging does not care for order, for what was merged before, or for what is given
// twice; and each count is the sum over the recordings, each label there if one of its
// recordings counted.
func TestMergeIsASet(t *testing.T) {
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 1))
		var list []*recording.Recording
		for n := range 1 + r.IntN(5) {
			list = append(list, random(t, r, n, seed%2 == 0))
		}
		whole, data := merged(t, list...)
		again := tree(t, r, list)
		require.Equal(t, whole.Identity, again.Identity, "seed %d: some merged first", seed)
		_, twice := merged(t, append(slices.Clone(list), whole, list[0])...)
		require.Equal(t, data, twice, "seed %d: given twice", seed)
		sums(t, seed, whole, list)
	}
}

func sums(t *testing.T, seed uint64, whole *recording.Recording, list []*recording.Recording) {
	for i := range whole.Len() {
		got, err := whole.Load(i)
		require.NoError(t, err)
		counts, labels := map[int]uint64{}, map[int]map[string]bool{}
		level, loaded := site.Conditions, false
		for _, rec := range list {
			j := rec.Find(whole.Name(i))
			if j < 0 {
				continue
			}
			own, err := rec.Load(j)
			require.NoError(t, err)
			if own.Counters == nil {
				continue
			}
			level, loaded = min(level, own.Table.Level), true
			for k, s := range own.Table.Statements {
				if n := s.Sum.Of(own.Counters); n > 0 {
					counts[k] += n
					if labels[k] == nil {
						labels[k] = map[string]bool{}
					}
					for _, l := range rec.Info.Reachers() {
						labels[k][l] = true
					}
				}
			}
		}
		if require.Equal(t, loaded, got.Counters != nil, "seed %d", seed); !loaded {
			continue
		}
		assert.Equal(t, level, got.Table.Level, "seed %d: as deep as all looked", seed)
		for k, s := range got.Table.Statements {
			require.Equal(t, counts[k], s.Sum.Of(got.Counters), "seed %d, statement %d of %s", seed, k, whole.Name(i))
			var set uint32
			for _, c := range s.Sum {
				set = whole.Sets.Union(set, got.Reach[c])
			}
			for _, l := range []string{"unit", "e2e", "load", ""} {
				require.Equal(t, labels[k][l], whole.Sets.Has(set, l), "seed %d, statement %d of %s, label %q", seed, k, whole.Name(i), l)
			}
		}
	}
}

func TestOverlapsAreRefused(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 1))
	a, b, c := random(t, r, 1, false), random(t, r, 2, false), random(t, r, 3, false)
	ab, _ := merged(t, a, b)
	bc, _ := merged(t, b, c)
	_, err := Merge([]Input{Loaded(ab), Loaded(bc)}, Options{})
	var shared *SharedError
	require.ErrorAs(t, err, &shared)
	assert.Equal(t, b.ID, shared.Run)
	m, err := Merge([]Input{Loaded(ab), Loaded(c), Loaded(a)}, Options{})
	require.NoError(t, err)
	assert.Len(t, m.Info.Parts, 3)
	assert.Len(t, m.Same, 1)
}

func TestVersionsAreRefusedOrCarried(t *testing.T) {
	make := func(run string, statements int, when string) *recording.Recording {
		own := table("fare/fare.go", statements, site.Branches, site.Counts)
		packed, err := recording.PackTable(own)
		require.NoError(t, err)
		counters := slices.Repeat([]uint64{2}, own.Counters)
		deck := table("deck/deck.go", 2, site.Branches, site.Counts)
		other, err := recording.PackTable(deck)
		require.NoError(t, err)
		data, err := recording.Encode(recording.Info{Run: run, Part: recording.Part{When: when, Level: "branches", Keep: "counts", Processes: 1}},
			[]recording.File{{Path: own.Path, Digest: own.Digest, Table: packed, NumCounters: own.Counters, Counters: counters},
				{Path: deck.Path, Digest: deck.Digest, Table: other, NumCounters: deck.Counters}}, nil)
		require.NoError(t, err)
		rec, err := recording.Decode(run, data)
		require.NoError(t, err)
		return rec
	}
	old, now := make("old", 3, "2026-03-02T08:00:00Z"), make("now", 5, "2026-03-03T08:00:00Z")
	_, err := Merge([]Input{Loaded(old), Loaded(now)}, Options{})
	var versions *VersionsError
	require.ErrorAs(t, err, &versions)
	assert.Equal(t, []string{"fare/fare.go"}, versions.Paths)
	for _, order := range [][]Input{{Loaded(old), Loaded(now)}, {Loaded(now), Loaded(old)}} {
		m, err := Merge(order, Options{Carry: true})
		require.NoError(t, err)
		data, err := m.Data()
		require.NoError(t, err)
		rec, err := recording.Decode("carried", data)
		require.NoError(t, err)
		l, err := rec.Load(rec.Find("fare/fare.go"))
		require.NoError(t, err)
		var counts []uint64
		for _, s := range l.Table.Statements {
			counts = append(counts, s.Sum.Of(l.Counters))
		}
		assert.Equal(t, []uint64{4, 4, 4, 2, 2}, counts, "those of both, and those of the newer one alone")
		assert.Equal(t, 1, m.Carried)
	}
	for left, gone := range map[string]func(string) bool{
		"":             func(string) bool { return true }, // then it is another project
		"deck/deck.go": func(path string) bool { return path == "deck/deck.go" },
	} {
		m, err := Merge([]Input{Loaded(old), Loaded(now)}, Options{Carry: true, Gone: gone})
		require.NoError(t, err)
		assert.Equal(t, left, strings.Join(m.Left, " "))
		assert.Len(t, m.Files, 3-len(m.Left))
	}
}
