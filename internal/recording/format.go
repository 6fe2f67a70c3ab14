// Package recording reads and writes *.thrush files: what one run of a command
// under Thrush, or a merge of such runs, measured. docs/recording-format.md
// describes the format for those who want to read it with other programs.
package recording

import (
	"sync"

	"github.com/klauspost/compress/zstd"
)

// Version is the version of the format that this program writes, and the only
// one it reads: those before it were never in a release.
const Version = 3

// Extension ends the name of every recording.
const Extension = ".thrush"

var magic = []byte("thrush\r\n")

// The kinds of blocks, in the order in which they stand.
const (
	blockInfo   = "info"
	blockIndex  = "indx"
	blockTables = "tabl"
	blockCounts = "cnts"
	blockReach  = "rech"
	blockEnd    = "end\n"
)

// Before each block's bytes stand its kind (4 bytes), how it is stored (4 bytes),
// and as 64-bit integers how many bytes are stored, how many they become, and the
// XXH64 of those stored. All integers are little-endian.
const blockHeadSize = 32

// How a block is stored.
const (
	storedPacked = 0 // one zstd frame (RFC 8878)
	storedPlain  = 1
)

// fileHeadSize is what comes before the first block.
const fileHeadSize = 16

// index is what the block indx holds: columns, with a row for each table. A file
// has several rows if it was measured in several ways.
type index struct {
	Paths    []string `cbor:"paths"`
	Digests  []string `cbor:"digests"`
	Tables   []uint64 `cbor:"tables"`   // bytes of its table
	Counters []uint64 `cbor:"counters"` // how many
	Widths   []byte   `cbor:"widths"`   // bytes of each counter, 0 if all are 0, or notLoaded
	// Labels are those that some part has, and Sets, by number from 1, which of them
	// reached a counter; a part without a label has the label "". Without any, all
	// that ran was reached by all labels.
	Labels []string   `cbor:"labels,omitempty"`
	Sets   [][]uint32 `cbor:"sets,omitempty"`
}

// notLoaded is the width for files that no process had in it.
const notLoaded = 255

// widest is how many bytes a number in a block may take: 1, 2, 4 or 8.
func widthOf(most uint64) byte {
	switch {
	case most == 0:
		return 0
	case most < 1<<8:
		return 1
	case most < 1<<16:
		return 2
	case most < 1<<32:
		return 4
	}
	return 8
}

var encoder = sync.OnceValue(func() *zstd.Encoder {
	e, err := zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest), zstd.WithSingleSegment(true))
	if err != nil {
		panic(err) // options are constant
	}
	return e
})

var decoder = sync.OnceValue(func() *zstd.Decoder {
	d, err := zstd.NewReader(nil, zstd.WithDecoderConcurrency(0), zstd.WithDecoderMaxMemory(mostRaw))
	if err != nil {
		panic(err) // options are constant
	}
	return d
})

// What is read is bounded, so that no file, however it was made, takes more time
// or memory than one of its size may.
const (
	mostRaw   = 1 << 30 // bytes that anything may become
	slackRaw  = 1 << 18 // bytes that even little may become
	mostRatio = 64      // times its size that anything larger may become; honest ones are below 10
)

// absurd tells whether so many bytes cannot have become so few.
func absurd(raw uint64, stored int) bool {
	return raw > mostRaw || raw > slackRaw+mostRatio*uint64(stored)
}

func pack(raw []byte) []byte { return encoder().EncodeAll(raw, nil) }

// unpack gives the bytes that were packed, if they are not absurdly many.
func unpack(packed []byte) ([]byte, bool) {
	var head zstd.Header
	if head.Decode(packed) != nil || absurd(head.FrameContentSize, len(packed)) {
		return nil, false
	}
	return unpackTo(packed, head.FrameContentSize)
}

// unpackTo gives the bytes that were packed, if they are so many.
func unpackTo(packed []byte, raw uint64) ([]byte, bool) {
	var head zstd.Header
	if head.Decode(packed) != nil || !head.HasFCS || head.FrameContentSize != raw {
		return nil, false
	}
	out, err := decoder().DecodeAll(packed, make([]byte, 0, head.FrameContentSize))
	return out, err == nil && uint64(len(out)) == head.FrameContentSize
}
