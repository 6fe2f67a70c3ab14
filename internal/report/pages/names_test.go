package pages

import (
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestPageNames(t *testing.T) {
	n := names{}
	for _, c := range []struct{ path, want string }{
		{"fare/fare.go", "files/fare/fare.go.html"},
		{"Fare/fare.go", "files/Fare/fare.go=2.html"},
		{"fare/FARE.go", "files/fare/FARE.go=3.html"},
		{"../../etc/passwd", "files/=2E=2E/=2E=2E/etc/passwd.html"},
		{"a b/<c>&?#%.go", "files/a=20b/=3Cc=3E=26=3F=23=25.go.html"},
		{"fähre.go", "files/f=C3=A4hre.go.html"},
		{"deck.html/a.go", "files/deck.html=/a.go.html"},
		{"aux.go", "files/=61ux.go.html"},
		{"x//y.go", "files/x/=/y.go.html"},
	} {
		assert.Equal(t, c.want, n.page(c.path), c.path)
	}
	long := n.page(strings.Repeat("long", 100) + ".go")
	assert.Less(t, len(long), 250)
	assert.NotEqual(t, long, n.page(strings.Repeat("long", 100)+".c"))
}

func FuzzPageNames(f *testing.F) {
	f.Add("a/b.go", "a/B.go")
	f.Add("..", "con/..\x00")
	f.Fuzz(func(t *testing.T, a, b string) {
		n := names{}
		one, two := n.page(a), n.page(b)
		assert.NotEqual(t, strings.ToLower(one), strings.ToLower(two))
		for _, name := range []string{one, two} {
			assert.True(t, filepath.IsLocal(filepath.FromSlash(name)), name)
			assert.True(t, strings.HasPrefix(name, "files/") && strings.HasSuffix(name, ".html"), name)
			assert.NotContains(t, name, "//")
			for _, e := range strings.Split(name, "/") {
				assert.NotEqual(t, "..", e)
				assert.Less(t, len(e), 256)
			}
		}
	})
}
