// Folders that exclude each other, and how one of them is taken.
#include "describe/sources/alternatives.h"

#include "base/text.h"
#include "describe/reader.h"
#include "locate/locator.h"
#include "support.h"

namespace coctilis::describe::sources {
namespace {

class AlternativesTest : public testing::Test {
 protected:
  AlternativesTest() {
    tree_.write("kiln.f90", "program kiln\nuse driver\nend program\n");
    tree_.write("driver/fast/driver.f90", "module driver\nend module\n");
    tree_.write("driver/slow/driver.f90", "module driver\nuse clay\nend module\n");
    tree_.write("clay.f90", "module clay\ninclude 'size.inc'\nend module\n");
  }
  // The folders that are left out, or the problem.
  std::string choose() {
    locate::Locator locator(test::Reading::toolchain(), settings_);
    Outside outside(locator);
    Tree tree(tree_.path(), settings_, [](const std::string&) { return false; });
    try {
      std::vector<std::string> out;
      for (const auto& one : choose_among_alternatives(tree, outside, settings_)) {
        out.push_back(one.name + ": " + one.reason);
        for (const auto& file : tree.files()) EXPECT_FALSE(file.path.starts_with(one.name + "/")) << file.path;
      }
      return text::join(out, "\n");
    } catch (const Fault& fault) {
      return std::to_string(static_cast<int>(fault.problem().exit)) + " " + fault.problem().what + " | " +
             fault.problem().remedy;
    }
  }
  test::TreeFolder tree_;
  model::Settings settings_;
};

TEST_F(AlternativesTest, WhereNothingDecidesTheUserIsAsked) {
  EXPECT_EQ(
      choose(),
      "4 driver/fast and driver/slow exclude each other: both have the module driver | say which are taken, under "
      "[tree] of coctilis.toml: choose = [\"driver/fast\"]");
}
TEST_F(AlternativesTest, TheUserChooses) {
  settings_.choose = {"driver/slow/"};
  EXPECT_EQ(choose(), "driver/fast: it excludes driver/slow (the module driver); [tree] choose takes driver/slow");
  settings_.choose = {"driver/slow", "clay"};
  EXPECT_EQ(
      choose(),
      "2 choose names 'clay', which excludes no other folder | take it away, or leave folders out with leave-out");
}
TEST_F(AlternativesTest, OneThatLacksAModuleIsNotTaken) {
  tree_.write("driver/slow/deep/more.f90", "module more\nuse no_such_module\nuse, intrinsic :: iso_c_binding\nend\n");
  EXPECT_EQ(choose(),
            "driver/slow: it excludes driver/fast (the module driver); it uses the module no_such_module, which nobody "
            "here has");
}
TEST_F(AlternativesTest, IncludedFilesHaveThemToo) {
  std::filesystem::remove_all(tree_.path("driver/slow"));
  tree_.write("sizes/fixed/size.inc", "integer, parameter :: n = 4\n");
  tree_.write("sizes/open/size.inc", "integer :: n\n");
  EXPECT_NE(choose().find("sizes/fixed and sizes/open exclude each other: both have size.inc"), std::string::npos);
  // One beside the source is meant by it.
  tree_.write("size.inc", "integer :: n\n");
  EXPECT_EQ(choose(), "");
}
TEST_F(AlternativesTest, ProgramsWithModulesOfTheirOwnExcludeNobody) {
  std::filesystem::remove(tree_.path("kiln.f90"));
  tree_.write("driver/fast/main.f90", "program a\nuse driver\nend\n");
  tree_.write("driver/slow/main.f90", "program b\nuse driver\nend\n");
  EXPECT_EQ(choose(), "");
}

}  // namespace
}  // namespace coctilis::describe::sources
