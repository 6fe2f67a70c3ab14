package sourcemap

import (
	"net/url"
	"path/filepath"
	"regexp"
	"strings"
)

var (
	scheme = regexp.MustCompile(`^[A-Za-z][A-Za-z0-9+.-]*://[^/]*/*`)
	suffix = regexp.MustCompile(`[?#].*$`)
)

// Places gives the paths of files that the name of a source may mean, the likeliest first.
// Names are relative to the folder of the map, or URLs; bundlers make up URLs of a scheme of
// their own, with the path from the folder that they worked in, which is that of the map or
// one above it in the project. The script that Node loads (outputs.cjs) has the same rule.
func Places(name, folder, root string) []string {
	plain := suffix.ReplaceAllString(name, "")
	switch {
	case name == "":
		return nil
	case strings.HasPrefix(plain, "file:"):
		u, err := url.Parse(plain)
		if err != nil {
			return nil
		}
		return []string{filepath.Clean(filepath.FromSlash(u.Path))}
	case scheme.MatchString(plain):
		rest := filepath.FromSlash(scheme.ReplaceAllString(plain, ""))
		var out []string
		for dir := filepath.Clean(folder); ; dir = filepath.Dir(dir) {
			inside, err := filepath.Rel(root, dir)
			if err != nil || !filepath.IsLocal(inside) {
				break
			}
			out = append(out, filepath.Join(dir, rest))
			if inside == "." {
				break
			}
		}
		if len(out) == 0 {
			out = append(out, filepath.Join(root, rest))
		}
		return out
	}
	out := []string{from(folder, name)}
	if decoded, err := url.PathUnescape(plain); err == nil && decoded != name {
		out = append(out, from(folder, decoded))
	}
	return out
}

func from(folder, name string) string {
	name = filepath.FromSlash(name)
	if filepath.IsAbs(name) {
		return filepath.Clean(name)
	}
	return filepath.Join(folder, name)
}
