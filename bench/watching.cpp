// watching [SOURCES]: a script that compiles, run watched and run by itself, one after the other.
#include <fmt/format.h>

#include <algorithm>
#include <vector>

#include "base/files.h"
#include "base/process.h"
#include "base/watched_run.h"

int main(int argc, char** argv) {
  using namespace coctilis;
  const int count = argc > 1 ? std::atoi(argv[1]) : 4;
  const files::ScratchFolder scratch("bench");
  const std::string tree = scratch.path().string();
  std::string script = "#!/bin/sh\nset -e\n";
  for (int i = 0; i < count; ++i) {
    // Of the weight that steps of real trees have: some tenths of a second.
    files::write(
        fmt::format("{}/brick{}.cpp", tree, i),
        fmt::format("#include <iostream>\n#include <map>\n#include <string>\n#include <vector>\n"
                    "int fire{}(const std::vector<std::string>& names) {{\n  std::map<std::string, int> seen;\n"
                    "  for (const auto& name : names) ++seen[name];\n"
                    "  for (const auto& [name, n] : seen) std::cout << name << n;\n"
                    "  return static_cast<int>(seen.size());\n}}\n",
                    i));
    script += fmt::format("c++ -O2 -c brick{0}.cpp -o brick{0}.o\n", i);
  }
  files::write(tree + "/build.sh", script + "ar rcs libbrick.a brick*.o\n");
  std::vector<double> ratios;
  for (int round = 0; round < 11; ++round) {
    // In turn, so that a machine that gets slower does not count for one of the two.
    double seconds[2];
    for (int k = 0; k < 2; ++k) {
      const bool watched = (k + round) % 2 == 0;
      const double begin = now();
      if (watched) {
        if (run_watched({"/bin/sh", "build.sh"}, tree, {tree, "/tmp"}).exit != 0) return 1;
      } else {
        Command command;
        command.argv = {"/bin/sh", "build.sh"};
        command.folder = tree;
        if (!run(command).good()) return 1;
      }
      seconds[watched ? 1 : 0] = now() - begin;
    }
    ratios.push_back(seconds[1] / seconds[0]);
  }
  std::sort(ratios.begin(), ratios.end());
  fmt::print("watched / by itself, {} compilations: {:.3f} (median of {}), asked for: at most 1.03\n", count,
             ratios[ratios.size() / 2], ratios.size());
  return 0;
}
