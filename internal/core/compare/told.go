package compare

import (
	"fmt"

	"thrush/internal/core/gaps"
)

// Told gives the items of a file as they are best told to a person: where a function as a
// whole is called now, or is not, one item stands for all that is in it.
func (f *File) Told() []Item {
	whole := map[int]int{} // index of a function's item in out
	out := []Item{}
	for _, fn := range f.Functions {
		i := Item{Path: fn.Path, Line: fn.Line, WasLine: fn.WasLine, Function: fn.Name, Change: fn.Change, In: fn.In}
		switch {
		case fn.Change == Lost:
			i.Because, i.What = Tests, "is not called any more"
			if fn.Edited {
				i.Because = Code
			}
		case fn.Change == Covered:
			i.Ran, i.What = true, "is called now"
		case fn.Change == Added && fn.Count == 0:
			i.What = gaps.NotCalled
		default:
			continue
		}
		whole[fn.In] = len(out)
		out = append(out, i)
	}
	lines := map[int]int{}
	for _, i := range f.Items {
		if at, ok := whole[i.In]; ok && i.Change == out[at].Change {
			if i.Outcome == "" {
				lines[at]++
			}
			continue
		}
		out = append(out, i)
	}
	for at, n := range lines {
		if n > 1 {
			out[at].What += fmt.Sprintf(", %d lines", n)
		}
	}
	sortItems(out)
	return out
}
