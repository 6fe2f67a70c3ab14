package tests

import (
	"encoding/json"
	"encoding/xml"
	"fmt"
	"html"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What a verdict can be, as all outputs say it.
const (
	met     = "met"
	unmet   = "not met"
	left    = "not judged"
	refused = "refused" // the gate ends with a status of its own, and the pages leave the rule open
)

// There is one judge: whatever the rule, the terminal, the JSON document, the pages, Markdown,
// SARIF and JUnit say the same of it.
func TestOneVerdict(t *testing.T) {
	dir := ferries(t)
	floor := func(percent string) map[string]string {
		return map[string]string{"thrush-floor.json": `{"schema":"thrush.floor/1","floors":[{"gate":"r","scope":"whole","metric":"lines","percent":` + percent + `}]}`}
	}
	since := []string{"--since", "main"}
	for _, c := range []struct {
		name, rule, want string
		flags            []string
		files            map[string]string
		expired          int
	}{
		{name: "a minimum", rule: `lines = 1`, want: met},
		{name: "a minimum that is missed", rule: `lines = 100`, want: unmet},
		{name: "of conditions", rule: `independence = 100`, want: unmet},
		{name: "each folder", rule: "each = \"folder\"\nlines = 0", want: met},
		{name: "each file", rule: "each = \"file\"\nbranches = 100", want: unmet},
		{name: "each function", rule: "each = \"function\"\nlines = 100", want: unmet},
		{name: "in one place", rule: "where = [\"fare/**\"]\nlines = 1", want: met},
		{name: "nowhere", rule: "where = [\"fares/**\"]\nlines = 100", want: met},
		{name: "nowhere, strictly", rule: "where = [\"fares/**\"]\nlines = 100", flags: []string{"--strict"}, want: unmet},
		{name: "changed lines", rule: "on = \"changed\"\nlines = 1", flags: since, want: met},
		{name: "changed lines that are missed", rule: "on = \"changed\"\nlines = 100", flags: since, want: unmet},
		{name: "changed lines, nobody said which", rule: "on = \"changed\"\nlines = 100", want: left},
		{name: "held by the commit before", rule: `hold = ["lines"]`, want: met},
		{name: "held by a named recording", rule: `hold = ["lines"]`, flags: []string{"--against", "before"}, want: unmet},
		{name: "held by a branch that has none", rule: `hold = ["lines"]`, flags: []string{"--against-branch", "never"}, want: met},
		{name: "held strictly by a branch that has none", rule: `hold = ["lines"]`, flags: []string{"--against-branch", "never", "--strict"}, want: unmet},
		{name: "a floor", rule: `hold = ["lines"]`, files: floor("10"), want: met},
		{name: "a floor that fell", rule: `hold = ["lines"]`, files: floor("99.99"), want: unmet},
		{name: "a minimum and a floor that fell", rule: "lines = 1\nhold = [\"lines\"]", files: floor("99.99"), want: unmet},
		{name: "slack", rule: "slack = 100\nhold = [\"lines\"]", files: floor("99.99"), want: met},
		{name: "floors that cannot be read", rule: "lines = 1\nhold = [\"lines\"]", files: floor("1000"), want: refused},
		{name: "a baseline that is too shallow", rule: `hold = ["independence"]`, flags: []string{"--against", "before"}, want: refused},
		{name: "nothing unmeasured", rule: `unmeasured = "fails"`, want: met},
		{name: "sources that changed since", rule: `lines = 1`, files: map[string]string{"fare/fare.go": "package fare\n"}, want: refused},
		{name: "a waiver that has ended", rule: "lines = 1\n[[waiver]]\nwhere = \"fare/**\"\nreason = \"old\"\nuntil = 2020-01-31", want: met, expired: 4},
	} {
		t.Run(c.name, func(t *testing.T) {
			put(t, dir, c.files)
			put(t, dir, map[string]string{"thrush.toml": "[[gate]]\nname = \"r\"\n" + c.rule + "\n"})
			flags := c.flags
			for i, f := range flags {
				if f == "before" {
					flags = append(append([]string{}, flags[:i]...), oldest(t, dir))
				}
			}
			says := verdicts(t, dir, flags)
			want := map[string]string{"page": c.want}
			if c.want == refused {
				want["page"] = left
			}
			for _, output := range []string{"gate", "json", "markdown", "sarif", "junit"} {
				want[output] = c.want
			}
			if c.want == left {
				want["gate"], want["json"] = refused, refused // it says which flag is missing
			}
			assert.Equal(t, want, says)
			if c.expired > 0 {
				namesWaiver(t, outputsOf(t, dir, flags), "thrush.toml", c.expired)
			}
		})
	}
}

// A waiver that has ended is named where it stands, in a manifest too.
func TestExpiredWaiverInAManifest(t *testing.T) {
	dir := ferries(t)
	require.NoError(t, os.Remove(filepath.Join(dir, "thrush.toml")))
	put(t, dir, map[string]string{"pyproject.toml": "[project]\nname = \"fares\"\n\n[[tool.thrush.gate]]\nname = \"r\"\nlines = 1\n\n[[tool.thrush.waiver]]\nwhere = \"fare/**\"\nreason = \"old\"\nuntil = 2020-01-31\n"})
	namesWaiver(t, outputsOf(t, dir, nil), "pyproject.toml", 8)
	assert.Equal(t, map[string]string{"gate": met, "json": met, "page": met, "markdown": met, "sarif": met, "junit": met}, verdicts(t, dir, nil))
}

// namesWaiver checks that all outputs say which waiver has ended, and where it stands.
func namesWaiver(t *testing.T, outputs map[string]string, file string, line int) {
	t.Helper()
	space := regexp.MustCompile(`\s+`)
	at := fmt.Sprintf(`%[1]s(:%[2]d |, line %[2]d: |", "line": %[2]d,|", .*"startLine": %[2]d )`, regexp.QuoteMeta(file), line)
	for output, text := range outputs {
		text = space.ReplaceAllString(strings.ReplaceAll(text, "`", ""), " ")
		assert.Contains(t, text, "2020-01-31", output)
		assert.True(t, regexp.MustCompile(at).MatchString(text), "%s does not name %s, line %d", output, file, line)
	}
}

// put writes files for the time of a test; what was there before comes back.
func put(t *testing.T, dir string, files map[string]string) {
	t.Helper()
	for name, text := range files {
		path := filepath.Join(dir, name)
		before, err := os.ReadFile(path)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o666))
		t.Cleanup(func() {
			if err != nil {
				os.Remove(path)
				return
			}
			os.WriteFile(path, before, 0o666)
		})
	}
}

// oldest is the recording that was kept first.
func oldest(t *testing.T, dir string) string {
	t.Helper()
	var log struct{ Recordings []struct{ ID string } }
	require.NoError(t, json.Unmarshal([]byte(run(t, dir, "thrush", "log", "--format", "json")), &log))
	list := log.Recordings
	for _, r := range list {
		if text := run(t, dir, "thrush", "log", "--label", "before", "--format", "json"); strings.Contains(text, r.ID) {
			return r.ID
		}
	}
	require.Fail(t, "no recording is labelled before")
	return ""
}

// outputsOf gives what each output says, "" where the command refused to say anything.
func outputsOf(t *testing.T, dir string, flags []string) map[string]string {
	t.Helper()
	out := map[string]string{}
	call := func(name string, args ...string) {
		cmd := exec.Command("thrush", append(args, flags...)...)
		cmd.Dir = dir
		text, _ := cmd.Output()
		if cmd.ProcessState.ExitCode() <= 1 {
			out[name] = string(text)
		} else {
			out[name] = ""
		}
	}
	call("gate", "gate")
	call("json", "gate", "--format", "json")
	for _, format := range []string{"markdown", "sarif", "junit"} {
		call(format, "export", "--format", format)
	}
	page := filepath.Join(t.TempDir(), "page.html")
	call("page", "render", "-q", "--single", page)
	text, err := os.ReadFile(page)
	require.NoError(t, err)
	out["page"] = html.UnescapeString(string(text))
	return out
}

// verdicts reads out of each output what it says of the rule called r.
func verdicts(t *testing.T, dir string, flags []string) map[string]string {
	t.Helper()
	says := map[string]string{}
	for output, text := range outputsOf(t, dir, flags) {
		if text == "" {
			says[output] = refused
			continue
		}
		find := func(pattern string) string {
			m := regexp.MustCompile(pattern).FindStringSubmatch(text)
			require.NotNil(t, m, "%s: %s", output, text)
			return strings.ToLower(m[1])
		}
		switch output {
		case "gate":
			says[output] = find(`(?m)^ *(met|NOT MET|open)  r  `)
		case "page":
			says[output] = find(`<strong>r</strong> <span class=faint>([a-z ]+) ·`)
		case "markdown":
			says[output] = find(`\*\*([A-Za-z ]+)\*\* r \(`)
		case "json":
			var doc struct {
				Gates []struct {
					Met       bool
					NotJudged string `json:"not_judged"`
				}
			}
			require.NoError(t, json.Unmarshal([]byte(text), &doc))
			says[output] = state(doc.Gates[0].Met, doc.Gates[0].NotJudged != "")
		case "sarif":
			says[output] = state(!strings.Contains(text, `The gate \"r\" is not met`), strings.Contains(text, `The gate \"r\" was not judged`))
		case "junit":
			var doc struct {
				Suite struct {
					Cases []struct {
						Failed *struct{} `xml:"failure"`
						Left   *struct{} `xml:"skipped"`
					} `xml:"testcase"`
				} `xml:"testsuite"`
			}
			require.NoError(t, xml.Unmarshal([]byte(text), &doc))
			says[output] = state(doc.Suite.Cases[0].Failed == nil, doc.Suite.Cases[0].Left != nil)
		}
	}
	return says
}

func state(fine, passed bool) string {
	switch {
	case passed:
		return left
	case fine:
		return met
	}
	return unmet
}
