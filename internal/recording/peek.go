package recording

import (
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"

	"github.com/cespare/xxhash/v2"
)

// Peek reads where a recording comes from, and its identity, without reading all of
// it. Whether the rest is whole is only found when it is opened.
func Peek(path string) (info Info, identity string, err error) {
	f, err := os.Open(path)
	if err != nil {
		if errors.Is(err, fs.ErrNotExist) {
			err = fmt.Errorf("there is no recording %s", path)
		}
		return info, "", err
	}
	defer f.Close()
	damaged := func(what string) (Info, string, error) { return info, "", &DamagedError{path, what} }
	head := make([]byte, fileHeadSize+blockHeadSize)
	if _, err := io.ReadFull(f, head); err != nil || string(head[:8]) != string(magic) || binary.LittleEndian.Uint32(head[8:]) != Version {
		// Opening it says what is wrong with it.
		if _, err := Open(path); err != nil {
			return info, "", err
		}
		return damaged("it is cut short")
	}
	size, raw := binary.LittleEndian.Uint64(head[fileHeadSize+8:]), binary.LittleEndian.Uint64(head[fileHeadSize+16:])
	stat, err := f.Stat()
	if err != nil {
		return info, "", err
	}
	if string(head[fileHeadSize:fileHeadSize+4]) != blockInfo || size > uint64(stat.Size()) || absurd(raw, int(size)) {
		return damaged("its description is not where it belongs")
	}
	stored := make([]byte, size)
	if _, err := io.ReadFull(f, stored); err != nil {
		return damaged("it is cut short")
	}
	b := block{kind: blockInfo, how: binary.LittleEndian.Uint32(head[fileHeadSize+4:]), raw: raw, stored: stored}
	if xxhash.Sum64(stored) != binary.LittleEndian.Uint64(head[fileHeadSize+24:]) {
		return damaged("its description does not match its checksum")
	}
	text, err := b.open()
	if err == nil {
		info, err = ReadInfo(text)
	}
	if err != nil {
		return damaged("its description cannot be read: " + err.Error())
	}
	end := make([]byte, blockHeadSize+8)
	if _, err := f.ReadAt(end, stat.Size()-int64(len(end))); err != nil || string(end[:4]) != blockEnd {
		return damaged("it is cut short")
	}
	return info, fmt.Sprintf("%016x", binary.LittleEndian.Uint64(end[blockHeadSize:])), nil
}
