// Skerry quotes a crossing.
package main

import (
	"flag"
	"fmt"
	"os"

	"skerry/fare"
)

func main() {
	adults := flag.Int("adults", 1, "grown-ups")
	night := flag.Bool("night", false, "a crossing by night")
	flag.Parse()
	trip := fare.Trip{Night: *night}
	for range *adults {
		trip.Passengers = append(trip.Passengers, fare.Passenger{Age: 30})
	}
	cents, err := fare.Price(trip)
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	fmt.Printf("%d.%02d\n", cents/100, cents%100)
}
