// Package internal has no code; its test keeps the rooms of the house apart.
package internal

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// may lists, by the first words of a room's path, what else of this project it
// may import. docs/decisions.md gives the reasons.
var may = []struct {
	room    string
	imports []string
}{
	{"internal/core", []string{"internal/core"}},
	{"internal/flow", []string{"internal/core"}},
	{"internal/runtime", nil},
	{"internal/weave", []string{"internal/core", "internal/flow"}},
	{"internal/lang/tree", []string{"internal/core", "internal/flow"}},
	{"internal/lang/rules", nil},
	{"internal/lang/script/sourcemap", []string{"internal/core"}},
	{"internal/lang/cfamily/wrapper", []string{"internal/lang/cfamily", "internal/core", "internal/weave", "internal/runtime", "internal/project", "internal/recording", "internal/atomic", "internal/trace"}},
	{"internal/lang", []string{"internal/core", "internal/flow", "internal/weave", "internal/runtime", "internal/bounded", "internal/lang"}},
	{"internal/languages", []string{"internal/lang", "internal/project"}},
	{"internal/exit", nil},
	{"internal/trace", nil},
	{"internal/recording", []string{"internal/core", "internal/exit"}},
	{"internal/atomic", nil},
	{"internal/bounded", nil},
	{"internal/home", []string{"internal/atomic", "internal/vcs", "internal/exit"}},
	{"internal/project", []string{"internal/core", "internal/home", "internal/bounded"}},
	{"internal/vcs", []string{"internal/core"}},
	{"internal/reading", []string{"internal/core", "internal/project", "internal/recording", "internal/bounded"}},
	{"internal/merging", []string{"internal/core", "internal/recording"}},
	{"internal/history", []string{"internal/recording", "internal/exit"}},
	{"internal/baseline", []string{"internal/core", "internal/project", "internal/recording", "internal/reading", "internal/merging", "internal/history", "internal/vcs", "internal/atomic", "internal/exit"}},
	{"internal/judge", []string{"internal/core", "internal/project", "internal/recording", "internal/reading", "internal/baseline", "internal/exit"}},
	{"internal/collector", []string{"internal/runtime"}},
	{"internal/workcopy", []string{"internal/home"}},
	{"internal/launch", []string{"internal/trace", "internal/lang", "internal/languages", "internal/collector", "internal/workcopy", "internal/home", "internal/atomic", "internal/bounded", "internal/core", "internal/weave", "internal/runtime", "internal/project", "internal/recording"}},
	{"internal/report/prose", []string{"internal/core"}},
	{"internal/report/highlight", nil},
	{"internal/report/palette", nil},
	{"internal/report/outputs", []string{"internal/report"}},
	{"internal/report", []string{"internal/version", "internal/core", "internal/recording", "internal/reading", "internal/judge", "internal/report/prose", "internal/report/output", "internal/report/documents", "internal/report/highlight", "internal/report/palette", "internal/atomic"}},
	{"internal/witness", []string{"internal/core"}},
	{"internal/version", nil},
	{"samples", nil},
	{"cmd/thrush", []string{"internal/cli"}},
	{"internal/cli", []string{"internal", "samples"}},
	{"internal/bench", []string{"internal"}},
	{"internal/dist", []string{"internal/cli"}},
	{"docs/screenshots/pages", nil},
	{"docs/architecture", nil},
}

// never are imports that the core must not have: it reads no files and draws
// nothing.
var never = []string{"os", "os/exec", "net/http", "io/fs", "html/template", "github.com/spf13/cobra", "charm.land/lipgloss/v2"}

func TestImportsRunOneWay(t *testing.T) {
	seen := 0
	require.NoError(t, filepath.WalkDir("..", func(p string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() && (strings.HasPrefix(d.Name(), "_") || d.Name() == "testdata" || strings.HasPrefix(d.Name(), ".") && d.Name() != "..") {
			if err == nil {
				return filepath.SkipDir
			}
			return err
		}
		if d.IsDir() || !strings.HasSuffix(p, ".go") || strings.HasSuffix(p, "_test.go") {
			return nil
		}
		rel, _ := filepath.Rel("..", p)
		room := filepath.ToSlash(filepath.Dir(rel))
		source, err := os.ReadFile(p)
		require.NoError(t, err)
		f, err := parser.ParseFile(token.NewFileSet(), p, source, parser.ImportsOnly)
		require.NoError(t, err)
		allowed, known := rules(room)
		require.True(t, known, "%s has no rule in this test", room)
		for _, spec := range f.Imports {
			imported, _ := strconv.Unquote(spec.Path.Value)
			if strings.HasPrefix(room, "internal/core") {
				require.NotContains(t, never, imported, rel)
			}
			if inner, ok := strings.CutPrefix(imported, "thrush/"); ok {
				seen++
				require.True(t, within(inner, allowed), "%s must not import %s", rel, imported)
			}
		}
		return nil
	}))
	require.Greater(t, seen, 50)
}

func rules(room string) (imports []string, known bool) {
	for _, m := range may {
		if room == m.room || strings.HasPrefix(room, m.room+"/") {
			return m.imports, true
		}
	}
	return nil, false
}

func within(p string, rooms []string) bool {
	for ; p != "."; p = path.Dir(p) {
		for _, r := range rooms {
			if p == r {
				return true
			}
		}
	}
	return false
}
