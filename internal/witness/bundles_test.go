//go:build subjects

package witness

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// bundlers make one file of the sources of zod, and how much of these may be lost on the way
// back, of a thousand sites.
var bundlers = []struct {
	name, make string
	lost       int
}{
	{"rollup", "node node_modules/rollup/dist/bin/rollup -c rollup.config.mjs --silent", 50},
	{"webpack", "node webpack.cjs", 35},
	{"vite", "node node_modules/vite/bin/vite.js build --logLevel error", 60},
}

// TestSubjectsBundled runs a program on the sources of a project as they were written and on what
// bundlers make of them: what is told of a site is to be the same, and the same again when
// the same is done again, with the output of the first time there.
func TestSubjectsBundled(t *testing.T) {
	source, _ := packed{name: "zod-3.25.76"}.unpack(t)
	thrush, err := filepath.Abs("../../bin/thrush")
	require.NoError(t, err)
	bundle, err := filepath.Abs("testdata/script/bundle")
	require.NoError(t, err)
	prepare := exec.Command("sh", "-c", `find . -mindepth 1 -maxdepth 1 ! -name src ! -name node_modules -exec rm -rf {} +
rm -rf src/v4* src/index.ts src/v3/index.ts src/v3/tests src/v3/benchmarks; echo '{"type":"module","private":true}' > package.json; : > thrush.toml; cp "$1"/* .`, "sh", bundle)
	prepare.Dir = source
	out, err := prepare.CombinedOutput()
	require.NoError(t, err, string(out))
	into := func(t *testing.T) string {
		dir := filepath.Join(t.TempDir(), "s")
		require.NoError(t, exec.Command("cp", "-r", source, dir).Run())
		return dir
	}
	record := func(t *testing.T, dir, command string) map[string]uint64 {
		require.NoError(t, os.RemoveAll(filepath.Join(dir, ".thrush/recordings")))
		cmd := exec.Command(thrush, "record", "-q", "--", "sh", "-c", command)
		cmd.Dir = dir
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, tail(string(out)))
		counts := countsOf(recorded(t, dir))
		for key := range counts {
			if filepath.Dir(key) == "." {
				delete(counts, key) // what makes and uses the bundle
			}
		}
		return counts
	}
	written := record(t, into(t), "node --import tsx drive.mjs entry.ts")
	requireMuch(t, written)
	for _, b := range bundlers {
		t.Run(b.name, func(t *testing.T) {
			dir := into(t)
			command := fmt.Sprintf("%s && node drive.mjs made/zod.mjs", b.make)
			led := record(t, dir, command)
			sameCounts(t, written, led, b.lost)
			require.Equal(t, led, record(t, dir, command), "the second time")
		})
	}
}
