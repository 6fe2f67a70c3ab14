package pages

import (
	"fmt"
	"strings"

	"thrush/internal/core/compare"
	"thrush/internal/core/coverage"
	"thrush/internal/report/prose"
)

// mostCompared bounds how many lines of a kind the page about what moved lists.
const mostCompared = 400

// comparison is what became of coverage since the recording compared with.
type comparison struct {
	Lines, Outcomes compare.Counts
	Files           []comparedFile
	lists           map[string]*comparedList // by kind
}

// comparedFile is a file of which something is not as it was.
type comparedFile struct {
	path     string
	Name     string
	Href     string
	Source   compare.Source
	Was, Now coverage.Totals
	Lines    compare.Counts
	Outcomes compare.Counts
}

// comparedList lists lines and outcomes of one kind.
type comparedList struct {
	items []compare.Item
	more  int
}

// compare takes into account what became of a file.
func (b *book) compare(p coverage.Pair) {
	if b.baseline == nil {
		return
	}
	if p.Was != nil {
		b.baseline.totals = b.baseline.totals.Add(p.Was.Totals)
		b.baseline.files[p.Was.Path] = p.Was.Totals
	}
	f := compare.Files(p.Was, p.Now)
	if !f.Moved() {
		return
	}
	c := &b.compared
	lines, outcomes := f.Count()
	c.Lines, c.Outcomes = c.Lines.Add(lines), c.Outcomes.Add(outcomes)
	c.Files = append(c.Files, comparedFile{path: f.Path, Name: prose.Safe(f.Path), Source: f.Source, Was: f.Was, Now: f.Now, Lines: lines, Outcomes: outcomes})
	for _, i := range f.Told() {
		c.note(i)
	}
}

func (c *comparison) note(i compare.Item) {
	kind := ""
	switch {
	case i.Change == compare.Lost:
		kind = "lost-" + string(i.Because)
	case i.Change == compare.Added && !i.Ran:
		kind = "added"
	case i.Change == compare.Covered:
		kind = "covered"
	default:
		return
	}
	if c.lists == nil {
		c.lists = map[string]*comparedList{}
	}
	l := c.lists[kind]
	if l == nil {
		l = &comparedList{}
		c.lists[kind] = l
	}
	if len(l.items) < mostCompared {
		i.Path = strings.Clone(i.Path)
		l.items = append(l.items, i)
	} else {
		l.more++
	}
}

// comparedSection is a list on the page.
type comparedSection struct {
	ID, Title, About, Mark string
	Rows                   []comparedRow
	More                   int
}

type comparedRow struct{ Href, At, Function, What string }

func (b *book) comparedPage() (page, error) {
	l := b.link.from("compared.html")
	for i := range b.compared.Files {
		f := &b.compared.Files[i]
		f.Href = l.File(f.path, 0)
	}
	var sections []comparedSection
	for _, s := range []comparedSection{
		{ID: "lost-tests", Title: "Lost, though the code there did not change", About: "The function is as it was, so look at the tests, or at what calls it.", Mark: "n"},
		{ID: "lost-code", Title: "Lost where the code changed", About: "The line is as it was, the function around it is not.", Mark: "n"},
		{ID: "added", Title: "New, and not run yet", About: "Written or changed since, without a test that runs it.", Mark: "n"},
		{ID: "covered", Title: "Runs now", About: "It was there and did not run before.", Mark: "f"},
	} {
		if list := b.compared.lists[s.ID]; list != nil {
			for _, i := range list.items {
				s.Rows = append(s.Rows, comparedRow{l.File(i.Path, i.Line), fmt.Sprintf("%s:%d", prose.Safe(i.Path), i.Line), prose.Safe(i.Function), prose.Safe(i.What)})
			}
			s.More = list.more
			sections = append(sections, s)
		}
	}
	main, err := render("compared", map[string]any{
		"Link": l, "Against": b.against(), "Metrics": b.metrics(), "Lines": b.compared.Lines, "Outcomes": b.compared.Outcomes,
		"Files": b.compared.Files, "Sections": sections,
	})
	return page{"compared.html", "What moved", main}, err
}

// moved writes how the lines of a file moved.
func (f comparedFile) Moved() metric {
	was := f.Was.Of(coverage.Lines)
	return metric{Ratio: f.Now.Of(coverage.Lines), Was: &was}
}
