// Package firing knows temperatures.
package firing

var temperatures = map[int]int{4: 1186, 6: 1222, 10: 1305}

// Temperature of a cone in degrees; 0 where it is not known.
func Temperature(cone int) int { return temperatures[cone] }
