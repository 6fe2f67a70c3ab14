package prose

import (
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
)

func TestShort(t *testing.T) {
	for n, want := range map[uint64]string{0: "0", 99999: "99999", 100000: "100k", 12345678: "12M", 1 << 63: "9223372T"} {
		assert.Equal(t, want, Short(n))
	}
	assert.Equal(t, "1,234,567", Number(1234567))
}

func FuzzSafe(f *testing.F) {
	f.Add("\x1b]0;title\x07 fare \u202e\xff\n")
	f.Fuzz(func(t *testing.T, s string) {
		for _, c := range Safe(s) {
			if c != '\t' && (unicode.IsControl(c) || strings.ContainsRune("\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069", c)) {
				t.Fatalf("%q became %q", s, Safe(s))
			}
		}
	})
}
