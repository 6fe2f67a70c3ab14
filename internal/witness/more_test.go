//go:build subjects

package witness

import (
	"fmt"
	"os"
	"path/filepath"
	"sync"
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
		`find . -exec touch -d 2020-01-01 {} + && CFLAGS="$O -w" ./configure > log && make -s -C lib >> log && make -s -C bc bc >> log && for f in atan div exp sqrt mul; do ./bc/bc -l Test/$f.b < /dev/null; done > result`,
		[]string{"-O0", "-O2"}, nil},
	{"pugixml", "pugixml_1.13.orig.tar.gz", "5c5ad5d7caeb791420408042a7d88c2c6180781bf218feca259fd9d840a888e1", "",
		`CXXFLAGS="$O" make -s config=debug test > out && grep "tests passed" out > result`,
		[]string{"-O0"}, nil},
	{"snappy", "snappy_1.1.9.orig.tar.gz", "75c1fbb3d618dd3a0483bff0e26d0a92b495bbe5059c8b4f1c962b478b6e06e7", "cp $DATA/pack.cc drive.cc",
		`cmake -S . -B build -DSNAPPY_BUILD_TESTS=OFF -DSNAPPY_BUILD_BENCHMARKS=OFF -DCMAKE_CXX_FLAGS="$O" > log && cmake --build build >> log && g++ $O -I. -Ibuild -o p drive.cc -Lbuild -lsnappy && ./p *.cc *.h COPYING testdata/* > result`,
		[]string{"-O0", "-O2"}, &watched{build: "(cmake -S . -B b -DSNAPPY_BUILD_TESTS=OFF -DSNAPPY_BUILD_BENCHMARKS=OFF > /dev/null; $CXX -Ib -I. -o p drive.cc snappy.cc snappy-sinksource.cc snappy-stubs-internal.cc)", args: []string{"COPYING", "snappy.h", "testdata/html"}}},
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
		t.Run(n.name, func(t *testing.T) { n.try(t, thrush) })
	}
	for _, s := range []subject{
		{"github.com/gorilla/mux", "v1.8.1", []string{"./..."}, nil},
		{"go.uber.org/zap", "v1.27.0", []string{".", "./zapcore"}, nil},
	} {
		t.Run(s.module, func(t *testing.T) { bothWays(t, thrush, fetch(t, s), s.tests) })
	}
	for _, s := range moreSnakes {
		t.Run(s.name, func(t *testing.T) {
			source, path := further(t, s.name+".tar.gz")
			sameResults(t, thrush, source, fmt.Sprintf(outcomes, s.tests), path)
			if s.watched != "" {
				agreesWithTrace(t, thrush, source, fmt.Sprintf(outcomes, s.watched), path)
			}
		})
	}
	t.Run("deep-equal", func(t *testing.T) {
		source, path := further(t, "deep-equal-2.2.3.tgz")
		dir := sameResults(t, thrush, source, fmt.Sprintf(tape, "test/*.js"), path)
		agreesWithProbes(t, dir, source, filepath.Join(source, "node_modules"), fmt.Sprintf(tape, "test/*.js"))
	})
}

// moreSnakes are further projects in Python: plug-ins of the runner of the tests itself,
// loops that switch between tasks, functions that are sent to other processes.
var moreSnakes = []snake{
	{"itsdangerous-2.2.0", "tests", "tests"},
	{"pluggy-1.5.0", "testing --ignore=testing/benchmark.py", "testing --ignore=testing/benchmark.py"},
	{"werkzeug-3.1.3", "tests --ignore=tests/test_serving.py --deselect tests/middleware/test_http_proxy.py --ignore=tests/test_debug.py", "tests/test_urls.py tests/test_http.py tests/test_local.py"},
	{"anyio-4.8.0", "tests/test_synchronization.py tests/test_taskgroups.py tests/streams/test_memory.py tests/streams/test_stapled.py tests/streams/test_text.py tests/streams/test_buffered.py tests/test_typedattr.py tests/test_lowlevel.py", "tests/test_typedattr.py tests/streams/test_stapled.py"},
	{"trio-0.27.0", trioTests, "src/trio/_tests/test_abc.py src/trio/_tests/test_highlevel_generic.py -p trio._tests.pytest_plugin"},
	{"joblib-1.4.2", "joblib/test/test_func_inspect.py joblib/test/test_hashing.py joblib/test/test_parallel.py -k 'not memmap and not timeout'", ""},
}

const trioTests = "src/trio/_tests/test_channel.py src/trio/_tests/test_abc.py src/trio/_tests/test_sync.py src/trio/_tests/test_util.py src/trio/_tests/test_timeouts.py " +
	"src/trio/_tests/test_highlevel_generic.py src/trio/_tests/test_path.py src/trio/_core/_tests/test_run.py src/trio/_core/_tests/test_local.py " +
	"src/trio/_core/_tests/test_parking_lot.py src/trio/_core/_tests/test_ki.py -p trio._tests.pytest_plugin"

// outcomes runs tests of Python and keeps how each ended: what these projects print besides
// tells times and addresses.
const outcomes = `PYTHONHASHSEED=0 PYTHONPATH=src python -m pytest -q -rA --timeout 100 --color=no -p no:cacheprovider --hypothesis-seed=1 %s > out 2>&1; ` +
	`status=$?; grep -E '^(PASSED|FAILED|SKIPPED|XFAIL|XPASS|ERROR) ' out | sed -E 's/0x[0-9a-f]+/ADDRESS/g; s#/[^ ]*/s/#/#g' | sort > result; test $status -le 1`

// furthers is the folder of what these projects need.
var furthers = sync.OnceValues(func() (string, error) {
	python, err := interpreter()
	if err != nil {
		return "", err
	}
	return prepared("more", python)
})

// further gives the sources of a project, with the modules of Node it needs, and the variable
// by which shells find Python.
func further(t *testing.T, archive string) (source, path string) {
	if !tryMore {
		t.Skip("THRUSH_MORE is not set")
	}
	dir, err := furthers()
	require.NoError(t, err)
	source = unpacked(t, filepath.Join(dir, archive))
	if filepath.Ext(archive) == ".tgz" {
		require.NoError(t, os.Symlink(filepath.Join(dir, "node_modules"), filepath.Join(source, "node_modules")))
	}
	return source, "PATH=" + filepath.Join(dir, "venv/bin") + ":" + os.Getenv("PATH")
}
