//go:build subjects

package witness

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"thrush/internal/core/coverage"
)

// bundled has a program that is no script make one small file, without a source map, of
// all of a library's TypeScript, and uses that.
const bundled = `node_modules/.bin/esbuild src/v3/index.ts --bundle --minify --platform=node --outfile=out/all.cjs --log-level=error && node -e '
const z = require("./out/all.cjs");
const fare = z.object({ age: z.number().int().min(0), from: z.enum(["Tern", "Gull"]), tags: z.array(z.string()).optional() });
for (const x of [{ age: 3, from: "Tern" }, { age: -1, from: "Skua" }, { age: 1.5, from: "Gull", tags: [1] }, null]) console.log(JSON.stringify(fare.safeParse(x)));
' > result`

// TestSubjectsInCopy has tools that read sources by themselves do so in a copy.
func TestSubjectsInCopy(t *testing.T) {
	thrush, err := filepath.Abs("../../bin/thrush")
	require.NoError(t, err)
	record := []string{thrush, "record", "--in-copy", "--"}
	t.Run("bundler", func(t *testing.T) {
		at := slices.IndexFunc(packs, func(p packed) bool { return strings.HasPrefix(p.name, "zod") })
		source, _ := packs[at].unpack(t)
		dir := sameWith(t, record, source, bundled)
		require.NoFileExists(t, filepath.Join(dir, "out/all.cjs"))
		ran := 0
		for _, f := range recorded(t, dir) {
			if f.Loaded && strings.HasPrefix(f.Path, "src/v3/") {
				ran += f.Totals.Of(coverage.Lines).Covered
			}
		}
		require.Greater(t, ran, 300)
	})
	t.Run("cmake", func(t *testing.T) {
		at := slices.IndexFunc(natives, func(n native) bool { return n.name == "jansson" })
		source := natives[at].fetch(t)
		dir := sameWith(t, record, source, natives[at].test, "O=-O2")
		require.NoDirExists(t, filepath.Join(dir, "build"))
		require.True(t, slices.ContainsFunc(recorded(t, dir), coveredIn("src/load.c")))
		_, err := os.Stat(filepath.Join(dir, "result"))
		require.NoError(t, err)
	})
}

// coveredIn tells of a file at a path whether it ran.
func coveredIn(path string) func(*coverage.File) bool {
	return func(f *coverage.File) bool { return f.Path == path && f.Totals.Of(coverage.Lines).Covered > 0 }
}
