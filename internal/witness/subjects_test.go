//go:build subjects

package witness

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
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
		agree(t, compare(t, "copied", dir, opt, true, append([]string{"test", "-vet=off", "-p=1", "-short"}, packages...)...))
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
	plain, plainTime, _ := run(args)
	require.NotEmpty(t, plain)
	thrushArgs := append([]string{thrush, "record", "--"}, args...)
	under, underTime, said := run(thrushArgs)
	again := func(args []string) func() map[string]int {
		return func() map[string]int { results, _, _ := run(args); return results }
	}
	alike(t, plain, under, said, again(args), again(thrushArgs))
	deepArgs := append([]string{thrush, "record", "--level", "conditions", "--"}, args...)
	deep, deepTime, deepSaid := run(deepArgs)
	alike(t, plain, deep, deepSaid, again(args), again(deepArgs))
	lines, recorded := "", regexp.MustCompile(`lines .*`).FindString(said)
	if m := regexp.MustCompile(`\d+/(\d+)`).FindStringSubmatch(recorded); m != nil {
		lines = m[1]
	}
	t.Logf("%d results alike; %s lines of code; %.1f s without, %.1f s with Thrush (%.2f×), %.1f s with conditions, weaving and building included", len(plain), lines,
		plainTime.Seconds(), underTime.Seconds(), underTime.Seconds()/plainTime.Seconds(), deepTime.Seconds())
}

// alike fails unless the same tests passed and failed. Some tests watch the clock and fail
// on a busy machine now and then, with Thrush or without: what differs must differ again.
func alike(t *testing.T, plain, under map[string]int, said string, plainAgain, underAgain func() map[string]int) {
	t.Helper()
	differ := differing(plain, under)
	if len(differ) > 0 {
		t.Logf("once more, since these differ: %v\n%s", differ, said)
		again := differing(plainAgain(), underAgain())
		maps.DeleteFunc(differ, func(name, _ string) bool { return again[name] == "" })
	}
	require.Empty(t, differ, said)
}

// differing gives the results that are not the same, and how they differ.
func differing(plain, under map[string]int) map[string]string {
	differ := map[string]string{}
	names := maps.Clone(plain)
	maps.Copy(names, under)
	for name := range names {
		if under[name] != plain[name] {
			differ[name] = fmt.Sprintf("%d without, %d with Thrush", plain[name], under[name])
		}
	}
	return differ
}

// standard are packages of the standard library that stand on their own.
var standard = []string{
	"compress/bzip2", "container/heap", "encoding/base64", "encoding/binary", "flag", "go/doc/comment", "go/printer", "mime", "text/template/parse", "compress/gzip", "compress/zlib", "compress/flate", "compress/lzw", "container/list", "container/ring",
	"encoding/ascii85", "encoding/base32", "encoding/csv", "encoding/hex", "encoding/pem", "encoding/xml", "go/scanner",
	"hash/adler32", "hash/fnv", "html", "index/suffixarray", "mime/quotedprintable", "net/textproto",
	"regexp", "regexp/syntax", "sort", "text/scanner", "text/tabwriter", "text/template",
}

// copyStandard lays packages of the standard library out as a module, with the
// internal ones they need. Those that cannot be built outside of the library are
// left out.
func copyStandard(t *testing.T, dir string) []string {
	require.NoError(t, os.WriteFile(filepath.Join(dir, "go.mod"), []byte("module copied\n\ngo 1.26\n"), 0o666))
	root, err := exec.Command("go", "env", "GOROOT").Output()
	require.NoError(t, err)
	c := &copier{src: filepath.Join(strings.TrimSpace(string(root)), "src"), dir: dir, done: map[string]bool{}}
	c.own = append(c.own, standard...)
	for _, p := range standard {
		require.NoError(t, c.copy(p))
	}
	for _, data := range []string{"compress"} {
		require.NoError(t, os.CopyFS(filepath.Join(dir, data, "testdata"), os.DirFS(filepath.Join(c.src, data, "testdata"))))
	}
	var good []string
	for _, p := range standard {
		cmd := exec.Command("go", "test", "-vet=off", "-run", "^$", "./"+p)
		cmd.Dir = dir
		cmd.Env = append(os.Environ(), "GOWORK=off")
		out, err := cmd.CombinedOutput()
		if err != nil {
			t.Logf("%s is left out: %s", p, strings.SplitN(string(out), "\n", 3)[min(1, strings.Count(string(out), "\n"))])
			continue
		}
		good = append(good, "./"+p)
	}
	require.GreaterOrEqual(t, len(good), 25)
	return good
}

type copier struct {
	src, dir string
	own      []string
	done     map[string]bool
}

var imported = regexp.MustCompile(`(?m)^(\s*(?:import )?(?:[\w.]+ )?)"([\w/]+)"`)

// replaced stand in for internal packages that only the library itself can use.
var replaced = map[string]string{"internal/reflectlite": `reflectlite "reflect"`}

func (c *copier) copy(p string) error {
	if c.done[p] {
		return nil
	}
	c.done[p] = true
	from, to := filepath.Join(c.src, p), filepath.Join(c.dir, p)
	files, err := filepath.Glob(filepath.Join(from, "*"))
	if err != nil {
		return err
	}
	if err := os.MkdirAll(to, 0o777); err != nil {
		return err
	}
	for _, f := range files {
		name := filepath.Base(f)
		if name == "testdata" {
			if err := os.CopyFS(filepath.Join(to, name), os.DirFS(f)); err != nil {
				return err
			}
			continue
		}
		internal := strings.Contains(p, "internal/")
		if info, err := os.Stat(f); err != nil || info.IsDir() || internal && strings.HasSuffix(name, "_test.go") {
			continue
		}
		text, err := os.ReadFile(f)
		if err != nil {
			return err
		}
		if strings.HasSuffix(name, ".go") {
			text = imported.ReplaceAllFunc(text, func(m []byte) []byte {
				s := imported.FindSubmatch(m)
				path := string(s[2])
				switch {
				case slices.Contains(c.own, path):
				case strings.Contains(path, "internal/") && replaced[path] != "":
					return fmt.Appendf(nil, "%s%s", s[1], replaced[path])
				case strings.Contains(path, "internal/") && exists(filepath.Join(c.src, path)):
					err = c.copy(path)
				default:
					return m
				}
				return fmt.Appendf(nil, "%s\"copied/%s\"", s[1], path)
			})
			if err != nil {
				return err
			}
		}
		if err := os.WriteFile(filepath.Join(to, name), text, 0o666); err != nil {
			return err
		}
	}
	return nil
}

func exists(path string) bool {
	_, err := os.Stat(path)
	return err == nil
}
