package timetable

import "testing"

var noon = Sailing{Harbour: "Holmvik", Draught: 310}

func TestCalmDay(t *testing.T) {
	if v := Decide(noon, 400, Weather{Wind: 6, Wave: 40, Visibility: 9000}); !v.Goes {
		t.Fatal(v.Why)
	}
}

func TestLowWater(t *testing.T) {
	if v := Decide(noon, 290, Weather{Visibility: 9000}); v.Goes {
		t.Fatal("sailed aground")
	}
}

func TestNextTide(t *testing.T) {
	if hour := NextTide([]int{120, 250, 330, 360}, 0, 310); hour != 2 {
		t.Fatal(hour)
	}
}
