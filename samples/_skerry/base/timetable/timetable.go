// Package timetable decides whether a sailing goes.
package timetable

// Weather is what the harbour reports.
type Weather struct {
	Wind       int // metres a second
	Wave       int // centimetres
	Visibility int // metres
}

// Sailing is one departure.
type Sailing struct {
	Harbour string
	Draught int // centimetres of water the ferry needs
}

// Verdict is whether a sailing goes, and why not.
type Verdict struct {
	Goes bool
	Why  string
}

// Decide judges a sailing by tide and weather.
func Decide(s Sailing, tide int, w Weather) Verdict {
	if tide < s.Draught {
		return Verdict{Why: "too little water at " + s.Harbour}
	}
	if w.Wind > 22 || w.Wind > 17 && w.Wave > 250 {
		return Verdict{Why: "storm"}
	}
	if w.Visibility < 200 {
		return Verdict{Why: "fog"}
	}
	return Verdict{Goes: true}
}

// NextTide is the first hour from now on with enough water, or -1.
func NextTide(levels []int, now, draught int) int {
	for hour := now; hour < len(levels); hour++ {
		if levels[hour] >= draught {
			return hour
		}
	}
	return -1
}
