package tests

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/samples"
)

// hostile is source text that would do harm on a page that took it for markup.
const hostile = `package odd

// </script><script>window.harm = 1</script><img src=x onerror="window.harm = 2">

func Hostile(a string) string {
	if a == "</table><script>window.harm = 3</script>" { // {{.}} ` + "\u202e" + `
		return "<img src=http://skerry.example/x onerror=window.harm=4>"
	}
	return ` + "`<!-- ]]> -->`" + `
}
`

// ferries makes the sample with its change, and a file whose name and text are
// hostile, records its tests, and gives its folder.
func ferries(t *testing.T) string {
	t.Helper()
	dir := t.TempDir()
	git := func(args ...string) {
		run(t, dir, "git", append([]string{"-c", "user.name=Skerry Ferries", "-c", "user.email=crew@skerry.example"}, args...)...)
	}
	require.NoError(t, samples.Write(samples.Base, dir))
	git("init", "-q", "-b", "main")
	git("add", "-A")
	git("commit", "-q", "-m", "Fares, loading plans and timetables")
	run(t, dir, "thrush", "record", "-q", "--label", "before", "--", "go", "test", "./...")
	require.NoError(t, samples.Write(samples.Change, dir))
	// Go refuses to build files of such a name, so it stands in a module of its own.
	require.NoError(t, os.Mkdir(filepath.Join(dir, "odd"), 0o777))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "odd", "go.mod"), []byte("module odd\n"), 0o666))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "odd", hostileName), []byte(hostile), 0o666))
	run(t, dir, "thrush", "record", "-q", "--label", "unit <b>", "--level", "conditions", "--", "go", "test", "./...")
	return dir
}

const hostileName = `<img src=x onerror=window.harm=5> & "quoted' #?%41.go`

func run(t *testing.T, dir, name string, args ...string) string {
	t.Helper()
	cmd := exec.Command(name, args...)
	cmd.Dir = dir
	cmd.Env = append(os.Environ(), "PWD="+dir)
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, "%s %s: %s", name, strings.Join(args, " "), out)
	return string(out)
}

// tallied is what the tally of a recording says, by path.
type tallied struct {
	Totals ratios
	Files  []struct {
		Path string
		ratios
	}
}

type ratios struct {
	Lines, Branches, Functions, Conditions, Independence struct{ Covered, Total int }
}

func (r ratios) of() []string {
	of := func(covered, total int) string {
		if total == 0 {
			return "–"
		}
		return fmt.Sprintf("%d/%d", covered, total)
	}
	return []string{of(r.Lines.Covered, r.Lines.Total), of(r.Branches.Covered, r.Branches.Total), of(r.Functions.Covered, r.Functions.Total),
		of(r.Conditions.Covered, r.Conditions.Total), of(r.Independence.Covered, r.Independence.Total)}
}

func TestPages(t *testing.T) {
	b := browser(t)
	dir := ferries(t)
	report := filepath.Join(t.TempDir(), "report")
	before := recordingWith(t, dir, "before")
	run(t, dir, "thrush", "record", "-q", "--label", "unit <b>", "--level", "conditions", "--", "go", "test", "./...")
	run(t, dir, "thrush", "render", "-q", "--to", report, "--since", "main", "--against", before)
	var tally tallied
	require.NoError(t, json.Unmarshal([]byte(run(t, dir, "thrush", "tally", "--format", "json")), &tally))

	t.Run("overview", func(t *testing.T) { overviewPage(t, open(t, b, report), tally) })
	t.Run("map", func(t *testing.T) { mapOfFiles(t, open(t, b, report)) })
	t.Run("source", func(t *testing.T) { sourcePage(t, open(t, b, report), dir) })
	t.Run("what moved", func(t *testing.T) { comparedPage(t, open(t, b, report), dir, before) })
	t.Run("functions", func(t *testing.T) { functionsPage(t, open(t, b, report)) })
	t.Run("looks", func(t *testing.T) { looks(t, open(t, b, report)) })
	t.Run("hostile", func(t *testing.T) { hostilePage(t, open(t, b, report)) })
	t.Run("rules of access", func(t *testing.T) { access(t, open(t, b, report)) })
	t.Run("single", func(t *testing.T) {
		single := t.TempDir()
		run(t, dir, "thrush", "render", "-q", "--single", filepath.Join(single, "one.html"), "--since", "main")
		singleFile(t, open(t, b, single), tally)
	})
}

// comparedPage reads the page about what moved back against the command that tells the
// same, and the chart of how the numbers went.
func comparedPage(t *testing.T, p *tab, dir, before string) {
	var doc struct {
		Lines struct{ Added_Ran, Added_Not_Run int }
		Files []struct{ Path string }
	}
	require.NoError(t, json.Unmarshal([]byte(run(t, dir, "thrush", "compare", before, "--format", "json")), &doc))
	p.to("index.html")
	assert.Equal(t, 2, see[int](p, `document.querySelectorAll(".trend.wide .lines circle").length`), "the recordings with these labels")
	p.click(".totals p a")
	p.arrives("compared.html")
	assert.Contains(t, p.text(".moved"), fmt.Sprintf("%d new lines run", doc.Lines.Added_Ran))
	assert.Contains(t, p.text(".moved"), fmt.Sprintf("%d new lines have not run yet", doc.Lines.Added_Not_Run))
	var files []string
	for _, f := range doc.Files {
		files = append(files, f.Path)
	}
	shown := p.texts(".moves tbody th")
	assert.Len(t, shown, len(files))
	assert.Contains(t, shown, "fare/fare.go")
	p.click(".places a")
	p.arrives("fare.go.html#L61")
}

// recordingWith is the short name of the recording with a label.
func recordingWith(t *testing.T, dir, label string) string {
	t.Helper()
	var log struct {
		Recordings []struct {
			ID     string
			Labels []string
		}
	}
	require.NoError(t, json.Unmarshal([]byte(run(t, dir, "thrush", "log", "--format", "json")), &log))
	for _, r := range log.Recordings {
		if strings.Join(r.Labels, "") == label {
			return r.ID
		}
	}
	t.Fatalf("no recording is labelled %s", label)
	return ""
}

// column reads a column of the table of files or functions.
func (p *tab) column(name string) []string {
	return p.texts("#table tbody tr:not(.sum) td." + name)
}

func (p *tab) names() []string { return p.texts("#table tbody tr:not(.sum) th") }

func overviewPage(t *testing.T, p *tab, tally tallied) {
	p.to("index.html")
	assert.Equal(t, "1 of 2 gates is not met", p.text("h1"))
	want := tally.Totals.of()
	assert.Equal(t, want, p.texts(".figures tbody td:nth-child(4)"), "the totals are the core's")
	assert.Contains(t, p.text(".next"), "cmd/skerry/main.go:12")
	assert.Contains(t, p.text(".from + section"), "goes away with the 2027 tariff")
	assert.Contains(t, p.text(".from"), "unit <b>")

	// Numbers: each row is the core's, and what is summed up is their sum.
	p.click("#flat")
	rows := map[string][]string{}
	for i, name := range p.names() {
		rows[name] = []string{p.column("ran")[i], p.column("outcomes")[i], p.column("functions")[i], p.column("conditions")[i], p.column("independence")[i]}
	}
	require.Len(t, rows, len(tally.Files))
	for _, f := range tally.Files {
		assert.Equal(t, f.of(), rows[f.Path], f.Path)
	}
	assert.Equal(t, want[0], p.text("#table .sum td.ran"))
	p.click("#flat")

	// Folds.
	all := p.names()
	assert.Equal(t, []string{"cmd/skerry/", "main.go", "deck/", "deck.go"}, all[:4])
	p.click("#table button[data-path='deck/']")
	assert.Equal(t, []string{"cmd/skerry/", "main.go", "deck/", "fare/"}, p.names()[:4])
	assert.Equal(t, "false", see[string](p, `document.activeElement.getAttribute("aria-expanded")`), "the focus stays on the folder")
	p.click("#fold")
	assert.Equal(t, []string{"cmd/skerry/", "deck/", "fare/", "odd/", "timetable/"}, p.names())
	p.click("#fold")
	assert.Equal(t, all, p.names())

	// Sorts, both ways; the address says so.
	p.click("#flat")
	p.click("#table thead .left button")
	assert.Equal(t, "cmd/skerry/main.go", p.names()[0])
	assert.Equal(t, "descending", see[string](p, `document.querySelector("#table thead .left").getAttribute("aria-sort")`))
	p.click("#table thead .left button")
	assert.Equal(t, "fare/legacy.go", p.names()[0])
	assert.Equal(t, "#sort=left&flat=1", see[string](p, "location.hash"))

	// Filters, by key, text and kind.
	p.to("index.html")
	see[bool](p, `document.body.dispatchEvent(new KeyboardEvent("keydown", {key: "/", bubbles: true}))`)
	p.press("fare/f")
	assert.Equal(t, "fare/f", see[string](p, `document.getElementById("filter").value`))
	assert.Equal(t, []string{"fare/fare.go"}, p.names())
	assert.Equal(t, "1 of 6 files", p.text("#count"))
	p.press(kb.Escape)
	p.click("#only-changed")
	assert.ElementsMatch(t, []string{"fare/fare.go", "odd/" + hostileName}, p.names())
	p.click("#only-changed")
	p.click("#only-gaps")
	assert.NotContains(t, p.names(), "fare/legacy.go")

	// A view has an address.
	p.to("index.html#find=deck&sort=left")
	assert.Equal(t, []string{"deck/deck.go"}, p.names())
	assert.Equal(t, "deck", see[string](p, `document.getElementById("filter").value`))
	p.click("#table tbody a")
	p.arrives("/files/deck/deck.go.html")
}

func mapOfFiles(t *testing.T, p *tab) {
	p.to("index.html")
	require.NoError(t, chromedp.Do(p.ctx, chromedp.WaitReady(chromedp.CSS("#map-area a"))))
	assert.Equal(t, "fare/fare.go 77.50%: 31 of 40 lines ran", see[string](p, `document.querySelector("#map-area a[href*='fare/fare']").getAttribute("aria-label")`))
	// The rectangles are as large as the code.
	area := `(e => e.offsetWidth * e.offsetHeight)(document.querySelector("#map-area a[href*='%s']"))`
	ratio := see[float64](p, fmt.Sprintf(area, "deck.go")) / see[float64](p, fmt.Sprintf(area, "main.go"))
	assert.InDelta(t, 28.0/12.0, ratio, 0.4)
	// Arrows go from one to the next; what has the focus is told.
	see[bool](p, `document.querySelector("#map-area a").focus(), true`)
	for range 2 {
		p.press(kb.ArrowRight)
	}
	assert.Equal(t, see[string](p, `document.activeElement.getAttribute("aria-label")`), p.text("#map-says"))
	assert.Contains(t, p.text("#map-says"), "lines ran")
	// A folder opens, and is left again.
	see[bool](p, `[...document.querySelectorAll("#map-area a.head")].find(e => e.textContent === "deck/").click(), true`)
	assert.Equal(t, "all deck/", p.text("#map-path"))
	assert.Equal(t, 1, see[int](p, `document.querySelectorAll("#map-area a").length`))
	p.press(kb.Backspace)
	assert.Equal(t, "all", p.text("#map-path"))
}

func sourcePage(t *testing.T, p *tab, dir string) {
	p.look("light")
	p.to("files/fare/fare.go.html")
	// Every line has the text, the state and the count that the core gives it.
	var doc struct {
		Files []struct {
			Lines []struct {
				Line  int
				State string
				Count int
			}
		}
	}
	require.NoError(t, json.Unmarshal([]byte(run(t, dir, "thrush", "source", "--format", "json", "fare/fare.go")), &doc))
	rows := see[[][]string](p, `[...document.querySelectorAll("tr[id]")].map(r => [r.id, r.className, r.cells[1].textContent, r.cells[2].textContent])`)
	source, err := os.ReadFile(filepath.Join(dir, "fare", "fare.go"))
	require.NoError(t, err)
	lines := strings.Split(strings.TrimSuffix(string(source), "\n"), "\n")
	require.Len(t, rows, len(lines))
	for i, r := range rows {
		assert.Equal(t, []string{fmt.Sprintf("L%d", i+1), lines[i]}, []string{r[0], r[3]})
	}
	states := map[string]string{"full": "f", "part": "p", "none": "n", "waived": "w"}
	for _, l := range doc.Files[0].Lines {
		r := rows[l.Line-1]
		assert.Equal(t, states[l.State], strings.Fields(r[1])[0], r)
		assert.Equal(t, fmt.Sprint(l.Count), r[2], r)
	}
	assert.Contains(t, rows[60][1], "c", "line 61 changed")
	assert.NotContains(t, rows[40][1], "c")
	notes := see[[]string](p, `(r => { const out = []; for (let n = r.nextElementSibling; n.classList.contains("s"); n = n.nextElementSibling) out.push(n.innerText.trim()); return out })(document.getElementById("L51"))`)
	assert.Equal(t, []string{"only false so far", "t.Night decided the outcome only when false so far: needs t.Night=true, allIslanders(t.Passengers)=false",
		"allIslanders(t.Passengers): only true so far: needs t.Night=true, allIslanders(t.Passengers)=false"}, notes)
	p.wide(1280)
	columns := see[[]float64](p, `[...document.querySelectorAll("#L51 ~ tr.s")].slice(0, 3).map(r => r.querySelector("s").getBoundingClientRect().right)`)
	assert.True(t, columns[0] < columns[1] && columns[1] < columns[2], "each begins where what it is about does: %v", columns)
	assert.Equal(t, strings.Join(lines[49:53], "\n"), see[string](p, `(() => {
		const range = document.createRange(), d = new DataTransfer();
		range.setStartBefore(document.getElementById("L50")); range.setEndAfter(document.getElementById("L53").cells[2]);
		getSelection().removeAllRanges(); getSelection().addRange(range);
		document.getElementById("source").dispatchEvent(new ClipboardEvent("copy", { clipboardData: d, bubbles: true, cancelable: true }));
		return d.getData("text/plain") })()`), "notes are not copied")

	// Gap to gap, by key and by button; the address follows.
	assert.Equal(t, "16 gaps", p.text("#gap"))
	p.press(".")
	assert.Equal(t, "#L43", see[string](p, "location.hash"))
	p.click("#following")
	assert.Equal(t, "#L51", see[string](p, "location.hash"))
	assert.Equal(t, "place 2 of 10", p.text("#gap"))
	assert.Contains(t, p.text("#said"), "lines 51 to 52: this if: only false so far")
	p.press(",")
	assert.Equal(t, "#L43", see[string](p, "location.hash"))
	p.press(",")
	assert.Equal(t, "place 10 of 10", p.text("#gap"))

	// A line can be linked to, and tells what it is made of.
	p.to("files/fare/fare.go.html#L51")
	assert.Equal(t, "L51", see[string](p, `document.querySelector("tr.here").id`))
	assert.True(t, see[bool](p, `(b => b.top > 0 && b.bottom < innerHeight)(document.getElementById("L51").getBoundingClientRect())`), "it is in view")
	p.press(kb.Enter)
	details := p.text("tr.details")
	for _, want := range []string{"part: it counts as a line that ran", "truenever", "false3 times", "reached by unit <b>",
		"c1 and not c2", "c1t.Nighttrue once, false 2 timesdecided the outcome only when false so far: needs way 2", "1 more way would show"} {
		assert.Contains(t, details, want)
	}
	p.press(kb.Enter)
	assert.Equal(t, 0, see[int](p, `document.querySelectorAll("tr.details").length`))
	p.click("#L37 button")
	assert.Equal(t, "true", see[string](p, `document.querySelector("#L37 button").getAttribute("aria-expanded")`))
	p.press(kb.ArrowDown)
	assert.Equal(t, "#L38", see[string](p, "location.hash"))
	p.press(">")
	p.arrives("legacy.go.html")
	p.press("^")
	p.arrives("index.html")
}

func functionsPage(t *testing.T, p *tab) {
	p.to("functions.html")
	names := func() []string { return p.texts("#table tbody th a") }
	assert.Equal(t, "main", names()[0], "the most left to do comes first")
	p.click("#only-gaps")
	assert.Equal(t, []string{"main", "Plan.Ballast", "Hostile"}, names())
	p.click("#table tbody a")
	p.arrives("/files/cmd/skerry/main.go.html#L12")
}

func looks(t *testing.T, p *tab) {
	paper := `getComputedStyle(document.body).backgroundColor`
	p.look("dark")
	p.to("index.html")
	dark := see[string](p, paper)
	p.look("light")
	light := see[string](p, paper)
	assert.NotEqual(t, dark, light, "the page follows the system")
	p.click("#look")
	assert.Equal(t, dark, see[string](p, paper))
	p.to("files/deck/deck.go.html")
	assert.Equal(t, dark, see[string](p, paper), "the choice is kept from page to page")
	p.press("*")
	assert.Equal(t, light, see[string](p, paper))
	p.press("?")
	assert.Contains(t, p.text("dialog"), "next gap")
	p.press("?")
	assert.Equal(t, 0, see[int](p, `document.querySelectorAll("dialog[open]").length`))
	for _, page := range []string{"index.html", "functions.html", "how.html", "compared.html", "files/fare/fare.go.html"} {
		p.wide(390)
		p.to(page)
		assert.LessOrEqual(t, see[int](p, "document.documentElement.scrollWidth"), 390, "%s fits a narrow screen", page)
		assert.Equal(t, 0, see[int](p, `[...document.querySelectorAll(".wide")].filter(w => w.scrollWidth > w.clientWidth).length`), "no table of %s is cut", page)
		p.wide(1280)
	}
}

func hostilePage(t *testing.T, p *tab) {
	p.to("index.html")
	assert.Contains(t, p.texts("#table tbody th a"), hostileName)
	assert.Contains(t, p.text(".next"), hostileName)
	assert.Contains(t, p.text(".places"), hostileName)
	see[bool](p, `[...document.querySelectorAll("#table tbody a")].find(a => a.textContent.startsWith("<img")).click(), true`)
	require.NoError(t, chromedp.Do(p.ctx, chromedp.WaitReady(chromedp.ID("source"))))
	assert.Equal(t, hostileName, p.text("h1"))
	rows := p.texts("tr[id] td:nth-child(3)")
	assert.Contains(t, rows[2], `<script>window.harm = 1</script>`)
	assert.Contains(t, rows[5], `\u202e`, "what turns the direction of writing is spelled out")
	assert.Equal(t, "undefined", see[string](p, "typeof window.harm"))
	assert.Equal(t, 0, see[int](p, `document.querySelectorAll("main img, main script:not([type])").length`))
}

func singleFile(t *testing.T, p *tab, tally tallied) {
	p.to("one.html")
	assert.Equal(t, tally.Totals.of(), p.texts(".figures tbody td:nth-child(4)"))
	p.click(".next a")
	require.NoError(t, chromedp.Do(p.ctx, chromedp.WaitReady(chromedp.ID("source"))))
	assert.Equal(t, "main.go", p.text("h1"))
	assert.Equal(t, "L12", see[string](p, `document.querySelector("tr.here").id`))
	p.press(".")
	assert.Equal(t, "#files/cmd/skerry/main.go.html:L12", see[string](p, "location.hash"))
	p.to("one.html#files/fare/fare.go.html:L51")
	assert.Equal(t, "L51", see[string](p, `document.querySelector("tr.here").id`))
	p.click(".outline li:last-child a")
	assert.Equal(t, "#files/fare/fare.go.html:L98", see[string](p, "location.hash"))
	p.press("^")
	p.click("#only-gaps")
	assert.Equal(t, "#index.html:gaps=1", see[string](p, "location.hash"))
	assert.Equal(t, "undefined", see[string](p, "typeof window.harm"))
}
