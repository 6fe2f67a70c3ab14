package sourcemap_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/origin"
	"thrush/internal/core/site"
	"thrush/internal/lang/script/sourcemap"
)

func link(line, column, source, fromLine, fromColumn int) origin.Link {
	return origin.Link{At: site.Pos{Line: line, Column: column}, Source: source, From: site.Pos{Line: fromLine, Column: fromColumn}}
}

// Places are bytes, in maps UTF-16 units; what leads to no source of ours, or past the end
// of a line, leads nowhere.
func TestLinks(t *testing.T) {
	m, err := sourcemap.Read([]byte(`{"version":3,"sourceRoot":"src/","sources":["tide.ts",null,"/fare.ts"],"mappings":"AAAA,EACG;;A,CEDFA"}`))
	require.NoError(t, err)
	assert.Equal(t, []string{"src/tide.ts", "", "/fare.ts"}, []string{m.Sources[0].Name, m.Sources[1].Name, m.Sources[2].Name})
	got := m.Links([]byte("é🌊f()\n\nxy"), [][]byte{[]byte("first\n🌊🌊x"), nil, nil})
	assert.Equal(t, []origin.Link{
		link(1, 1, 0, 1, 1),
		link(3, 1, -1, 0, 0),
		link(3, 2, -1, 0, 0),
	}, got, "column 2 is in the middle of a character")

	got = m.Links([]byte("ab\n\nxy"), [][]byte{[]byte("first\n🌊🌊x"), nil, []byte("one\ntwo")})
	assert.Equal(t, link(1, 3, -1, 0, 0).At, got[1].At)
	assert.Equal(t, -1, got[1].Source, "column 3 is in the middle of a character")
}

func TestSections(t *testing.T) {
	m, err := sourcemap.Read([]byte(")]}'\n" + `{"version":3,"sections":[
		{"offset":{"line":0,"column":4},"map":{"version":3,"sources":["a.js"],"mappings":"AAAA;AACA"}},
		{"offset":{"line":1,"column":2},"map":{"version":3,"sources":["b.js"],"sourcesContent":["let b"],"mappings":"CAAI"}}]}`))
	require.NoError(t, err)
	assert.Equal(t, "let b", *m.Sources[1].Content)
	assert.Equal(t, []origin.Link{link(1, 5, 0, 1, 1), link(2, 1, 0, 2, 1), link(2, 4, 1, 1, 5)},
		m.Links([]byte("0123456\n0123456"), [][]byte{[]byte("aa\naa"), []byte("let b")}))
}

func TestWhatIsNoMapIsRefused(t *testing.T) {
	for _, text := range []string{
		"", "[]", "{}", `{"version":2,"mappings":""}`, `{"version":3,"sources":[],"mappings":"AAAA"}`, `{"version":3,"sources":["a"],"mappings":"AA"}`,
		`{"version":3,"sources":["a"],"mappings":"ADAA"}`, `{"version":3,"sources":["a"],"mappings":"AADA"}`, `{"version":3,"sources":["a"],"mappings":"D"}`,
		`{"version":3,"sources":["a"],"mappings":"A!AA"}`, `{"version":3,"sources":["a"],"mappings":"g"}`, `{"version":3,"sources":["a"],"mappings":"////////A"}`,
		`{"version":3,"sections":[{"offset":{"line":-1,"column":0},"map":{"version":3,"mappings":""}}]}`, `{"version":3,"sections":[{"offset":{}}]}`,
	} {
		_, err := sourcemap.Read([]byte(text))
		assert.Error(t, err, text)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(`{"version":3,"sources":["a"],"mappings":"AAAA,EACG;;A,CAAC"}`), "ab\né\n")
	f.Add([]byte(`{"version":3,"sections":[{"offset":{"line":1,"column":2},"map":{"version":3,"sources":["a"],"mappings":"CAAC"}}]}`), "a\nbcdef")
	f.Fuzz(func(t *testing.T, data []byte, text string) {
		m, err := sourcemap.Read(data)
		if err != nil {
			return
		}
		sources := make([][]byte, len(m.Sources))
		for i := range sources {
			sources[i] = []byte(text)
		}
		var last site.Pos
		for _, l := range m.Links([]byte(text), sources) {
			if l.At.Before(last) || l.At.Column < 1 || l.Source >= len(m.Sources) || l.Source >= 0 && (l.From.Line < 1 || l.From.Column < 1) {
				t.Fatalf("%v after %v", l, last)
			}
			last = l.At
		}
	})
}
