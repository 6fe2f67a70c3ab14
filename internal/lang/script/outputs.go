package script

import (
	"bytes"
	"encoding/base64"
	"os"
	"path"
	"path/filepath"
	"strings"

	"thrush/internal/bounded"
	"thrush/internal/lang"
	"thrush/internal/lang/script/sourcemap"
)

// outputOf gives the first file of the project of which a file was made, by a source map
// beside it or in it; or nothing.
func outputOf(s lang.Source) string {
	at := bytes.LastIndex(s.Text, []byte("//# sourceMappingURL="))
	if at < 0 {
		return ""
	}
	at += len("//# sourceMappingURL=")
	url, _, _ := strings.Cut(strings.TrimSpace(string(s.Text[at:])), "\n")
	dir := filepath.Join(s.Root, filepath.FromSlash(path.Dir(s.Path)))
	var data []byte
	if inline, ok := strings.CutPrefix(url, "data:"); ok {
		if _, body, ok := strings.Cut(inline, ";base64,"); ok {
			data, _ = base64.StdEncoding.DecodeString(body)
		}
	} else {
		file := filepath.Join(dir, filepath.FromSlash(url))
		data, _ = bounded.Read(file, bounded.Map)
		dir = filepath.Dir(file)
	}
	m, err := sourcemap.Read(data)
	if err != nil {
		return ""
	}
	for _, source := range m.Sources {
		for _, at := range sourcemap.Places(source.Name, dir, s.Root) {
			rel, err := filepath.Rel(s.Root, at)
			rel = filepath.ToSlash(rel)
			if err == nil && filepath.IsLocal(rel) && rel != s.Path && IsSource(rel) && exists(at) {
				return rel
			}
		}
	}
	return ""
}

func exists(path string) bool {
	_, err := os.Lstat(path)
	return err == nil
}
