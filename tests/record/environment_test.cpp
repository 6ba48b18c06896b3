// The newest record of a tree, and the environment in which its results run.
#include "record/environment.h"

#include "record/record.h"
#include "support.h"

namespace coctilis::record {
namespace {

class Records : public testing::Test {
 protected:
  // A run of a label; later ones are newer.
  void run(const std::string& label, int number, const std::string& record) {
    const std::string file = label + "/runs/" + std::to_string(number) + "/run.json";
    tree_.write(file, record);
    std::filesystem::last_write_time(
        tree_.path(file), std::filesystem::file_time_type::clock::now() + std::chrono::seconds(++serial_ - 100));
  }
  [[nodiscard]] std::string newest(int number = 0, const std::string& variant = {}) const {
    const auto folder = newest_folder(tree_.path(), number, variant);
    return folder.empty() ? "" : folder.substr(tree_.path().size() + 1);
  }
  test::TreeFolder tree_;
  int serial_ = 0;
};

TEST_F(Records, TheNewestOfAllLabels) {
  EXPECT_EQ(newest(), "");
  run("gcc12-x86_64-debug", 1, "{}");
  run("gcc12-x86_64-release", 1, "{}");
  run("gcc12-x86_64-release", 2, "{}");
  run("gcc12-x86_64-debug", 2, "{}");
  EXPECT_EQ(newest(), "gcc12-x86_64-debug/runs/2");
  EXPECT_EQ(newest(1), "gcc12-x86_64-release/runs/1");
  EXPECT_EQ(newest(0, "release"), "gcc12-x86_64-release/runs/2");
  EXPECT_EQ(newest(7), "");
  EXPECT_EQ(newest(0, "field"), "");
}

TEST_F(Records, ResultsComeBeforePrefixes) {
  tree_.write("gcc12-x86_64-release/bin/kiln", "");
  tree_.write("gcc12-x86_64-release/lib/libclay.so", "");
  tree_.write("prefix/lib/x86_64-linux-gnu/libheat.so", "");
  tree_.write("prefix/lib/pkgconfig/heat.pc", "");
  run("gcc12-x86_64-release", 1,
      R"({"prefixes": [")" + tree_.path("prefix") + R"(", "/none", 3], "toolchain": {"machine": "x86_64-linux-gnu"}})");
  const auto environment = environment_of_results(tree_.path(), "");
  ASSERT_TRUE(environment);
  EXPECT_EQ(environment->kiln, tree_.path("gcc12-x86_64-release"));
  ASSERT_EQ(environment->variables.size(), 3U);
  EXPECT_EQ(environment->variables[0].first, "PATH");
  EXPECT_EQ(environment->variables[0].second, std::vector<std::string>{tree_.path("gcc12-x86_64-release/bin")});
  EXPECT_EQ(environment->variables[1].first, "LD_LIBRARY_PATH");
  EXPECT_EQ(environment->variables[1].second,
            (std::vector<std::string>{tree_.path("gcc12-x86_64-release/lib"), tree_.path("prefix/lib/x86_64-linux-gnu"),
                                      tree_.path("prefix/lib")}));
  EXPECT_EQ(environment->variables[2].first, "PKG_CONFIG_PATH");
}

TEST_F(Records, WithoutOneOrWithADamagedOneThereIsAMessage) {
  const auto none = environment_of_results(tree_.path(), "debug");
  ASSERT_FALSE(none);
  EXPECT_EQ(none.problem().exit, Exit::usage);
  EXPECT_NE(none.problem().what.find("'debug'"), std::string::npos);
  EXPECT_FALSE(none.problem().remedy.empty());
  for (const char* damaged : {"", "[1]", "{", "3"}) {
    run("gcc12-x86_64-debug", 1, damaged);
    const auto bad = environment_of_results(tree_.path(), "debug");
    ASSERT_FALSE(bad) << damaged;
    EXPECT_EQ(bad.problem().exit, Exit::kiln) << damaged;
  }
  run("gcc12-x86_64-debug", 2, R"({"prefixes": "none", "toolchain": {"machine": 4}})");
  EXPECT_TRUE(environment_of_results(tree_.path(), "debug"));
}

}  // namespace
}  // namespace coctilis::record
