//go:build !gas

package firing

// Fuel is what is burnt.
const Fuel = "wood"
