// Package fare works out what a crossing costs.
package fare

import (
	"errors"
	"fmt"
)

// Passenger is somebody on foot.
type Passenger struct {
	Age      int
	Islander bool
}

// Vehicle is anything that stands on the car deck.
type Vehicle struct {
	Metres  float64
	Trailer bool
}

// Trip is one crossing by one party.
type Trip struct {
	Passengers []Passenger
	Vehicle    *Vehicle
	Night      bool
	Tide       int // centimetres above the mean
}

// ErrNobody says that a trip has nobody on it.
var ErrNobody = errors.New("a trip needs at least one passenger")

// adult is the fare of a grown-up by day, in cents.
const adult = 1250

// Price is what a trip costs, in cents.
func Price(t Trip) (int, error) {
	if len(t.Passengers) == 0 {
		return 0, ErrNobody
	}
	total := 0
	for _, p := range t.Passengers {
		share, err := seat(p)
		if err != nil {
			return 0, err
		}
		total += share
	}
	if t.Vehicle != nil {
		total += deckFee(*t.Vehicle)
	}
	if t.Night && !allIslanders(t.Passengers) {
		total += total / 5
	}
	total += tideFee(t)
	return total, nil
}

// tideFee is what a crossing costs more when the water is high or very low.
func tideFee(t Trip) int {
	switch {
	case t.Tide > 180 && t.Vehicle != nil:
		return 900
	case t.Tide > 180:
		return 300
	case t.Tide < -150 && t.Vehicle != nil:
		return 450
	}
	return 0
}

// seat is the fare of one passenger, by age.
func seat(p Passenger) (int, error) {
	switch {
	case p.Age < 0:
		return 0, fmt.Errorf("nobody is %d years old", p.Age)
	case p.Age < 4:
		return 0, nil
	case p.Age < 16:
		return adult / 2, nil
	case p.Age >= 67 || p.Islander:
		return adult * 2 / 3, nil
	}
	return adult, nil
}

// deckFee is what a vehicle costs, by its length.
func deckFee(v Vehicle) int {
	fee := 2000
	if v.Metres > 5 {
		fee += int((v.Metres-5)*10) * 45
	}
	if v.Trailer {
		fee += 1500
	}
	return fee
}

func allIslanders(list []Passenger) bool {
	for _, p := range list {
		if !p.Islander {
			return false
		}
	}
	return true
}
