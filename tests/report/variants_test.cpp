// Runs in several variants, side by side.
#include "report/variants.h"

#include "support.h"

namespace coctilis::report {
namespace {

TEST(Variants, AColumnForEachRun) {
  const test::TreeFolder tree;
  tree.write("debug/fire", std::string(3000, 'x'));
  tree.write("release/fire", std::string(1000, 'x'));
  tree.write("release/libclay.a", std::string(9000, 'x'));
  std::vector<model::Run> runs(2);
  const auto add = [&](model::Run& run, const std::string& file) {
    run.plan.targets.emplace_back();
    run.plan.targets.back().output = tree.path(file);
  };
  runs[0].settings.variant = "debug";
  runs[0].outcome.ran = 4;
  runs[0].seconds = 2;
  runs[0].outcome.seconds = 1;
  runs[0].built = runs[0].checked = true;
  runs[0].checks.resize(3);
  for (auto& check : runs[0].checks) check.verdict = model::Verdict::passed;
  add(runs[0], "debug/fire");
  add(runs[0], "debug/none");
  runs[1].settings.variant = "release";
  runs[1].outcome.failed = 1;
  runs[1].problem = Problem{};
  add(runs[1], "release/fire");
  add(runs[1], "release/libclay.a");
  const auto table = variants_table(runs);
  ASSERT_EQ(table.size(), 6U);
  EXPECT_EQ(table[0], (std::vector<std::string>{"variant", "debug", "release"}));
  EXPECT_EQ(table[1], (std::vector<std::string>{"became", "passed", "failed"}));
  EXPECT_EQ(table[2][1], "4 in 1.0 s");
  EXPECT_EQ(table[3].front(), "libclay.a");
  EXPECT_EQ(table[3][1], "-");
  EXPECT_EQ(table[4].front(), "fire");
  EXPECT_EQ(table[5], (std::vector<std::string>{"checks", "3 passed", "none made"}));
  EXPECT_EQ(variants_table(runs, 1)[4].front(), "further ones");
}

}  // namespace
}  // namespace coctilis::report
