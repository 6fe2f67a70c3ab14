//go:build subjects

package witness

import (
	"archive/zip"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"sort"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"thrush/internal/core/site"
	"thrush/internal/lang/java"
	"thrush/internal/weave"
)

// published is a real project in Java, built by Maven.
type published struct {
	name string
	only string // what says which of its tests run, or all
	// exact says that its tests do the same each time; else only what ran at all can be
	// compared with what a witness saw.
	watched, exact bool
}

var publisheds = []published{
	{name: "commons-cli-1.6.0", watched: true, exact: true},
	{name: "commons-csv-1.10.0", watched: true},
	{name: "commons-lang3-3.14.0", only: "-Dtest=**/lang3/builder/*Test,**/lang3/tuple/*Test,**/lang3/mutable/*Test,**/lang3/math/*Test,**/lang3/text/**/*Test,**/lang3/function/*Test"},
	// One of its tests reads the sources themselves.
	{name: "commons-text-1.11.0", only: "-Dtest=**/text/similarity/*Test,**/text/translate/*Test,**/text/diff/*Test,!EntityArraysTest"},
	// Java 7, with all warnings being errors, and a tool that looks into compiled tests.
	{name: "gson-2.10.1", only: "-pl gson,extras,metrics"},
}

// mavenTests runs a project's tests; which there were and how they ended goes to the file
// result.
const mavenTests = `mvn -B -q -Drat.skip -Denforcer.skip -Dmaven.test.failure.ignore $ONLY test > out 2>&1 || { cat out; exit 1; }
find . -path '*/surefire-reports/TEST-*.xml' | sort | while read -r f; do
	grep -ohE '<testcase name="[^"]*" classname="[^"]*"|<(failure|error|skipped) ' "$f" | sed -E 's/@[0-9a-f]+//g' | sort | uniq -c
done > result`

var javas = sync.OnceValues(func() (string, error) {
	var names []string
	for _, p := range publisheds {
		names = append(names, p.name)
	}
	return prepared("java", names...)
})

// TestSubjectsInJava runs each project's own tests with and without Thrush, and compares
// recordings with what a witness counted.
func TestSubjectsInJava(t *testing.T) {
	thrush, err := filepath.Abs("../../bin/thrush")
	require.NoError(t, err)
	for _, p := range publisheds {
		t.Run(p.name, func(t *testing.T) {
			from, err := javas()
			require.NoError(t, err)
			source := filepath.Join(from, p.name)
			dir := sameResults(t, thrush, source, mavenTests, "ONLY="+p.only)
			if p.watched {
				agreesWithWitness(t, dir, source, p.exact)
			}
		})
	}
}

// agreesWithWitness runs the same again, counted by calls that were put in by the compiler's
// own parser, and compares the counts of statements and of the outcomes of decisions.
func agreesWithWitness(t *testing.T, dir, source string, exact bool) {
	with := filepath.Join(t.TempDir(), "s")
	require.NoError(t, exec.Command("cp", "-r", source, with).Run())
	witness, err := filepath.Abs("testdata/java/Witness.java")
	require.NoError(t, err)
	cmd := exec.Command("sh", "-c", "java '"+witness+"' src/main/java places && "+mavenTests)
	cmd.Dir = with
	cmd.Env = append(os.Environ(), "SEEN="+filepath.Join(with, "seen-"))
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, tail(string(out)))

	counted := witnessedCounts(t, with)
	var differ []string
	compared := 0
	compare := func(path string, at site.Pos, kind string, n uint64) {
		key := fmt.Sprintf("%s\t%d\t%d\t%s", strings.TrimPrefix(path, "src/main/java/"), at.Line, at.Column, kind)
		want, known := counted[key]
		if !known {
			return // not all that Thrush counts is what the witness does
		}
		if compared++; want != n && (exact || (want == 0) != (n == 0)) {
			differ = append(differ, fmt.Sprintf("%s: Thrush %d, witness %d", key, n, want))
		}
		delete(counted, key)
	}
	for _, f := range recorded(t, dir) {
		for _, s := range f.Statements {
			compare(f.Path, s.Span.Start, "statement", s.Count)
		}
		for _, d := range f.Decisions {
			if d.Kind == "if" || d.Kind == "loop" || d.Kind == "?:" {
				compare(f.Path, d.Pos, "true", d.Outcomes[0].Count)
				compare(f.Path, d.Pos, "false", d.Outcomes[1].Count)
			}
		}
	}
	for key, n := range counted {
		differ = append(differ, fmt.Sprintf("%s: the witness alone has it, %d", key, n))
	}
	sort.Strings(differ)
	require.Empty(t, differ)
	require.Greater(t, compared, 1000)
	t.Logf("the witness agrees on %d counts", compared)
}

// witnessedCounts are the counts of all places that the witness watched.
func witnessedCounts(t *testing.T, dir string) map[string]uint64 {
	text, err := os.ReadFile(filepath.Join(dir, "places"))
	require.NoError(t, err)
	places := strings.Split(strings.TrimSpace(string(text)), "\n")
	counted := map[string]uint64{}
	for _, p := range places {
		counted[p] = 0
	}
	seen, err := filepath.Glob(filepath.Join(dir, "seen-*"))
	require.NoError(t, err)
	require.NotEmpty(t, seen)
	for _, path := range seen {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		for _, line := range strings.Split(strings.TrimSpace(string(text)), "\n") {
			var at int
			var n uint64
			_, err := fmt.Sscan(line, &at, &n)
			require.NoError(t, err)
			counted[places[at]] += n
		}
	}
	return counted
}

// TestSubjectsInJavaBase weaves all of a JDK's base library, and has its compiler compile the
// collections, dates and texts in it, and what these need.
func TestSubjectsInJavaBase(t *testing.T) {
	archives, err := filepath.Glob("/usr/lib/jvm/*/lib/src.zip")
	require.NoError(t, err)
	archives = slices.DeleteFunc(archives, func(a string) bool {
		_, err := os.Stat(a) // it may lead nowhere
		return err != nil || exec.Command(filepath.Join(filepath.Dir(a), "../bin/javac"), "-version").Run() != nil
	})
	require.NotEmpty(t, archives, "there are no sources of a JDK")
	archive := archives[len(archives)-1]
	dir := t.TempDir()
	z, err := zip.OpenReader(archive)
	require.NoError(t, err)
	var work errgroup.Group
	work.SetLimit(runtime.GOMAXPROCS(0))
	files, compiled := 0, []string{}
	for _, f := range z.File {
		if !strings.HasPrefix(f.Name, "java.base/") || !java.IsSource(f.Name) {
			continue
		}
		files++
		to := filepath.Join(dir, f.Name)
		work.Go(func() error { return weaveTo(f, to) })
		for _, p := range []string{"util/", "time/", "text/"} {
			if strings.HasPrefix(f.Name, "java.base/java/"+p) {
				compiled = append(compiled, to)
			}
		}
	}
	require.NoError(t, work.Wait())
	require.Greater(t, files, 1500)
	list := filepath.Join(dir, "files")
	require.NoError(t, os.WriteFile(list, []byte(strings.Join(compiled, "\n")), 0o666))
	out, err := exec.Command(filepath.Join(filepath.Dir(archive), "../bin/javac"), "-nowarn", "--patch-module", "java.base="+filepath.Join(dir, "java.base"), "-d", filepath.Join(dir, "out"), "@"+list).CombinedOutput()
	require.NoError(t, err, tail(string(out)))
	t.Logf("%s: %d files woven at level conditions, %d of them compiled, and what they need", archive, files, len(compiled))
}

// weaveTo weaves a source of an archive at level conditions.
func weaveTo(f *zip.File, to string) error {
	in, err := f.Open()
	if err != nil {
		return err
	}
	source, err := io.ReadAll(in)
	if err != nil {
		return err
	}
	file, err := java.Read(source)
	if err != nil {
		return fmt.Errorf("%s: %w", f.Name, err)
	}
	table := &site.Table{Path: f.Name, Unit: strings.Repeat("0", 32)}
	text, class := java.Spell(weave.Place(source, file, table, weave.Options{Level: site.Conditions, Keep: site.Counts}), source, "")
	if !java.Fits(text) {
		return fmt.Errorf("%s: the woven text does not fit the grammar", f.Name)
	}
	if err := os.MkdirAll(filepath.Dir(to), 0o777); err != nil {
		return err
	}
	return os.WriteFile(to, append(text, class...), 0o666)
}
