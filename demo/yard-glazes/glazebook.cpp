// Prints how much of each oxide goes into a batch of celadon.
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <utility>

#include "config.h"
#include "glazes/glazes.h"

int main(int count, char** words) {
  if (count > 1 && std::strcmp(words[1], "--version") == 0) {
    std::printf("glazebook %s\n", glazes_version());
    return 0;
  }
  const double kilograms = count > 1 ? std::atof(words[1]) : BATCH_KILOGRAMS;
  if (kilograms <= 0) {
    std::fprintf(stderr, "usage: glazebook [KILOGRAMS]\n");
    return 2;
  }
  const std::pair<const char*, double> celadon[] = {
      {"SiO2", 3.6}, {"Al2O3", 0.4}, {"CaO", 0.7}, {"K2O", 0.3}, {"Fe2O3", 0.02}};
  double all = 0;
  for (const auto& [oxide, moles] : celadon) all += glazes_grams(oxide, moles);
  for (const auto& [oxide, moles] : celadon)
    std::printf("%-6s %9.1f g\n", oxide, glazes_grams(oxide, moles) / all * kilograms * 1000);
}
