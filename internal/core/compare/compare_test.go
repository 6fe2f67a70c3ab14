package compare

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"thrush/internal/core/coverage"
	"thrush/internal/core/site"
	"thrush/internal/lang/golang"
	"thrush/internal/weave"
)

const before = `package fare

func Price(age int) int {
	if age < 12 {
		return 450
	}
	return 900
}

func Fee(tide int) int {
	return tide
}

func Old() {
	println(1)
}
`

// with reads a source in which the lines that have one of the words on them ran once.
func with(t *testing.T, source string, words ...string) *coverage.File {
	file, err := golang.Read("fare.go", []byte(source))
	require.NoError(t, err)
	table := &site.Table{Path: "fare.go", Digest: source}
	weave.Place([]byte(source), file, table, weave.Options{Level: site.Branches, Keep: site.Counts})
	site.SetMarks(table, []byte(source))
	f := coverage.Resolve(table, nil)
	lines := strings.Split(source, "\n")
	on := func(line int) uint64 {
		for _, w := range words {
			if strings.Contains(lines[line-1], w) {
				return 1
			}
		}
		return 0
	}
	for i := range f.Lines {
		f.Lines[i].Count = on(f.Lines[i].Number)
		f.Lines[i].Ran = f.Lines[i].Count > 0
	}
	for i := range f.Functions {
		f.Functions[i].Count = on(f.Functions[i].Span.Start.Line)
	}
	for i := range f.Decisions {
		f.Decisions[i].Outcomes[0].Count = on(f.Decisions[i].Pos.Line + 1)
		f.Decisions[i].Outcomes[1].Count = on(f.Decisions[i].Pos.Line)
	}
	return f
}

func told(f *File) []string {
	var out []string
	for _, i := range f.Told() {
		out = append(out, strings.TrimSpace(strings.Join([]string{string(i.Change), string(i.Because), i.Function, i.Outcome, i.What}, " ")))
	}
	return out
}

func TestInTheSameText(t *testing.T) {
	f := Files(with(t, before, "Price", "if", "450", "900", "Old", "println"), with(t, before, "Price", "if", "900", "Fee", "tide"))
	assert.Equal(t, []string{
		"lost tests Price if: true not true any more",
		"lost tests Price  does not run any more",
		"covered  Fee  is called now, 2 lines",
		"lost tests Old  is not called any more, 2 lines",
	}, told(f))
	lines, outcomes := f.Count()
	assert.Equal(t, Counts{Covered: 2, LostTests: 3}, lines)
	assert.Equal(t, Counts{LostTests: 1}, outcomes)
	assert.Equal(t, Same, f.Source)
	assert.False(t, Files(with(t, before, "Price"), with(t, before, "Price")).Moved())
}

func TestAcrossAnEdit(t *testing.T) {
	after := strings.Replace(strings.Replace(before, "\treturn 900", "\tif age > 67 {\n\t\treturn 600\n\t}\n\treturn 900", 1), "func Old() {\n\tprintln(1)\n}\n", "func New() {\n\tprintln(2)\n}\n", 1)
	f := Files(with(t, before, "Price", "if", "450", "900", "Old", "println"), with(t, "\n\n"+after, "Price", "if", "450"))
	assert.Equal(t, []string{
		"added  Price  ran",
		"added  Price if: true only false so far",
		"added  Price  not run yet",
		"lost code Price  does not run any more",
		"removed  Old  ran",
		"removed  Old  ran",
		"added  New  not called yet, 2 lines",
	}, told(f))
	lines, _ := f.Count()
	assert.Equal(t, Counts{LostCode: 1, AddedRan: 1, AddedNot: 3, Removed: 2}, lines)
	assert.Equal(t, Edited, f.Source)
	assert.Equal(t, 9, f.Items[0].Line)
}

func TestFilesThatComeAndGo(t *testing.T) {
	one := with(t, before, "Price")
	assert.Equal(t, NewFile, Files(nil, one).Source)
	lines, _ := Files(nil, one).Count()
	assert.Equal(t, Counts{AddedRan: 1, AddedNot: 7}, lines)
	lines, _ = Files(one, nil).Count()
	assert.Equal(t, Counts{Removed: 1, RemovedNo: 7}, lines)
}
