// The Brickyard in Go: a server of pages that are part of the program, and a table of cones.
module yard.example/brickyard

go 1.18

require yard.example/glaze v1.4.0
