// Package glaze knows what glazes look like.
package glaze

// Colour is what a glaze comes to at a cone.
func Colour(cone int) string {
	if cone > 8 {
		return "celadon"
	}
	return "honey"
}
