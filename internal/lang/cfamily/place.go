package cfamily

import (
	"bytes"
	"sort"

	"thrush/internal/core/site"
	"thrush/internal/lang/tree"
)

// source is a project file as it was written.
type source struct {
	text   []byte
	starts []int   // offsets at which lines begin
	tokens []token // outside comments and directives
}

func newSource(text []byte, comment func(from, to int)) *source {
	s := &source{text: text, starts: lineStarts(text)}
	scan := scanner{text: text, comment: comment, directives: true, fresh: true}
	for {
		t, ok := scan.next()
		if !ok {
			return s
		}
		s.tokens = append(s.tokens, t)
	}
}

// newPatterns is newSource for files in which patterns stand that are no C: what looks like
// the beginning of a comment may be part of one, and ends with its line.
func newPatterns(text []byte, comment func(from, to int)) *source {
	s := &source{text: text, starts: lineStarts(text)}
	for i, from := range s.starts {
		to := len(text)
		if i+1 < len(s.starts) {
			to = s.starts[i+1]
		}
		scan := scanner{text: text[:to], at: from, comment: comment, directives: true, fresh: true, patterns: true}
		for {
			t, ok := scan.next()
			if !ok {
				break
			}
			s.tokens = append(s.tokens, t)
		}
	}
	return s
}

func lineStarts(text []byte) []int {
	starts := []int{0}
	for i, c := range text {
		if c == '\n' && i+1 < len(text) {
			starts = append(starts, i+1)
		}
	}
	return starts
}

func (s *source) pos(at int) site.Pos {
	line := sort.SearchInts(s.starts, at+1) - 1
	return site.Pos{Line: line + 1, Column: at - s.starts[line] + 1}
}

// lines gives the tokens that begin on some lines.
func (s *source) lines(from, before int) []token {
	offset := func(line int) int {
		if line > len(s.starts) {
			return len(s.text)
		}
		return s.starts[max(line, 1)-1]
	}
	lo := sort.Search(len(s.tokens), func(i int) bool { return s.tokens[i].from >= offset(from) })
	hi := sort.Search(len(s.tokens), func(i int) bool { return s.tokens[i].from >= offset(before) })
	return s.tokens[lo:max(lo, hi)]
}

// arguments gives the tokens that begin on a line, and those on the lines after it, before
// another, as long as parentheses go on or begin there, or a backslash makes them one line.
func (s *source) arguments(line, before int) []token {
	all := s.lines(line, before)
	depth, own := 0, len(s.lines(line, line+1))
	for i, t := range all {
		c := s.text[t.from]
		if i >= own && depth <= 0 && !(i == own && c == '(') && (i == 0 || !joins(s.text[all[i-1].to:t.from])) {
			return all[:i]
		}
		switch c {
		case '(':
			depth++
		case ')':
			depth--
		}
		if i >= own && depth <= 0 {
			own = i + 1
			for own < len(all) && s.pos(all[own].from).Line == s.pos(t.from).Line {
				own++
			}
		}
	}
	return all
}

// joins tells whether a backslash stands before each line break of what is between two tokens.
func joins(between []byte) bool {
	for i, c := range between {
		if c == '\n' && !bytes.HasSuffix(bytes.TrimSuffix(between[:i], []byte{'\r'}), []byte{'\\'}) {
			return false
		}
	}
	return true
}

// placer finds where preprocessed text was written. Line markers tell the line; to
// find the column, the tokens of a line are matched with those of the source, and
// what macros put in is where the macro's name stands.
type placer struct {
	text    []byte
	regions []region
	sources []*source
	rows    []row
	groups  map[int]*group // by the index of their first row
}

// row is a line of preprocessed text that has tokens in it.
type row struct {
	from, to int
	file     int
	line     int
	group    int // index of the first row of its group
}

func newPlacer(text []byte, regions []region) *placer {
	p := &placer{text: text, regions: regions, groups: map[int]*group{}}
	last := map[int]int{} // by file, the row it last had
	for _, r := range regions {
		if r.file < 0 {
			continue
		}
		line := r.line
		for at := r.from; at < r.to; line++ {
			end := bytes.IndexByte(text[at:r.to], '\n')
			if end < 0 {
				end = r.to
			} else {
				end += at
			}
			if len(bytes.TrimSpace(text[at:end])) > 0 && text[at] != '#' {
				n := row{from: at, to: end, file: r.file, line: line, group: len(p.rows)}
				if before, ok := last[r.file]; ok && p.rows[before].line == line {
					n.group = p.rows[before].group
				}
				last[r.file] = len(p.rows)
				p.rows = append(p.rows, n)
			}
			at = end + 1
		}
	}
	return p
}

// rowAt gives the index of the row that an offset lies in, or -1.
func (p *placer) rowAt(at int) int {
	i := sort.Search(len(p.rows), func(i int) bool { return p.rows[i].to > at })
	if i < len(p.rows) && p.rows[i].from <= at {
		return i
	}
	return -1
}

// file is the index of the file that an offset lies in, or -1.
func (p *placer) file(at int) int {
	if i := regionAt(p.regions, at); i >= 0 {
		return p.regions[i].file
	}
	return -1
}

// context tells whether an offset lies in a file that only has text of one that counts in
// it.
func (p *placer) context(at int) bool {
	i := regionAt(p.regions, at)
	return i >= 0 && p.regions[i].context
}

// system tells whether an offset lies in what a macro of the system's put in.
func (p *placer) system(at int) bool {
	i := regionAt(p.regions, at)
	return i >= 0 && p.regions[i].system
}

// origin gives the token of the source that the token at an offset is or stands
// for.
func (p *placer) origin(at int) (s *source, t token, exact, ok bool) {
	i := p.rowAt(at)
	if i < 0 {
		return nil, token{}, false, false
	}
	r := p.rows[i]
	g := p.groups[r.group]
	if g == nil {
		g = p.match(r.group)
		p.groups[r.group] = g
	}
	j := sort.Search(len(g.tokens), func(j int) bool { return g.tokens[j].to > at })
	if j >= len(g.tokens) {
		return nil, token{}, false, false
	}
	return p.sources[r.file], g.places[j], g.exact[j], true
}

// start is the place of the token at an offset.
func (p *placer) start(at int) site.Pos {
	if s, t, _, ok := p.origin(at); ok {
		return s.pos(t.from)
	}
	return site.Pos{Line: 1, Column: 1}
}

// end is the place after the token that ends at an offset.
func (p *placer) end(at int) site.Pos {
	if s, t, _, ok := p.origin(at - 1); ok {
		return s.pos(t.to)
	}
	return site.Pos{Line: 1, Column: 1}
}

// isWritten tells whether the token at an offset stands in the source itself.
func (p *placer) isWritten(at int) bool {
	_, _, exact, ok := p.origin(at)
	return ok && exact
}

func (p *placer) span(n *tree.Node) site.Span {
	from, to := p.start(n.From), p.end(n.To)
	if to.Before(from) {
		to = from
	}
	return site.Span{Start: from, End: to}
}

// written gives a stretch of preprocessed text as it stands in the source, where it
// does.
func (p *placer) written(from, to int) []byte {
	s, a, exact, ok := p.origin(from)
	t, b, _, also := p.origin(to - 1)
	switch {
	case !ok || !also || s != t:
	case a == b && !exact:
		return p.call(s, a)
	case a.from < b.to:
		return s.closed(a, b)
	}
	return p.text[from:to]
}

// closed is the text from one token to another, as far as its parentheses have their
// counterparts; with the word before them, where it begins with one.
func (s *source) closed(a, b token) []byte {
	i := sort.Search(len(s.tokens), func(i int) bool { return s.tokens[i].from >= a.from })
	if i > 0 && s.text[a.from] == '(' && isWord(s.text[s.tokens[i-1].from]) && s.tokens[i-1].to == a.from {
		i--
	}
	from, to, depth := s.tokens[i].from, a.to, 0
	for ; i < len(s.tokens) && (s.tokens[i].to <= b.to || depth > 0); i++ {
		switch s.text[s.tokens[i].from] {
		case '(':
			depth++
		case ')':
			if depth--; depth < 0 {
				return s.text[from:to]
			}
		}
		to = s.tokens[i].to
	}
	return s.text[from:to]
}

// call is the text of the use of a macro: its name, and its arguments if it has any.
func (p *placer) call(s *source, name token) []byte {
	i := sort.Search(len(s.tokens), func(i int) bool { return s.tokens[i].from >= name.from })
	to, depth := name.to, 0
	for i++; i < len(s.tokens); i++ {
		switch s.text[s.tokens[i].from] {
		case '(':
			depth++
		case ')':
			if depth--; depth == 0 {
				return s.text[name.from:s.tokens[i].to]
			}
		}
		if depth <= 0 {
			break
		}
	}
	return s.text[name.from:to]
}

// mostLines is over how many lines of source the arguments of one macro may go.
const mostLines = 400

func (s *source) lineOffset(line int) int { return s.starts[min(max(line, 1), len(s.starts))-1] }
