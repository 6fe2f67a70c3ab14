package tally

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"thrush/internal/core/coverage"
)

func TestTree(t *testing.T) {
	item := func(path string, covered, total int) Item {
		return Item{path, coverage.Totals{}.With(coverage.Lines, coverage.Ratio{Covered: covered, Total: total})}
	}
	items := []Item{item("main.go", 1, 2), item("port/north/pier.go", 1, 1), item("port/north/quay.go", 0, 4), item("a/b/c/d.go", 3, 3)}
	var got []string
	var walk func(n *Node, depth int)
	walk = func(n *Node, depth int) {
		for _, c := range n.Children {
			got = append(got, fmt.Sprintf("%d %s %d/%d", depth, c.Name, c.Totals.Of(coverage.Lines).Covered, c.Totals.Of(coverage.Lines).Total))
			walk(c, depth+1)
		}
	}
	root := Tree(items)
	walk(root, 0)
	assert.Equal(t, []string{"0 a/b/c 3/3", "1 d.go 3/3", "0 port/north 1/5", "1 pier.go 1/1", "1 quay.go 0/4", "0 main.go 1/2"}, got)
	assert.Equal(t, Sum(items), root.Totals)
	assert.Equal(t, 4, root.Files)
	folders := Folders(items)
	assert.Len(t, folders, 3)
	assert.Equal(t, coverage.Ratio{Covered: 1, Total: 5}, folders[2].Totals.Of(coverage.Lines))
}
