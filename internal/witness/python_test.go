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

// snake is a real project in Python.
type snake struct {
	name  string // of its archive
	tests string // arguments of pytest
	// watched are those whose run the witness sees; tracing is slow.
	watched string
}

var snakes = []snake{
	{"attrs-24.3.0", "tests --ignore=tests/test_mypy.yml", "tests/test_filters.py tests/test_converters.py tests/test_slots.py tests/test_next_gen.py"},
	{"click-8.1.8", "tests", "tests"},
	{"jinja2-3.1.5", "tests", "tests"},
	{"packaging-24.2", "tests/test_markers.py tests/test_tags.py tests/test_metadata.py tests/test_utils.py tests/test_structures.py", "tests/test_tags.py tests/test_metadata.py tests/test_utils.py"},
}

const pytest = `PYTHONHASHSEED=0 PYTHONPATH=src python -m pytest -q -rA -p no:cacheprovider --hypothesis-seed=1 %s > out 2>&1; ` +
	`status=$?; sed -E 's/ in [0-9.]+s.*//; s/0x[0-9a-f]+/ADDRESS/g; s#/[^ ]*/s/#/#g' out | sort > result; test $status -le 1`

// pythons is the folder of what the projects need, with an interpreter of its own.
var pythons = sync.OnceValues(func() (string, error) {
	python, err := interpreter()
	if err != nil {
		return "", err
	}
	return prepared("python", python)
})

// interpreter finds a Python that has the tests of its own library.
func interpreter() (string, error) {
	for _, p := range []string{"python3", "/usr/bin/python3"} {
		if exec.Command(p, "-c", "import venv, test.support, test.test_textwrap").Run() == nil {
			return p, nil
		}
	}
	return "", fmt.Errorf("no Python here has the tests of its own library (libpython3-testsuite)")
}

// unpack gives the sources of a project, and the variable by which shells find Python.
func (s snake) unpack(t *testing.T) (source, path string) {
	dir, err := pythons()
	require.NoError(t, err)
	source = unpacked(t, filepath.Join(dir, s.name+".tar.gz"))
	return source, "PATH=" + filepath.Join(dir, "venv/bin") + ":" + os.Getenv("PATH")
}

// TestSubjectsInPython runs each project's own tests with and without Thrush, and
// compares a recording with what the interpreter's own tracing says.
func TestSubjectsInPython(t *testing.T) {
	thrush, err := filepath.Abs("../../bin/thrush")
	require.NoError(t, err)
	for _, s := range snakes {
		t.Run(s.name, func(t *testing.T) {
			source, path := s.unpack(t)
			sameResults(t, thrush, source, fmt.Sprintf(pytest, s.tests), path)
			agreesWithTrace(t, thrush, source, fmt.Sprintf(pytest, s.watched), path)
		})
	}
	t.Run("standard library", func(t *testing.T) {
		_, err := pythons()
		require.NoError(t, err)
		python, err := interpreter()
		require.NoError(t, err)
		source, tests := libraryOf(t, python)
		script := fmt.Sprintf(`PYTHONHASHSEED=0 PYTHONPATH=.:$PYTHONPATH $PY -m test -v %s > out 2>&1; status=$?; grep -E " \.\.\. |^Ran [0-9]+ tests" out | sed -E 's/ in [0-9.]+s//; s/0x[0-9a-f]+/ADDRESS/g' > result; exit $status`, strings.Join(tests, " "))
		sameResults(t, thrush, source, script, "PY="+python)
		agreesWithTrace(t, thrush, source, `PYTHONHASHSEED=0 PYTHONPATH=.:$PYTHONPATH $PY -m test test_textwrap test_shlex test_fnmatch test_graphlib test_colorsys test_html test_heapq > out 2>&1; tail -3 out > result`, "PY="+python)
	})
}

// library are modules that nothing imports before the first of the project's.
var library = []string{"argparse", "base64", "bisect", "calendar", "colorsys", "configparser", "csv", "difflib", "fnmatch", "fractions", "graphlib",
	"heapq", "html", "ipaddress", "json", "netrc", "optparse", "pprint", "quopri", "shlex", "statistics", "string", "textwrap", "tomllib"}

// libraryOf copies modules of the standard library into a project of their own.
func libraryOf(t *testing.T, python string) (dir string, tests []string) {
	dir = filepath.Join(t.TempDir(), "library")
	require.NoError(t, os.Mkdir(dir, 0o777))
	out, err := exec.Command(python, "-c", "import os; print(os.path.dirname(os.__file__))").Output()
	require.NoError(t, err)
	from := strings.TrimSpace(string(out))
	for _, m := range library {
		path := filepath.Join(from, m)
		if _, err := os.Stat(path); err != nil {
			path += ".py"
		}
		require.NoError(t, exec.Command("cp", "-r", path, dir).Run())
		tests = append(tests, "test_"+m)
	}
	return dir, tests
}

// place is a line in the code of a function of that name, or of a module or class.
type place struct {
	path, code string
	line       int
}

// traced runs a script without Thrush and gives what the interpreter traced.
func traced(t *testing.T, source, script string, env ...string) (lines, calls map[place]bool) {
	to, with := t.TempDir(), filepath.Join(t.TempDir(), "s")
	require.NoError(t, exec.Command("cp", "-r", source, with).Run())
	hook, err := filepath.Abs("testdata/python")
	require.NoError(t, err)
	cmd := exec.Command("sh", "-c", strings.ReplaceAll(script, "PYTHONPATH=", "PYTHONPATH="+hook+":"))
	cmd.Dir = with
	cmd.Env = append(os.Environ(), append(env, "WITNESS_TO="+to, "WITNESS_ROOT="+with)...)
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, tail(string(out)))
	told, err := filepath.Glob(filepath.Join(to, "*.json"))
	require.NoError(t, err)
	require.NotEmpty(t, told)
	lines, calls = map[place]bool{}, map[place]bool{}
	for _, path := range told {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		var says struct{ Lines, Calls [][3]any }
		require.NoError(t, json.Unmarshal(text, &says))
		for _, x := range says.Lines {
			lines[place{x[0].(string), strings.Trim(x[1].(string), "<>"), int(x[2].(float64))}] = true
		}
		for _, x := range says.Calls {
			calls[place{x[0].(string), strings.Trim(x[1].(string), "<>"), int(x[2].(float64))}] = true
		}
	}
	return lines, calls
}

// agreesWithTrace compares what Thrush recorded with what the interpreter traced in
// another run: every statement that is alone in beginning on its line, every function.
func agreesWithTrace(t *testing.T, thrush, source, script string, env ...string) {
	lines, calls := traced(t, source, script, env...)
	dir := sameResults(t, thrush, source, script, env...)
	statements, functions := 0, 0
	var differ []string
	for _, f := range recorded(t, dir) {
		decorated := map[site.Span]int{}
		begin := map[int]int{}
		for _, s := range f.Statements {
			begin[s.Span.Start.Line]++
			decorated[site.Span{Start: s.Head, End: s.Span.End}] = s.Span.Start.Line
		}
		for _, fn := range f.Named() {
			begin[fn.Span.Start.Line]++
			last := fn.Name[strings.LastIndexByte(fn.Name, '.')+1:]
			functions++
			got := calls[place{f.Path, last, fn.Span.Start.Line}]
			if first, ok := decorated[fn.Span]; ok {
				got = got || calls[place{f.Path, last, first}]
			}
			if got != (fn.Count > 0) {
				differ = append(differ, fmt.Sprintf("%s:%d function %s: Thrush %d, traced %t", f.Path, fn.Span.Start.Line, fn.Name, fn.Count, got))
			}
		}
		for _, s := range f.Statements {
			if begin[s.Span.Start.Line] > 1 {
				continue
			}
			name := ""
			if fn := &f.Functions[s.Function]; !fn.Outside() {
				name = fn.Name[strings.LastIndexByte(fn.Name, '.')+1:]
			}
			got := false
			for line := s.Span.Start.Line; line <= max(s.Head.Line, s.Span.Start.Line); line++ {
				// In a function, code of no function is that of a class.
				got = got || lines[place{f.Path, name, line}] || lines[place{f.Path, "", line}]
			}
			statements++
			if got != (s.Count > 0) {
				differ = append(differ, fmt.Sprintf("%s:%d: Thrush %d, traced %t", f.Path, s.Span.Start.Line, s.Count, got))
			}
		}
	}
	sort.Strings(differ)
	require.Empty(t, differ)
	require.Greater(t, statements, 100)
	t.Logf("the interpreter's trace agrees on %d statements and %d functions", statements, functions)
}
