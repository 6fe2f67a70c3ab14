package vcs

import (
	"bytes"
	"compress/zlib"
	"crypto/sha1"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/bluekeyes/go-gitdiff/gitdiff"

	"thrush/internal/core/changed"
)

// comparison compares texts with those of a commit, all at once, as git compares: so the
// lines are those that everybody else sees as changed.
//
// git compares what it has as objects. The texts are put into a store of objects of its own,
// in a scratch folder, which has the repository's as its alternate; two trees name them by
// numbers, so that no name, attribute or filter has a say.
type comparison struct {
	repo    *Repo
	scratch string
	pairs   []pair
}

type pair struct {
	lines    *changed.Lines
	old, now string // ids
	text     []byte
}

// name is what git calls a text: the SHA-1 of it with a head, or the SHA-256 in repositories
// whose ids are so long.
func (c *comparison) name(text []byte, digits int) string { return object("blob", text, digits).id }

func (c *comparison) add(lines *changed.Lines, old string, text []byte) {
	c.pairs = append(c.pairs, pair{lines, old, c.name(text, len(old)), text})
}

// stored is an object as git keeps it.
type stored struct {
	id   string
	data []byte // with its head
}

func object(kind string, text []byte, digits int) stored {
	data := append(fmt.Appendf(nil, "%s %d\x00", kind, len(text)), text...)
	if digits == 2*sha256.Size {
		sum := sha256.Sum256(data)
		return stored{hex.EncodeToString(sum[:]), data}
	}
	sum := sha1.Sum(data)
	return stored{hex.EncodeToString(sum[:]), data}
}

// run finds the lines that changed.
func (c *comparison) run() (err error) {
	if len(c.pairs) == 0 {
		return nil
	}
	dir, err := os.MkdirTemp(c.scratch, "compare-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	var trees [2]string
	for i := range trees {
		if trees[i], err = c.tree(dir, i); err != nil {
			return err
		}
	}
	objects, err := c.repo.git("rev-parse", "--git-path", "objects")
	if err != nil {
		return err
	}
	if objects = strings.TrimSuffix(objects, "\n"); !filepath.IsAbs(objects) {
		objects = filepath.Join(c.repo.Top, objects)
	}
	text, err := c.repo.call(nil, []string{
		"GIT_OBJECT_DIRECTORY=" + dir, "GIT_ALTERNATE_OBJECT_DIRECTORIES=" + quoted(objects), "GIT_WORK_TREE=" + dir,
	}, "diff-tree", "--patch", "--unified=0", "--text", "--no-renames", "--no-ext-diff", "--no-textconv", "--no-color", "--ignore-cr-at-eol", trees[0], trees[1])
	if err != nil {
		return err
	}
	files, _, err := gitdiff.Parse(strings.NewReader(text))
	if err != nil {
		return fmt.Errorf("what git says of changed lines cannot be read: %w", err)
	}
	for _, f := range files {
		var n int
		if _, err := fmt.Sscanf(f.NewName, numbered, &n); err != nil || n >= len(c.pairs) || f.IsBinary {
			return fmt.Errorf("what git says of changed lines cannot be read: it names %q", f.NewName)
		}
		addLines(c.pairs[n].lines, f)
	}
	return nil
}

// numbered is how texts are called in the trees; names of equal length sort as numbers do.
const numbered = "%09d"

// tree writes the tree of the old texts, or of the new ones with the texts themselves.
func (c *comparison) tree(dir string, which int) (id string, err error) {
	var list bytes.Buffer
	digits := len(c.pairs[0].old)
	for n, p := range c.pairs {
		id := p.old
		if which == 1 {
			id = p.now
			if err := write(dir, object("blob", p.text, digits)); err != nil {
				return "", err
			}
		}
		raw, err := hex.DecodeString(id)
		if err != nil {
			return "", err
		}
		fmt.Fprintf(&list, "100644 "+numbered+"\x00%s", n, raw)
	}
	t := object("tree", list.Bytes(), digits)
	return t.id, write(dir, t)
}

// write keeps an object, as git finds it.
func write(dir string, o stored) error {
	var packed bytes.Buffer
	w, err := zlib.NewWriterLevel(&packed, zlib.NoCompression)
	if err != nil {
		return err
	}
	_, _ = w.Write(o.data) // into memory
	_ = w.Close()
	folder := filepath.Join(dir, o.id[:2])
	if err := os.MkdirAll(folder, 0o777); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(folder, o.id[2:]), packed.Bytes(), 0o666)
}

// quoted writes a path for a variable that holds a list of them.
func quoted(path string) string {
	var b strings.Builder
	b.WriteByte('"')
	for i := range len(path) {
		if c := path[i]; c == '"' || c == '\\' || c < ' ' || c >= 0x7f {
			fmt.Fprintf(&b, `\%03o`, c)
		} else {
			b.WriteByte(c)
		}
	}
	return b.String() + `"`
}
