//go:build subjects

package truth

import (
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

// published is a real project in Java, built by Maven.
type published struct {
	name    string
	watched bool // its tests do the same each time, so that a witness can be compared
}

var publisheds = []published{
	{"commons-cli-1.6.0", true},
	{"commons-csv-1.10.0", true},
	{"commons-codec-1.16.0", false},
	{"commons-lang3-3.14.0", false},
}

// mavenTests runs a project's tests; which there were and how they ended goes to the file
// result.
const mavenTests = `mvn -B -q -Drat.skip -Denforcer.skip -Dmaven.test.failure.ignore test > out 2>&1 || { cat out; exit 1; }
for f in target/surefire-reports/TEST-*.xml; do
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
			dir := sameResults(t, thrush, source, mavenTests)
			if p.watched {
				agreesWithWitness(t, dir, source)
			}
		})
	}
}

// agreesWithWitness runs the same again, counted by calls that were put in by the compiler's
// own parser, and compares the counts of statements and of the outcomes of decisions.
func agreesWithWitness(t *testing.T, dir, source string) {
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
		if compared++; want != n {
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
