// makefile_nothing_to_do [TARGETS]: a makefile tree in which everything is made, against reading its makefiles and a
// bare pass that stats the same files. Once with what was kept of the run before, as any run but the first finds it,
// and once with everything worked out anew.
#include <fmt/format.h>
#include <sys/stat.h>

#include <algorithm>
#include <vector>

#include "base/files.h"
#include "base/process.h"
#include "describe/makefile/make.h"
#include "engine/engine.h"
#include "pipeline/inner_make.h"

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
  const std::string state = tree + "/kiln";
  std::vector<double> kept;
  std::vector<double> anew;
  // Seconds until it is known that nothing is to be done; negative when something went wrong.
  const auto look = [&](bool take) {
    const double begin = now();
    auto prepared = pipeline::prepare_make(call, tree, state, take);
    engine::Request request;
    request.selection.assign(prepared.plan.steps.size(), true);
    const auto due = engine::anything_to_do(prepared.plan, request);
    const double seconds = now() - begin;
    if (due && !*due && prepared.plan.steps.size() >= static_cast<std::size_t>(count) &&
        (take || prepared.make != nullptr))
      return seconds;
    fmt::print(stderr, "{} steps; {}\n", prepared.plan.steps.size(),
               !due   ? due.problem().what
               : *due ? "something would be made"
                      : "too few, or none was kept");
    return -1.0;
  };
  static_cast<void>(pipeline::prepare_make(call, tree, state, true));
  if (pipeline::prepare_make(call, tree, state, true).make != nullptr) {
    fmt::print(stderr, "nothing was kept\n");
    return 1;
  }
  double whole = 0;
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
    const double bare = now() - begin;
    const double with = look(true);
    const double without = look(false);
    if (with < 0 || without < 0) return 1;
    kept.push_back(with / bare);
    anew.push_back(without / bare);
    whole = with;
  }
  std::sort(kept.begin(), kept.end());
  std::sort(anew.begin(), anew.end());
  fmt::print(
      "nothing to do / reading the makefiles and bare stats, {} targets: {:.2f} (median of {}; {:.0f} ms), asked for: "
      "at most 1.5; worked out anew: {:.2f}\n",
      count, kept[kept.size() / 2], kept.size(), whole * 1e3, anew[anew.size() / 2]);
  return 0;
}
