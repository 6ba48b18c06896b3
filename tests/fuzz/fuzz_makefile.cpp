// Reads made-up bytes as a makefile and works out its recipes. A problem with a place is a good end; a defect, a crash,
// or work without end is not.
#include <cstdio>
#include <cstdlib>

#include "base/files.h"
#include "base/process.h"
#include "describe/makefile/make.h"
#include "plan/recipes.h"

namespace {

const coctilis::files::ScratchFolder& scratch() {
  static const coctilis::files::ScratchFolder folder("fuzz");
  return folder;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  forbid_processes();
  const std::string tree = scratch().path().string();
  files::write(tree + "/Makefile", std::string(reinterpret_cast<const char*>(data), size));
  const auto done = guarded("reading a makefile", [&] {
    describe::makefile::Call call;
    call.folder = tree;
    call.environment = {{"PATH", "/bin"}, {"HOME", "/"}};
    describe::makefile::Make make(call, tree, {200'000, 2ULL << 30U});
    make.read();
    auto recipes = make.recipes({});
    for (const auto& name : make.targets()) {
      try {
        for (auto& recipe : make.recipes({name})) recipes.push_back(std::move(recipe));
      } catch (const Fault&) {  // NOLINT: it is told when it is asked for
      }
    }
    for (const auto& recipe : recipes) {
      if (recipe.late) (void)make.late_lines(recipe);
    }
    model::Plan plan;
    plan.tree = plan.work = tree;
    plan.kiln = tree + "/kiln";
    plan::add_recipes(recipes, tree, plan);
    return true;
  });
  if (!done && done.problem().exit == Exit::defect) {
    std::fprintf(stderr, "defect: %s %s\n", done.problem().what.c_str(), done.problem().cause.c_str());
    std::abort();
  }
  return 0;
}
