package golang

import (
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"thrush/internal/core/site"
	"thrush/internal/weave"
)

func TestExcluded(t *testing.T) {
	for _, c := range []struct {
		file, built string
		excluded    bool
	}{
		{"tide.go", "", false}, {"tide_windows.go", "", true}, {"tide_linux.go", "", false}, {"tide_linux_arm64.go", "", true},
		{"linux.go", "", false}, {"tide_unix.go", "", false},
		{"tide.go", "//go:build ignore", true}, {"tide.go", "//go:build e2e", false}, {"tide.go", "//go:build !e2e && !linux", true},
		{"tide.go", "//go:build unix && (windows || e2e)", false}, {"tide.go", "//go:build go1.20 && !amd64", true},
	} {
		why, excluded := Excluded(c.file, c.built, "linux", "amd64")
		require.Equal(t, c.excluded, excluded, "%s %s: %s", c.file, c.built, why)
	}
}

// FuzzWeave checks that whatever parses still parses after weaving, on the same
// lines.
func FuzzWeave(f *testing.F) {
	files, err := filepath.Glob("../../witness/testdata/corpus/*.go")
	require.NoError(f, err)
	require.NotEmpty(f, files)
	for _, name := range files {
		text, err := os.ReadFile(name)
		require.NoError(f, err)
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, source []byte) {
		file, err := Read("x.go", source)
		if err != nil {
			return
		}
		for _, level := range []site.Level{site.Branches, site.Conditions} {
			table := &site.Table{Path: "x.go", Unit: "0123456789abcdef0123456789abcdef"}
			plan := weave.Place(source, file, table, weave.Options{Level: level, Keep: site.Counts})
			for _, v := range []Variant{Alone, Direct, ForRace} {
				text := plan.Spell(New(file, len(source), "/x.go", "", table, v))
				if _, err := parser.ParseFile(token.NewFileSet(), "x.go", text, parser.SkipObjectResolution); err != nil {
					t.Fatalf("%s: %v\n%s", level, err, text)
				}
			}
		}
	})
}

func TestCodeLines(t *testing.T) {
	for text, want := range map[string][]uint32{
		"package fare\n\n// x\nvar a = []int{ // y\n\t1, /* z */\n}\n":        {1, 4, 5},
		"package fare\r\n/* one\r\ntwo\r\nthree */\r\nvar b int\r\n":          {1, 5},
		"package fare\n/* a */ var c = `\n// no comment\n` /* d\n*/\n// last": {1, 2, 3, 4},
	} {
		file, err := Read("x.go", []byte(text))
		require.NoError(t, err)
		require.Equal(t, want, file.Code, "%q", text)
	}
}
