// Package tally rolls the coverage of files up into folders.
package tally

import (
	"path"
	"slices"
	"strings"

	"thrush/internal/core/coverage"
)

// Node is a folder or a file with its totals.
type Node struct {
	Name     string // the last element of Path
	Path     string
	Folder   bool
	Files    int // files in it, at any depth
	Totals   coverage.Totals
	Children []*Node // folders first, then files, each by name
}

// Item is a file's path and totals.
type Item struct {
	Path   string
	Totals coverage.Totals
}

// Sum adds the totals of items.
func Sum(items []Item) coverage.Totals {
	var t coverage.Totals
	for _, i := range items {
		t = t.Add(i.Totals)
	}
	return t
}

// Tree hangs the files into their folders. A folder that holds nothing but one
// folder is drawn together with it.
func Tree(items []Item) *Node {
	root := &Node{Path: ".", Name: ".", Folder: true}
	folders := map[string]*Node{".": root}
	var folder func(string) *Node
	folder = func(p string) *Node {
		if n := folders[p]; n != nil {
			return n
		}
		n := &Node{Path: p, Name: path.Base(p), Folder: true}
		folders[p] = n
		up := folder(path.Dir(p))
		up.Children = append(up.Children, n)
		return n
	}
	for _, i := range items {
		up := folder(path.Dir(i.Path))
		up.Children = append(up.Children, &Node{Path: i.Path, Name: path.Base(i.Path), Files: 1, Totals: i.Totals})
	}
	finish(root)
	return root
}

func finish(n *Node) {
	for i, c := range n.Children {
		if !c.Folder {
			n.Totals, n.Files = n.Totals.Add(c.Totals), n.Files+1
			continue
		}
		finish(c)
		for len(c.Children) == 1 && c.Children[0].Folder {
			only := c.Children[0]
			only.Name = c.Name + "/" + only.Name
			c = only
		}
		n.Children[i] = c
		n.Totals, n.Files = n.Totals.Add(c.Totals), n.Files+c.Files
	}
	slices.SortStableFunc(n.Children, func(a, b *Node) int {
		if a.Folder != b.Folder {
			if a.Folder {
				return -1
			}
			return 1
		}
		return strings.Compare(a.Path, b.Path)
	})
}

// Folders are the totals of every folder that has files of its own, by path.
func Folders(items []Item) []Item {
	sums := map[string]coverage.Totals{}
	for _, i := range items {
		d := path.Dir(i.Path)
		sums[d] = sums[d].Add(i.Totals)
	}
	out := make([]Item, 0, len(sums))
	for p, t := range sums {
		out = append(out, Item{p, t})
	}
	slices.SortFunc(out, func(a, b Item) int { return strings.Compare(a.Path, b.Path) })
	return out
}
