// A table of cones.
package main

import (
	"fmt"

	"yard.example/brickyard/firing"
	"yard.example/glaze"
)

func main() {
	for _, cone := range []int{4, 6, 10} {
		fmt.Printf("cone %d: %d degrees, %s\n", cone, firing.Temperature(cone), glaze.Colour(cone))
	}
	fmt.Println("fired with", firing.Fuel, "in", firing.Kiln)
}
