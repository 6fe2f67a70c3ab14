package recording

import (
	"bytes"
	"encoding/binary"
	"fmt"

	"github.com/cespare/xxhash/v2"
)

// block is a block as it is stored.
type block struct {
	kind   string
	how    uint32
	raw    uint64
	stored []byte
}

// blocksOf checks the checksums and gives the blocks and what the content is called.
func blocksOf(path string, data []byte) (map[string]block, string, error) {
	damaged := func(format string, args ...any) (map[string]block, string, error) {
		return nil, "", &DamagedError{path, fmt.Sprintf(format, args...)}
	}
	if len(data) < fileHeadSize || !bytes.Equal(data[:8], magic) {
		if len(data) >= 6 && bytes.Equal(data[:6], magic[:6]) {
			return damaged("its beginning is cut short or was changed as if it were text")
		}
		return damaged("it does not begin as a recording does")
	}
	switch v := binary.LittleEndian.Uint32(data[8:]); {
	case v == 0:
		return damaged("its version is 0")
	case v < Version:
		return damaged("it is of version %d of the format, which was never in a release", v)
	case v > Version:
		return nil, "", fmt.Errorf("%s: %w", path, ErrNewer)
	case binary.LittleEndian.Uint32(data[12:]) != numBlocks:
		return damaged("its head is not as it was written")
	}
	blocks := map[string]block{}
	var heads []byte
	for at := fileHeadSize; ; {
		if len(data)-at < blockHeadSize {
			return damaged("it is cut short at byte %d", len(data))
		}
		head := data[at : at+blockHeadSize]
		b := block{kind: string(head[:4]), how: binary.LittleEndian.Uint32(head[4:]), raw: binary.LittleEndian.Uint64(head[16:])}
		size := binary.LittleEndian.Uint64(head[8:])
		body := at + blockHeadSize
		if b.how > storedPlain {
			return damaged("the head of the block at byte %d is not as it was written", at)
		}
		if size > uint64(len(data)-body) {
			return damaged("it is cut short at byte %d", len(data))
		}
		b.stored = data[body : body+int(size)]
		if xxhash.Sum64(b.stored) != binary.LittleEndian.Uint64(head[24:]) {
			return damaged("the block %q at byte %d does not match its checksum", b.kind, at)
		}
		if b.how == storedPlain && b.raw != size || b.absurd(len(data)) {
			return damaged("the block %q at byte %d says it has %d bytes, which cannot be", b.kind, at, b.raw)
		}
		if b.kind == blockEnd {
			if size != 8 || b.raw != 8 || b.how != storedPlain || binary.LittleEndian.Uint64(b.stored) != xxhash.Sum64(heads) {
				return damaged("the blocks before byte %d do not match the checksum at the end", at)
			}
			if body+8 != len(data) {
				return damaged("there are %d bytes after its end", len(data)-body-8)
			}
			return blocks, fmt.Sprintf("%016x", binary.LittleEndian.Uint64(b.stored)), nil
		}
		heads = append(heads, head...)
		blocks[b.kind] = b
		at = body + int(size)
	}
}

// absurd tells whether a block cannot become as many bytes as it says, in a file of so
// many. Counters may: most of them are zero.
func (b block) absurd(file int) bool {
	if b.kind == blockCounts || b.kind == blockReach {
		return b.raw > mostRaw || b.raw > 8*mostCounters(file)
	}
	return absurd(b.raw, len(b.stored))
}

// open gives what is in a block.
func (b block) open() ([]byte, error) {
	if b.how == storedPlain {
		return b.stored, nil
	}
	out, ok := unpackTo(b.stored, b.raw)
	if !ok {
		return nil, fmt.Errorf("the block %q does not decompress", b.kind)
	}
	return out, nil
}
