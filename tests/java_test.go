package tests

import (
	"bytes"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"sort"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// jdks are the folders of the JDKs here, the one in PATH first.
func jdks(t *testing.T) (homes []string) {
	if javac, err := exec.LookPath("javac"); err == nil {
		real, err := filepath.EvalSymlinks(javac)
		require.NoError(t, err)
		homes = append(homes, filepath.Dir(filepath.Dir(real)))
	}
	others, _ := filepath.Glob("/usr/lib/jvm/*/bin/javac")
	sort.Sort(sort.Reverse(sort.StringSlice(others)))
	for _, javac := range others {
		homes = append(homes, filepath.Dir(filepath.Dir(javac)))
	}
	return homes
}

// jdkFor gives a JDK that knows a version of the language.
func jdkFor(t *testing.T, release string) string {
	for _, home := range jdks(t) {
		if exec.Command(filepath.Join(home, "bin", "javac"), "--release", release, "-version").Run() == nil {
			return home
		}
	}
	if os.Getenv("CI") != "" && release == "17" {
		t.Fatal("there is no JDK")
	}
	t.Skipf("there is no JDK that knows Java %s", release)
	return ""
}

var expected = regexp.MustCompile(`// (\d+|-)$`)

// TestJavaCounts runs programs that use all of the language, with all warnings on, and
// compares how often each line began with what the program itself says.
func TestJavaCounts(t *testing.T) {
	for _, release := range []string{"7", "17", "25"} {
		t.Run(release, func(t *testing.T) {
			bin := filepath.Join(jdkFor(t, release), "bin")
			dir := t.TempDir()
			require.NoError(t, os.CopyFS(dir, os.DirFS("testdata/java/"+release)))
			for _, flags := range [][]string{{"--level", "conditions"}, {"--level", "branches"}, {"--level", "lines"}, {"--keep", "hits"}} {
				if release == "7" && flags[1] != "branches" {
					continue
				}
				args := append(append([]string{"record", "--quiet"}, flags...), "--", "sh", "-c",
					`"$0/javac" --release $1 -Xlint:all,-options,-try,-preview -Werror -d out *.java && cd out && for c in skerry/Crossing skerry/Skiff Tender; do [ ! -e $c.class ] || "$0/java" -ea $(echo $c | tr / .); done`, bin, release)
				out, err := thrushIn(dir, args...)
				require.NoError(t, err, string(out))
				compareWithComments(t, dir, flags[1] == "hits")
			}
		})
	}
}

func thrushIn(dir string, args ...string) ([]byte, error) {
	cmd := exec.Command("thrush", args...)
	cmd.Dir = dir
	cmd.Env = append(os.Environ(), "PWD="+dir)
	return cmd.CombinedOutput()
}

// compareWithComments compares the latest recording with what comments at the ends of lines
// say.
func compareWithComments(t *testing.T, dir string, hits bool) {
	text, err := thrushIn(dir, "export", "--format", "json")
	require.NoError(t, err, string(text))
	var told struct {
		Files []struct {
			Path  string
			Lines []struct {
				Line  int
				Count *int
			}
		}
	}
	require.NoError(t, json.Unmarshal(text, &told))
	require.NotEmpty(t, told.Files)
	for _, f := range told.Files {
		source, err := os.ReadFile(filepath.Join(dir, f.Path))
		require.NoError(t, err)
		counts := map[int]string{}
		for _, l := range f.Lines {
			text, err := json.Marshal(l.Count)
			require.NoError(t, err)
			counts[l.Line] = string(text)
		}
		compared := 0
		for i, line := range strings.Split(string(bytes.TrimSpace(source)), "\n") {
			m := expected.FindStringSubmatch(line)
			if m == nil {
				continue
			}
			compared++
			want, got := m[1], counts[i+1]
			if hits && want != "-" && want != "0" {
				want = "1"
			}
			if got == "" || got == "null" {
				got = "-"
			}
			assert.Equal(t, want, got, "%s:%d: %s", f.Path, i+1, line)
		}
		require.Greater(t, compared, 40)
	}
}
