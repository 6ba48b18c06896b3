package firing

import (
	"bufio"
	"fmt"
	"os"
	"testing"
)

// Cones and temperatures that were measured in the kiln.
func TestTemperaturesAreThoseMeasured(t *testing.T) {
	file, err := os.Open("testdata/measured.txt")
	if err != nil {
		t.Fatal(err)
	}
	defer file.Close()
	for lines := bufio.NewScanner(file); lines.Scan(); {
		var cone, degrees int
		if _, err := fmt.Sscan(lines.Text(), &cone, &degrees); err != nil {
			t.Fatal(err)
		}
		if got := temperatures[cone]; got != degrees {
			t.Errorf("cone %d: %d degrees, and %d were measured", cone, got, degrees)
		}
	}
}
