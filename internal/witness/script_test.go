//go:build subjects

package witness

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"sort"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"thrush/internal/core/site"
)

// packed is a real project in JavaScript or TypeScript, as it was published.
type packed struct {
	name string // of its archive
	// tests run its own tests, or, where it has none with it, use it; what must be the same
	// goes to the file result.
	tests   string
	watched bool // the witness can read it
}

const tape = `node node_modules/tape/bin/tape '%s' > out 2>&1; status=$?; sed -E 's/# time.*//; s/\/[^ ]*\/s\///g; s/:[0-9]+:[0-9]+//g' out > result; exit $status`

var packs = []packed{
	{"qs-6.13.1", fmt.Sprintf(tape, "test/*.js"), true},
	{"minimist-1.2.8", fmt.Sprintf(tape, "test/*.js"), true},
	{"object-inspect-1.13.3", fmt.Sprintf(tape, "test/*.js"), true},
	{"resolve-1.22.8", `node -e 'const r = require("./"); for (const m of ["tape", "acorn", "./index", "fs", "nope"]) { try { console.log(r.sync(m, { basedir: process.cwd() }).replace(process.cwd(), "")) } catch (e) { console.log(e.code) } r(m, { basedir: process.cwd() }, (e, p) => console.log(m, e ? e.code : p.replace(process.cwd(), ""))) }' | sort > result`, true},
	{"semver-7.6.3", `for i in 1 2 3; do node bin/semver.js -i minor --preid beta 1.$i.3-alpha.1 2.0.0; done > result; node bin/semver.js -r '^1.2 || >=3.0.0-0 <4' 1.2.3 3.4.5 4.0.0 0.1 >> result; node bin/semver.js -c v1.2.3foo 'junk 2.3.4' >> result`, true},
	{"zod-3.25.76", `node node_modules/vitest/vitest.mjs run src/v3/tests --no-color --exclude '**/language-server*' > out 2>&1; grep -E "✓|×|Tests|Test Files" out | sed -E 's/ [0-9]+ms//; s/\([0-9.]*m?s\)//' | sort > result`, false},
}

// scripts is the folder of what the projects need.
var scripts = sync.OnceValues(func() (string, error) { return prepared("script") })

func (p packed) unpack(t *testing.T) (source, needs string) {
	dir, err := scripts()
	require.NoError(t, err)
	source = unpacked(t, filepath.Join(dir, p.name+".tgz"))
	needs = filepath.Join(dir, "node_modules")
	require.NoError(t, os.Symlink(needs, filepath.Join(source, "node_modules")))
	return source, needs
}

// TestSubjectsInScript runs each project's own tests with and without Thrush, and compares
// a recording with what a witness counted.
func TestSubjectsInScript(t *testing.T) {
	thrush, err := filepath.Abs("../../bin/thrush")
	require.NoError(t, err)
	for _, p := range packs {
		t.Run(p.name, func(t *testing.T) {
			source, needs := p.unpack(t)
			dir := sameResults(t, thrush, source, p.tests)
			if p.watched {
				agreesWithProbes(t, dir, source, needs, p.tests)
			}
		})
	}
	for _, kind := range []string{"express", "koa"} {
		t.Run(kind, func(t *testing.T) {
			dir, err := scripts()
			require.NoError(t, err)
			source := filepath.Join(t.TempDir(), "source")
			require.NoError(t, exec.Command("cp", "-r", "testdata/script/"+kind, source).Run())
			require.NoError(t, os.Symlink(filepath.Join(dir, "node_modules"), filepath.Join(source, "node_modules")))
			sameResults(t, thrush, source, `node try.js > result`)
		})
	}
}

// agreesWithProbes runs the same again, counted by the witness, and compares the counts of
// all statements and functions.
func agreesWithProbes(t *testing.T, dir, source, needs, script string) {
	to, with := t.TempDir(), filepath.Join(t.TempDir(), "s")
	require.NoError(t, exec.Command("cp", "-r", source, with).Run())
	hook, err := filepath.Abs("testdata/script/witness.cjs")
	require.NoError(t, err)
	cmd := exec.Command("sh", "-c", script)
	cmd.Dir = with
	cmd.Env = append(os.Environ(), "WITNESS_TO="+to, "WITNESS_ROOT="+with, "WITNESS_MODULES="+needs, "NODE_OPTIONS=--require="+hook)
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, tail(string(out)))
	told, err := filepath.Glob(filepath.Join(to, "*.json"))
	require.NoError(t, err)
	require.NotEmpty(t, told)
	counted := map[string]uint64{}
	for _, path := range told {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		var says map[string]uint64
		require.NoError(t, json.Unmarshal(text, &says))
		for key, n := range says {
			counted[key] += n
		}
	}
	var differ []string
	compared := 0
	for _, f := range recorded(t, dir) {
		if !f.Loaded {
			continue
		}
		compare := func(at site.Pos, kind string, n uint64) {
			key := fmt.Sprintf("%s:%d:%d:%s", f.Path, at.Line, at.Column, kind)
			want, known := counted[key]
			if compared++; !known || want != n {
				differ = append(differ, fmt.Sprintf("%s: Thrush %d, witness %d (%t)", key, n, want, known))
			}
			delete(counted, key)
		}
		for _, s := range f.Statements {
			compare(s.Span.Start, "s", s.Count)
		}
		for _, fn := range f.Named() {
			compare(fn.Span.Start, "f", fn.Count)
		}
	}
	for key, n := range counted {
		if n > 0 && !strings.Contains(key, "test/") {
			differ = append(differ, fmt.Sprintf("%s: the witness alone has it, %d", key, n))
		}
	}
	sort.Strings(differ)
	require.Empty(t, differ)
	require.Greater(t, compared, 50)
	t.Logf("the witness agrees on %d counts", compared)
}
