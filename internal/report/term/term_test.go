package term

import (
	"strings"
	"testing"
	"unicode"

	"github.com/charmbracelet/x/ansi"
	"github.com/stretchr/testify/assert"

	"thrush/internal/core/coverage"
)

func TestGaugeIsFullOnlyWhenAllRan(t *testing.T) {
	for _, c := range []struct {
		covered, total int
		want           string
	}{{0, 9, "▯▯▯▯▯"}, {1, 1000, "◧▯▯▯▯"}, {5, 10, "▮▮◧▯▯"}, {999, 1000, "▮▮▮▮◧"}, {7, 7, "▮▮▮▮▮"}, {0, 0, "     "}} {
		assert.Equal(t, c.want, ansi.Strip(Gauge(coverage.Ratio{Covered: c.covered, Total: c.total}, 5)), "%d/%d", c.covered, c.total)
	}
}

func TestChangeSpeaksInPoints(t *testing.T) {
	assert.Equal(t, "▲ 16.67", ansi.Strip(Change(coverage.Ratio{Covered: 5, Total: 6}, coverage.Ratio{Covered: 6, Total: 6})))
	assert.Equal(t, "▼ 0.01", ansi.Strip(Change(coverage.Ratio{Covered: 9999, Total: 10000}, coverage.Ratio{Covered: 9998, Total: 10000})))
	assert.Empty(t, Change(coverage.Ratio{}, coverage.Ratio{Covered: 1, Total: 1}))
}

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
