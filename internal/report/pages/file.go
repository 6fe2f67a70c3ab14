package pages

import (
	"encoding/json"
	"fmt"
	"html/template"
	"path"
	"slices"
	"strings"

	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
	"thrush/internal/report/highlight"
	"thrush/internal/report/prose"
)

// filePage draws the page of a file. text is nil if it is not the text that was
// recorded.
func (b *book) filePage(p coverage.Pair, found []gaps.Gap, text []byte, same bool) ([]byte, error) {
	f := p.Now
	l := b.link.from(b.pageNames[b.pageOf[f.Path]])
	w := linesWriter{file: f, notes: prose.Notes(f), begins: map[int]bool{}}
	if set := b.opt.Changed[f.Path]; set != nil {
		w.changed = set.Has
	}
	count := f.LineCount
	if same {
		w.source = sourceLines(text)
		w.shaded = highlight.Lines(f.Path, w.source)
		count = max(count, len(w.source))
	}
	facts := lineFacts(f)
	for n := range facts.Lines {
		w.begins[n] = true
	}
	for _, g := range found {
		facts.Gaps = append(facts.Gaps, [3]any{g.Line, g.EndLine, prose.Safe(prose.About(g, ""))})
	}
	slices.SortStableFunc(facts.Gaps, func(a, b [3]any) int { return a[0].(int) - b[0].(int) })
	facts.reached(f)
	data, err := json.Marshal(facts)
	if err != nil {
		return nil, err
	}
	w.out = make([]byte, 0, 96*min(count, len(w.source)+len(f.Lines))+2*len(text))
	return render("file", map[string]any{
		"Link": l, "Path": prose.Safe(f.Path), "Crumbs": crumbs(f.Path), "Name": prose.Safe(path.Base(f.Path)), "Same": same,
		"Metrics": fileMetrics(p), "Waived": f.Totals.WaivedLines, "Loaded": f.Loaded,
		"Waivers": f.Waivers, "Outline": outline(f), "Strip": strip(f, w.changed, count), "LineCount": count,
		"Since": b.opt.Since, "Changed": w.changed != nil, "Before": b.beside(f.Path, -1), "After": b.beside(f.Path, 1),
		"Lines": template.HTML(w.all(count)), "Data": template.JS(data),
	})
}

// beside is the path of the file before or after another, or empty.
func (b *book) beside(path string, by int) string {
	i := b.pageOf[path] + by
	if i < 0 || i >= b.reader.Recording.Len() {
		return ""
	}
	return b.reader.Recording.Name(i)
}

type crumb struct{ Name, Folder string }

// crumbs are the folders that a file is in.
func crumbs(p string) []crumb {
	var out []crumb
	elements := strings.Split(p, "/")
	for i := range elements[:len(elements)-1] {
		out = append(out, crumb{prose.Safe(elements[i]), strings.Join(elements[:i+1], "/") + "/"})
	}
	return out
}

// metric is a total as it is drawn.
type metric struct {
	Name, Part string // Part is where on the page about counting it is explained
	Ratio      coverage.Ratio
	Was        *coverage.Ratio
}

func metrics(now coverage.Totals, was *coverage.Totals) []metric {
	var out []metric
	for _, d := range coverage.Metrics {
		r := now.Of(d.Metric)
		if r.Total == 0 && d.Metric != coverage.Lines {
			continue
		}
		m := metric{Name: string(d.Metric), Part: string(d.Metric), Ratio: r}
		if was != nil {
			before := was.Of(d.Metric)
			m.Was = &before
		}
		out = append(out, m)
	}
	return out
}

func fileMetrics(p coverage.Pair) []metric {
	if p.Was != nil {
		return metrics(p.Now.Totals, &p.Was.Totals)
	}
	return metrics(p.Now.Totals, nil)
}

// outlined is a function in the outline of a file.
type outlined struct {
	Name    string
	Line    int
	State   string
	Lines   coverage.Ratio
	Calls   string
	Literal bool
}

func outline(f *coverage.File) []outlined {
	out := make([]outlined, 0, len(f.Functions))
	for _, fn := range f.Named() {
		o := outlined{prose.Safe(fn.Name), fn.Span.Start.Line, "full", fn.Totals.Of(coverage.Lines), "called " + prose.Often(fn.Count), fn.Literal}
		t := fn.Totals
		switch {
		case fn.Waived:
			o.State, o.Calls = "waived", "waived"
		case fn.Count == 0:
			o.State, o.Calls = "none", gaps.NotCalled
		case t.Of(coverage.Lines).Missing() > 0 || t.Of(coverage.Branches).Missing() > 0:
			o.State = "part"
		}
		out = append(out, o)
	}
	slices.SortStableFunc(out, func(a, b outlined) int { return a.Line - b.Line })
	return out
}

// mostRows bounds the small map of a file; a screen has no more.
const mostRows = 800

// strip draws the small map of a file: what is left to do, by where it stands,
// and what changed beside it. In a long file several lines share a row, which
// then shows the worst of them.
func strip(f *coverage.File, changed func(int) bool, count int) template.HTML {
	step := max(1, (count+mostRows-1)/mostRows)
	rank := map[coverage.State]int{coverage.None: 3, coverage.Part: 2, coverage.Waived: 1}
	rows := make([]coverage.State, count/step+1)
	for _, l := range f.Lines {
		if i := (l.Number - 1) / step; i < len(rows) && rank[l.State] > rank[rows[i]] {
			rows[i] = l.State
		}
	}
	var out strings.Builder
	draw := func(class string, x, width int, in func(row int) bool) {
		begun := false
		for i := 0; i < len(rows); i++ {
			if !in(i) {
				continue
			}
			from := i
			for i+1 < len(rows) && in(i+1) {
				i++
			}
			if !begun {
				out.WriteString("<path class=" + class + " d=\"")
				begun = true
			}
			fmt.Fprintf(&out, "M%d %dh%dv%dh-%dz", x, from*step, width, (i+1-from)*step, width)
		}
		if begun {
			out.WriteString("\" />")
		}
	}
	for _, s := range []coverage.State{coverage.None, coverage.Part, coverage.Waived} {
		draw(classes[s], 0, 8, func(row int) bool { return rows[row] == s })
	}
	if changed != nil {
		draw("c", 8, 2, func(row int) bool {
			for n := row*step + 1; n <= min(count, (row+1)*step); n++ {
				if changed(n) {
					return true
				}
			}
			return false
		})
	}
	return template.HTML(out.String())
}

// pageFacts is what a file's page knows besides what is drawn: it is shown when a
// line is opened.
type pageFacts struct {
	Reached []string          `json:"reached"` // who can have reached a line, in words
	By      map[int]int       `json:"by"`      // which of these did, if not the first
	Lines   map[int]*lineFact `json:"lines"`
	Waivers [][3]any          `json:"waivers"`
	Gaps    [][3]any          `json:"gaps"` // from line, to line, what is missing
}

// reached says of each line that ran by which labels it was reached.
func (p *pageFacts) reached(f *coverage.File) {
	p.Reached, p.By = []string{}, map[int]int{}
	at := map[uint32]int{}
	for _, l := range f.Lines {
		if !l.Ran || l.By == 0 {
			continue
		}
		i, ok := at[l.By]
		if !ok {
			i = len(p.Reached)
			at[l.By] = i
			p.Reached = append(p.Reached, prose.Safe(prose.By(f.Sets.Names(l.By))))
		}
		if i > 0 {
			p.By[l.Number] = i
		}
	}
}

// lineFact is what begins on a line, in words.
type lineFact struct {
	Begins    [][2]string    `json:"begins,omitempty"` // what, how often
	Decisions []decisionFact `json:"decisions,omitempty"`
}

type decisionFact struct {
	Kind     string             `json:"kind"`
	Column   int                `json:"column"`
	Outcomes [][2]string        `json:"outcomes"` // label, how often
	Tables   []prose.TruthTable `json:"tables,omitempty"`
}

// lineFacts gathers what there is to tell of lines beyond their count: of those
// on which a decision stands, more than one thing begins, or a function does.
func lineFacts(f *coverage.File) pageFacts {
	out := pageFacts{Lines: map[int]*lineFact{}, Waivers: [][3]any{}, Gaps: [][3]any{}}
	at := func(n int) *lineFact {
		if out.Lines[n] == nil {
			out.Lines[n] = &lineFact{}
		}
		return out.Lines[n]
	}
	for _, fn := range f.Named() {
		l := at(fn.Span.Start.Line)
		l.Begins = append(l.Begins, [2]string{"function " + prose.Safe(fn.Name), "called " + prose.Often(fn.Count)})
	}
	each := map[int]int{}
	for _, s := range f.Statements {
		each[s.Span.Start.Line]++
	}
	for _, d := range f.Decisions {
		l := at(d.Pos.Line)
		fact := decisionFact{Kind: d.Kind, Column: d.Pos.Column}
		for _, o := range d.Outcomes {
			fact.Outcomes = append(fact.Outcomes, [2]string{prose.Safe(gaps.Label(o.Way)), prose.Often(o.Count)})
		}
		for _, x := range d.Logic {
			if len(x.Conditions) > 1 {
				fact.Tables = append(fact.Tables, prose.Table(x))
			}
		}
		l.Decisions = append(l.Decisions, fact)
	}
	for _, s := range f.Statements {
		n := s.Span.Start.Line
		if each[n] > 1 || out.Lines[n] != nil {
			what := fmt.Sprintf("statement, column %d", s.Span.Start.Column)
			if s.Span.LastLine() > n {
				what += fmt.Sprintf(", to line %d", s.Span.LastLine())
			}
			at(n).Begins = append(at(n).Begins, [2]string{what, prose.Began(s.Count)})
		}
	}
	for _, w := range f.Waivers {
		out.Waivers = append(out.Waivers, [3]any{w.Line, w.EndLine, prose.Safe(w.Reason)})
	}
	return out
}

func safeAll(list []string) []string {
	out := make([]string, len(list))
	for i, s := range list {
		out[i] = prose.Safe(s)
	}
	return out
}
