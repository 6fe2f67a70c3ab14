//go:build subjects && linux && amd64

package witness

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"
)

// native is a real project in C or C++, from Debian's source packages.
type native struct {
	name, file, sum string // source package, its upstream archive, SHA-256 of that
	// prepare makes the sources fit to be built; test builds them with the flags $O and
	// runs their own tests. What is to be the same without and with Thrush goes to the
	// file result.
	prepare, test string
	levels        []string // of optimisation
	watch         *watched
}

var natives = []native{
	{"cjson", "cjson_1.7.15.orig.tar.gz", "5308fd4bd90cef7aa060558514de6a1a4a0819974a26e6ed13973c5f624c24b2", "",
		`cmake -S . -B build -DCMAKE_C_FLAGS="$O" && cmake --build build -j2 && (cd build && ctest) > out; status=$?; grep -o "Test .*#.*Passed\|tests passed.*" out > result; exit $status`,
		[]string{"-O0", "-O2"}, &watched{build: "$CC -o p cJSON.c test.c -lm"}},
	{"zlib", "zlib_1.2.13.dfsg.orig.tar.bz2", "71feb7947e3c00ef125f83b79a4e529bde31171e5babe48b391f06758d1ab0a1", "",
		`CFLAGS="$O" ./configure && make -j2 all && make check > out && grep "OK\|hello\|inflate\|uncompress" out > result`,
		[]string{"-O0", "-O2"}, &watched{build: "./configure > /dev/null; $CC -I. -o p *.c test/example.c"}},
	{"jansson", "jansson_2.14.orig.tar.gz", "c739578bf6b764aa0752db9a2fdadcfe921c78f1228c7ec0bb47fa804c55d17b", "",
		`cmake -S . -B build -DJANSSON_BUILD_DOCS=OFF -DCMAKE_C_FLAGS="$O" && cmake --build build -j2 && (cd build && ctest) > out; status=$?; grep -c "Passed" out > result; exit $status`,
		[]string{"-O0", "-O2"}, nil},
	{"libyaml", "libyaml_0.2.5.orig.tar.gz", "fa240dbf262be053f3898006d502d514936c818e422afdcf33921c63bed9bf2e", "",
		`cmake -S . -B build -DCMAKE_C_FLAGS="$O" && cmake --build build -j2 && (cd build && ctest) > out; status=$?; grep -c "Passed" out > result; exit $status`,
		[]string{"-O0", "-O2"}, nil},
	{"expat", "expat_2.5.0.orig.tar.gz", "ab00ee05c7067fd10a35c5d2a4922ebba746ddd50ff83b79c828da17bbdf1757", "",
		`cmake -S expat -B build -G Ninja -DEXPAT_BUILD_DOCS=OFF -DCMAKE_C_FLAGS="$O" -DCMAKE_CXX_FLAGS="$O" && cmake --build build -j2 && (cd build && ctest) > out; status=$?; grep -o "Test .*#.*Passed" out > result; exit $status`,
		[]string{"-O0", "-O2"}, &watched{only: "xmltok",
			build: "(cd expat && cmake -S . -B b -DEXPAT_BUILD_DOCS=OFF > /dev/null; cp b/expat_config.h lib/; $CC -DHAVE_EXPAT_CONFIG_H -Ilib -Ib -o ../p lib/*.c tests/runtests.c tests/chardata.c tests/minicheck.c tests/memcheck.c tests/structdata.c)"}},
	{"lua5.4", "lua5.4_5.4.4.orig.tar.gz", "164c7849653b80ae67bec4b7473b884bf5cc8d2dca05653475ec2ed27b9ebf61", "cp $DATA/deck.lua .",
		`make -j2 -C src CFLAGS="$O -DLUA_COMPAT_5_3" MYLIBS= MYCFLAGS="-DLUA_USE_POSIX" all && ./src/lua deck.lua > result && ./src/luac -l deck.lua | grep -o "^.*\[[0-9]*\]	[A-Z]*" >> result`,
		[]string{"-O0", "-O2"}, &watched{build: "(cd src && $CC -DLUA_USE_POSIX -o ../p $(ls *.c | grep -v luac.c) -lm)", args: []string{"deck.lua"}}},
	{"sqlite3", "sqlite3_3.40.1.orig.tar.xz", "aaa776260ab4dc976db34aa7891819484c8676b5b2783123ebc6301e2ca5d655",
		`./configure --disable-readline && make sqlite3.c shell.c && mkdir one && mv sqlite3.c shell.c sqlite3.h sqlite3ext.h one && rm -rf src ext test tool autoconf tsrc mptest && cp $DATA/deck.sql .`,
		`cd one && gcc $O -o sqlite3 shell.c sqlite3.c -lpthread -ldl -lm && ./sqlite3 :memory: < ../deck.sql > ../result 2>&1; test -s ../result`,
		[]string{"-O0", "-O2"}, &watched{build: "(cd one && $CC -DSQLITE_THREADSAFE=0 -o ../p sqlite3.c shell.c -lm)", args: []string{":memory:"}, input: "deck.sql"}},
	{"tinyxml2", "tinyxml2_9.0.0+dfsg.orig.tar.xz", "96510f47a5db537f70dff3e83dd71fd2180cbba4aa76c589a549467e7f34bc9b", "",
		`cmake -S . -B build -DCMAKE_CXX_FLAGS="$O" && cmake --build build -j2 && (cd build && ctest) > out; status=$?; grep -o "Test .*#.*Passed" out > result; exit $status`,
		[]string{"-O0", "-O2"}, &watched{build: "$CXX -o p tinyxml2.cpp xmltest.cpp"}},
	{"fmtlib", "fmtlib_9.1.0+ds1.orig.tar.gz", "84ce1c2d0be3a9863935137969dcec6970125caac032f82474640bfc81463583", "",
		`g++ $O -std=gnu++17 -Iinclude -Itest -o args test/args-test.cc test/core-test.cc src/format.cc src/os.cc -x c++ - -lgtest -lgmock -lpthread < $DATA/main.cc && ./args > out; status=$?; grep -o "OK \] [A-Za-z_.]*" out > result; exit $status`,
		[]string{"-O0", "-O2"}, nil},
	{"nlohmann-json3", "nlohmann-json3_3.11.2.orig.tar.gz", "d69f9deb6a75e2580465c6c4c5111b89c4dc2fa94e3a85fcd2ffcd9a143d9273", "",
		`for t in capacity; do g++ $O -std=c++17 -Isingle_include -Iinclude -Itests/thirdparty/doctest -Itests/src tests/src/unit.cpp tests/src/unit-$t.cpp -o b-$t && ./b-$t > out-$t || exit 1; grep -h "assertions" out-$t >> result; done`,
		[]string{"-O0", "-O2"}, nil},
}

// TestSubjectsInC runs each project's own tests with and without Thrush.
func TestSubjectsInC(t *testing.T) {
	thrush, err := filepath.Abs("../../bin/thrush")
	require.NoError(t, err)
	require.FileExists(t, thrush, "make build comes first")
	for _, n := range natives {
		t.Run(n.name, func(t *testing.T) { n.try(t, thrush) })
	}
}

// try builds and tests the project at each level of optimisation, with the debugger looking
// on where it can.
func (n native) try(t *testing.T, thrush string) {
	source := n.fetch(t)
	for _, o := range n.levels {
		t.Run(o, func(t *testing.T) { n.bothWays(t, thrush, source, o) })
	}
	if n.watch != nil {
		t.Run("debugger", func(t *testing.T) { agreesWithDebugger(t, thrush, source, *n.watch) })
	}
}

// bothWays builds and tests without Thrush and with it.
func (n native) bothWays(t *testing.T, thrush, source, o string) {
	sameResults(t, thrush, source, n.test, "O="+o, "DATA="+data(t))
}

func data(t *testing.T) string {
	dir, err := filepath.Abs("testdata/native")
	require.NoError(t, err)
	return dir
}

// downloads is where archives are kept from one run to the next.
const downloads = "../../.subjects/native"

var sources = sync.OnceValues(func() (string, error) {
	dir, err := filepath.Abs(downloads)
	if err != nil {
		return "", err
	}
	var names []string
	for _, n := range append(natives, more...) {
		if _, err := os.Stat(filepath.Join(dir, n.file)); err != nil && (tryMore || slices.ContainsFunc(natives, func(o native) bool { return o.name == n.name })) {
			names = append(names, n.name)
		}
	}
	if len(names) == 0 {
		return dir, nil
	}
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return "", err
	}
	cmd := exec.Command("sh", append([]string{filepath.Join(dir, "..", "..", "internal/witness/testdata/native/fetch.sh")}, names...)...)
	cmd.Dir = dir
	if out, err := cmd.CombinedOutput(); err != nil {
		return "", fmt.Errorf("%w: %s", err, tail(string(out)))
	}
	return dir, nil
})

// fetch unpacks the project's sources.
func (n native) fetch(t *testing.T) string {
	from, err := sources()
	require.NoError(t, err)
	archive, err := os.ReadFile(filepath.Join(from, n.file))
	require.NoError(t, err)
	sum := sha256.Sum256(archive)
	require.Equal(t, n.sum, hex.EncodeToString(sum[:]), n.file)
	dir := filepath.Join(t.TempDir(), "source")
	require.NoError(t, os.Mkdir(dir, 0o777))
	script := fmt.Sprintf("set -e; tar xf %s --strip-components=1; %s", filepath.Join(from, n.file), n.prepare)
	cmd := exec.Command("sh", "-c", script)
	cmd.Dir = dir
	cmd.Env = append(os.Environ(), "DATA="+data(t))
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, tail(string(out)))
	return dir
}
