package fare

import "testing"

func TestTideFee(t *testing.T) {
	car := &Vehicle{Metres: 4}
	for _, c := range []struct {
		trip Trip
		want int
	}{
		{Trip{Tide: 200}, 300},
		{Trip{Tide: 200, Vehicle: car}, 900},
		{Trip{Tide: -160, Vehicle: car}, 450},
		{Trip{Tide: -160}, 0},
	} {
		if got := tideFee(c.trip); got != c.want {
			t.Errorf("tide %d: got %d, want %d", c.trip.Tide, got, c.want)
		}
	}
}
