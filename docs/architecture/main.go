// Program architecture draws the rooms of Thrush and which of them import which, from the code
// itself, as docs/architecture.svg. Run it by: make architecture
package main

import (
	"fmt"
	"html"
	"maps"
	"os"
	"os/exec"
	"slices"
	"strings"
)

// says is what each room is for, in a few words.
var says = map[string]string{
	"cli": "one file a command", "launch": "weaves, runs, gathers", "languages": "the list of languages", "lang": "a folder a language",
	"weave": "where probes stand", "flow": "the shape languages share", "core": "sites, coverage, gaps, gates", "judge": "the one judge of rules",
	"baseline": "what a change is held against", "reading": "a recording as coverage", "merging": "many recordings to one",
	"recording": "the file format", "history": "the store", "report": "terminal, pages, files", "project": "what is on the disk",
	"home": "the folder .thrush", "vcs": "git and diffs", "workcopy": "the copy a command runs in", "collector": "counts from browsers",
	"runtime": "how counters lie in files", "exit": "errors to exit statuses", "atomic": "files written whole", "bounded": "files that may be anything",
	"trace": "what THRUSH_TRACE writes", "version": "which Thrush this is",
}

// left out are programs and tests beside the product.
var leftOut = []string{"bench", "dist", "witness"}

const (
	wide, high    = 176, 44 // of a box
	across, below = 22, 66  // between boxes
	edge          = 24
)

func main() {
	imports, err := rooms()
	if err == nil {
		err = os.WriteFile("docs/architecture.svg", draw(reduced(imports), ranks(imports)), 0o666)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "architecture:", err)
		os.Exit(1)
	}
}

// rooms gives for each room those it imports.
func rooms() (map[string]map[string]bool, error) {
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}} {{join .Imports " "}}`, "./internal/...").Output()
	if err != nil {
		return nil, fmt.Errorf("go list says nothing: %w", err)
	}
	imports := map[string]map[string]bool{}
	for line := range strings.Lines(string(out)) {
		words := strings.Fields(line)
		from := room(words[0])
		if from == "" {
			continue
		}
		if imports[from] == nil {
			imports[from] = map[string]bool{}
		}
		for _, w := range words[1:] {
			if to := room(w); to != "" && to != from {
				imports[from][to] = true
			}
		}
	}
	delete(imports, "")
	return imports, nil
}

func room(path string) string {
	rest, ok := strings.CutPrefix(path, "thrush/internal/")
	name, _, _ := strings.Cut(rest, "/")
	if !ok || slices.Contains(leftOut, name) {
		return ""
	}
	return name
}

// ranks are how far above the ground each room stands: above all that it imports.
func ranks(imports map[string]map[string]bool) map[string]int {
	out := map[string]int{}
	var rank func(string) int
	rank = func(name string) int {
		if r, ok := out[name]; ok {
			return r
		}
		r := 0
		for to := range imports[name] {
			r = max(r, rank(to)+1)
		}
		out[name] = r
		return r
	}
	for name := range imports {
		rank(name)
	}
	return out
}

// reduced leaves out what is imported by way of another import, which an arrow says already.
func reduced(imports map[string]map[string]bool) map[string]map[string]bool {
	reach := map[string]map[string]bool{}
	var all func(string) map[string]bool
	all = func(name string) map[string]bool {
		if reach[name] == nil {
			reach[name] = map[string]bool{}
			for to := range imports[name] {
				reach[name][to] = true
				maps.Copy(reach[name], all(to))
			}
		}
		return reach[name]
	}
	out := map[string]map[string]bool{}
	for name, list := range imports {
		out[name] = map[string]bool{}
		for to := range list {
			direct := true
			for other := range list {
				direct = direct && (other == to || !all(other)[to])
			}
			if direct {
				out[name][to] = true
			}
		}
	}
	return out
}

type place struct{ x, y int }

func draw(imports map[string]map[string]bool, rank map[string]int) []byte {
	rows := map[int][]string{}
	most, top := 0, 0
	for _, name := range slices.Sorted(maps.Keys(rank)) {
		rows[rank[name]] = append(rows[rank[name]], name)
		most, top = max(most, len(rows[rank[name]])), max(top, rank[name])
	}
	width := 2*edge + most*wide + (most-1)*across
	at := map[string]place{}
	for r := 0; r <= top; r++ {
		row := rows[r]
		// Each stands below those that import it, as far as there is room, to keep arrows short.
		start := (width - len(row)*wide - (len(row)-1)*across) / 2
		for i, name := range row {
			at[name] = place{start + i*(wide+across), edge + (top-r)*(high+below)}
		}
	}
	var out strings.Builder
	fmt.Fprintf(&out, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d" font-family="sans-serif" role="img" aria-label="The rooms of Thrush; arrows lead to what a room imports">`+"\n", width, 2*edge+(top+1)*high+top*below)
	out.WriteString(`<style>rect{fill:#fbfaf7;stroke:#1b7f79}path{fill:none;stroke:#7b818a}text{fill:#22262b;font-size:14px;text-anchor:middle}.says{font-size:11px;fill:#5b6169}@media(prefers-color-scheme:dark){rect{fill:#1d2126}text{fill:#e8e6e1}.says{fill:#a9aeb5}}</style>` + "\n")
	out.WriteString(`<defs><marker id="to" viewBox="0 0 8 8" refX="8" refY="4" markerWidth="7" markerHeight="7" orient="auto"><path d="M0 0L8 4L0 8z" style="fill:#7b818a"/></marker></defs>` + "\n")
	for _, from := range slices.Sorted(maps.Keys(imports)) {
		for _, to := range slices.Sorted(maps.Keys(imports[from])) {
			a, b := at[from], at[to]
			fmt.Fprintf(&out, `<path d="M%d %dC%d %d %d %d %d %d" marker-end="url(#to)"/>`+"\n", a.x+wide/2, a.y+high, a.x+wide/2, a.y+high+below/2, b.x+wide/2, b.y-below/2, b.x+wide/2, b.y)
		}
	}
	for _, name := range slices.Sorted(maps.Keys(at)) {
		p := at[name]
		fmt.Fprintf(&out, `<rect x="%d" y="%d" width="%d" height="%d" rx="4"/><text x="%d" y="%d">%s</text><text class="says" x="%d" y="%d">%s</text>`+"\n",
			p.x, p.y, wide, high, p.x+wide/2, p.y+19, html.EscapeString(name), p.x+wide/2, p.y+35, html.EscapeString(says[name]))
	}
	out.WriteString("</svg>\n")
	return []byte(out.String())
}
