// Package pages draws a recording as pages that open in a browser straight from
// the disk: an overview, the functions, and each file's source with what ran.
// Nothing on them is loaded from elsewhere, and text from outside stays text.
package pages

import (
	"strings"

	"thrush/internal/core/changed"
	"thrush/internal/core/coverage"
	"thrush/internal/core/gaps"
	"thrush/internal/judge"
	"thrush/internal/reading"
	"thrush/internal/recording"
	"thrush/internal/report/palette"
)

// Options say what to draw besides the recording itself.
type Options struct {
	Palette palette.Palette
	// Judge judges the rules while the files are drawn.
	Judge *judge.Judge
	// Changed are the changed lines, and Since says since when; nil and empty if
	// nobody asked.
	Changed changed.Set
	Since   string
	Against *reading.Reader // the recording to compare with, or nil
	// Trend are recordings to draw as a chart, the oldest first, and TrendOf says in
	// words which they are.
	Trend   []Point
	TrendOf string
	// Progress is told how many of how many files are drawn, and the one before; it may be nil.
	Progress func(done, total int, at string)
}

// Result says what was drawn.
type Result struct {
	First string // the file to open
	Pages int
	Stale int // files whose text is no longer what was recorded
}

// ToFolder draws a report as a folder of pages. The folder must be new, empty,
// or of an earlier report.
func ToFolder(r *reading.Reader, dir string, o Options) (Result, error) {
	b := newBook(r, o, linker{})
	all := append([]string{"index.html", "functions.html", "how.html", styleName, scriptName}, b.pageNames...)
	if b.baseline != nil {
		all = append(all, "compared.html")
	}
	f, err := openFolder(dir, all)
	if err != nil {
		return Result{}, err
	}
	defer f.close()
	put := func(p page) error {
		text, err := p.whole(b)
		if err != nil {
			return err
		}
		return f.write(p.name, text)
	}
	if err := b.draw(put); err != nil {
		return Result{}, err
	}
	for name, text := range map[string]string{styleName: style(o.Palette), scriptName: script()} {
		if err := f.write(name, []byte(text)); err != nil {
			return Result{}, err
		}
	}
	return Result{First: dir + "/index.html", Pages: len(all) - 2, Stale: b.stale}, f.finish()
}

// book is a report while it is drawn: what the pages of files leave behind for
// the pages about all of them.
type book struct {
	reader    *reading.Reader
	opt       Options
	link      linker
	pageNames []string       // of the files, in the order of their paths
	pageOf    map[string]int // index of a path's page

	files     []fileFacts
	functions []functionFacts
	gaps      []gaps.Gap
	totals    coverage.Totals
	waivers   []waiverFacts
	baseline  *baseline
	compared  comparison
	stale     int
}

// fileFacts is what the overview knows of a file.
type fileFacts struct {
	path    string
	totals  coverage.Totals
	gaps    int
	loaded  bool
	changed bool
}

// functionFacts is what the list of functions knows of one.
type functionFacts struct {
	file   int
	name   string
	line   int
	count  uint64
	waived bool
	totals coverage.Totals
}

type waiverFacts struct {
	path          string
	line, endLine int
	whole         bool
	reason        string
}

// baseline is what another recording says.
type baseline struct {
	info   recording.Info
	id     string
	totals coverage.Totals
	files  map[string]coverage.Totals
}

func newBook(r *reading.Reader, o Options, l linker) *book {
	b := &book{reader: r, opt: o, link: l, pageOf: map[string]int{}}
	taken := names{}
	for i := range r.Recording.Len() {
		path := r.Recording.Name(i)
		b.pageOf[path] = i
		b.pageNames = append(b.pageNames, taken.page(path))
	}
	b.link.book = b
	if o.Against != nil {
		rec := o.Against.Recording
		b.baseline = &baseline{info: rec.Info, id: rec.ID, files: map[string]coverage.Totals{}}
	}
	return b
}

// page is one page, with its main part drawn.
type page struct {
	name  string // of its file, from the report's folder
	title string
	main  []byte
}

// draw draws all pages: those of the files first, then those about them all.
func (b *book) draw(put func(page) error) error {
	type drawn struct {
		page page
		pair coverage.Pair
		gaps []gaps.Gap
		text bool
	}
	done := 0
	err := reading.EachPair(b.reader, b.opt.Judge.Was(), nil, func(p coverage.Pair) (drawn, error) {
		if p.Now == nil {
			return drawn{pair: p}, nil
		}
		f, shown := p.Now, p
		if b.baseline == nil {
			shown.Was = nil // it is only judged against
		}
		text, same, err := b.reader.Source(f.Path)
		if err != nil || !same {
			text = nil
		}
		found := gaps.In(f)
		main, err := b.filePage(shown, found, text, err == nil && same)
		return drawn{page{b.pageNames[b.pageOf[f.Path]], f.Path, main}, p, found, same}, err
	}, func(d drawn) error {
		b.opt.Judge.Add(d.pair)
		b.compare(d.pair)
		if d.pair.Now == nil {
			return nil
		}
		b.note(d.pair.Now, d.gaps)
		if !d.text {
			b.stale++
		}
		if done++; b.opt.Progress != nil {
			b.opt.Progress(done, len(b.pageNames), d.pair.Now.Path)
		}
		return put(d.page)
	})
	if err != nil {
		return err
	}
	gaps.Rank(b.gaps)
	rest := []func() (page, error){b.overview, b.functionsPage, b.howPage}
	if b.baseline != nil {
		rest = append(rest, b.comparedPage)
	}
	for _, draw := range rest {
		p, err := draw()
		if err == nil {
			err = put(p)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// note keeps what the pages about all files need of one.
func (b *book) note(f *coverage.File, found []gaps.Gap) {
	b.totals = b.totals.Add(f.Totals)
	b.gaps = append(b.gaps, found...)
	b.files = append(b.files, fileFacts{f.Path, f.Totals, len(found), f.Loaded, b.opt.Changed[f.Path] != nil})
	for _, fn := range f.Named() {
		b.functions = append(b.functions, functionFacts{len(b.files) - 1, strings.Clone(fn.Name), fn.Span.Start.Line, fn.Count, fn.Waived, fn.Totals})
	}
	for _, w := range f.Waivers {
		b.waivers = append(b.waivers, waiverFacts{f.Path, w.Line, w.EndLine, w.Line == 1 && w.EndLine >= f.LineCount, w.Reason})
	}
}
