package term

import (
	"testing"

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
