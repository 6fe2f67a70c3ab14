package words

import "fmt"

// Headline says how many gates are met, in a few words.
func Headline(judged, unmet int) string {
	switch {
	case judged == 1:
		return map[bool]string{true: "The gate is met", false: "The gate is not met"}[unmet == 0]
	case unmet == 0:
		return fmt.Sprintf("All %d gates are met", judged)
	case unmet == 1:
		return fmt.Sprintf("1 of %d gates is not met", judged)
	}
	return fmt.Sprintf("%d of %d gates are not met", unmet, judged)
}

// Moved writes how a percentage moved, in points.
func Moved(hundredths int) string {
	switch {
	case hundredths > 0:
		return fmt.Sprintf("▲ %d.%02d", hundredths/100, hundredths%100)
	case hundredths < 0:
		return fmt.Sprintf("▼ %d.%02d", -hundredths/100, -hundredths%100)
	}
	return "unchanged"
}
