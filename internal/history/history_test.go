package history

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/site"
	"thrush/internal/merging"
	"thrush/internal/recording"
)

// both runs a test on a file and on a server.
func both(t *testing.T, test func(t *testing.T, where string)) {
	t.Run("file", func(t *testing.T) { test(t, filepath.Join(t.TempDir(), "with space", "history.db")) })
	t.Run("server", func(t *testing.T) {
		where, _ := server(t)
		test(t, where)
	})
}

func open(t *testing.T, where string) *Store {
	s, err := Open(context.Background(), where)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s
}

// tables are those of the files that recordings are made of, by file and version.
var tables = map[[2]int]recording.File{}

func file(t testing.TB, i, version int) recording.File {
	if f, ok := tables[[2]int{i, version}]; ok {
		return f
	}
	own := &site.Table{Path: fmt.Sprintf("fare/f%03d.go", i), Digest: fmt.Sprintf("%016x", i*1000+version), Level: site.Branches, Keep: site.Counts, Counters: 40, Lines: 90,
		Functions: []site.Function{{Name: "Price", Span: site.Span{Start: site.Pos{Line: 1, Column: 1}, End: site.Pos{Line: 80, Column: 2}}, Sum: site.Sum{0}}}}
	for k := range 40 {
		at := site.Span{Start: site.Pos{Line: k + 2, Column: 2}, End: site.Pos{Line: k + 2, Column: 9}}
		own.Statements = append(own.Statements, site.Statement{Span: at, Head: at.End, Sum: site.Sum{uint32(k)}, Mark: uint64(i*1000 + k)})
	}
	packed, err := recording.PackTable(own)
	require.NoError(t, err)
	f := recording.File{Path: own.Path, Digest: own.Digest, Table: packed, NumCounters: 40}
	tables[[2]int{i, version}] = f
	return f
}

// made gives a recording of so many files; version tells the text of the first.
func made(t testing.TB, run, commit string, labels []string, files, version int) []byte {
	var list []recording.File
	r := rand.New(rand.NewPCG(uint64(len(run)), uint64(files)))
	for i := range files {
		f := file(t, i, version*b2i(i == 0))
		f.Counters = make([]uint64, f.NumCounters)
		for k := range f.Counters {
			f.Counters[k] = uint64(r.IntN(3))
		}
		list = append(list, f)
	}
	data, err := recording.Encode(recording.Info{Run: run, Part: recording.Part{When: "2026-03-02T08:00:00Z", Commit: commit, Labels: labels,
		Level: "branches", Keep: "counts", Processes: 1, Command: []string{"go", "test"}}}, list, nil)
	require.NoError(t, err)
	return data
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}

func TestStore(t *testing.T) {
	both(t, func(t *testing.T, where string) {
		ctx := context.Background()
		s := open(t, where)
		push := func(project, branch string, data []byte) bool {
			added, err := s.Push(ctx, project, branch, "x", data)
			require.NoError(t, err)
			return added
		}
		unit, e2e, next := made(t, "1", "aaa", []string{"unit"}, 5, 0), made(t, "2", "aaa", []string{"e2e", "slow"}, 5, 0), made(t, "3", "bbb", nil, 5, 1)
		assert.True(t, push("skerry", "main", unit))
		assert.False(t, push("skerry", "main", unit), "the same again changes nothing")
		assert.True(t, push("skerry", "main", e2e))
		assert.True(t, push("skerry", "tides", next))
		assert.True(t, push("other", "main", unit), "projects are apart")
		count := func(what string) (n int) {
			require.NoError(t, s.db.QueryRow("SELECT count(*) FROM "+what).Scan(&n))
			return n
		}
		assert.Equal(t, 6, count("thrush_table"), "tables are kept once: five, and the one that changed")
		assert.Equal(t, 2, count("thrush_bundle"))
		list := func(q Query) (out []string) {
			q.Project = "skerry"
			found, err := s.List(ctx, q)
			require.NoError(t, err)
			for _, e := range found {
				out = append(out, e.Info.Run)
			}
			return out
		}
		assert.ElementsMatch(t, []string{"1", "2", "3"}, list(Query{}))
		assert.ElementsMatch(t, []string{"1", "2"}, list(Query{Branch: "main"}))
		assert.Equal(t, []string{"2"}, list(Query{Branch: "main", Label: "slow"}))
		assert.Equal(t, []string{"3"}, list(Query{Commits: []string{"bbb", "ccc"}}))
		assert.Equal(t, []string{"3"}, list(Query{Label: "", Branch: "tides"}))
		assert.Len(t, list(Query{Most: 2}), 2)
		assert.Empty(t, list(Query{Branch: "main' OR '1'='1"}))
		assert.Empty(t, list(Query{IDs: []string{"%"}, Branch: "nowhere"}))
		rec, err := recording.Decode("x", e2e)
		require.NoError(t, err)
		assert.Equal(t, []string{"2"}, list(Query{IDs: []string{rec.ID}}))
		_, back, err := s.Pull(ctx, "skerry", rec.Identity)
		require.NoError(t, err)
		assert.Equal(t, e2e, back, "byte for byte")
		_, _, err = s.Pull(ctx, "skerry", "0000000000000000")
		require.ErrorContains(t, err, "there is no recording")
		_, err = s.Push(ctx, "skerry", "main", "cut.thrush", e2e[:len(e2e)-3])
		require.ErrorContains(t, err, "damaged")

		last, err := recording.Decode("x", next)
		require.NoError(t, err)
		require.NoError(t, s.Drop(ctx, "skerry", []string{last.Identity}))
		assert.Equal(t, 5, count("thrush_table"), "what nobody needs is gone")
		require.NoError(t, s.Drop(ctx, "skerry", []string{rec.Identity}))
		first, err := recording.Decode("x", unit)
		require.NoError(t, err)
		_, back, err = s.Pull(ctx, "other", first.Identity)
		require.NoError(t, err)
		assert.Equal(t, unit, back, "what somebody needs stays")
	})
}

// A thousand shards, pushed by sixteen writers at once, some of them twice and while
// others are dropped: nothing is lost.
func TestManyPushAtOnce(t *testing.T) {
	both(t, func(t *testing.T, where string) {
		const shards, writers = 1000, 16
		ctx := context.Background()
		data := make([][]byte, shards)
		for i := range data {
			data[i] = made(t, fmt.Sprint(i), "aaa", []string{fmt.Sprintf("shard-%d", i%writers)}, 60, 0)
		}
		begin := time.Now()
		var wait sync.WaitGroup
		for w := range writers {
			wait.Go(func() {
				s, err := Open(ctx, where)
				if !assert.NoError(t, err) {
					return
				}
				defer s.Close()
				for i := w; i < shards; i += writers {
					for range 1 + b2i(i%10 == 0) {
						_, err := s.Push(ctx, "skerry", "main", "x", data[i])
						assert.NoError(t, err)
					}
					if i%100 == 0 {
						assert.NoError(t, s.Drop(ctx, "skerry", []string{"no such"}))
					}
				}
			})
		}
		wait.Wait()
		pushed := time.Since(begin)
		s := open(t, where)
		list, err := s.List(ctx, Query{Project: "skerry", Commits: []string{"aaa"}})
		require.NoError(t, err)
		require.Len(t, list, shards)
		var tables int
		require.NoError(t, s.db.QueryRow("SELECT count(*) FROM thrush_table").Scan(&tables))
		assert.Equal(t, 60, tables)
		begin = time.Now()
		var inputs, straight []merging.Input
		for _, e := range list {
			inputs = append(inputs, merging.Input{Name: e.ID(), Identity: e.Identity, Info: e.Info, Open: func(*[]byte) (*recording.Recording, error) {
				rec, _, err := s.Pull(ctx, "skerry", e.Identity)
				return rec, err
			}})
		}
		for _, d := range data {
			rec, err := recording.Decode("x", d)
			require.NoError(t, err)
			straight = append(straight, merging.Loaded(rec))
		}
		got, err := merging.Merge(inputs, merging.Options{})
		require.NoError(t, err)
		took := time.Since(begin)
		want, err := merging.Merge(straight, merging.Options{})
		require.NoError(t, err)
		one, err := got.Data()
		require.NoError(t, err)
		other, err := want.Data()
		require.NoError(t, err)
		require.Equal(t, other, one)
		t.Logf("%d recordings of 60 files pushed by %d writers in %s, fetched and merged in %s", shards, writers, pushed.Round(time.Millisecond), took.Round(time.Millisecond))
	})
}

// What goes wrong is said without what is secret in the URL, and TLS is spoken as the URL
// asks.
func TestServersAndSecrets(t *testing.T) {
	where, certificate := server(t)
	ctx, cancel := context.WithTimeout(context.Background(), 20*time.Second)
	defer cancel()
	host := where[strings.Index(where, "@")+1 : strings.LastIndex(where, "/")]
	for name, c := range map[string]struct{ url, says string }{
		"wrong password": {strings.Replace(where, password, "hunter2-secret", 1), "authentication failed"},
		"no such server": {"postgres://skerry:" + password + "@127.0.0.1:1/postgres?sslmode=disable", "cannot be reached"},
		"no such base":   {where[:strings.LastIndex(where, "/")] + "/nowhere", "does not exist"},
		"not a URL":      {"postgres://skerry:" + password + "@127.0.0.1:port/postgres", "URL cannot be read"},
		"stranger":       {where + "?sslmode=verify-full", "cannot be reached"},
	} {
		_, err := Open(ctx, c.url)
		if assert.Error(t, err, name) {
			assert.Contains(t, err.Error(), c.says, name)
			assert.NotContains(t, err.Error(), password, name)
			assert.NotContains(t, err.Error(), "hunter2", name)
		}
	}
	root := filepath.Join(t.TempDir(), "root.crt")
	text, err := os.ReadFile(certificate)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(root, text, 0o644))
	s, err := Open(ctx, where+"?sslmode=verify-full&sslrootcert="+root)
	require.NoError(t, err)
	defer s.Close()
	var tls bool
	require.NoError(t, s.db.QueryRow("SELECT ssl FROM pg_stat_ssl WHERE pid = pg_backend_pid()").Scan(&tls))
	assert.True(t, tls)
	assert.Equal(t, "postgres://"+host+"/postgres", s.Name)
}

func TestANewerStoreIsRefused(t *testing.T) {
	where := filepath.Join(t.TempDir(), "history.db")
	s := open(t, where)
	_, err := s.db.Exec("UPDATE thrush_store SET version = 99")
	require.NoError(t, err)
	_, err = Open(context.Background(), where)
	require.ErrorContains(t, err, "newer Thrush")
	require.NoError(t, os.WriteFile(where+".txt", []byte("no database at all, but long enough to be one"), 0o666))
	_, err = Open(context.Background(), where+".txt")
	require.ErrorContains(t, err, "not a database")
}
