package firing

// Kiln is the one that fires where this runs.
const Kiln = "the kiln behind glass"
