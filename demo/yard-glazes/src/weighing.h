#pragma once

/* Rounds to what the scale of the glaze room shows: half a gram. */
double weighed(double grams);
