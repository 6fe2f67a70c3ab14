//go:build attacks

// Package attacks runs the built program on what a stranger could put in front of it:
// repositories, recordings, stores and names, each with every command. docs/security.md says
// what is promised.
package attacks

import (
	"bytes"
	"context"
	"crypto/sha256"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The bounds of each command.
const (
	mostTime   = 60 * time.Second
	mostMemory = 400 << 20 // bytes
)

var program string

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "thrush-attacks-*")
	if err != nil {
		panic(err)
	}
	program = filepath.Join(dir, "thrush")
	build := exec.Command("go", "build", "-o", program, "thrush/cmd/thrush")
	build.Stderr = os.Stderr
	if err := errorsOf(build.Run(), os.Chmod(dir, 0o755)); err != nil {
		panic(err)
	}
	status := m.Run()
	os.RemoveAll(dir)
	os.Exit(status)
}

func errorsOf(list ...error) error {
	for _, err := range list {
		if err != nil {
			return err
		}
	}
	return nil
}

// yard is where an attack is made: a repository with a project in it, and, beside it, what must
// stay as it is.
type yard struct {
	*testing.T
	dir     string // holds all
	project string // where commands are run
	env     []string
	plain   []string // what this test's own calls of git see
}

// canary is a file that appears if something ran that must not.
const canary = "canary-ran"

func newYard(t *testing.T) *yard {
	t.Parallel()
	for _, tool := range []string{"git", "python3"} {
		if _, err := exec.LookPath(tool); err != nil {
			if os.Getenv("CI") != "" {
				t.Fatalf("there is no %s", tool)
			}
			t.Skipf("there is no %s", tool)
		}
	}
	dir := t.TempDir()
	y := &yard{T: t, dir: dir, project: filepath.Join(dir, "ferry")}
	y.env = append(os.Environ(), "HOME="+dir, "GIT_CONFIG_GLOBAL=/dev/null", "GIT_CONFIG_NOSYSTEM=1", "PYTHONDONTWRITEBYTECODE=1",
		"CANARY="+filepath.Join(dir, canary), "GOFLAGS=-buildvcs=false")
	y.plain = y.env
	y.write("outside/keep.py", "KEEP = 1\n")
	y.write("outside/deck/tides.csv", "high\n")
	y.write("ferry/fare.py", before)
	y.write("ferry/tests/__init__.py", "")
	y.write("ferry/tests/test_fare.py", "import unittest\nfrom fare import price\n\n\nclass Fares(unittest.TestCase):\n    def test_day(self):\n        self.assertEqual(price(False), 10)\n")
	y.write("ferry/thrush.toml", "[[gate]]\nname = \"what changed is tested\"\non = \"changed\"\nlines = 100\n")
	y.git("init", "-q", "-b", "main")
	y.commit()
	y.git("checkout", "-q", "-b", "change")
	return y
}

const (
	before = "def price(night):\n    if night:\n        return 12\n    return 10\n"
	after  = before + "\n\ndef refund(paid):\n    return paid / 2\n" // the added lines are not tested
)

func (y *yard) write(name, text string) {
	path := filepath.Join(y.dir, name)
	require.NoError(y, os.MkdirAll(filepath.Dir(path), 0o777))
	require.NoError(y, os.WriteFile(path, []byte(text), 0o666))
}

func (y *yard) link(to, name string) {
	path := filepath.Join(y.dir, name)
	require.NoError(y, os.MkdirAll(filepath.Dir(path), 0o777))
	require.NoError(y, os.Symlink(to, path))
}

func (y *yard) git(args ...string) string {
	y.Helper()
	cmd := exec.Command("git", append([]string{"-c", "user.name=crew", "-c", "user.email=crew@skerry.example", "-c", "core.fsmonitor=false", "-c", "core.hooksPath=/dev/null", "-c", "filter.x.clean=", "-c", "filter.x.process="}, args...)...)
	cmd.Dir, cmd.Env = y.project, y.plain
	out, err := cmd.CombinedOutput()
	require.NoError(y, err, "git %s: %s", args, out)
	return strings.TrimSpace(string(out))
}

// commit commits everything.
func (y *yard) commit() {
	y.Helper()
	y.git("add", "-A")
	y.git("commit", "-q", "--allow-empty", "-m", "as it is")
}

// checkout gives the repository as a pipeline has it: a fresh clone of the change.
func (y *yard) checkout() {
	y.Helper()
	y.git("add", "-A", "-f") // also what ignores itself
	y.commit()
	fresh := filepath.Join(y.dir, "fresh")
	y.git("clone", "-q", y.project, fresh)
	y.git("-C", fresh, "branch", "-q", "main", "origin/main")
	require.NoError(y, os.RemoveAll(y.project))
	require.NoError(y, os.Rename(fresh, y.project))
}

// result is what came of a command.
type result struct {
	status   int
	out, err string
}

func (r result) all() string { return r.out + r.err }

// thrush runs a command of Thrush and checks what holds for all.
func (y *yard) thrush(args ...string) result {
	y.Helper()
	return y.run(nil, append([]string{program}, args...)...)
}

func (y *yard) run(as *syscall.SysProcAttr, args ...string) result {
	y.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), mostTime)
	defer cancel()
	cmd := exec.CommandContext(ctx, args[0], args[1:]...)
	cmd.Dir, cmd.Env, cmd.SysProcAttr = y.project, y.env, as
	var out, failed bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &failed
	err := cmd.Run()
	r := result{status: cmd.ProcessState.ExitCode(), out: out.String(), err: failed.String()}
	what := strings.Join(args[1:], " ")
	if err != nil && r.status < 0 {
		assert.Fail(y, "it did not end by itself", "%s: %v\n%.2000s", what, err, r.all())
	}
	if usage, ok := cmd.ProcessState.SysUsage().(*syscall.Rusage); ok {
		assert.Less(y, usage.Maxrss<<10, int64(mostMemory), what)
	}
	assert.NotRegexp(y, `(?m)^goroutine \d+|^panic:|runtime error`, r.all(), what)
	assert.NotContains(y, r.all(), "\x1b", what)
	for line := range strings.Lines(r.all()) {
		assert.NotRegexp(y, command, line, what)
	}
	assert.Contains(y, []int{0, 1, 2, 3, 125}, r.status, "%s: %.2000s", what, r.all())
	return r
}

// command is what services that run pipelines take for a command of theirs.
var command = regexp.MustCompile(`^\s*::[A-Za-z-]+|##[A-Za-z]*\[`)

// record records the tests, which pass.
func (y *yard) record(args ...string) result {
	y.Helper()
	return y.thrush(slices.Concat([]string{"record"}, args, []string{"--", "python3", "-m", "unittest", "-q"})...)
}

// everything runs every command, whatever each comes to.
func (y *yard) everything(recordings ...string) {
	y.Helper()
	to := filepath.Join(y.dir, "results")
	given := func(args ...string) { y.Helper(); y.thrush(append(args, recordings...)...) }
	if len(recordings) == 0 {
		y.record()
		y.record("--in-copy")
		y.thrush("build", "--", "true")
		y.thrush("env")
		y.thrush("gather")
		y.record("--level", "conditions", "--label", "unit")
	}
	for _, args := range [][]string{
		{"tally"}, {"tally", "--by", "function"}, {"tally", "--unmeasured"}, {"tally", "--format", "json"}, {"gaps"}, {"gaps", "--hot"}, {"gaps", "--conditions", "--format", "json"},
		{"gate", "--since", "main"}, {"gate", "--since", "main", "--explain"}, {"gate", "--require", "lines=1"},
		{"gate", "--since", "main", "--strict", "--format", "json", "--markdown", to + "/c.md", "--sarif", to + "/n.sarif", "--junit", to + "/j.xml"},
		{"render", "--to", to + "/pages", "--since", "main"}, {"render", "--single", to + "/one.html"}, {"badge", "--to", to + "/badge.svg"},
		{"export", "--format", "json"}, {"export", "--format", "csv", "--by", "line"}, {"export", "--format", "markdown"}, {"export", "--format", "sarif"}, {"export", "--format", "junit"},
		{"merge", "-o", to + "/all.thrush"}, {"compare"}, {"push", "--store", to + "/store.db"}, {"keep"},
	} {
		given(args...)
	}
	name := ""
	if len(recordings) > 0 {
		name = recordings[0]
	}
	for _, args := range [][]string{
		{"source", "fare.py", "--recording", name}, {"source", ".", "--recording", name}, {"explain", "fare.py", "--recording", name}, {"explain", "fare.py:2", "--recording", name},
		{"log"}, {"log", "--trend"}, {"log", "--format", "json"}, {"log", "--stored", "--trend", "--store", to + "/store.db"}, {"log", "--stored", "--store", to + "/store.db"},
		{"pull", "--branch", "change", "--store", to + "/store.db"}, {"drop", "--stored", "--beyond", "1", "--store", to + "/store.db"},
		{"drop", "--beyond", "1"}, {"config"}, {"config", "--format", "json"}, {"init"},
	} {
		y.thrush(args...)
	}
}

// tree is what lies in a folder: what each thing is, and a digest of what it holds.
func (y *yard) tree(dir string, skip func(rel string) bool) map[string]string {
	out := map[string]string{}
	require.NoError(y, filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		rel, _ := filepath.Rel(dir, path)
		if err != nil || skip != nil && skip(filepath.ToSlash(rel)) {
			if d != nil && d.IsDir() && err == nil {
				return fs.SkipDir
			}
			return err
		}
		switch {
		case d.Type()&fs.ModeSymlink != 0:
			out[rel], err = os.Readlink(path)
		case d.Type().IsRegular():
			var text []byte
			text, err = os.ReadFile(path)
			out[rel] = fmt.Sprintf("%x", sha256.Sum256(text))
		default:
			out[rel] = d.Type().String()
		}
		return err
	}))
	return out
}

// hold runs something and checks that nothing ran, moved or changed that must not: all that lies
// beside the project, and all that lies in it but for what Thrush keeps.
func (y *yard) hold(do func()) {
	y.Helper()
	inside := func(rel string) bool {
		return rel == ".thrush" || rel == ".git" || strings.HasPrefix(rel, "thrush.toml")
	}
	beside := func(rel string) bool {
		return rel == "ferry" || rel == "results" || strings.HasPrefix(rel, ".cache") || strings.HasPrefix(rel, ".config")
	}
	was, own := y.tree(y.dir, beside), y.tree(y.project, inside)
	config, _ := os.ReadFile(filepath.Join(y.project, ".git/config"))
	do()
	assert.Equal(y, was, y.tree(y.dir, beside))
	assert.Equal(y, own, y.tree(y.project, inside))
	now, _ := os.ReadFile(filepath.Join(y.project, ".git/config"))
	assert.Equal(y, string(config), string(now))
	assert.NoFileExists(y, filepath.Join(y.dir, canary))
}

// judge gives what the gate on the change says of the latest recording. With the untested lines
// of after it must not be met.
func (y *yard) judge(args ...string) result {
	y.Helper()
	return y.thrush(append([]string{"gate", "--since", "main"}, args...)...)
}
