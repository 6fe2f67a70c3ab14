//go:build linux && amd64 && subjects

package witness

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"sort"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"thrush/internal/core/coverage"
	"thrush/internal/recording"
	"thrush/internal/witness/lines"
)

// watched is a program whose lines are watched by a debugger, and recorded by Thrush.
type watched struct {
	build string // makes the program ./p, with what $CC stands for
	args  []string
	input string // file for the standard input, if any
	only  string // compare only files whose path has this
}

// agreesWithDebugger builds the program plainly and under Thrush, without
// optimisation, runs both, and compares line by line.
func agreesWithDebugger(t *testing.T, thrush, dir string, w watched) {
	t.Helper()
	build := func(dir string) string {
		return "cd " + dir + " && CC='gcc -O0 -g -no-pie' CXX='g++ -O0 -g -no-pie' && " + w.build
	}
	plain, woven := filepath.Join(t.TempDir(), "s"), filepath.Join(t.TempDir(), "s")
	for _, to := range []string{plain, woven} {
		require.NoError(t, exec.Command("cp", "-r", dir, to).Run())
	}
	out, err := exec.Command("sh", "-c", build(plain)).CombinedOutput()
	require.NoError(t, err, tail(string(out)))
	cmd := exec.Command(filepath.Join(plain, "p"), w.args...)
	cmd.Dir = plain
	if w.input != "" {
		in, err := os.Open(filepath.Join(plain, w.input))
		require.NoError(t, err)
		defer in.Close()
		cmd.Stdin = in
	}
	saw, err := lines.Run(cmd, plain)
	require.NoError(t, err)

	require.NoError(t, os.WriteFile(filepath.Join(woven, "thrush.toml"), nil, 0o666))
	run := "./p " + strings.Join(w.args, " ")
	if w.input != "" {
		run += " < " + w.input
	}
	file := filepath.Join(t.TempDir(), "out.thrush")
	record := exec.Command(thrush, "record", "-q", "-o", file, "--", "sh", "-c", build(woven)+" && "+run+" > /dev/null 2>&1; true")
	record.Dir = woven
	out, err = record.CombinedOutput()
	require.NoError(t, err, tail(string(out)))
	rec, err := recording.Open(file)
	require.NoError(t, err)

	compared, ran, explained := 0, 0, 0
	var differ []string
	for i := range rec.Len() {
		loaded, err := rec.Load(i)
		require.NoError(t, err)
		table := loaded.Table
		source, err := os.ReadFile(filepath.Join(woven, table.Path))
		require.NoError(t, err)
		text := strings.Split(string(source), "\n")
		f := coverage.Resolve(table, loaded.Counters)
		for _, l := range f.Lines {
			witness, known := saw[lines.Place{File: filepath.Join(plain, table.Path), Line: l.Number}]
			if !known || w.only != "" && !strings.Contains(table.Path, w.only) {
				continue
			}
			if l.Ran != witness && (witness && continues(f, l.Number) || !witness && codeless.MatchString(text[l.Number-1])) {
				explained++
				continue
			}
			compared++
			if witness {
				ran++
			}
			if l.Ran != witness {
				differ = append(differ, fmt.Sprintf("%s:%d: Thrush says %t, the debugger %t", table.Path, l.Number, l.Ran, witness))
			}
		}
	}
	sort.Strings(differ)
	require.Positive(t, ran)
	if len(differ) > 0 {
		t.Errorf("%d of %d lines differ:\n%s", len(differ), compared, strings.Join(differ[:min(60, len(differ))], "\n"))
	}
	t.Logf("%d lines compared, %d of them ran; %d not compared, since code of another statement is on them, or none of their own", compared, ran, explained)
}

// codeless are statements for which the compiler makes no code, or none that is met
// on all ways to them: heads of loops without a condition, jumps to where the
// statement before can jump itself, and assertions that are switched off.
var codeless = regexp.MustCompile(`for ?\([^;]*;\s*;|while ?\((1|true)\)|^\s*(break|continue)\s*;|^\s*assert\(`)

// continues tells whether a statement that began on an earlier line goes on here: a
// debugger cannot tell its code from that of a statement that begins here.
func continues(f *coverage.File, line int) bool {
	for _, s := range f.Statements {
		if s.Span.Start.Line < line && line <= s.Head.Line && s.Count > 0 {
			return true
		}
	}
	return false
}
