package firing_test

import (
	"fmt"

	"yard.example/brickyard/firing"
)

func ExampleTemperature() {
	fmt.Println("cone 6 is", firing.Temperature(6), "degrees")
	// Output: cone 6 is 1222 degrees
}
