package merging

import (
	"slices"
	"strings"

	"thrush/internal/recording"
)

// Input is a recording to merge: what it comes from, and a way to read all of it.
type Input struct {
	Name     string
	Identity string
	Info     recording.Info
	// Open reads it. What is read may be kept in the buffer.
	Open func(buffer *[]byte) (*recording.Recording, error)
}

// Files are inputs from files. Only their heads are read at first.
func Files(paths []string) ([]Input, error) {
	var out []Input
	for _, p := range paths {
		info, identity, err := recording.Peek(p)
		if err != nil {
			return nil, err
		}
		// What they list can be long; it is taken when they are read.
		info.Unmeasured, info.Generated, info.Passed, info.Problems, info.Notes = nil, nil, nil, nil, nil
		out = append(out, Input{p, identity, info, func(b *[]byte) (*recording.Recording, error) { return recording.OpenInto(b, p) }})
	}
	return out, nil
}

// parts are the runs that an input holds.
func (i Input) parts() []recording.Part {
	if i.Info.Merged() {
		return i.Info.Parts
	}
	p := i.Info.Part
	p.ID = i.Identity
	return []recording.Part{p}
}

// distinct leaves out inputs all of whose runs another one holds, and refuses those
// that hold only some of the same.
func distinct(inputs []Input) (kept []Input, same []string, err error) {
	inputs = slices.Clone(inputs)
	slices.SortStableFunc(inputs, func(a, b Input) int {
		if d := len(b.parts()) - len(a.parts()); d != 0 {
			return d
		}
		// Any order will do, but for the one they came in.
		return strings.Compare(b.Identity, a.Identity)
	})
	holder := map[string]int{} // a run's id to the input that holds it
	for _, in := range inputs {
		parts := in.parts()
		held, by := 0, -1
		for _, p := range parts {
			if h, ok := holder[p.ID]; ok {
				held, by = held+1, h
			}
		}
		switch {
		case held == len(parts):
			same = append(same, in.Name)
			continue
		case held > 0:
			for _, p := range parts {
				if _, ok := holder[p.ID]; ok {
					return nil, nil, &SharedError{kept[by].Name, in.Name, p.ID[:min(8, len(p.ID))]}
				}
			}
		}
		for _, p := range parts {
			holder[p.ID] = len(kept)
		}
		kept = append(kept, in)
	}
	return kept, same, nil
}
