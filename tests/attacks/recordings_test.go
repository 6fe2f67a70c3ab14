//go:build attacks

package attacks

import (
	"database/sql"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/fxamacker/cbor/v2"
	"github.com/klauspost/compress/zstd"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite" // the driver

	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
	"thrush/internal/recording"
)

// forgery is a recording before somebody spoiled it.
type forgery struct {
	info  recording.Info
	table site.Table
	file  recording.File
	raw   []byte // in place of the table's stored form
}

func (f *forgery) data(t *testing.T) []byte {
	table, err := recording.PackTable(&f.table)
	require.NoError(t, err)
	if f.raw != nil {
		table = f.raw
	}
	f.file.Path, f.file.Digest, f.file.Table, f.file.NumCounters = "fare.py", f.table.Digest, table, f.table.Counters
	f.file.Counters = make([]uint64, f.table.Counters)
	for i := range f.file.Counters {
		f.file.Counters[i] = math.MaxUint64
	}
	data, err := recording.Encode(f.info, []recording.File{f.file}, nil)
	require.NoError(t, err)
	return data
}

// totals are those of so many lines, so many of which ran.
func totals(ran, of int) *coverage.Totals {
	t := coverage.Totals{}.With(coverage.Lines, coverage.Ratio{Covered: ran, Total: of})
	return &t
}

func newForgery() *forgery {
	at := func(line, column int) site.Pos { return site.Pos{Line: line, Column: column} }
	span := func(line int) site.Span { return site.Span{Start: at(line, 1), End: at(line, 9)} }
	return &forgery{
		info: recording.Info{Project: "ferry", Run: "0123456789abcdef", Totals: totals(1, 2),
			Part: recording.Part{Tool: "0.1", When: "2026-03-02T08:00:00Z", Command: []string{"true"}, Branch: "change", Level: "conditions", Keep: "counts", Processes: 1}},
		table: site.Table{Path: "fare.py", Language: "python", Digest: "0011223344556677", Unit: strings.Repeat("0", 32), Level: site.Conditions, Keep: site.Counts, Lines: 4, Counters: 8,
			Functions:  []site.Function{{Name: "price", Span: site.Span{Start: at(1, 1), End: at(4, 14)}, Sum: site.Sum{0}}},
			Statements: []site.Statement{{Span: span(2), Head: at(2, 9), Sum: site.Sum{0, 1}}, {Span: span(3), Head: at(3, 9), Sum: site.Sum{2}}},
			Decisions: []site.Decision{{Kind: "if", Pos: at(2, 5), Outcomes: []site.Outcome{{Way: site.True.Way(), Pos: at(3, 9), Sum: site.Sum{3}}, {Way: site.False.Way(), Pos: at(2, 5), Sum: site.Sum{4}}},
				Logic: []site.Logic{{Pos: at(2, 8), Formula: "0", Conditions: []site.Condition{{Text: "night", Pos: at(2, 8)}}, Ways: []site.Sum{{3}, {4}}}}}},
			Continued: []uint32{4}, Waivers: []site.Waiver{{Line: 4, EndLine: 4, Reason: "x"}},
		},
	}
}

// Every number of a recording can be whatever its maker likes: no command takes more time or
// memory for it, and what cannot be is called damaged.
func TestNumbersOfRecordings(t *testing.T) {
	for name, spoil := range map[string]func(f *forgery){
		"as it should be":       func(f *forgery) {},
		"many lines":            func(f *forgery) { f.table.Lines = math.MaxInt32 },
		"2^40 lines":            func(f *forgery) { f.table.Lines = 1 << 40 },
		"-1 lines":              func(f *forgery) { f.table.Lines = -1 },
		"a line far below":      func(f *forgery) { f.table.Statements[0].Span.Start.Line = math.MaxUint32 },
		"an end far below":      func(f *forgery) { f.table.Functions[0].Span.End.Line = math.MaxInt32 },
		"a head far below":      func(f *forgery) { f.table.Statements[0].Head.Line = 1 << 30 },
		"an outcome far below":  func(f *forgery) { f.table.Decisions[0].Outcomes[0].Pos.Line = 1 << 30 },
		"a condition far right": func(f *forgery) { f.table.Decisions[0].Logic[0].Conditions[0].Pos.Column = math.MaxUint32 },
		"a statement far right": func(f *forgery) { f.table.Statements[0].Span.Start.Column = math.MaxUint32 },
		"a continued line":      func(f *forgery) { f.table.Continued[0] = math.MaxUint32 },
		"a waiver of all":       func(f *forgery) { f.table.Waivers[0].EndLine = math.MaxInt32 },
		"no function of that":   func(f *forgery) { f.table.Statements[0].Function = 1 << 30 },
		"no way of that":        func(f *forgery) { f.table.Decisions[0].Outcomes[0].Code = "sideways" },
		"no counter of that":    func(f *forgery) { f.table.Statements[0].Sum = site.Sum{math.MaxUint32} },
		"negative totals": func(f *forgery) {
			*f.info.Totals = f.info.Totals.With(coverage.Lines, coverage.Ratio{Covered: -5, Total: -9})
		},
		"more than all": func(f *forgery) {
			*f.info.Totals = f.info.Totals.With(coverage.Branches, coverage.Ratio{Covered: math.MaxInt64, Total: 3})
		},
		"as much as there is": func(f *forgery) {
			*f.info.Totals = f.info.Totals.With(coverage.Lines, coverage.Ratio{Covered: math.MaxInt64, Total: math.MaxInt64})
		},
		"waived below nothing":   func(f *forgery) { f.info.Totals.WaivedLines = math.MinInt64 },
		"negative processes":     func(f *forgery) { f.info.Processes = -1 },
		"very many processes":    func(f *forgery) { f.info.Processes = math.MaxInt64 },
		"took less than nothing": func(f *forgery) { f.info.Took = math.MinInt64 },
		"ended oddly":            func(f *forgery) { f.info.Exit = math.MinInt64 },
		"left out below nothing": func(f *forgery) { f.info.LeftOut.Tests = -7 },
		"made at no time":        func(f *forgery) { f.info.When = "\x1b[2J::error::" },
		"made in the year 9999":  func(f *forgery) { f.info.When = "9999-12-31T23:59:59Z" },
		"a commit that is none":  func(f *forgery) { f.info.Commit = "\x1b[31m\n::error::x" },
		"a part that is none":    func(f *forgery) { f.info.Parts = []recording.Part{{ID: "\n::error::", Level: "lines"}} },
		"texts that are commands": func(f *forgery) {
			f.info.Branch = "\n::error::x"
			f.info.Level = "\x1b[31m"
			f.info.Keep = "\n::x::"
			f.info.Tool = "\n##[error]"
			f.info.Project = "\x1b]0;x\x07"
		},
		"notes that are commands": func(f *forgery) {
			f.info.Notes = []string{"\n::error::x", "##[error]x"}
			f.info.Problems = []string{"\n::error::x"}
			f.info.Passed = []string{"\n::error::x"}
		},
		"paths that are commands": func(f *forgery) {
			f.info.Unmeasured = []recording.Unmeasured{{Path: "\n::error::x.py", Reason: "\n::error::y"}}
		},
		"words that are commands": func(f *forgery) {
			f.info.Command = []string{"\n::error::x"}
			f.info.Labels = []string{"\n::error::x", "\x1b[31m"}
		},
		"names that are commands": func(f *forgery) {
			f.table.Functions[0].Name = "\n::error::x"
			f.table.Decisions[0].Kind = "\n::x::"
			f.table.Decisions[0].Outcomes[0].Way = site.Case("\n::error::x")
		},
		"texts of conditions": func(f *forgery) {
			f.table.Decisions[0].Logic[0].Conditions[0].Text = "\n::error::x\x1b[31m"
			f.table.Waivers[0].Reason = "\n::error::x"
		},
		"a language that is none":  func(f *forgery) { f.table.Language = "\n::error::x" },
		"a level that is none":     func(f *forgery) { f.table.Level, f.table.Keep = 200, 200 },
		"a formula of 30 operands": func(f *forgery) { formulaOf(f, 30) },
		"no table":                 func(f *forgery) { f.raw = []byte("no table at all") },
		"a table of zeros":         func(f *forgery) { f.raw = packed(make([]byte, 1<<20)) },
		"a table of another":       func(f *forgery) { f.table.Path = "deck.py" },
		"a table of empty names": func(f *forgery) {
			f.raw = packedTable(map[string]any{"path": "fare.py", "function_names": make([]string, 1<<18)})
		},
	} {
		t.Run(name, func(t *testing.T) {
			y := newYard(t)
			f := newForgery()
			spoil(f)
			path := filepath.Join(y.dir, "forged.thrush")
			require.NoError(t, os.WriteFile(path, f.data(t), 0o666))
			require.Equal(t, 0, y.record("-o", "../honest.thrush").status)
			start := time.Now()
			y.hold(func() {
				y.everything(path)
				for _, args := range [][]string{{"compare", path}, {"compare", path, "../honest.thrush"}, {"render", "--single", y.dir + "/results/c.html", "--against", path}} {
					y.thrush(args...)
				}
				if r := y.thrush("merge", "-o", y.dir+"/results/m.thrush", path, "../honest.thrush"); r.status != 0 {
					assert.Equal(t, 3, r.status, r.all())
				}
			})
			assert.Less(t, time.Since(start), 90*time.Second)
			for _, args := range [][]string{{"tally", path}, {"render", "--single", y.dir + "/results/d.html", path}, {"merge", "-o", y.dir + "/results/n.thrush", path}, {"explain", "fare.py", "--recording", path}} {
				r := y.thrush(args...)
				assert.Contains(t, []int{0, 3}, r.status, "%s: %s", args, r.all())
				if r.status == 3 && strings.Contains(r.err, "damaged") {
					assert.Contains(t, r.err, "forged.thrush is damaged", "%s names the file", args[0])
				}
			}
		})
	}
}

// formulaOf has the decision ask for many operands.
func formulaOf(f *forgery, n int) {
	l := &f.table.Decisions[0].Logic[0]
	l.Formula, l.Conditions, l.Ways, l.Both = "0", nil, nil, nil
	for i := range n {
		if i > 0 {
			l.Formula += fmt.Sprintf(" %d ", i) + string("&|"[i%2])
		}
		l.Conditions = append(l.Conditions, site.Condition{Text: "x", Pos: site.Pos{Line: 2, Column: 8}})
		l.Both = append(l.Both, site.Sum{0}, site.Sum{1}, site.Sum{2}, site.Sum{3})
	}
}

func packed(data []byte) []byte {
	e, _ := zstd.NewWriter(nil, zstd.WithSingleSegment(true))
	return e.EncodeAll(data, nil)
}

func packedTable(v map[string]any) []byte {
	data, _ := cbor.Marshal(v)
	return packed(data)
}

// Whoever may write to a store can put rows there that no Thrush wrote. They keep nobody from the
// others, and what is pushed later is whole.
func TestRowsOfStores(t *testing.T) {
	y := newYard(t)
	require.Equal(t, 0, y.record("-o", "../it.thrush").status)
	store := filepath.Join(y.dir, "store.db")
	require.Equal(t, 0, y.thrush("push", "--store", store).status)
	for i, spoil := range []func(f *forgery){
		func(f *forgery) {
			*f.info.Totals = f.info.Totals.With(coverage.Lines, coverage.Ratio{Covered: -9, Total: -3})
		},
		func(f *forgery) { f.info.When = "\x1b[31m" },
		func(f *forgery) { f.info.Processes = -1 },
	} {
		f := newForgery()
		spoil(f)
		f.info.Run = fmt.Sprint(i)
		path := filepath.Join(y.dir, "forged.thrush")
		require.NoError(t, os.WriteFile(path, f.data(t), 0o666))
		assert.Equal(t, 3, y.thrush("push", "--store", store, path).status, "it does not get in by Thrush")
		info, err := cbor.Marshal(f.info)
		require.NoError(t, err)
		db, err := sql.Open("sqlite", store)
		require.NoError(t, err)
		for _, identity := range []string{fmt.Sprintf("%016x", i), fmt.Sprintf("\x1b[31m\n::error::%d", i)} {
			_, err = db.Exec(`INSERT INTO thrush_recording (project, identity, commit_id, branch, dirty, made_at, pushed_at, size, info, bundle, before_tables, after_tables)
				VALUES ('ferry', ?, '', '::error::x', 0, ?, ?, -1, ?, x'00', x'00', x'00')`, identity, int64(math.MaxInt64), int64(math.MinInt64), info)
			require.NoError(t, err)
		}
		_, err = db.Exec("UPDATE thrush_table SET data = x'00'")
		require.NoError(t, err)
		require.NoError(t, db.Close())
	}
	for _, args := range [][]string{{"log", "--stored", "--trend"}, {"log", "--stored"}, {"log", "--stored", "--format", "json"}} {
		r := y.thrush(append(args, "--store", store)...)
		assert.Equal(t, 0, r.status, r.all())
	}
	assert.Contains(t, y.thrush("log", "--stored", "--store", store).out, "cannot be read")
	assert.Equal(t, 3, y.thrush("pull", "--store", store, "--branch", "change").status, "its tables are damaged")
	y.thrush("drop", "--stored", "--store", store, "--beyond", "1")
	y.write("ferry/deck.py", "A = 1\n")
	require.Equal(t, 0, y.record().status, "other tables, so another list of them")
	require.Equal(t, 0, y.thrush("push", "--store", store, "--branch", "again").status)
	r := y.thrush("pull", "--store", store, "--branch", "again", "--to", y.dir+"/results")
	assert.Equal(t, 0, r.status, r.all())
	y.write("ferry/thrush.toml", "[[gate]]\nname = \"held\"\nhold = [\"lines\"]\n")
	y.thrush("gate", "--store", store)
}

// A writer that is killed leaves a store as it was, or with its recording in it.
func TestWritersThatDie(t *testing.T) {
	y := newYard(t)
	store := filepath.Join(y.dir, "store.db")
	for i := range 12 {
		y.write("ferry/fare.py", strings.Replace(before, "10", fmt.Sprint(10+i), 1)+strings.Repeat("\n\ndef f():\n    return 1\n", 200))
		y.record()
		push := exec.Command(program, "push", "--store", store, "--branch", fmt.Sprint("b", i))
		push.Dir, push.Env = y.project, y.env
		require.NoError(t, push.Start())
		time.Sleep(time.Duration(5+4*i) * time.Millisecond)
		_ = push.Process.Kill()
		_ = push.Wait()
		r := y.thrush("log", "--stored", "--store", store)
		assert.NotContains(t, r.err, "malformed")
		if pull := y.thrush("pull", "--store", store, "--branch", fmt.Sprint("b", i), "--to", y.dir+"/results"); pull.status == 0 {
			assert.Equal(t, 0, y.thrush("tally", strings.TrimSpace(pull.out)).status)
		}
	}
	y.record("--label", "last")
	require.Equal(t, 0, y.thrush("push", "--store", store, "--branch", "last").status)
	require.Equal(t, 0, y.thrush("pull", "--store", store, "--branch", "last", "--to", y.dir+"/results").status)
}

// What a pipeline goes by is the exit status.
func TestExitStatuses(t *testing.T) {
	y := newYard(t)
	require.Equal(t, 0, y.record("-o", "../it.thrush").status)
	for _, args := range [][]string{{"record", "--nonsense", "--", "true"}, {"record"}, {"record", "--level", "x", "--", "true"}, {"build", "--nonsense", "--", "true"}, {"record", "--in-copy=x", "--", "true"}} {
		assert.Equal(t, 125, y.thrush(args...).status, args)
	}
	full := func(args ...string) int {
		return y.run(nil, append([]string{"sh", "-c", `exec "$0" "$@" >/dev/full`, program}, args...)...).status
	}
	for _, args := range [][]string{{"tally"}, {"tally", "--format", "json"}, {"gaps"}, {"source", "fare.py"}, {"explain", "fare.py"}, {"log"}, {"log", "--format", "json"}, {"compare", "../it.thrush"},
		{"export", "--format", "csv"}, {"export", "--format", "markdown"}, {"gate", "--require", "lines=1"}, {"config"}, {"--help"}, {"--version"}, {"render", "--single", "../results/x.html"}, {"env"}} {
		assert.Equal(t, 2, full(args...), args)
	}
	assert.Equal(t, 1, full("gate", "--require", "lines=100"), "a gate that is not met stays so")

	// A store that can only be read.
	shelf := filepath.Join(y.dir, "shelf")
	store := filepath.Join(shelf, "store.db")
	require.Equal(t, 0, y.thrush("push", "--store", store).status)
	for _, path := range []string{store, shelf} {
		require.NoError(t, os.Chmod(path, 0o555))
	}
	var as *syscall.SysProcAttr
	if os.Geteuid() == 0 { // whom permissions do not hold
		as = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: 65534, Gid: 65534}}
		for dir := y.dir; len(dir) > len(os.TempDir()); dir = filepath.Dir(dir) {
			require.NoError(t, os.Chmod(dir, 0o755))
		}
		require.NoError(t, os.RemoveAll(filepath.Join(y.project, ".thrush")))
	}
	r := y.run(as, program, "log", "--stored", "--store", store)
	assert.Equal(t, 0, r.status, r.all())
	assert.Contains(t, r.out, "python3 -m unittest")
	r = y.run(as, program, "push", "--store", store, "../it.thrush")
	assert.Contains(t, []int{0, 3}, r.status, "it is there already")
	for _, path := range []string{shelf, store} {
		require.NoError(t, os.Chmod(path, 0o755))
	}
}
