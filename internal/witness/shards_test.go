//go:build subjects

package witness

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestSubjectShards splits real suites into shards, recorded apart with labels of their
// own, and merges them: the result is that of recording all of them in one run, count by
// count.
func TestSubjectShards(t *testing.T) {
	thrush, err := filepath.Abs("../../bin/thrush")
	require.NoError(t, err)
	for _, s := range []struct {
		subject
		pkg string
	}{
		{subjects[0], "."},
		{subjects[2], "."},
	} {
		t.Run(s.module, func(t *testing.T) {
			dir := fetch(t, s.subject)
			shards := split(t, dir, s.pkg, 4)
			out := t.TempDir()
			record := func(name string, args ...string) string {
				file := filepath.Join(out, name+".thrush")
				cmd := exec.Command(thrush, append([]string{"record", "-q", "--label", name, "-o", file, "--"}, args...)...)
				cmd.Dir = dir
				cmd.Env = append(os.Environ(), "GOWORK=off", "PWD="+dir)
				text, err := cmd.CombinedOutput()
				require.NoError(t, err, tail(string(text)))
				return file
			}
			var all []string
			for _, run := range shards {
				test := []string{"go", "test", "-vet=off", "-run", run, s.pkg}
				all = append(all, "'"+strings.Join(test, "' '")+"' || true") // some tests need others before them
			}
			inShards := func() map[string]uint64 {
				var files []string
				for i, command := range all {
					files = append(files, record(fmt.Sprintf("shard-%d", i), "sh", "-c", command))
				}
				merged := filepath.Join(out, "merged.thrush")
				_ = os.Remove(merged)
				text, err := exec.Command(thrush, append([]string{"merge", "-q", "-o", merged}, files...)...).CombinedOutput()
				require.NoError(t, err, string(text))
				return counts(t, thrush, dir, merged)
			}
			got := inShards()
			// What a suite counts can depend on chance, such as the order of a map: what is not the
			// same in several runs of the whole tells nothing.
			whole, chance := counts(t, thrush, dir, record("whole", "sh", "-c", strings.Join(all, "; "))), map[string]bool{}
			for range 3 {
				for at, n := range counts(t, thrush, dir, record("again", "sh", "-c", strings.Join(all, "; "))) {
					if whole[at] != n {
						chance[at] = true
					}
				}
			}
			require.Equal(t, len(whole), len(got))
			// A rare chance may show in one run only: what differs and is merging's fault differs in the same
			// way each time.
			for try := 0; try < 3 && differ(got, whole, chance) > 0; try++ {
				again := inShards()
				for at, n := range got {
					if again[at] != n {
						chance[at] = true
					}
				}
			}
			ran, other := 0, 0
			var wrong []string
			for at, n := range whole {
				if n > 0 {
					ran++
				}
				switch {
				case chance[at] || got[at] == n:
				case (got[at] > 0) != (n > 0):
					wrong = append(wrong, fmt.Sprintf("%s: %d in one run, %d merged", at, n, got[at]))
				default:
					other++
				}
			}
			require.Empty(t, wrong[:min(10, len(wrong))], "%d differ", len(wrong))
			require.Greater(t, ran, 100)
			require.Less(t, len(chance), ran/10)
			require.LessOrEqual(t, other, len(chance)/2, "counts that differ, of sites that had the same in four runs")
			t.Logf("%s: of %d sites %d ran; four shards merged have the counts of the whole, but for %d that differ from run to run", s.module, len(whole), ran, len(chance)+other)
		})
	}
}

// differ is how many counts are not the same, apart from those that chance decides on.
func differ(a, b map[string]uint64, chance map[string]bool) (n int) {
	for at := range a {
		if a[at] != b[at] && !chance[at] {
			n++
		}
	}
	return n
}

// counts gives the count of every line, outcome and function of a recording.
func counts(t *testing.T, thrush, dir, recording string) map[string]uint64 {
	out := map[string]uint64{}
	for _, f := range exported(t, thrush, dir, recording) {
		for _, l := range f.Lines {
			out[fmt.Sprintf("%s:%d", f.Path, l.Line)] = l.Count
		}
		for _, d := range f.Decisions {
			for i, o := range d.Outcomes {
				out[fmt.Sprintf("%s:%d:%d %s %d", f.Path, d.Line, d.Column, o.Label, i)] = o.Count
			}
		}
		for i, fn := range f.Functions {
			out[fmt.Sprintf("%s %s %d", f.Path, fn.Name, i)] = fn.Count
		}
	}
	return out
}

// split gives expressions that choose the tests of a package in so many parts.
func split(t *testing.T, dir, pkg string, n int) []string {
	cmd := exec.Command("go", "test", "-list", "^Test", pkg)
	cmd.Dir = dir
	cmd.Env = append(os.Environ(), "GOWORK=off")
	text, err := cmd.CombinedOutput()
	require.NoError(t, err, string(text))
	names := regexp.MustCompile(`(?m)^Test\w+$`).FindAllString(string(text), -1)
	require.Greater(t, len(names), n)
	parts := make([][]string, n)
	for i, name := range names {
		parts[i%n] = append(parts[i%n], name)
	}
	var out []string
	for _, p := range parts {
		out = append(out, "^("+strings.Join(p, "|")+")$")
	}
	return out
}

type exportedFile struct {
	Path  string
	Lines []struct {
		Line  int
		State string
		Count uint64
	}
	Decisions []struct {
		Line, Column int
		Outcomes     []struct {
			Label string
			Count uint64
		}
	}
	Functions []struct {
		Name  string
		Count uint64
	}
}

func exported(t *testing.T, thrush, dir, recording string) []exportedFile {
	cmd := exec.Command(thrush, "export", "--format", "json", recording)
	cmd.Dir = dir
	text, err := cmd.Output()
	require.NoError(t, err)
	var doc struct{ Files []exportedFile }
	require.NoError(t, json.Unmarshal(text, &doc))
	return doc.Files
}
