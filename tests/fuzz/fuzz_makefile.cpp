// Reads made-up bytes as a makefile and works out its recipes. A problem with a place is a good end; a defect, a crash,
// or work without end is not.
#include "describe/makefile/make.h"
#include "fuzzing.h"
#include "plan/recipes.h"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace coctilis;
  forbid_processes();
  const std::string tree = fuzz::scratch();
  files::write(tree + "/Makefile", fuzz::text_of(data, size));
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
  if (!done) fuzz::judge(done.problem());
  return 0;
}
