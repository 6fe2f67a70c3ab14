package pages

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
	"thrush/internal/report/highlight"
	"thrush/internal/report/prose"
)

// ran is a file of so many lines with a statement on each, of which every third
// never ran.
func ran(lines int, keep site.Keep, count uint64) *coverage.File {
	t := &site.Table{Path: "deck/deck.go", Counters: 2, Lines: lines, Level: site.Lines, Keep: keep,
		Functions: []site.Function{{Name: "Place", Sum: site.Sum{0}, Span: site.Span{Start: site.Pos{Line: 1, Column: 1}, End: site.Pos{Line: lines, Column: 2}}}}}
	for n := 1; n <= lines; n++ {
		sum := site.Sum{0}
		if n%3 == 0 {
			sum = site.Sum{1}
		}
		at := site.Span{Start: site.Pos{Line: n, Column: 2}, End: site.Pos{Line: n, Column: 9}}
		t.Statements = append(t.Statements, site.Statement{Span: at, Head: at.End, Sum: sum})
	}
	return coverage.Resolve(t, []uint64{count, 0})
}

func rows(f *coverage.File, lines []string, changed func(int) bool) string {
	w := linesWriter{file: f, shaded: highlight.Lines(f.Path, lines), notes: map[int][]prose.Note{2: {{Column: 8, Text: "only <b> so far"}}}, begins: map[int]bool{1: true}, changed: changed, source: lines}
	return string(w.all(len(lines)))
}

func TestRows(t *testing.T) {
	out := rows(ran(3, site.Counts, 1_234_567), []string{"a := <x>", "return \"&\"", ""}, func(n int) bool { return n == 3 })
	assert.Equal(t, "<tbody>\n"+
		"<tr\nid=L1 class=f><th>1<td title=\"1,234,567\"><button tabindex=-1 aria-expanded=false>1234k</button><td>a := &lt;x&gt;"+
		"<tr\nid=L2 class=f><th>2<td title=\"1,234,567\">1234k<td><b>return</b> <q>&#34;&amp;&#34;</q>"+
		"<tr\nclass=\"s p\"><td><s>       </s>only &lt;b&gt; so far"+
		"<tr\nid=L3 class=\"n c\"><th>3<td>0<td>", out)
	assert.Contains(t, rows(ran(1, site.Hits, 7), []string{"x"}, nil), ">ran</button>", "hits are no counts")
}

func TestLongLinesAreCutAndSaySo(t *testing.T) {
	out := rows(ran(1, site.Counts, 1), []string{"xy := \"" + strings.Repeat("é", 5000) + "\" + y"}, nil)
	assert.Contains(t, out, "… and 6,013 bytes more on this line")
	assert.Less(t, len(out), longestShown+200)
	assert.True(t, strings.Contains(out, "é</q> <em>"), "no letter is cut in two")
}

func TestSourceThatLooksBinary(t *testing.T) {
	lines := sourceLines([]byte("\ufeffpackage deck\r\n\x00\xff\x1b[31m\u202e\r\nlast"))
	assert.Equal(t, []string{"package deck", `\x00\xff\x1b[31m\u202e`, "last"}, lines)
}

func TestStripOfALongFile(t *testing.T) {
	f := ran(100_000, site.Counts, 1)
	svg := string(strip(f, nil, 100_000))
	assert.Equal(t, `<path class=n d="M0 0h8v100000h-8z" />`, svg, "of lines that share a row the worst is shown")
	svg = string(strip(ran(7, site.Counts, 1), func(n int) bool { return n == 2 || n == 3 }, 7))
	assert.Equal(t, `<path class=n d="M0 2h8v1h-8zM0 5h8v1h-8z" /><path class=c d="M8 1h2v2h-2z" />`, svg)
}

func TestFolderKeepsWhatIsNotItsOwn(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "report")
	render := func(text string, names ...string) error {
		f, err := openFolder(dir, names)
		if err != nil {
			return err
		}
		defer f.close()
		for _, n := range names {
			require.NoError(t, f.write(n, []byte(text)))
		}
		return f.finish()
	}
	read := func(name string) string {
		text, err := os.ReadFile(filepath.Join(dir, name))
		require.NoError(t, err)
		return string(text)
	}
	require.NoError(t, render("one", "index.html", "files/fare/a.html", "files/deck/b.html"))
	old, err := os.Stat(filepath.Join(dir, "index.html"))
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "files/deck/mine.txt"), []byte("mine"), 0o666))
	require.NoError(t, render("one", "index.html", "files/fare/c.html"))
	assert.NoDirExists(t, filepath.Join(dir, "files/fare/a.html"))
	assert.NoFileExists(t, filepath.Join(dir, "files/deck/b.html"))
	assert.Equal(t, "mine", read("files/deck/mine.txt"))
	same, err := os.Stat(filepath.Join(dir, "index.html"))
	require.NoError(t, err)
	assert.True(t, os.SameFile(old, same), "a page that did not change is not written again")
	assert.ErrorIs(t, render("two", "index.html", "files/deck/mine.txt"), ErrForeign)
	assert.Equal(t, "one", read("index.html"), "nothing is written if anything cannot be")
	require.NoError(t, render("two", "index.html"))
	assert.NoDirExists(t, filepath.Join(dir, "files/fare"), "folders that are empty go too")
	assert.Equal(t, "mine", read("files/deck/mine.txt"))

	// A list that was tampered with leads nowhere outside.
	outside := filepath.Join(filepath.Dir(dir), "outside.txt")
	require.NoError(t, os.WriteFile(outside, []byte("mine"), 0o666))
	require.NoError(t, os.WriteFile(filepath.Join(dir, manifest), []byte(`{"schema":"thrush.pages/1","files":["../outside.txt","index.html"]}`), 0o666))
	assert.Error(t, render("two", "index.html"))
	assert.FileExists(t, outside)
	require.NoError(t, os.WriteFile(filepath.Join(dir, manifest), []byte(`{"files":["index.html"]}`), 0o666))
	assert.ErrorIs(t, render("two", "index.html"), ErrForeign)
}

func TestChangeIsInPoints(t *testing.T) {
	was := coverage.Ratio{Covered: 1, Total: 3}
	m := metric{Ratio: coverage.Ratio{Covered: 2, Total: 3}, Was: &was}
	assert.Contains(t, string(change(m)), "▲ 33.33")
	assert.Contains(t, string(change(m)), "33.33% (1/3) before")
	assert.Empty(t, change(metric{Ratio: m.Ratio}))
	assert.Equal(t, prose.Percent(m.Ratio), "66.66%")
}
