package prose

import (
	"fmt"
	"strings"

	"thrush/internal/core/coverage"
)

// Percent writes a ratio as a percentage with two digits, rounded down.
func Percent(r coverage.Ratio) string {
	if r.Total == 0 {
		return "–"
	}
	h := r.HundredthsPercent()
	return fmt.Sprintf("%d.%02d%%", h/100, h%100)
}

// Of writes a ratio as covered/total.
func Of(r coverage.Ratio) string {
	if r.Total == 0 {
		return "–"
	}
	return fmt.Sprintf("%d/%d", r.Covered, r.Total)
}

// Plural writes a number with its noun.
func Plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%s %s", Number(uint64(n)), many)
}

// Or joins words to a choice: a, b or c.
func Or(list []string) string {
	if len(list) < 2 {
		return strings.Join(list, "")
	}
	return strings.Join(list[:len(list)-1], ", ") + " or " + list[len(list)-1]
}

// Number writes a number with its digits in groups of three.
func Number(n uint64) string {
	s := fmt.Sprint(n)
	for i := len(s) - 3; i > 0; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}

// Short writes a count in at most five columns.
func Short(n uint64) string {
	switch {
	case n < 100_000:
		return fmt.Sprint(n)
	case n < 10_000_000:
		return fmt.Sprintf("%dk", n/1000)
	case n < 10_000_000_000:
		return fmt.Sprintf("%dM", n/1_000_000)
	case n < 10_000_000_000_000:
		return fmt.Sprintf("%dG", n/1_000_000_000)
	}
	return fmt.Sprintf("%dT", n/1_000_000_000_000)
}

// Points writes a percentage that a rule requires.
func Points(p float64) string { return strings.TrimSuffix(fmt.Sprintf("%.2f", p), ".00") + "%" }
