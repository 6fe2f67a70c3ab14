//go:build subjects

package truth

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// tryMore says that the projects are tried that take too long for every change.
var tryMore = os.Getenv("THRUSH_MORE") != ""

// more are further projects in C and C++, each for something that others lack: a grammar and
// a scanner, a name space that is a macro, headers alone.
var more = []native{
	{"mawk", "mawk_1.3.4.20200120.orig.tar.gz", "7fd4cd1e1fae9290fe089171181bbc6291dfd9bca939ca804f0ddb851c8b8237", "",
		`CFLAGS="$O" ./configure > log && make -s >> log && make -s check > out 2>> log && sed 's#/[^ ]*/mawk#mawk#' out > result`,
		[]string{"-O0", "-O2"}, nil},
	{"bc", "bc_1.07.1.orig.tar.gz", "62adfca89b0a1c0164c2cdca59ca210c1d44c3ffc46daf9931cf4942664cb02a", "",
		`CFLAGS="$O -w" ./configure > log && make -s -C lib >> log && make -s -C bc bc >> log && for f in atan div exp sqrt mul; do ./bc/bc -l Test/$f.b < /dev/null; done > result`,
		[]string{"-O0", "-O2"}, nil},
	{"pugixml", "pugixml_1.13.orig.tar.gz", "5c5ad5d7caeb791420408042a7d88c2c6180781bf218feca259fd9d840a888e1", "",
		`CXXFLAGS="$O" make -s config=debug test > out && grep "tests passed" out > result`,
		[]string{"-O0"}, nil},
	{"yaml-cpp", "yaml-cpp_0.7.0+dfsg.orig.tar.xz", "dc63708605404e0b963e0ca3a9619d1c8270eda2839603e6fa0384e5e51e5312", "",
		`cmake -S . -B build -DYAML_CPP_BUILD_TESTS=OFF -DCMAKE_CXX_FLAGS="$O" > log && cmake --build build -j2 >> log && printf 'skerry: [fares, decks]\nlanes: {a: 1, b: "two"}\n' > in.yml && ./build/util/parse < in.yml > result`,
		[]string{"-O0"}, nil},
}

// TestMoreProjects runs the tests of further projects with and without Thrush: what is too
// much for every change. make subjects-all sets THRUSH_MORE.
func TestMoreProjects(t *testing.T) {
	if !tryMore {
		t.Skip("THRUSH_MORE is not set")
	}
	thrush, err := filepath.Abs("../../bin/thrush")
	require.NoError(t, err)
	for _, n := range more {
		t.Run(n.name, func(t *testing.T) {
			source := n.fetch(t)
			for _, o := range n.levels {
				t.Run(o, func(t *testing.T) { n.bothWays(t, thrush, source, o) })
			}
		})
	}
	for _, s := range []subject{
		{"github.com/gorilla/mux", "v1.8.1", []string{"./..."}, nil},
		{"go.uber.org/zap", "v1.27.0", []string{".", "./zapcore"}, nil},
	} {
		t.Run(s.module, func(t *testing.T) { bothWays(t, thrush, fetch(t, s), s.tests) })
	}
	for _, s := range []snake{
		{"itsdangerous-2.2.0", "tests", "tests"},
		{"pluggy-1.5.0", "testing --ignore=testing/benchmark.py", "testing --ignore=testing/benchmark.py"},
		{"joblib-1.4.2", "joblib/test/test_func_inspect.py joblib/test/test_hashing.py joblib/test/test_parallel.py -k 'not memmap and not timeout'", ""},
	} {
		t.Run(s.name, func(t *testing.T) {
			dir, err := pythons()
			require.NoError(t, err)
			if _, err := os.Stat(filepath.Join(dir, s.name+".tar.gz")); err != nil {
				name := exec.Command("venv/bin/pip", "-q", "download", "--no-binary", ":all:", "--no-deps", "--no-build-isolation", pinned(s.name), "-d", ".")
				name.Dir = dir
				out, err := name.CombinedOutput()
				require.NoError(t, err, string(out))
			}
			source, path := s.unpack(t)
			sameResults(t, thrush, source, fmt.Sprintf(pytest, s.tests), path)
			if s.watched != "" {
				agreesWithTrace(t, thrush, source, fmt.Sprintf(pytest, s.watched), path)
			}
		})
	}
}

// pinned gives the name and version of an archive as pip has them.
func pinned(name string) string {
	for i := len(name) - 1; i > 0; i-- {
		if name[i] == '-' {
			return name[:i] + "==" + name[i+1:]
		}
	}
	return name
}
