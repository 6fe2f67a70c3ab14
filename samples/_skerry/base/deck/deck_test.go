package deck

import "testing"

func TestPlaceBalances(t *testing.T) {
	p, err := Place([]Load{{Plate: "SK 1", Kilograms: 1400}, {Plate: "SK 2", Kilograms: 1600}, {Plate: "SK 3", Kilograms: 900}})
	if err != nil {
		t.Fatal(err)
	}
	if lean := p.List(); lean < -1000 || lean > 1000 {
		t.Fatalf("leans by %d kg", lean)
	}
}

func TestPlaceRefusesGhosts(t *testing.T) {
	if _, err := Place([]Load{{Plate: "SK 9"}}); err == nil {
		t.Fatal("a weightless lorry")
	}
}
