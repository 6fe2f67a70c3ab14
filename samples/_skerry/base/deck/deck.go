// Package deck plans where vehicles stand, so that the ferry floats level.
package deck

import (
	"fmt"
	"sort"
)

// Load is a vehicle to be put on the deck.
type Load struct {
	Plate     string
	Kilograms int
	Dangerous bool // may not stand inside
}

// Plan says which lane each load stands in.
type Plan struct {
	Port, Starboard []Load
	Open            []Load // on the open deck
}

// MaxLane is the most that a lane carries, in kilograms.
const MaxLane = 18_000

// Place puts the heaviest load first, always on the lighter side.
func Place(loads []Load) (Plan, error) {
	sorted := append([]Load(nil), loads...)
	sort.SliceStable(sorted, func(i, j int) bool { return sorted[i].Kilograms > sorted[j].Kilograms })
	var p Plan
	port, starboard := 0, 0
	for _, l := range sorted {
		if l.Kilograms <= 0 {
			return Plan{}, fmt.Errorf("%s weighs %d kg", l.Plate, l.Kilograms)
		}
		switch {
		case l.Dangerous:
			p.Open = append(p.Open, l)
		case port <= starboard && port+l.Kilograms <= MaxLane:
			p.Port = append(p.Port, l)
			port += l.Kilograms
		case starboard+l.Kilograms <= MaxLane:
			p.Starboard = append(p.Starboard, l)
			starboard += l.Kilograms
		default:
			return Plan{}, fmt.Errorf("no room for %s", l.Plate)
		}
	}
	return p, nil
}

// List is how far the ferry leans: kilograms more to port than to starboard.
func (p Plan) List() int {
	lean := 0
	for _, l := range p.Port {
		lean += l.Kilograms
	}
	for _, l := range p.Starboard {
		lean -= l.Kilograms
	}
	return lean
}

// Ballast is the water to pump, and to which side. Nobody calls it any more.
func (p Plan) Ballast() (side string, litres int) {
	lean := p.List()
	if lean < 0 {
		return "port", -lean
	}
	return "starboard", lean
}
