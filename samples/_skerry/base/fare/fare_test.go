package fare

import "testing"

func TestPriceOfAFamily(t *testing.T) {
	got, err := Price(Trip{Passengers: []Passenger{{Age: 41}, {Age: 39}, {Age: 12}, {Age: 2}}})
	if err != nil || got != 1250+1250+625 {
		t.Fatalf("got %d, %v", got, err)
	}
}

func TestPriceOfACar(t *testing.T) {
	got, err := Price(Trip{Passengers: []Passenger{{Age: 30}}, Vehicle: &Vehicle{Metres: 4.2}})
	if err != nil || got != 1250+2000 {
		t.Fatalf("got %d, %v", got, err)
	}
}

func TestNobody(t *testing.T) {
	if _, err := Price(Trip{}); err != ErrNobody {
		t.Fatalf("got %v", err)
	}
}

func TestIslandersByNight(t *testing.T) {
	got, _ := Price(Trip{Passengers: []Passenger{{Age: 50, Islander: true}}, Night: true})
	if got != 833 {
		t.Fatalf("got %d", got)
	}
}
