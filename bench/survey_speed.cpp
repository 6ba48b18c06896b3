// survey_speed TREE: the survey of a tree against a bare walk that only visits every name.
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <vector>

#include "base/process.h"
#include "describe/readers.h"
#include "survey/survey.h"

int main(int argc, char** argv) {
  if (argc != 2) return 2;
  std::vector<double> ratios;
  for (int round = 0; round < 7; ++round) {
    const double begin = coctilis::now();
    std::size_t seen = 0;
    std::error_code error;
    for (auto it = std::filesystem::recursive_directory_iterator(argv[1], error);
         it != std::filesystem::recursive_directory_iterator(); it.increment(error)) {
      if (std::filesystem::exists(std::filesystem::symlink_status(it->path(), error))) ++seen;
    }
    const double middle = coctilis::now();
    const auto survey =
        coctilis::survey::survey(std::filesystem::canonical(argv[1]), {}, coctilis::describe::description_formats());
    const double end = coctilis::now();
    if (!survey) return 1;
    ratios.push_back((end - middle) / (middle - begin));
    if (round == 0) fmt::print("{} names, {} files surveyed\n", seen, survey->files);
  }
  std::sort(ratios.begin(), ratios.end());
  fmt::print("survey / bare walk: {:.2f} (median of {}), asked for: at most 1.5\n", ratios[ratios.size() / 2],
             ratios.size());
  return 0;
}
