//go:build subjects

package witness

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"thrush/internal/report/documents"
	"thrush/internal/witness/random"
)

// Programs of all constructs of a language, at random: Thrush says of each what a witness in
// its text says. THRUSH_RANDOM_FOR is for how long each language is tried, and
// THRUSH_RANDOM_SEED where to begin, which is printed.
func TestSubjectRandomPrograms(t *testing.T) {
	thrush, err := filepath.Abs("../../bin/thrush")
	require.NoError(t, err)
	last := 20 * time.Second
	if text := os.Getenv("THRUSH_RANDOM_FOR"); text != "" {
		last, err = time.ParseDuration(text)
		require.NoError(t, err)
	}
	seed := uint64(time.Now().UnixNano() / 1000 % 1_000_000_000)
	if text := os.Getenv("THRUSH_RANDOM_SEED"); text != "" {
		_, err := fmt.Sscan(text, &seed)
		require.NoError(t, err)
	}
	t.Logf("THRUSH_RANDOM_SEED=%d", seed)
	for _, l := range random.Languages {
		t.Run(l.Name, func(t *testing.T) {
			n, checked := 0, 0
			for end := time.Now().Add(last); time.Now().Before(end); n++ {
				checked += agrees(t, thrush, l, seed+uint64(n))
			}
			require.Positive(t, checked)
			t.Logf("%d programs from seed %d on, %d numbers alike", n, seed, checked)
		})
	}
}

// agrees makes one program and compares, and tells how many numbers were alike.
func agrees(t *testing.T, thrush string, l *random.Language, seed uint64) (checked int) {
	p := random.New(seed, l)
	level := []string{"lines", "branches", "conditions"}[seed%3]
	plain, watched := p.Print(l, false), p.Print(l, true)
	require.Equal(t, len(plain.Lines), len(watched.Lines))
	out := run(t, l, watched.String(), nil)
	said, counts, _ := strings.Cut(out, "\n")
	dir := ""
	record := []string{thrush, "record", "-q", "--level", level}
	if l.Name == "java" {
		record = append(record, "--in-copy")
	}
	got := run(t, l, plain.String(), &dir, append(record, "--")...)
	fail := func(format string, args ...any) {
		keep := filepath.Join(os.TempDir(), fmt.Sprintf("thrush-random-%s-%d", strings.ReplaceAll(l.Name, "+", "p"), seed))
		_ = os.MkdirAll(keep, 0o777)
		_ = os.WriteFile(filepath.Join(keep, l.File), []byte(plain.String()), 0o666)
		_ = os.WriteFile(filepath.Join(keep, "witness-"+l.File), []byte(watched.String()), 0o666)
		t.Fatalf("%s, seed %d, level %s: %s; see %s", l.Name, seed, level, fmt.Sprintf(format, args...), keep)
	}
	if first, _, _ := strings.Cut(got, "\n"); first != said {
		fail("it did %q, and %q without Thrush", first, said)
	}
	h, c, k := map[int]uint64{}, map[int][2]uint64{}, map[int][2]uint64{}
	for line := range strings.Lines(counts) {
		var what string
		var id int
		var a, b uint64
		if n, _ := fmt.Sscan(line, &what, &id, &a, &b); n < 3 {
			continue
		}
		switch what {
		case "H":
			h[id] = a
		case "C":
			c[id] = [2]uint64{a, b}
		case "K":
			k[id] = [2]uint64{a, b}
		}
	}
	export := exec.Command(thrush, "export", "--format", "json")
	export.Dir = dir
	data, err := export.Output()
	if err != nil {
		why := exec.Command(thrush, "tally", "--unmeasured")
		why.Dir = dir
		said, _ := why.CombinedOutput()
		fail("%s", said)
	}
	var doc documents.CoverageDocument
	require.NoError(t, json.Unmarshal(data, &doc))
	require.Len(t, doc.Files, 1, string(data))
	ran := map[int]uint64{}
	for _, line := range doc.Files[0].Lines {
		ran[line.Line] = line.Count
	}
	for id, line := range plain.Statements {
		have, code := ran[line]
		if !code || have != h[id] {
			fail("line %d began %d times, and Thrush says %d (code: %t)", line, h[id], have, code)
		}
		checked++
	}
	decisions := map[int]documents.Decision{}
	operands := map[string]documents.Condition{}
	for _, d := range doc.Files[0].Decisions {
		if d.Kind == "if" || d.Kind == "value" || d.Kind == "?:" {
			decisions[d.Line] = d
		}
		for _, x := range d.Conditions {
			operands[x.Text] = x
		}
	}
	if level == "lines" {
		return checked
	}
	for id, line := range plain.Decisions {
		d, ok := decisions[line]
		if !ok {
			continue // a loop, which asks for more than the witness knows
		}
		for _, o := range d.Outcomes {
			want := map[string]uint64{"true": c[id][0], "false": c[id][1]}
			if w, known := want[o.Label]; known {
				if o.Count != w {
					fail("the %s on line %d was %s %d times, and Thrush says %d", d.Kind, line, o.Label, w, o.Count)
				}
				checked++
			}
		}
	}
	for id := range plain.Operands {
		if x, ok := operands[fmt.Sprintf("t(%d)", id)]; ok {
			if x.True != k[id][0] || x.False != k[id][1] {
				fail("t(%d) was true %d and false %d times, and Thrush says %d and %d", id, k[id][0], k[id][1], x.True, x.False)
			}
			checked++
		}
	}
	return checked
}

// run runs a program in a folder of its own.
func run(t *testing.T, l *random.Language, text string, dir *string, before ...string) string {
	at := t.TempDir()
	if dir != nil {
		*dir = at
	}
	require.NoError(t, os.WriteFile(filepath.Join(at, l.File), []byte(text), 0o666))
	require.NoError(t, os.WriteFile(filepath.Join(at, "go.mod"), []byte("module skerry.example/random\ngo 1.22\n"), 0o666))
	require.NoError(t, os.WriteFile(filepath.Join(at, "thrush.toml"), nil, 0o666))
	args := append(before, "sh", "-c", l.Run)
	cmd := exec.Command(args[0], args[1:]...)
	cmd.Dir = at
	var errors strings.Builder
	cmd.Stderr = &errors
	out, err := cmd.Output()
	require.NoError(t, err, "%s\n%s\n%s", l.Name, errors.String(), text)
	return string(out)
}
