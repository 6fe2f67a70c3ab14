package cfamily

import (
	"bytes"
	"sort"
	"strconv"
	"strings"
)

// region is a stretch of preprocessed text between two line markers, all from one
// file: the markers are those that compilers write, # LINE "FILE" FLAGS.
type region struct {
	from, to int
	file     int  // index into units' files, or -1
	line     int  // of its first line in the file
	system   bool // it comes from a macro, or a file, of the system's
	// context says that the file does not count, and has text of one that does in it: a
	// program made it of that one, and says so by #line.
	context bool
}

// mark is a line marker.
type mark struct {
	line     int
	name     string // empty if it names no file
	system   bool
	included bool // a file begins that is included, or goes on after one
}

// marker reads a line marker.
func marker(line []byte) (m mark, ok bool) {
	rest, ok := bytes.CutPrefix(line, []byte("#"))
	if !ok {
		return m, false
	}
	rest = bytes.TrimLeft(rest, " \t")
	rest = bytes.TrimPrefix(rest, []byte("line "))
	end := 0
	for end < len(rest) && isDigit(rest[end]) {
		end++
	}
	number, err := strconv.Atoi(string(rest[:end]))
	if err != nil {
		return m, false
	}
	m.line = number
	rest = bytes.TrimLeft(rest[end:], " \t")
	if len(rest) == 0 || rest[0] != '"' {
		return m, true
	}
	name, after := unquote(rest)
	m.name = name
	for _, flag := range bytes.Fields(after) {
		m.system = m.system || string(flag) == "3"
		m.included = m.included || string(flag) == "1" || string(flag) == "2"
	}
	return m, true
}

// unquote reads a name in quotes in which backslashes and octal numbers may stand
// for bytes.
func unquote(text []byte) (name string, after []byte) {
	var out []byte
	for i := 1; i < len(text); i++ {
		switch c := text[i]; {
		case c == '"':
			return string(out), text[i+1:]
		case c == '\\' && i+3 < len(text) && isOctal(text[i+1]) && isOctal(text[i+2]) && isOctal(text[i+3]):
			out = append(out, (text[i+1]-'0')<<6|(text[i+2]-'0')<<3|(text[i+3]-'0'))
			i += 3
		case c == '\\' && i+1 < len(text):
			i++
			out = append(out, text[i])
		default:
			out = append(out, c)
		}
	}
	return string(out), nil
}

func isOctal(c byte) bool { return c >= '0' && c <= '7' }

// divide finds the regions of a text. number tells the index of a file's name, or -1
// for files that do not matter.
func divide(text []byte, number func(name string) int) []region {
	var out []region
	at := region{file: -1, line: 1}
	seen := map[string]int{}
	name, around := "", map[string]bool{}
	var names []string // of the regions
	end := func(offset int) {
		if at.to = offset; at.from < at.to {
			out, names = append(out, at), append(names, name)
		}
	}
	for offset := 0; offset < len(text); {
		next := bytes.IndexByte(text[offset:], '\n')
		if next < 0 {
			next = len(text)
		} else {
			next += offset + 1
		}
		if text[offset] == '#' {
			if m, ok := marker(bytes.TrimRight(text[offset:next], "\r\n")); ok {
				end(offset)
				file := at.file
				if m.name != "" {
					if _, known := seen[m.name]; !known {
						seen[m.name] = number(m.name)
					}
					file = seen[m.name]
					if file >= 0 && at.file < 0 && !m.included && !strings.HasPrefix(name, "<") {
						around[name] = true
					}
					name = m.name
				}
				at = region{from: next, file: file, line: m.line, system: m.system}
			}
		}
		offset = next
	}
	end(len(text))
	for i := range out {
		out[i].context = out[i].file < 0 && !out[i].system && around[names[i]]
	}
	return out
}

// excerpt is what of a text stands in regions of files that matter, one after another,
// with words that are added for the grammar to understand it.
type excerpt struct {
	text   []byte
	begins []int  // offsets in it at which pieces begin
	from   []int  // and those that they have in the whole text
	added  []bool // the piece is not of the text: it stands where the one after it begins
}

// addition is a word to be added to an excerpt, at an offset of it.
type addition struct {
	at   int
	word string
}

// with gives the excerpt with words added, which come in the order of their offsets.
func (e *excerpt) with(words []addition) *excerpt {
	if len(words) == 0 {
		return e
	}
	out := &excerpt{}
	done, next := 0, 0
	piece := func(text []byte, from int, added bool) {
		out.begins, out.from, out.added = append(out.begins, len(out.text)), append(out.from, from), append(out.added, added)
		out.text = append(out.text, text...)
	}
	upTo := func(at int) {
		for done < at {
			for next+1 < len(e.begins) && e.begins[next+1] <= done {
				next++
			}
			to := at
			if next+1 < len(e.begins) {
				to = min(to, e.begins[next+1])
			}
			piece(e.text[done:to], e.whole(done), false)
			done = to
		}
	}
	for _, w := range words {
		upTo(w.at)
		piece([]byte(w.word), e.whole(w.at), true)
	}
	upTo(len(e.text))
	return out
}

func newExcerpt(text []byte, regions []region) *excerpt {
	e := &excerpt{}
	for _, r := range regions {
		if r.file >= 0 || r.context {
			e.begins, e.from, e.added = append(e.begins, len(e.text)), append(e.from, r.from), append(e.added, false)
			e.text = append(e.text, text[r.from:r.to]...)
		}
	}
	return e
}

// part is what of an excerpt stands from one offset of the whole text to another.
func (e *excerpt) part(from, to int) *excerpt {
	out := &excerpt{}
	for i, at := range e.begins {
		end := len(e.text)
		if i+1 < len(e.begins) {
			end = e.begins[i+1]
		}
		text, begin := e.text[at:end], e.from[i]
		if e.added[i] {
			if begin < from || begin >= to {
				continue
			}
		} else {
			if begin >= to || begin+len(text) <= from {
				continue
			}
			if cut := from - begin; cut > 0 {
				text, begin = text[cut:], from
			}
			text = text[:min(len(text), to-begin)]
		}
		out.begins, out.from, out.added = append(out.begins, len(out.text)), append(out.from, begin), append(out.added, e.added[i])
		out.text = append(out.text, text...)
	}
	return out
}

// at gives the offset in the excerpt of one in the whole text, or -1.
func (e *excerpt) at(whole int) int {
	i := sort.SearchInts(e.from, whole+1) - 1
	for i >= 0 && e.added[i] {
		i--
	}
	if i < 0 {
		return -1
	}
	end := len(e.text)
	if i+1 < len(e.begins) {
		end = e.begins[i+1]
	}
	if at := e.begins[i] + whole - e.from[i]; at < end {
		return at
	}
	return -1
}

// whole gives the offset in the whole text of one in the excerpt.
func (e *excerpt) whole(at int) int {
	i := sort.SearchInts(e.begins, at+1) - 1
	if e.added[i] {
		return e.from[i]
	}
	return e.from[i] + at - e.begins[i]
}

// end gives the offset in the whole text after what ends at one in the excerpt.
func (e *excerpt) end(from, to int) int {
	if from == to {
		return e.whole(to)
	}
	i := sort.SearchInts(e.begins, to) - 1
	for i > 0 && e.added[i] && e.begins[i] > from {
		// It ends with words that were added: where the text before them does.
		to = e.begins[i]
		i--
	}
	if e.added[i] {
		return e.from[i]
	}
	return e.whole(to-1) + 1
}

// regionAt gives the index of the region that an offset lies in, or -1.
func regionAt(regions []region, offset int) int {
	i := sort.Search(len(regions), func(i int) bool { return regions[i].to > offset })
	if i < len(regions) && regions[i].from <= offset {
		return i
	}
	return -1
}
