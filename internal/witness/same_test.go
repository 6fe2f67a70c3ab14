//go:build subjects

package witness

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"thrush/internal/core/coverage"
	"thrush/internal/recording"
)

// sameResults runs a shell script in a copy of a source tree without Thrush and with it. What
// must be the same is what it writes to the file result. It gives the tree in which it
// ran with Thrush.
func sameResults(t *testing.T, thrush, source, script string, env ...string) (recorded string) {
	return sameWith(t, []string{thrush, "record", "--"}, source, script, env...)
}

// sameWith is sameResults for a command that records.
func sameWith(t *testing.T, record []string, source, script string, env ...string) (recorded string) {
	run := func(before ...string) (dir, result, log string, took time.Duration) {
		dir = filepath.Join(t.TempDir(), "s")
		require.NoError(t, exec.Command("cp", "-r", source, dir).Run())
		require.NoError(t, os.WriteFile(filepath.Join(dir, "thrush.toml"), []byte("[copy]\nback = [\"result\"]\n"), 0o666))
		args := append(before, "sh", "-c", script)
		cmd := exec.Command(args[0], args[1:]...)
		cmd.Dir = dir
		cmd.Env = append(os.Environ(), env...)
		start := time.Now()
		out, err := cmd.CombinedOutput()
		took = time.Since(start)
		require.NoError(t, err, tail(string(out)))
		text, err := os.ReadFile(filepath.Join(dir, "result"))
		require.NoError(t, err)
		require.NotEmpty(t, text)
		return dir, string(text), string(out), took
	}
	_, plain, _, plainTook := run()
	dir, woven, log, wovenTook := run(record...)
	require.Equal(t, plain, woven)
	require.NotContains(t, log, "does not take its woven text")
	summary := ""
	for _, line := range strings.Split(log, "\n") {
		if strings.HasPrefix(line, "  lines ") {
			summary = strings.Join(strings.Fields(line)[2:], " ")
		}
	}
	require.NotEmpty(t, summary, tail(log))
	t.Logf("%d lines of results alike; %s of lines; %.1f s without, %.1f s with Thrush (%.2f×), building included",
		strings.Count(plain, "\n"), summary, plainTook.Seconds(), wovenTook.Seconds(), wovenTook.Seconds()/plainTook.Seconds())
	return dir
}

// prepared runs a script that fetches what subjects need into a folder below .subjects,
// and gives that folder.
func prepared(folder string, args ...string) (string, error) {
	dir, err := filepath.Abs("../../.subjects/" + folder)
	if err != nil {
		return "", err
	}
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return "", err
	}
	script, err := filepath.Abs("testdata/" + folder + "/prepare.sh")
	if err != nil {
		return "", err
	}
	cmd := exec.Command("sh", append([]string{script}, args...)...)
	cmd.Dir = dir
	if out, err := cmd.CombinedOutput(); err != nil {
		return "", fmt.Errorf("%w: %s", err, tail(string(out)))
	}
	return dir, nil
}

// unpacked gives the tree of an archive.
func unpacked(t *testing.T, archive string) string {
	dir := filepath.Join(t.TempDir(), "source")
	require.NoError(t, os.Mkdir(dir, 0o777))
	require.NoError(t, exec.Command("tar", "xf", archive, "--strip-components=1", "-C", dir).Run())
	return dir
}

// latest is the path of the only recording kept in a tree.
func latest(t *testing.T, dir string) string {
	names, err := filepath.Glob(filepath.Join(dir, ".thrush/recordings/*.thrush"))
	require.NoError(t, err)
	require.Len(t, names, 1)
	return names[0]
}

// recorded gives the files of the only recording kept in a tree.
func recorded(t *testing.T, dir string) (files []*coverage.File) {
	rec, err := recording.Open(latest(t, dir))
	require.NoError(t, err)
	for i := range rec.Rows() {
		row := rec.Row(i)
		table, err := recording.UnpackTable(row.Table)
		require.NoError(t, err)
		var counters []uint64
		if row.Loaded {
			counters = make([]uint64, row.Counters)
			rec.Counts(i, counters)
		}
		files = append(files, coverage.Resolve(table, counters))
	}
	return files
}
