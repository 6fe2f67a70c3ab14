//go:build subjects

package witness

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"thrush/internal/core/coverage"
)

// tools make JavaScript of the sources of zod, and how much of these may be lost on the way
// back, of a thousand sites.
var tools = []struct {
	name, make string
	lost       int
}{
	{"tsc", `echo '{"compilerOptions":{"target":"es2018","module":"esnext","moduleResolution":"bundler","sourceMap":true,"outDir":"built","rootDir":"src","skipLibCheck":true,"noEmitOnError":false,"types":[]},"include":["src"]}' > tsconfig.json; node node_modules/typescript/bin/tsc -p . >/dev/null || true`, 2},
	{"esbuild", `node node_modules/esbuild/bin/esbuild $(find src -name '*.ts') --outdir=built --outbase=src --sourcemap=inline --format=esm --target=es2017 --log-level=error`, 45},
	{"esbuild, smaller", `node node_modules/esbuild/bin/esbuild $(find src -name '*.ts') --outdir=built --outbase=src --sourcemap --minify-syntax --minify-whitespace --format=esm --target=es2020 --log-level=error`, 620},
}

// mixing are tests of zod that use most of it.
const mixing = "object.test string.test number.test union.test record.test function.test refine.test transformer.test discriminated-unions.test error.test map.test tuple.test catch.test custom.test"

// TestSubjectsLedBack runs the same tests on the sources of a project as they were written
// and on what tools make of them: what is told of a site is to be the same.
func TestSubjectsLedBack(t *testing.T) {
	thrush, err := filepath.Abs("../../bin/thrush")
	require.NoError(t, err)
	source, _ := packed{name: "zod-3.25.76"}.unpack(t)
	prepare := exec.Command("sh", "-c", `find . -mindepth 1 -maxdepth 1 ! -name src ! -name package.json ! -name node_modules -exec rm -rf {} +
rm -rf src/v4 src/v4-mini src/v3/benchmarks src/v3/tests/language-server* src/index.ts
sed -i 's#"zod/v3"#"../index.js"#' src/v3/tests/*.ts
echo 'export default { test: { include: ["src/**/*.test.ts", "built/**/*.test.js"] } }' > vitest.config.mjs; : > thrush.toml`)
	prepare.Dir = source
	out, err := prepare.CombinedOutput()
	require.NoError(t, err, string(out))
	record := func(t *testing.T, make, of string) map[string]uint64 {
		dir := filepath.Join(t.TempDir(), "s")
		require.NoError(t, exec.Command("cp", "-r", source, dir).Run())
		cmd := exec.Command("sh", "-c", fmt.Sprintf("%s; %s record -q -- node node_modules/vitest/vitest.mjs run $(for f in %s; do echo %s/v3/tests/$f; done)", make, thrush, mixing, of))
		cmd.Dir = dir
		cmd.Env = append(os.Environ(), "CI=1")
		out, err := cmd.CombinedOutput()
		require.NoError(t, err, tail(string(out)))
		return countsOf(recorded(t, dir))
	}
	written := record(t, "true", "src")
	requireMuch(t, written)
	for _, tool := range tools {
		t.Run(tool.name, func(t *testing.T) {
			sameCounts(t, written, record(t, tool.make, "built"), tool.lost)
		})
	}
}

// requireMuch requires that much ran.
func requireMuch(t *testing.T, counts map[string]uint64) {
	ran := 0
	for _, n := range counts {
		if n > 0 {
			ran++
		}
	}
	require.Greater(t, ran, 1000)
}

// sameCounts compares the counts of sources as they were written with those that were led
// back to them. So many of a thousand may be lost.
func sameCounts(t *testing.T, written, led map[string]uint64, most int) {
	lost := 0
	for key, n := range written {
		got, ok := led[key]
		if !ok {
			lost++
			continue
		}
		require.Equal(t, n, got, key)
	}
	t.Logf("%d counts alike, %d lost", len(written)-lost, lost)
	require.LessOrEqual(t, lost*1000, most*len(written))
}

// countsOf gives the counts of all sites by names that tell them apart.
func countsOf(files []*coverage.File) map[string]uint64 {
	out, nth := map[string]uint64{}, map[string]int{}
	for _, f := range files {
		put := func(key string, n uint64) {
			key = f.Path + " " + key
			nth[key]++
			out[fmt.Sprintf("%s %d", key, nth[key])] = n
		}
		for _, fn := range f.Named() {
			put(fmt.Sprint("function ", fn.Span.Start), fn.Count)
		}
		for _, s := range f.Statements {
			put(fmt.Sprint("statement ", s.Span.Start), s.Count)
		}
		for _, d := range f.Decisions {
			for _, o := range d.Outcomes {
				put(fmt.Sprint(d.Kind, d.Pos, o.Way), o.Count)
			}
		}
	}
	return out
}
