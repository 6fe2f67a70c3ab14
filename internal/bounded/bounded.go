// Package bounded reads files of which nobody knows what they are: a change can have a link to a
// device stand where a source or a configuration is looked for, which has no end, or a pipe, which
// never begins.
package bounded

import (
	"errors"
	"fmt"
	"io"
	"os"
)

// The bounds of files, in bytes.
const (
	Setting = 4 << 20 // of what says something about a project
	Source  = 8 << 20 // of sources; trees of those are a hundred times as large
	Map     = 256 << 20
)

// ErrKind says that a path is of no regular file, also once links are followed.
var ErrKind = errors.New("it is no regular file")

// Read gives the content of a regular file of at most so many bytes.
func Read(path string, most int64) ([]byte, error) {
	info, err := os.Stat(path)
	if err != nil {
		return nil, err
	}
	if !info.Mode().IsRegular() {
		return nil, &os.PathError{Op: "read", Path: path, Err: ErrKind}
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	data := make([]byte, 0, min(info.Size(), most)+1)
	for {
		n, err := f.Read(data[len(data):cap(data)])
		data = data[:len(data)+n]
		switch {
		case int64(len(data)) > most:
			return nil, &os.PathError{Op: "read", Path: path, Err: fmt.Errorf("it has more than %d MB", most>>20)}
		case errors.Is(err, io.EOF):
			return data, nil
		case err != nil:
			return nil, err
		case len(data) == cap(data):
			data = append(data, 0)[:len(data)]
		}
	}
}
