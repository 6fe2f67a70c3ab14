// Package sourcemap reads source maps, which say where the text that a tool made came
// from, as ECMA-426 (Source map format) defines them.
package sourcemap

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"
	"unicode/utf8"

	"thrush/internal/core/origin"
	"thrush/internal/core/site"
)

// Map is a source map.
type Map struct {
	Sources []Source
	marks   []mark
}

// Source is a file that text came from.
type Source struct {
	Name    string  // as the map has it, its sourceRoot in front
	Content *string // its text when the map was made, if the map has it
}

// mark is a mapping: lines and columns from 0, the latter in UTF-16 units.
type mark struct {
	line, column         int
	source               int // -1 for text that came from nowhere
	fromLine, fromColumn int
}

// wire is a map as JSON has it.
type wire struct {
	Version        int
	SourceRoot     string
	Sources        []*string
	SourcesContent []*string
	Mappings       string
	Sections       []struct {
		Offset struct{ Line, Column int }
		Map    *wire
	}
}

// bounds of what is taken for a map.
const (
	mostDepth = 4
	mostLines = 1 << 26
)

// Read reads a map. It fails for what is none; a mapping that leads out of the map makes
// all of it doubtful, so then it fails as well.
func Read(data []byte) (*Map, error) {
	data = bytes.TrimPrefix(data, []byte("\ufeff"))
	if bytes.HasPrefix(data, []byte(")]}")) { // against being run as a script
		_, data, _ = bytes.Cut(data, []byte{'\n'})
	}
	var w wire
	if err := json.Unmarshal(data, &w); err != nil {
		return nil, fmt.Errorf("it is no source map: %w", err)
	}
	m := &Map{}
	if err := m.add(&w, 0, 0, 0); err != nil {
		return nil, err
	}
	slices.SortStableFunc(m.marks, func(a, b mark) int {
		if a.line != b.line {
			return a.line - b.line
		}
		return a.column - b.column
	})
	return m, nil
}

// add adds a map, or a section of one, whose text begins at a place.
func (m *Map) add(w *wire, line, column, depth int) error {
	if w.Version != 3 {
		return fmt.Errorf("its source map has version %d, not 3", w.Version)
	}
	if depth > mostDepth || line < 0 || column < 0 || line > mostLines {
		return errors.New("its source map has sections that cannot be")
	}
	for _, s := range w.Sections {
		if s.Map == nil {
			return errors.New("its source map has a section without a map")
		}
		at := 0
		if s.Offset.Line == 0 {
			at = column
		}
		if err := m.add(s.Map, line+s.Offset.Line, at+s.Offset.Column, depth+1); err != nil {
			return err
		}
	}
	first := len(m.Sources)
	for i, name := range w.Sources {
		s := Source{}
		if name != nil {
			s.Name = rooted(w.SourceRoot, *name)
		}
		if i < len(w.SourcesContent) {
			s.Content = w.SourcesContent[i]
		}
		m.Sources = append(m.Sources, s)
	}
	return m.mappings(w.Mappings, first, line, column)
}

func rooted(root, name string) string {
	if root == "" || path.IsAbs(name) || strings.Contains(name, "://") {
		return name
	}
	return strings.TrimSuffix(root, "/") + "/" + name
}

// mappings reads the mappings of a map whose text begins at a place.
func (m *Map) mappings(text string, first, line, column int) error {
	at := mark{line: line}
	var source int
	for i, row := range strings.Split(text, ";") {
		at.line, at.column = line+i, 0
		if i == 0 {
			at.column = column
		}
		for _, field := range strings.Split(row, ",") {
			if field == "" {
				continue
			}
			n, err := numbers(field)
			if err != nil {
				return err
			}
			at.column += n[0]
			out := at
			if out.source = -1; len(n) > 1 {
				source += n[1]
				at.fromLine += n[2]
				at.fromColumn += n[3]
				out = at
				out.source = first + source
				if source < 0 || out.source >= len(m.Sources) || at.fromLine < 0 || at.fromColumn < 0 {
					return errors.New("its source map leads to places that are not there")
				}
			}
			if at.column < 0 {
				return errors.New("its source map leads from places that are not there")
			}
			m.marks = append(m.marks, out)
		}
	}
	return nil
}

const digits = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/"

// numbers reads one mapping: 1, 4 or 5 numbers, each a variable-length quantity in base 64
// with its sign in the lowest bit.
func numbers(field string) ([]int, error) {
	var out []int
	value, shift := 0, 0
	for i := range len(field) {
		d := strings.IndexByte(digits, field[i])
		if d < 0 || shift > 30 {
			return nil, errors.New("its source map has mappings that cannot be read")
		}
		value |= d & 31 << shift
		if shift += 5; d&32 != 0 {
			continue
		}
		n := value >> 1
		if value&1 != 0 {
			n = -n
		}
		out, value, shift = append(out, n), 0, 0
	}
	if shift != 0 || len(out) != 1 && len(out) != 4 && len(out) != 5 {
		return nil, errors.New("its source map has mappings that cannot be read")
	}
	return out, nil
}

// Links gives the mappings as links between places of the text and of its sources, nil for
// a source that does not matter, in the order of the text.
func (m *Map) Links(text []byte, sources [][]byte) []origin.Link {
	to := newPlaces(text)
	from := make([]*places, len(m.Sources))
	for i := range from {
		if i < len(sources) && sources[i] != nil {
			from[i] = newPlaces(sources[i])
		}
	}
	var out []origin.Link
	for _, k := range m.marks {
		at, ok := to.pos(k.line, k.column)
		if !ok {
			continue
		}
		l := origin.Link{At: at, Source: -1}
		if k.source >= 0 && from[k.source] != nil {
			if p, ok := from[k.source].pos(k.fromLine, k.fromColumn); ok {
				l.Source, l.From = k.source, p
			}
		}
		out = append(out, l)
	}
	return out
}

// places finds places in a text by lines and UTF-16 columns.
type places struct {
	lines [][]byte
	plain []bool // the line is ASCII
}

func newPlaces(text []byte) *places {
	p := &places{lines: bytes.Split(text, []byte{'\n'})}
	p.plain = make([]bool, len(p.lines))
	for i, line := range p.lines {
		p.plain[i] = !slices.ContainsFunc(line, func(c byte) bool { return c >= utf8.RuneSelf })
	}
	return p
}

func (p *places) pos(line, column int) (site.Pos, bool) {
	if line >= len(p.lines) {
		return site.Pos{}, false
	}
	text := p.lines[line]
	if p.plain[line] {
		return site.Pos{Line: line + 1, Column: column + 1}, column <= len(text)
	}
	at := 0
	for column > 0 && at < len(text) {
		r, size := utf8.DecodeRune(text[at:])
		if at += size; r > 0xffff {
			column--
		}
		column--
	}
	return site.Pos{Line: line + 1, Column: at + 1}, column == 0
}
