package cli

import (
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
	"thrush/internal/report/output"
	"thrush/internal/report/outputs"
)

// A metric is a definition in a list, and nothing else knows its name: this one appears in
// everything that shows, keeps and judges metrics.
func TestToyMetric(t *testing.T) {
	toy := coverage.Definition{
		Metric: "openers", Level: site.Lines, Badge: "openers called", Column: "openers_called", Rank: 1,
		About: []string{"Functions that open something; see `open_deck`."},
		Told:  func(*coverage.File) string { return "%d functions that open something were called" },
		Items: func(f *coverage.File, each func(coverage.Item)) {
			for i, fn := range f.Named() {
				if strings.HasPrefix(fn.Name, "open") {
					each(coverage.Item{Function: i, Line: fn.Span.Start.Line, Covered: fn.Count > 0, Lacks: fn.Name + " opens nothing yet"})
				}
			}
		},
	}
	with(t, &coverage.Metrics, toy)
	loading(t)
	thrush(t, 0, "record", "-q", "--", "python3", "-c", "import loading; loading.open_deck(3)")

	assert.Regexp(t, `openers\n.*loading.py .* 1/2\n`, thrush(t, 0, "tally", "--by", "file"))
	assert.Contains(t, thrush(t, 0, "tally", "--format", "json"), `"openers": {`)
	assert.Contains(t, thrush(t, 0, "tally", "--by", "file", "--sort", "openers"), "1/2")
	assert.Contains(t, thrush(t, 0, "log", "--format", "json"), `"openers": {`)
	assert.Contains(t, thrush(t, 0, "explain", "loading.py"), "1 of 2 functions that open something were called")
	assert.Contains(t, thrush(t, 0, "badge", "--metric", "openers"), "openers called")
	assert.Contains(t, thrush(t, 0, "export", "--format", "csv"), "openers_called,openers")
	assert.Contains(t, thrush(t, 0, "export", "--format", "markdown"), "| openers | 50.00% | 1/2 |")
	assert.Contains(t, thrush(t, 1, "gate", "--require", "openers=51"), "open_bow opens nothing yet")
	require.NoError(t, os.WriteFile("thrush.toml", []byte("[[gate]]\nname = \"all open\"\nopeners = 50\nhold = [\"openers\"]\n"), 0o666))
	assert.Contains(t, thrush(t, 0, "gate"), "openers    required     50%  measured   50.00%  1/2")
	thrush(t, 0, "gate", "--raise")
	thrush(t, 0, "record", "-q", "--", "python3", "-c", "import loading")
	assert.Contains(t, thrush(t, 1, "gate"), "against the floors")
	thrush(t, 0, "render", "-q", "--to", "report")
	for page, says := range map[string]string{"index.html": "data-metric=openers", "how.html": "<h2 id=openers>Openers</h2>\n<p>Functions that open something; see <code>open_deck</code>."} {
		text, err := os.ReadFile(filepath.Join("report", page))
		require.NoError(t, err)
		assert.Contains(t, string(text), says)
	}
}

// An output format is a value in a list, too.
func TestToyOutput(t *testing.T) {
	with(t, &outputs.All, output.Format{Name: "shout", About: "it in large letters", Judged: true, Write: func(to io.Writer, in output.Input) error {
		_, err := io.WriteString(to, strings.ToUpper(in.Report.Verdicts[0].Name)+"!\n")
		return err
	}})
	loading(t)
	require.NoError(t, os.WriteFile("thrush.toml", []byte("[[gate]]\nname = \"enough\"\nlines = 1\n"), 0o666))
	thrush(t, 0, "record", "-q", "--", "python3", "-c", "import loading; loading.open_deck(3)")
	assert.Equal(t, "ENOUGH!\n", thrush(t, 0, "export", "--format", "shout"))
	thrush(t, 0, "gate", "--shout", "out.txt")
	text, err := os.ReadFile("out.txt")
	require.NoError(t, err)
	assert.Equal(t, "ENOUGH!\n", string(text))
	assert.Contains(t, thrush(t, 0, "gate", "--help"), "write it in large letters, to this file too")
}

// with puts a value at the end of a list for the time of a test.
func with[T any](t *testing.T, list *[]T, value T) {
	before := *list
	*list = append(slices.Clone(before), value)
	t.Cleanup(func() { *list = before })
}

// loading makes a small project and goes there.
func loading(t *testing.T) {
	if _, err := exec.LookPath("python3"); err != nil && os.Getenv("CI") == "" {
		t.Skip("there is no python3")
	}
	t.Chdir(t.TempDir())
	require.NoError(t, os.WriteFile("loading.py", []byte("def open_deck(n):\n    return n > 2\n\n\ndef open_bow():\n    return True\n"), 0o666))
}

// thrush runs a command in this process and gives what it prints.
func thrush(t *testing.T, status int, args ...string) string {
	t.Helper()
	file, err := os.Create(filepath.Join(t.TempDir(), "out"))
	require.NoError(t, err)
	defer file.Close()
	stdout := os.Stdout
	os.Stdout = file
	got := Main(args)
	os.Stdout = stdout
	text, err := os.ReadFile(file.Name())
	require.NoError(t, err)
	require.Equal(t, status, got, "%v: %s", args, text)
	return string(text)
}
