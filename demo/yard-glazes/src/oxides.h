#pragma once

struct oxide {
  const char* name;
  double molar_mass; /* grams */
};
extern const struct oxide oxides[];
extern const int oxide_count;
