//go:build gas

package firing

// Fuel is what is burnt: --set tags=gas
const Fuel = "gas"
