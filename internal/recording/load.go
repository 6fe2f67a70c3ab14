package recording

import (
	"fmt"

	"thrush/internal/core/site"
)

// Loaded is what a recording holds of a file.
type Loaded struct {
	Table    *site.Table
	Counters []uint64 // nil if no process had the file in it
	Reach    []uint32 // for each counter, which of the recording's Sets reached it
}

// Load gives what is held of file i. What was measured in several ways is united:
// at the shallowest level, and with counts only if all of it has them, since that is
// what all of it can say.
func (r *Recording) Load(i int) (Loaded, error) {
	var u uniting
	for n := r.files[i][0]; n < r.files[i][1]; n++ {
		one := &r.rows[n]
		t, err := one.open()
		if err != nil {
			return Loaded{}, &DamagedError{r.Path, err.Error()}
		}
		if one.width == notLoaded {
			u.add(t, nil, nil)
			continue
		}
		counters, reached := make([]uint64, one.counters), make([]uint32, one.counters)
		r.Counts(n, counters)
		r.Reached(n, counters, reached)
		u.add(t, counters, reached)
	}
	return u.loaded(), nil
}

// Together gives what Load will give of a file that is put into a recording, but for
// who reached what.
func Together(rows []File) (Loaded, error) {
	var u uniting
	for _, f := range rows {
		t, err := UnpackTable(f.Table)
		if err != nil {
			return Loaded{}, err
		}
		u.add(t, f.Counters, nil)
	}
	return u.loaded(), nil
}

// uniting puts together what is known of a file that was measured in several ways.
type uniting struct {
	tables, ran []*site.Table
	counters    []uint64
	reach       []uint32
}

func (u *uniting) add(t *site.Table, counters []uint64, reached []uint32) {
	u.tables = append(u.tables, t)
	if counters != nil {
		u.ran = append(u.ran, t)
	} else {
		counters = make([]uint64, t.Counters)
	}
	if reached == nil {
		reached = make([]uint32, t.Counters)
	}
	u.counters, u.reach = append(u.counters, counters...), append(u.reach, reached...)
}

func (u *uniting) loaded() Loaded {
	out := Loaded{Table: u.tables[0]}
	if len(u.tables) > 1 {
		out.Table = site.Unite(u.tables)
		// Where a file was in no program that ran, nothing of it ran, however deep one
		// looked.
		if len(u.ran) > 0 {
			site.Limit(out.Table, u.ran)
		} else {
			site.Limit(out.Table, u.tables)
		}
	}
	if u.ran != nil {
		out.Counters, out.Reach = u.counters, u.reach
		if out.Counters == nil {
			out.Counters = []uint64{} // a file without counters may have been loaded too
		}
	}
	return out
}

func (one *row) open() (*site.Table, error) {
	raw, ok := unpack(one.table)
	if !ok {
		return nil, fmt.Errorf("the site table of %q does not decompress", one.path)
	}
	t, err := DecodeTable(raw)
	if err == nil && (t.Counters != one.counters || t.Path != one.path || t.Digest != one.digest) {
		err = fmt.Errorf("the site table of %q does not belong to it", one.path)
	}
	return t, err
}
