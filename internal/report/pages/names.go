package pages

import (
	"fmt"
	"regexp"
	"strings"
)

// names gives each source file the name of its page. The name tells the file,
// holds nothing that a file system, an address or a page could take for more
// than a name, and is not given twice, not even where case does not matter.
type names map[string]bool

// longest is how many bytes an element of a name may have; most file systems
// allow 255.
const longest = 180

func (n names) page(path string) string {
	elements := strings.Split(path, "/")
	for i, e := range elements {
		elements[i] = element(e, i < len(elements)-1)
	}
	name := "files/" + strings.Join(elements, "/")
	for i := 2; n[strings.ToLower(name)]; i++ {
		name = fmt.Sprintf("files/%s=%d", strings.Join(elements, "/"), i)
	}
	n[strings.ToLower(name)] = true
	return name + ".html"
}

// reserved are the names that Windows keeps for devices.
var reserved = regexp.MustCompile(`(?i)^(con|prn|aux|nul|com[0-9]|lpt[0-9])(\.|$)`)

func element(e string, folder bool) string {
	var b strings.Builder
	for i := range len(e) {
		c := e[i]
		plain := 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' || '0' <= c && c <= '9' || c == '-' || c == '_' || c == '.'
		switch {
		case b.Len() > longest:
			return fmt.Sprintf("%s=%08x", b.String(), sum(e))
		case !plain, i == 0 && (c == '.' || reserved.MatchString(e)), folder && i == len(e)-1 && c == '.':
			fmt.Fprintf(&b, "=%02X", c)
		default:
			b.WriteByte(c)
		}
	}
	if folder && strings.HasSuffix(strings.ToLower(e), ".html") {
		return b.String() + "="
	}
	if e == "" {
		return "="
	}
	return b.String()
}
