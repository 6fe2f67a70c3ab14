//go:build subjects

package truth

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"thrush/internal/core/site"
	"thrush/internal/weave"
)

// subject is a real project at a fixed version.
type subject struct {
	module, version string
	// tests are the arguments of go test; skip names tests that fail without
	// Thrush too, or tell one run from the next.
	tests []string
	// witness are the packages that are compared with the witness.
	witness []string
}

var subjects = []subject{
	{"github.com/spf13/cobra", "v1.10.2", []string{"./..."}, []string{"."}},
	{"github.com/stretchr/testify", "v1.12.1", []string{"./..."}, []string{"./assert"}},
	{"github.com/pelletier/go-toml/v2", "v2.4.3", []string{"./..."}, []string{"./..."}},
	{"github.com/alecthomas/chroma/v2", "v2.27.0", []string{"."}, []string{"."}},
	{"github.com/klauspost/compress", "v1.20.3", []string{"-short", "./flate", "./huff0", "./fse", "./s2", "./snappy/...", "./internal/..."}, []string{"./fse", "./huff0"}},
}

// TestSubjects runs each project's own tests with and without Thrush.
func TestSubjects(t *testing.T) {
	thrush, err := filepath.Abs("../../bin/thrush")
	require.NoError(t, err)
	require.FileExists(t, thrush, "make build comes first")
	for _, s := range subjects {
		t.Run(s.module, func(t *testing.T) {
			dir := fetch(t, s)
			bothWays(t, thrush, dir, s.tests)
		})
	}
	t.Run("this project", func(t *testing.T) {
		root, err := filepath.Abs("../..")
		require.NoError(t, err)
		dir := t.TempDir()
		require.NoError(t, exec.Command("cp", "-r", filepath.Join(root, "go.mod"), filepath.Join(root, "go.sum"), filepath.Join(root, "cmd"),
			filepath.Join(root, "internal"), filepath.Join(root, "samples"), filepath.Join(root, "tests"), dir).Run())
		bothWays(t, thrush, dir, []string{"./internal/...", "./samples/..."})
	})
	t.Run("standard library", func(t *testing.T) {
		dir := t.TempDir()
		packages := copyStandard(t, dir)
		bothWays(t, thrush, dir, append([]string{"-short"}, packages...))
	})
}

// TestSubjectsAgreeWithWitness compares statement by statement.
func TestSubjectsAgreeWithWitness(t *testing.T) {
	opt := weave.Options{Level: site.Branches, Keep: site.Counts}
	for _, s := range subjects {
		t.Run(s.module, func(t *testing.T) {
			dir := fetch(t, s)
			agree(t, compare(t, s.module, dir, opt, true, append([]string{"test", "-vet=off", "-p=1", "-short"}, s.witness...)...))
		})
	}
	t.Run("standard library", func(t *testing.T) {
		dir := t.TempDir()
		packages := copyStandard(t, dir)
		agree(t, compare(t, "std", dir, opt, true, append([]string{"test", "-vet=off", "-p=1", "-short"}, packages...)...))
	})
}

func agree(t *testing.T, out outcome) {
	require.Empty(t, out.Disagreements, "%d of %d differ:\n%s", len(out.Disagreements), out.Statements+out.Outcomes,
		strings.Join(out.Disagreements[:min(40, len(out.Disagreements))], "\n"))
	require.Positive(t, out.Ran)
	t.Logf("%d files: %d statements and %d outcomes agree, %d of them ran", out.Files, out.Statements, out.Outcomes, out.Ran)
}

// fetch copies a module to where it can be written to.
func fetch(t *testing.T, s subject) string {
	out, err := exec.Command("go", "mod", "download", "-json", s.module+"@"+s.version).Output()
	require.NoError(t, err, string(out))
	var got struct{ Dir string }
	require.NoError(t, json.Unmarshal(out, &got))
	dir := filepath.Join(t.TempDir(), "subject")
	require.NoError(t, exec.Command("cp", "-r", got.Dir, dir).Run())
	require.NoError(t, exec.Command("chmod", "-R", "u+w", dir).Run())
	return dir
}

var varying = regexp.MustCompile(`0x[0-9a-f]+|[0-9]+`)

// bothWays runs go test plainly and under Thrush: the same tests must pass and
// fail.
func bothWays(t *testing.T, thrush, dir string, tests []string) {
	args := append([]string{"go", "test", "-json", "-count=1"}, tests...)
	run := func(args []string) (map[string]int, time.Duration, string) {
		cmd := exec.Command(args[0], args[1:]...)
		cmd.Dir = dir
		cmd.Env = append(os.Environ(), "GOWORK=off", "PWD="+dir)
		var out, failed bytes.Buffer
		cmd.Stdout, cmd.Stderr = &out, &failed
		start := time.Now()
		_ = cmd.Run()
		took := time.Since(start)
		results := map[string]int{}
		for d := json.NewDecoder(&out); d.More(); {
			var e struct{ Action, Package, Test, Output string }
			if d.Decode(&e) != nil {
				break
			}
			switch e.Action {
			case "pass", "fail", "skip", "build-fail":
				// Names may hold addresses and times, so alike ones are counted.
				name := e.Package + " " + varying.ReplaceAllString(e.Test, "#") + " " + e.Action
				results[name]++
			}
		}
		return results, took, failed.String()
	}
	run(args) // once for the build cache, so that times compare
	plain, plainTime, _ := run(args)
	thrushArgs := append([]string{thrush, "record", "--"}, args...)
	run(thrushArgs)
	under, underTime, said := run(thrushArgs)
	require.NotEmpty(t, plain)
	var differ []string
	names := maps.Clone(plain)
	maps.Copy(names, under)
	for name := range names {
		if under[name] != plain[name] {
			differ = append(differ, fmt.Sprintf("%s: %d without, %d with Thrush", name, plain[name], under[name]))
		}
	}
	slices.Sort(differ)
	require.Empty(t, differ, said)
	lines, recorded := "", regexp.MustCompile(`lines .*`).FindString(said)
	if m := regexp.MustCompile(`\d+/(\d+)`).FindStringSubmatch(recorded); m != nil {
		lines = m[1]
	}
	t.Logf("%d results alike; %s lines of code; %.1f s without, %.1f s with Thrush (%.2f×)", len(plain), lines,
		plainTime.Seconds(), underTime.Seconds(), underTime.Seconds()/plainTime.Seconds())
}

// standard are packages of the standard library that stand on their own.
var standard = []string{
	"archive/tar", "bytes", "compress/bzip2", "compress/flate", "compress/lzw", "container/heap", "container/list", "container/ring",
	"encoding/ascii85", "encoding/base32", "encoding/csv", "encoding/hex", "encoding/pem", "encoding/xml", "go/scanner",
	"hash/adler32", "hash/fnv", "html", "html/template", "image/gif", "index/suffixarray", "mime/quotedprintable", "net/textproto",
	"path", "regexp", "regexp/syntax", "sort", "text/scanner", "text/tabwriter", "text/template", "text/template/parse",
}

// copyStandard lays packages of the standard library out as a module. Those
// that cannot be built outside of it are left out.
func copyStandard(t *testing.T, dir string) []string {
	src := filepath.Join(runtime.GOROOT(), "src")
	require.NoError(t, os.WriteFile(filepath.Join(dir, "go.mod"), []byte("module std\n\ngo 1.26\n"), 0o666))
	own := map[string]bool{}
	for _, p := range standard {
		own[p] = true
	}
	imported := regexp.MustCompile(`(?m)^(\s*(?:import )?(?:[\w.]+ )?)"([\w/]+)"$`)
	for _, p := range standard {
		to := filepath.Join(dir, p)
		require.NoError(t, os.MkdirAll(to, 0o777))
		require.NoError(t, exec.Command("sh", "-c", fmt.Sprintf("cp %s/%s/*.go %s; [ ! -d %s/%s/testdata ] || cp -r %s/%s/testdata %s", src, p, to, src, p, src, p, to)).Run())
		files, err := filepath.Glob(filepath.Join(to, "*.go"))
		require.NoError(t, err)
		for _, f := range files {
			text, err := os.ReadFile(f)
			require.NoError(t, err)
			text = imported.ReplaceAllFunc(text, func(m []byte) []byte {
				s := imported.FindSubmatch(m)
				if own[string(s[2])] {
					return fmt.Appendf(nil, "%s\"std/%s\"", s[1], s[2])
				}
				return m
			})
			require.NoError(t, os.WriteFile(f, text, 0o666))
		}
	}
	require.NoError(t, exec.Command("sh", "-c", fmt.Sprintf("cp -r %s/compress/testdata %s/compress/ 2>/dev/null; cp -r %s/image/testdata %s/image/ 2>/dev/null; true", src, dir, src, dir)).Run())
	var good []string
	for _, p := range standard {
		cmd := exec.Command("go", "test", "-vet=off", "-run", "^$", "./"+p)
		cmd.Dir = dir
		cmd.Env = append(os.Environ(), "GOWORK=off")
		if out, err := cmd.CombinedOutput(); err == nil {
			good = append(good, "./"+p)
		} else {
			t.Logf("%s is left out: %s", p, strings.SplitN(string(out), "\n", 3)[min(1, strings.Count(string(out), "\n"))])
		}
	}
	return good
}
