// locate_speed [TREE]: finding tool chains with nothing known, and locating what a tree wants with everything known,
// each against its limit.
#include <fmt/format.h>

#include <algorithm>

#include "base/files.h"
#include "base/process.h"
#include "base/text.h"
#include "demo/demo.h"
#include "locate/toolchain.h"
#include "pipeline/pipeline.h"

int main(int argc, char** argv) {
  using namespace coctilis;
  const files::ScratchFolder scratch("bench");
  const auto median = [](std::vector<double> all) {
    std::sort(all.begin(), all.end());
    return all[all.size() / 2];
  };
  std::vector<double> cold;
  std::size_t found = 0;
  for (int round = 0; round < 7; ++round) {
    Answers none("");
    const double begin = now();
    found = locate::toolchains({}, none).size();
    cold.push_back(now() - begin);
  }
  fmt::print("tool chains, nothing known: {} for {} tool chains, {:.2f} of the limit of 500 ms\n",
             text::duration(median(cold)), found, median(cold) / 0.5);
  ::setenv("XDG_CACHE_HOME", (scratch.path() / "cache").c_str(), 1);
  const auto tree =
      argc > 1 ? Result<std::string>(std::string(argv[1])) : demo::write_tree((scratch.path() / "brickyard").string());
  if (!tree) return 1;
  std::vector<double> warm;
  std::vector<double> whole;
  for (int round = 0; round < 9; ++round) {
    model::Run run;
    run.options.tree = *tree;
    run.options.kiln = (scratch.path() / "kiln").string();
    const double begin = now();
    {
      pipeline::Session session;
      if (!pipeline::open_tree(run, {}) || !pipeline::settings(run) || !pipeline::survey(run, session)) return 1;
      const double middle = now();
      if (!pipeline::toolchain(run, session) || !pipeline::locate(run, session)) return 1;
      if (round > 1) warm.push_back(now() - middle);
    }
    if (round > 1) whole.push_back(now() - begin);
  }
  fmt::print("locating, all known: {}, {:.2f} of the limit of 30 ms (with the survey before it {})\n",
             text::duration(median(warm)), median(warm) / 0.03, text::duration(median(whole)));
  return 0;
}
