package recording

import (
	"encoding/binary"
	"fmt"
)

// Pieces are the bytes of a recording taken apart, so that site tables, which many
// recordings share, can be stored once. Put together again they are the same bytes.
type Pieces struct {
	Before []byte // what comes before the tables
	Tables [][]byte
	After  []byte // and after them
}

// Cut takes a recording apart. It checks all of it first.
func Cut(path string, data []byte) (*Recording, Pieces, error) {
	r, err := Decode(path, data)
	if err != nil {
		return nil, Pieces{}, err
	}
	at := fileHeadSize
	for string(data[at:at+4]) != blockTables {
		at += blockHeadSize + int(binary.LittleEndian.Uint64(data[at+8:]))
	}
	at += blockHeadSize
	p := Pieces{Before: data[:at]}
	for _, one := range r.rows {
		p.Tables = append(p.Tables, one.table)
		at += len(one.table)
	}
	p.After = data[at:]
	return r, p, nil
}

// Join puts the pieces of a recording together, and checks that it is the one with
// the given identity.
func (p Pieces) Join(identity string) (*Recording, []byte, error) {
	data := append([]byte(nil), p.Before...)
	for _, t := range p.Tables {
		data = append(data, t...)
	}
	data = append(data, p.After...)
	r, err := Decode("recording "+identity, data)
	if err != nil {
		return nil, nil, err
	}
	if r.Identity != identity {
		return nil, nil, fmt.Errorf("recording %s is another one in the store", identity)
	}
	return r, data, nil
}
