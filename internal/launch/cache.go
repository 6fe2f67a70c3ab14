package launch

import (
	"bytes"
	"encoding/binary"
	"slices"
	"strings"
	"time"

	"github.com/cespare/xxhash/v2"
	"github.com/fxamacker/cbor/v2"

	"thrush/internal/core/coverage"
	"thrush/internal/core/waiver"
	"thrush/internal/home"
	"thrush/internal/lang"
	"thrush/internal/project"
	"thrush/internal/recording"
	"thrush/internal/weave"
)

// cached is what is kept of a file from one weaving to the next.
type cached struct {
	Path    string `cbor:"path"`
	Size    int64  `cbor:"size"`
	Mod     int64  `cbor:"mod"`
	Inode   uint64 `cbor:"inode"`
	Digest  string `cbor:"digest"`
	Content string `cbor:"content,omitempty"` // digest that interpreters can work out
	Unit    string `cbor:"unit"`
	Kind    kind   `cbor:"kind"`
	Why     string `cbor:"why,omitempty"` // for unmeasured files
	lang.Facts
	Counters int              `cbor:"counters"`
	At       int              `cbor:"at"` // of the site table in the pack
	Len      int              `cbor:"len"`
	Problems []waiver.Problem `cbor:"problems,omitempty"`
	// Idle are the file's totals if nothing of it ran.
	Idle coverage.Totals `cbor:"idle"`

	table []byte
	anew  bool        // it was not in the pack
	plan  *weave.Plan // of a file that was woven just now
}

type kind uint8

const (
	woven kind = iota + 1
	unmeasured
	generated
	test // not woven, but what it embeds matters
)

func (k kind) String() string {
	return map[kind]string{woven: "woven", unmeasured: "unmeasured", generated: "generated", test: "test"}[k]
}

// pack is the cache of one way of weaving: the files and their site tables.
type pack struct {
	files map[string]*cached
	// stamp is when the pack was written. A file that changed in the same
	// moment or later cannot be told by its time.
	stamp int64
}

var packMagic = []byte("thrushpk")

// readPack reads a pack. One that is missing or damaged is empty: everything is
// woven anew.
func readPack(dir *home.Folder, name string) *pack {
	p := &pack{files: map[string]*cached{}}
	data, err := dir.Read(name)
	if err != nil || len(data) < 32 || !bytes.Equal(data[:8], packMagic) {
		return p
	}
	sum := binary.LittleEndian.Uint64(data[len(data)-8:])
	data = data[:len(data)-8]
	if xxhash.Sum64(data) != sum {
		return p
	}
	n := binary.LittleEndian.Uint64(data[16:])
	if n > uint64(len(data)-24) {
		return p
	}
	var list []*cached
	if recording.Unmarshal(data[24:24+n], &list) != nil {
		return p
	}
	tables := data[24+n:]
	for _, c := range list {
		if c.At < 0 || c.Len < 0 || c.At > len(tables) || c.Len > len(tables)-c.At {
			return &pack{files: map[string]*cached{}}
		}
		c.table = tables[c.At : c.At+c.Len]
		p.files[c.Path] = c
	}
	p.stamp = int64(binary.LittleEndian.Uint64(data[8:]))
	return p
}

func writePack(dir *home.Folder, name string, files []*cached, stamp int64) error {
	var tables []byte
	for _, c := range files {
		c.At, c.Len = len(tables), len(c.table)
		tables = append(tables, c.table...)
	}
	list, err := cbor.Marshal(files)
	if err != nil {
		return err
	}
	out := slices.Clone(packMagic)
	out = binary.LittleEndian.AppendUint64(out, uint64(stamp))
	out = binary.LittleEndian.AppendUint64(out, uint64(len(list)))
	out = append(append(out, list...), tables...)
	return dir.Replace(name, binary.LittleEndian.AppendUint64(out, xxhash.Sum64(out)))
}

// settled is how old, in nanoseconds, a change must have been when the pack was
// written for the time of the file to tell of the next one.
const settled = 50e6

// fresh tells whether a file is as it was when it was put into the pack.
func (p *pack) fresh(c *cached, f project.SourceFile) bool {
	return c.Size == f.Size && c.Mod == f.Mod && c.Inode == f.Inode && f.Mod < p.stamp-settled
}

// stale is how long woven texts are kept that no source is woven into any more:
// another branch may bring them back.
const stale = 14 * 24 * time.Hour

// prune removes woven texts that have not been made or used for long.
func (p *Prepared) prune(now time.Time) {
	used := map[string]bool{}
	for _, c := range p.files {
		used[c.Unit] = true
	}
	entries, err := p.woven.List()
	if err != nil {
		return
	}
	for _, e := range entries {
		unit, _, _ := strings.Cut(e.Name(), ".")
		if info, err := e.Info(); err == nil && !used[unit] && now.Sub(info.ModTime()) > stale {
			_ = p.woven.Remove(e.Name())
		}
	}
}
