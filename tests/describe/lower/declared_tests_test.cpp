// Tests of a listfile as facts: what the description's own tool does for them is settled.
#include "plan/planning.h"

namespace coctilis::test {
namespace {

class DeclaredTests : public PlanTest {
 protected:
  model::TestCase one(const std::string& command, const std::string& more = {}) {
    sources({"fire.c"});
    const auto made =
        plan("add_executable(fire fire.c)\nenable_testing()\nadd_test(NAME one COMMAND " + command + ")\n" + more);
    EXPECT_EQ(made.tests.size(), 1U);
    return made.tests.empty() ? model::TestCase{} : made.tests[0];
  }
};

TEST_F(DeclaredTests, TheToolSetsWhatAProgramRunsIn) {
  const auto test = one("${CMAKE_COMMAND} -E env PEAK=1222 --unset=CONE ${CMAKE_COMMAND} -E chdir data fire --cone 6");
  EXPECT_EQ(test.environment.at("PEAK"), "1222");
  EXPECT_EQ(test.environment.at("CONE"), std::nullopt);
  EXPECT_EQ(test.folder, work("data"));
  EXPECT_EQ(test.command.size(), 3U);
  EXPECT_FALSE(test.operation);
  EXPECT_EQ(test.not_followed, "");
}

TEST_F(DeclaredTests, ItsOperationsAreOurs) {
  const auto test = one("${CMAKE_COMMAND} -E compare_files a b");
  EXPECT_TRUE(test.operation);
  EXPECT_EQ(test.command, (std::vector<std::string>{"compare_files", "a", "b"}));
  EXPECT_NE(one("${CMAKE_COMMAND} -E bake a b").not_followed, "");
}

TEST_F(DeclaredTests, ItsScriptsAreRunByThisProgram) {
  const auto test = one("${CMAKE_COMMAND} -DCONE=6 -P check.cmake");
  EXPECT_TRUE(test.own_script);
  EXPECT_EQ(test.command.at(1), "run-script");
  EXPECT_EQ(test.command.back(), "check.cmake");
}

TEST_F(DeclaredTests, ProgramsThatBuildAreNotRun) {
  EXPECT_NE(one("ninja -C out").not_followed, "");
  EXPECT_NE(one("make check").not_followed, "");
  EXPECT_NE(one("fire ${CMAKE_COMMAND} --build .").not_followed, "");
  EXPECT_EQ(one("fire").not_followed, "");
}

TEST_F(DeclaredTests, TheEnvironmentIsModifiedInOrder) {
  const auto test = one("fire",
                        "set_tests_properties(one PROPERTIES ENVIRONMENT CONE=6 ENVIRONMENT_MODIFICATION "
                        "\"CONE=string_append:a;CONE=path_list_prepend:b;PEAK=set:9;GONE=unset:\")\n");
  EXPECT_EQ(test.environment.at("CONE"), "b:6a");
  EXPECT_EQ(test.environment.at("PEAK"), "9");
  EXPECT_EQ(test.environment.at("GONE"), std::nullopt);
}

}  // namespace
}  // namespace coctilis::test
