package firing

// Kiln is the one that fires where this runs.
const Kiln = "the kiln by the river"
