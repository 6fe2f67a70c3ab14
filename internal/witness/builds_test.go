//go:build subjects

package witness

import (
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestSubjectsInJavaBuilds has build tools build modules that depend on one another, one
// with a named module and one with an annotation processor, and test them in forked
// processes with two test frameworks: after a plain build, which has them up to date, and
// twice.
func TestSubjectsInJavaBuilds(t *testing.T) {
	thrush, err := filepath.Abs("../../bin/thrush")
	require.NoError(t, err)
	for _, b := range []struct {
		name                string
		plain, again        []string
		sales, fares, night int // how often these functions and this outcome ran
	}{
		{"maven", []string{"mvn", "-B", "-q", "test"}, []string{"mvn", "-B", "-q", "-o", "test"}, 1, 7, 1},
		{"gradle", []string{"gradle", "--no-daemon", "test"}, []string{"gradle", "--no-daemon", "--offline", "test"}, 1, 4, 1},
	} {
		t.Run(b.name, func(t *testing.T) {
			dir := filepath.Join(t.TempDir(), "harbour")
			require.NoError(t, os.CopyFS(dir, os.DirFS("testdata/java/harbour")))
			run := func(args ...string) ([]byte, error) {
				cmd := exec.Command(args[0], args[1:]...)
				cmd.Dir = dir
				cmd.Env = append(os.Environ(), "PWD="+dir)
				return cmd.Output()
			}
			out, err := run(b.plain...)
			require.NoError(t, err, tail(string(out)))
			for range 2 {
				out, err := run(append([]string{thrush, "record", "--"}, b.again...)...)
				require.NoError(t, err, tail(string(out)))
				require.NoError(t, os.Rename(latest(t, dir), filepath.Join(dir, "latest.thrush")))
				out, err = run(thrush, "export", "--format", "json", "latest.thrush")
				require.NoError(t, err)
				assert.Equal(t, map[string]int{"Sale.total": b.sales, "Tariff.pence": b.fares, "Tariff.unused": 0}, functionCounts(t, out))
			}
			_, err = run(thrush, "gate", "latest.thrush")
			var exit *exec.ExitError
			require.ErrorAs(t, err, &exit)
			require.Equal(t, 1, exit.ExitCode())
			out, _ = run(thrush, "gate", "--format", "json", "latest.thrush")
			assert.Equal(t, map[string]bool{"desk/src/main/java/skerry/desk": true, "tariff/src/main/java/skerry/tariff": false}, gatesMet(t, out))
		})
	}
}

// functionCounts reads how often each function was called from an export.
func functionCounts(t *testing.T, export []byte) map[string]int {
	var told struct {
		Files []struct {
			Functions []struct {
				Name  string
				Count int
			}
		}
	}
	require.NoError(t, json.Unmarshal(export, &told))
	counts := map[string]int{}
	for _, f := range told.Files {
		for _, fn := range f.Functions {
			counts[fn.Name] = fn.Count
		}
	}
	return counts
}

// gatesMet reads which scopes met the only gate.
func gatesMet(t *testing.T, judged []byte) map[string]bool {
	var told struct {
		Gates []struct {
			Results []struct {
				Scope string
				Met   bool
			}
		}
	}
	require.NoError(t, json.Unmarshal(judged, &told))
	require.Len(t, told.Gates, 1)
	met := map[string]bool{}
	for _, r := range told.Gates[0].Results {
		met[r.Scope] = r.Met
	}
	return met
}
