//go:build subjects

package witness

import (
	"encoding/json"
	"fmt"
	"go/ast"
	"go/importer"
	"go/parser"
	"go/token"
	"go/types"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"thrush/internal/core/site"
	"thrush/internal/lang/golang"
	"thrush/internal/weave"
)

// TestSubjectStandardLibraryTypeChecks weaves every file of the standard
// library and type-checks the packages.
func TestSubjectStandardLibraryTypeChecks(t *testing.T) {
	type pkg struct {
		ImportPath, Dir, Export string
		GoFiles, CgoFiles       []string
		ImportMap               map[string]string
	}
	cmd := exec.Command("go", "list", "-export", "-json=ImportPath,Dir,Export,GoFiles,CgoFiles,ImportMap", "std")
	cmd.Env = append(os.Environ(), "CGO_ENABLED=0")
	out, err := cmd.Output()
	require.NoError(t, err)
	var list []pkg
	exports := map[string]string{}
	for d := json.NewDecoder(strings.NewReader(string(out))); d.More(); {
		var p pkg
		require.NoError(t, d.Decode(&p))
		list = append(list, p)
		exports[p.ImportPath] = p.Export
	}
	files, lines := 0, 0
	for _, p := range list {
		if p.ImportPath == "unsafe" || len(p.GoFiles) == 0 {
			continue
		}
		fset := token.NewFileSet()
		var parsed []*ast.File
		for _, name := range p.GoFiles {
			path := filepath.Join(p.Dir, name)
			source, err := os.ReadFile(path)
			require.NoError(t, err)
			file, err := golang.Read(name, source)
			require.NoError(t, err, path)
			unit := fmt.Sprintf("%08x%024x", files, files)
			table := &site.Table{Path: name, Unit: unit}
			level := []site.Level{site.Conditions, site.Branches}[files/2%2]
			plan := weave.Place(source, file, table, weave.Options{Level: level, Keep: site.Counts})
			variant := []golang.Variant{golang.Alone, golang.Direct}[files%2]
			woven := plan.Spell(golang.New(file, len(source), path, "", table, variant))
			f, err := parser.ParseFile(fset, path, woven, parser.SkipObjectResolution)
			require.NoError(t, err, path)
			parsed = append(parsed, f)
			files++
			lines += file.Lines
		}
		var bad []string
		conf := types.Config{
			GoVersion: "go1.26", FakeImportC: true, Sizes: types.SizesFor("gc", runtime.GOARCH),
			Error: func(err error) { bad = append(bad, err.Error()) },
			Importer: importer.ForCompiler(fset, "gc", func(path string) (io.ReadCloser, error) {
				if to := p.ImportMap[path]; to != "" {
					path = to
				}
				return os.Open(exports[path])
			}),
		}
		_, _ = conf.Check(p.ImportPath, fset, parsed, nil)
		require.Empty(t, bad, p.ImportPath)
	}
	require.Greater(t, files, 1000)
	t.Logf("%d files, %d lines of the standard library type-check after weaving", files, lines)
}
