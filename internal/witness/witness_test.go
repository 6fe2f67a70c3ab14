// Package witness tests that what Thrush says ran is what ran: it weaves sources
// for Thrush and for a witness at the same time, runs them once, and compares.
//
// The witness is as simple as can be: a call before every statement and around
// every condition, each with a counter of its own. It shares no code with the
// weaver; only the offsets at which text is put in have to agree.
package witness

import (
	"encoding/binary"
	"encoding/json"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
	"thrush/internal/flow"
	"thrush/internal/lang/golang"
	"thrush/internal/languages"
	"thrush/internal/launch"
	"thrush/internal/project"
	thrush "thrush/internal/runtime"
	"thrush/internal/weave"
)

// witnessed is a place that the witness counts.
type witnessed struct {
	file      string
	line, col int
	kind      string // "statement", "true", "false" or "arm"
}

type witness struct {
	places []witnessed
}

func (w *witness) id(p witnessed) int {
	w.places = append(w.places, p)
	return len(w.places) - 1
}

// insertions are the witness's calls for one file.
func (w *witness) insertions(t *testing.T, path string, source []byte, file *flow.File) []weave.Insertion {
	fset := token.NewFileSet()
	f, err := parser.ParseFile(fset, path, source, parser.ParseComments)
	require.NoError(t, err)
	tf := fset.File(f.FileStart)
	var out []weave.Insertion
	put := func(at token.Pos, format string, args ...any) {
		out = append(out, weave.Insertion{At: tf.Offset(at), Text: fmt.Sprintf(format, args...)})
	}
	place := func(n ast.Node, kind string) int {
		p := tf.PositionFor(n.Pos(), false)
		return w.id(witnessed{file: path, line: p.Line, col: p.Column, kind: kind})
	}
	condition := func(s ast.Stmt, cond ast.Expr) {
		yes := place(s, "true")
		place(s, "false")
		put(cond.Pos(), "witness.Is(%d, bool(", yes)
		put(cond.End(), "))")
	}
	gotos := map[string]bool{}
	ast.Inspect(f, func(n ast.Node) bool {
		if b, ok := n.(*ast.BranchStmt); ok && b.Tok == token.GOTO {
			gotos[b.Label.Name] = true
		}
		return true
	})
	list := func(stmts []ast.Stmt) {
		for _, s := range stmts {
			at := s.Pos()
			inner := s
			named := false
			for {
				l, ok := inner.(*ast.LabeledStmt)
				if !ok {
					break
				}
				named = named || gotos[l.Label.Name]
				inner = l.Stmt
				if gotos[l.Label.Name] {
					at = l.Colon + 1
				}
			}
			switch d := inner.(type) {
			case *ast.EmptyStmt, *ast.BlockStmt, *ast.CaseClause, *ast.CommClause:
				continue
			case *ast.DeclStmt:
				if d.Decl.(*ast.GenDecl).Tok != token.VAR {
					continue
				}
			case *ast.ForStmt, *ast.RangeStmt, *ast.SwitchStmt, *ast.SelectStmt, *ast.TypeSwitchStmt:
				if named {
					continue // a call after the label would take the label away
				}
			}
			put(at, "witness.Hit(%d);", place(inner, "statement"))
		}
	}
	// A case that the one before falls into is not compared: it is entered
	// without having been chosen.
	arms := func(stmts []ast.Stmt) {
		fallen := false
		for _, s := range stmts {
			switch c := s.(type) {
			case *ast.CaseClause:
				if !fallen {
					put(c.Colon+1, "witness.Hit(%d);", place(c, "arm"))
				}
				fallen = false
				if len(c.Body) > 0 {
					last, ok := c.Body[len(c.Body)-1].(*ast.BranchStmt)
					fallen = ok && last.Tok == token.FALLTHROUGH
				}
			case *ast.CommClause:
				put(c.Colon+1, "witness.Hit(%d);", place(c, "arm"))
			}
		}
	}
	ast.Inspect(f, func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.FuncDecl:
			return n.Name.Name != "_"
		case *ast.BlockStmt:
			list(n.List)
			arms(n.List)
		case *ast.CaseClause:
			list(n.Body)
		case *ast.CommClause:
			list(n.Body)
		case *ast.RangeStmt:
			put(n.Body.Lbrace+1, "witness.Hit(%d);", place(n, "true"))
		case *ast.IfStmt:
			condition(n, n.Cond)
		case *ast.ForStmt:
			if n.Cond != nil {
				condition(n, n.Cond)
			}
		}
		return true
	})
	return append(out, weave.Insertion{At: file.Imports, Text: ";import witness \"" + witnessPath + "\""})
}

const witnessPath = "WITNESS"

const witnessRuntime = `package witness

import (
	"os"
	"strconv"
	"sync/atomic"
	"syscall"
	"unsafe"
)

var cells = open()

func open() []byte {
	f, err := os.OpenFile(os.Getenv("WITNESS_DIR")+"/"+strconv.Itoa(os.Getpid()), os.O_RDWR|os.O_CREATE, 0o666)
	if err != nil { panic(err) }
	if err := f.Truncate(8 * SIZE); err != nil { panic(err) }
	m, err := syscall.Mmap(int(f.Fd()), 0, 8*SIZE, syscall.PROT_READ|syscall.PROT_WRITE, syscall.MAP_SHARED)
	if err != nil { panic(err) }
	return m
}

func Hit(i int) { atomic.AddUint64((*uint64)(unsafe.Pointer(&cells[8*i])), 1) }

func Is(i int, b bool) bool {
	if b { Hit(i) } else { Hit(i + 1) }
	return b
}
`

// both weaves for Thrush and, through the frame, for the witness.
type both struct {
	*golang.Dialect
	more []weave.Insertion
}

func (b *both) Frame(t *site.Table) []weave.Insertion {
	frame := append(b.more, b.Dialect.Frame(t)...)
	return append(frame, weave.Insertion{At: b.File.Declare, Text: ";var _ = witness.Hit"})
}

var _ weave.Dialect = (*both)(nil)

// outcome is what a comparison found.
type outcome struct {
	Files, Statements, Outcomes, Ran int
	Disagreements                    []string
}

// compare runs a go command in a module woven for both and compares what they
// saw. exact compares counts, else only whether something ran.
func compare(t *testing.T, module, dir string, opt weave.Options, exact bool, args ...string) outcome {
	t.Helper()
	temp := t.TempDir()
	replace := map[string]string{}
	tables := map[string]*site.Table{}
	w := &witness{}
	require.NoError(t, filepath.WalkDir(dir, func(path string, d os.DirEntry, err error) error {
		rel, _ := filepath.Rel(dir, path)
		if err != nil || d.IsDir() {
			return err
		}
		if languages.Classify(filepath.ToSlash(rel)) != project.Source || strings.Contains(rel, "testdata") {
			return nil
		}
		source, err := os.ReadFile(path)
		require.NoError(t, err)
		file, err := golang.Read(rel, source)
		if err != nil || file.Generated != "" {
			return nil
		}
		table := &site.Table{Path: rel, Unit: fmt.Sprintf("%08x%024x", len(tables)+1, len(tables)+1)}
		plan := weave.Place(source, file, table, opt)
		variant := golang.Alone
		if golang.Splits(file, path) {
			variant = golang.Direct
		}
		dialect := &both{Dialect: golang.New(file, len(source), path, "", table, variant), more: w.insertions(t, rel, source, file)}
		out := filepath.Join(temp, table.Unit+".go")
		text := strings.ReplaceAll(string(plan.Spell(dialect)), witnessPath, module+"/witness")
		require.NoError(t, os.WriteFile(out, []byte(text), 0o666))
		replace[path] = out
		tables[table.Unit] = table
		return nil
	}))
	runtime := filepath.Join(temp, "witness.go")
	require.NoError(t, os.WriteFile(runtime, []byte(strings.ReplaceAll(witnessRuntime, "SIZE", fmt.Sprint(len(w.places)+1))), 0o666))
	replace[filepath.Join(dir, "witness", "witness.go")] = runtime
	overlay := filepath.Join(temp, "overlay.json")
	text, err := json.Marshal(map[string]any{"Replace": replace})
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(overlay, text, 0o666))
	counters, seen := filepath.Join(temp, "counters"), filepath.Join(temp, "seen")
	require.NoError(t, os.Mkdir(counters, 0o777))
	require.NoError(t, os.Mkdir(seen, 0o777))
	cmd := exec.Command("go", args...)
	cmd.Dir = dir
	cmd.Env = append(os.Environ(), "GOFLAGS=-overlay="+overlay, "GOWORK=off", "GOMAXPROCS=1",
		thrush.DirVariable+"="+counters, "WITNESS_DIR="+seen)
	log, err := cmd.CombinedOutput()
	if err != nil {
		t.Logf("go %s: %v\n%s", strings.Join(args, " "), err, tail(string(log)))
	}
	require.NotContains(t, string(log), "[build failed]")
	return w.check(t, tables, counters, readSeen(t, seen, len(w.places)), exact)
}

func tail(s string) string {
	if len(s) > 6000 {
		return "…" + s[len(s)-6000:]
	}
	return s
}

func readSeen(t *testing.T, dir string, n int) []uint64 {
	sum := make([]uint64, n)
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	require.NotEmpty(t, entries, "the witness saw no process")
	for _, e := range entries {
		data, err := os.ReadFile(filepath.Join(dir, e.Name()))
		require.NoError(t, err)
		for i := range sum {
			sum[i] += binary.LittleEndian.Uint64(data[8*i:])
		}
	}
	return sum
}

// check compares place by place.
func (w *witness) check(t *testing.T, tables map[string]*site.Table, counters string, seen []uint64, exact bool) outcome {
	counts, err := launch.Gather(counters)
	require.NoError(t, err)
	type key struct {
		file      string
		line, col int
		kind      string
	}
	saw := map[key]uint64{}
	for i, p := range w.places {
		saw[key(p)] = seen[i]
	}
	out := outcome{Files: len(tables)}
	differ := func(k key, thrush uint64) {
		witness, ok := saw[k]
		if !ok {
			return
		}
		if k.kind == "statement" {
			out.Statements++
		} else {
			out.Outcomes++
		}
		if witness > 0 {
			out.Ran++
		}
		if (thrush > 0) != (witness > 0) || exact && thrush != witness {
			out.Disagreements = append(out.Disagreements, fmt.Sprintf("%s:%d:%d %s: Thrush says %d, the witness %d", k.file, k.line, k.col, k.kind, thrush, witness))
		}
	}
	for unit, table := range tables {
		f := coverage.Resolve(table, counts.Of(unit, table.Counters))
		for _, s := range f.Statements {
			differ(key{f.Path, s.Span.Start.Line, s.Span.Start.Column, "statement"}, s.Count)
		}
		for _, d := range f.Decisions {
			for _, o := range d.Outcomes {
				if o.Pos != d.Pos {
					differ(key{f.Path, o.Pos.Line, o.Pos.Column, "arm"}, o.Count)
					continue
				}
				switch o.Code {
				case site.Entered:
					differ(key{f.Path, d.Pos.Line, d.Pos.Column, "true"}, o.Count)
				case site.Left:
					differ(key{f.Path, d.Pos.Line, d.Pos.Column, "false"}, o.Count)
				default:
					differ(key{f.Path, d.Pos.Line, d.Pos.Column, string(o.Code)}, o.Count)
				}
			}
		}
	}
	return out
}
