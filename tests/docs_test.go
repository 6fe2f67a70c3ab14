package tests

import (
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The documents hold when they are followed to the letter: what they show of the sample is
// what the sample gives, their commands and flags exist, and their configurations are taken.
func TestDocuments(t *testing.T) {
	docs, err := filepath.Glob("../docs/*.md")
	require.NoError(t, err)
	sample := filepath.Join(t.TempDir(), "skerry")
	out, err := exec.Command("thrush", "demo", "--to", sample).CombinedOutput()
	require.NoError(t, err, string(out))
	// The demo ends with a change and a test for it; both are put aside.
	change := inFolder(t, sample, "git diff fare/fare.go")
	inFolder(t, sample, "git checkout -q . && git clean -qfdx")
	help := map[string]string{}
	for _, doc := range append(docs, "../README.md") {
		text, err := os.ReadFile(doc)
		require.NoError(t, err)
		state := ""
		for _, b := range fence.FindAllStringSubmatch(string(text), -1) {
			how, kind, body := b[1], b[2], b[3]
			switch {
			case how != "":
				if !strings.HasPrefix(how, "changed") {
					inFolder(t, sample, "git checkout -q . && git clean -qfdx")
				}
				if state = how; state == "changed" {
					require.NoError(t, os.WriteFile(filepath.Join(sample, "../change"), []byte(change), 0o666))
					inFolder(t, sample, "git apply ../change && rm ../change && thrush record -q -- go test ./...")
				} else if !strings.Contains(body, "$ thrush record") {
					level := "branches"
					if strings.Contains(how, "conditions") {
						level = "conditions"
					}
					inFolder(t, sample, "thrush record -q --level "+level+" -- go test ./...")
				}
				shown(t, doc, sample, body)
			case kind == "sh" || kind == "console":
				commands(t, doc, body, help)
			case kind == "toml" && strings.Contains(body, "[measure]") || kind == "toml" && strings.Contains(body, "[[gate]]"):
				at := t.TempDir()
				require.NoError(t, os.WriteFile(filepath.Join(at, "thrush.toml"), []byte(body), 0o666))
				cmd := exec.Command("thrush", "config")
				cmd.Dir = at
				out, err := cmd.CombinedOutput()
				assert.NoError(t, err, "%s: %s\n%s", doc, body, out)
			}
		}
	}
}

// fence finds blocks, with what is said of how to run them.
var fence = regexp.MustCompile("(?ms)(?:^<!-- run: ([^>]*?) -->\n)?^```(\\w*)\n(.*?)^```$")

// shown runs the commands of a block and compares what they say with what it shows; a line
// of three dots stands for what is left out at the end.
func shown(t *testing.T, doc, dir, block string) {
	for _, part := range strings.Split("\n"+block, "\n$ ")[1:] {
		command, want, _ := strings.Cut(part, "\n")
		got := inFolder(t, dir, command+" 2>&1 || true")
		want, cut := strings.CutSuffix(strings.TrimRight(want, "\n"), "\n…")
		got = strings.TrimRight(got, "\n")
		if cut {
			lines := strings.Split(got, "\n")
			got = strings.Join(lines[:min(len(lines), strings.Count(want, "\n")+1)], "\n")
		}
		assert.Equal(t, steady(want), steady(got), "%s: $ %s", doc, command)
	}
}

// steady takes out what differs from run to run.
func steady(s string) string {
	s = regexp.MustCompile(`\b[0-9a-f]{12}\b|\b[0-9a-f]{8}\b`).ReplaceAllString(s, "ID")
	return regexp.MustCompile(`\d+\.\d+s\b`).ReplaceAllString(s, "Ns")
}

// commands checks that what a block calls exists, with the flags that it gives.
func commands(t *testing.T, doc, block string, help map[string]string) {
	for _, m := range regexp.MustCompile(`(?m)(?:^|[|&;] ?|\$\(|-- )thrush ([a-z]+)([^|&;\n]*)`).FindAllStringSubmatch(block, -1) {
		name, words := m[1], m[2]
		if help[name] == "" {
			out, err := exec.Command("thrush", name, "--help").CombinedOutput()
			require.NoError(t, err, "%s: thrush %s: %s", doc, name, out)
			help[name] = string(out)
		}
		words, _, _ = strings.Cut(words, " -- ")
		words, _, _ = strings.Cut(words, " #")
		for _, flag := range regexp.MustCompile(`(?:^| )(--[a-z][a-z-]*)`).FindAllStringSubmatch(words, -1) {
			assert.Contains(t, help[name], flag[1], "%s: thrush %s%s", doc, name, words)
		}
	}
}

func inFolder(t *testing.T, dir, script string) string {
	cmd := exec.Command("sh", "-c", script)
	cmd.Dir = dir
	out, err := cmd.Output()
	require.NoError(t, err, "%s: %s", script, out)
	return string(out)
}

// docs/environment.md has every variable that Thrush reads or sets.
func TestVariablesAreDocumented(t *testing.T) {
	page, err := os.ReadFile(filepath.Join("..", "docs", "environment.md"))
	require.NoError(t, err)
	own, read := regexp.MustCompile(`\bTHRUSH_[A-Z_]*[A-Z]\b`), regexp.MustCompile(`(?:Getenv|LookupEnv)\("([A-Z_]+)"\)|"([A-Z_]{3,})="`)
	seen := map[string]bool{}
	require.NoError(t, filepath.WalkDir(filepath.Join("..", "internal"), func(path string, d fs.DirEntry, err error) error {
		switch {
		case err != nil:
			return err
		case d.IsDir() && slices.Contains([]string{"testdata", "bench", "dist", "built"}, d.Name()):
			return filepath.SkipDir
		case d.IsDir() || strings.HasSuffix(path, "_test.go") || strings.HasSuffix(path, ".whl"):
			return nil
		}
		text, err := os.ReadFile(path)
		for _, name := range own.FindAllString(string(text), -1) {
			seen[name] = true
		}
		for _, m := range read.FindAllStringSubmatch(string(text), -1) {
			if name := m[1] + m[2]; !strings.HasPrefix(name, "GIT_") { // what git is told stays with git
				seen[name] = true
			}
		}
		return err
	}))
	require.Greater(t, len(seen), 20)
	for name := range seen {
		assert.Contains(t, string(page), "`"+name+"`", "docs/environment.md does not speak of it")
	}
}
