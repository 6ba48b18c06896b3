// makefile_nothing_to_do [TARGETS]: a makefile tree in which everything is made, against reading its makefiles and a
// bare pass that stats the same files.
#include <fmt/format.h>
#include <sys/stat.h>

#include <algorithm>
#include <vector>

#include "base/files.h"
#include "base/process.h"
#include "describe/makefile/make.h"
#include "engine/engine.h"
#include "plan/recipes.h"

int main(int argc, char** argv) {
  using namespace coctilis;
  const int count = argc > 1 ? std::atoi(argv[1]) : 10000;
  const files::ScratchFolder scratch("bench");
  const std::string tree = scratch.path().string();
  // A part each hundred targets, every object with a header of its part, as trees have it.
  std::string main = "CC ?= cc\nCFLAGS ?= -O2\nall: everything\n%.o: %.c\n\t$(CC) $(CFLAGS) -Ibrick -c $< -o $@\n";
  std::vector<std::string> all;
  for (int part = 0; part * 100 < count; ++part) {
    std::string text = "OBJECTS +=";
    const int last = std::min(count, (part + 1) * 100);
    for (int i = part * 100; i < last; ++i) text += fmt::format(" part{}/brick{}.o", part, i);
    text += fmt::format("\n$(filter part{0}/%.o,$(OBJECTS)): part{0}/brick.h\n", part);
    files::write(fmt::format("{}/part{}/part.mk", tree, part), text);
    files::write(fmt::format("{}/part{}/brick.h", tree, part), "");
    main += fmt::format("include part{}/part.mk\n", part);
    all.push_back(fmt::format("{}/part{}/brick.h", tree, part));
    for (int i = part * 100; i < last; ++i) {
      const std::string base = fmt::format("{}/part{}/brick{}", tree, part, i);
      files::write(base + ".c", "");
      all.push_back(base + ".c");
      all.push_back(base + ".o");
    }
  }
  main += "everything: $(OBJECTS)\n.PHONY: all everything\n";
  files::write(tree + "/Makefile", main);
  files::make_folder(tree + "/kiln");
  ::usleep(20000);
  for (const auto& path : all) {
    if (path.ends_with(".o")) files::write(path, "");
  }
  using describe::makefile::Make;
  describe::makefile::Call call;
  call.folder = tree;
  call.makefiles = {"Makefile"};
  call.output_root = tree;
  std::vector<double> ratios;
  std::vector<double> wholes;
  for (int round = 0; round < 7; ++round) {
    const double begin = now();
    {
      Make reading(call, tree);
      reading.read();
    }
    for (const auto& path : all) {
      struct stat info {};
      if (::stat(path.c_str(), &info) != 0) return 1;
    }
    const double middle = now();
    Make make(call, tree);
    make.read();
    const auto recipes = make.recipes({});
    model::Plan plan;
    plan.tree = tree;
    plan.kiln = tree + "/kiln";
    plan.work = tree;
    plan::add_recipes(recipes, tree, plan);
    engine::Request request;
    request.selection.assign(plan.steps.size(), true);
    const auto due = engine::anything_to_do(plan, request);
    const double end = now();
    if (!due || *due || plan.steps.size() < static_cast<std::size_t>(count)) {
      fmt::print(stderr, "{} steps; {}\n", plan.steps.size(),
                 !due   ? due.problem().what
                 : *due ? "something would be made"
                        : "too few");
      return 1;
    }
    ratios.push_back((end - middle) / (middle - begin));
    wholes.push_back(end - middle);
  }
  std::sort(ratios.begin(), ratios.end());
  std::sort(wholes.begin(), wholes.end());
  fmt::print(
      "nothing to do / reading the makefiles and bare stats, {} targets: {:.2f} (median of {}; {:.0f} ms), "
      "asked for: at most 1.5\n",
      count, ratios[ratios.size() / 2], ratios.size(), wholes[wholes.size() / 2] * 1e3);
  return 0;
}
