package wrapper

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/fxamacker/cbor/v2"

	"thrush/internal/atomic"
	"thrush/internal/core/site"
	"thrush/internal/core/waiver"
	"thrush/internal/recording"
)

// Key begins the names of the tables of a file with a given text, woven in a given
// way.
func Key(path, digest string, l site.Level, k site.Keep) string {
	sum := sha256.Sum256([]byte(path))
	return fmt.Sprintf("%s-%s-%s-%s-", hex.EncodeToString(sum[:8]), digest, l, k)
}

// keep puts a table into the store and gives it its unit.
func keep(store string, t *site.Table) error {
	t.Unit = ""
	data, err := recording.EncodeTable(t)
	if err != nil {
		return err
	}
	sum := sha256.Sum256(data)
	t.Unit = hex.EncodeToString(sum[:16])
	name := Key(t.Path, t.Digest, t.Level, t.Keep) + t.Unit
	if _, err := os.Lstat(filepath.Join(store, name)); err == nil {
		return nil
	}
	if data, err = recording.EncodeTable(t); err != nil {
		return err
	}
	return atomic.WriteAt(store, name, data, false)
}

// Tables lists the store: the names of tables by unit, and by what Key gives.
func Tables(store string) (byUnit map[string]string, byKey map[string][]string, err error) {
	byUnit, byKey = map[string]string{}, map[string][]string{}
	entries, err := os.ReadDir(store)
	if errors.Is(err, fs.ErrNotExist) {
		return byUnit, byKey, nil
	}
	for _, e := range entries {
		if i := strings.LastIndexByte(e.Name(), '-'); i > 0 && !strings.HasPrefix(e.Name(), ".") {
			byUnit[e.Name()[i+1:]] = e.Name()
			byKey[e.Name()[:i+1]] = append(byKey[e.Name()[:i+1]], e.Name())
		}
	}
	return byUnit, byKey, err
}

// Made is what became of one unit that was compiled.
type Made struct {
	Source   string    `cbor:"source"` // from the root, or empty if it lies outside
	Why      string    `cbor:"why"`    // why it was left as it is, or empty
	Units    []string  `cbor:"units"`  // of the tables of its files
	Files    []string  `cbor:"files"`  // that it has, in which something is measured
	Empty    []string  `cbor:"empty"`  // files that it has, in which nothing is measured
	Unread   []Unread  `cbor:"unread"`
	Problems []Problem `cbor:"problems"`
}

// Unread is a function that was left as it is.
type Unread struct {
	Path string `cbor:"path"`
	Line int    `cbor:"line"`
	Name string `cbor:"name"`
	Why  string `cbor:"why"`
}

// Problem is a waiver that cannot be honoured.
type Problem struct {
	Path string `cbor:"path"`
	waiver.Problem
}

// madeFolder is in the folder of counter files.
const madeFolder = "made"

// note writes down what became of a unit. The same unit compiled again replaces it.
func note(dir, what string, m Made) error {
	if dir == "" {
		return nil
	}
	to := filepath.Join(dir, madeFolder)
	if err := os.Mkdir(to, 0o777); err != nil && !errors.Is(err, fs.ErrExist) {
		return err
	}
	data, err := cbor.Marshal(m)
	if err != nil {
		return err
	}
	sum := sha256.Sum256([]byte(what))
	return atomic.WriteAt(to, hex.EncodeToString(sum[:16]), data, false)
}

// ReadMade reads what was compiled while counters went to a folder. What cannot be
// read is passed over.
func ReadMade(dir string) ([]Made, error) {
	entries, err := os.ReadDir(filepath.Join(dir, madeFolder))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	var out []Made
	for _, e := range entries {
		data, err := os.ReadFile(filepath.Join(dir, madeFolder, e.Name()))
		var m Made
		if err == nil && recording.Unmarshal(data, &m) == nil {
			out = append(out, m)
		}
	}
	return out, err
}
