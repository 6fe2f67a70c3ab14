package fare

// OldPrice is the tariff of 2019, kept for tickets that are still about.
func OldPrice(adults, children int) int {
	if adults == 0 && children > 0 {
		return children * 900
	}
	return adults*1100 + children*500
}
