// The steps by which Fortran sources come into order.
#include "plan/languages/fortran_modules.h"

#include "plan/operations.h"
#include "support.h"

namespace coctilis::plan {
namespace {

using Names = std::vector<std::string>;

TEST(FortranForm, IsThatOfTheEndingOrAsSaid) {
  using model::Preprocessing;
  using model::SourceForm;
  EXPECT_TRUE(is_fixed_form("/yard/heat.f", SourceForm::by_name));
  EXPECT_TRUE(is_fixed_form("/yard/heat.FOR", SourceForm::by_name));
  EXPECT_FALSE(is_fixed_form("/yard/heat.f90", SourceForm::by_name));
  EXPECT_TRUE(is_fixed_form("/yard/heat.f90", SourceForm::fixed));
  EXPECT_FALSE(is_fixed_form("/yard/heat.f", SourceForm::free));
  EXPECT_TRUE(is_preprocessed("/yard/heat.F90", Preprocessing::by_name));
  EXPECT_FALSE(is_preprocessed("/yard/heat.f90", Preprocessing::by_name));
  EXPECT_TRUE(is_preprocessed("/yard/heat.f90", Preprocessing::yes));
  EXPECT_FALSE(is_preprocessed("/yard/heat.F90", Preprocessing::no));
}

// The operations of steps, on files.
class FortranOrder : public testing::Test {
 protected:
  int run(const std::string& name, const Names& words) {
    output_.clear();
    return step_operation(name)(words, tree_.path(), output_);
  }
  int scan(const std::string& name) {
    return run("find-modules", {at(name), at(name), at(name + ".modules"), at(name + ".d"), "free", at("include")});
  }
  int order(const Names& names, const Names& used = {}) {
    Names words = {at("order"), at("modules"), "alone"};
    for (const auto& file : used) words.insert(words.end(), {"used", file});
    for (const auto& name : names) {
      EXPECT_EQ(scan(name), 0) << output_;
      words.insert(words.end(), {"source", at(name + ".o"), at(name + ".modules")});
    }
    return run("order-modules", words);
  }
  std::string at(const std::string& name) const { return tree_.path(name); }
  nlohmann::json told() const { return nlohmann::json::parse(tree_.read("order")); }
  test::TreeFolder tree_;
  std::string output_;
};

TEST_F(FortranOrder, NeedsAndMakesFilesOfModules) {
  tree_.write("a.f90", "module a\nuse b\nend\n");
  tree_.write("b.f90", "module b\nend\nmodule c\nend\n");
  tree_.write("main.f90", "use a\nuse netcdf\nend\n");
  ASSERT_EQ(order({"a.f90", "b.f90", "main.f90"}), 0) << output_;
  const auto steps = told()["steps"];
  EXPECT_EQ(steps[0]["step"], at("a.f90.o"));
  EXPECT_EQ(steps[0]["needs"], Names{at("modules/b.mod")});
  EXPECT_EQ(steps[1]["makes"], (Names{at("modules/b.mod"), at("modules/c.mod")}));
  EXPECT_EQ(steps[2]["needs"], Names{at("modules/a.mod")});  // one that nothing here defines is no need
}

TEST_F(FortranOrder, ModulesOfUsedUnitsAreFoundBehindItsOwn) {
  tree_.write("used", R"({"modules": {"a": "/yard/a.mod", "z": "/yard/z.mod"}})");
  tree_.write("a.f90", "module a\nend\n");
  tree_.write("main.f90", "use a\nuse z\nend\n");
  ASSERT_EQ(order({"a.f90", "main.f90"}, {at("used")}), 0) << output_;
  EXPECT_EQ(told()["steps"][1]["needs"], (Names{at("modules/a.mod"), "/yard/z.mod"}));
  EXPECT_FALSE(told()["modules"].contains("z"));  // its users look there themselves
}

TEST_F(FortranOrder, AModuleIsDefinedOnce) {
  tree_.write("a.f90", "module a\nend\n");
  tree_.write("b.f90", "module A\nend\n");
  EXPECT_EQ(order({"a.f90", "b.f90"}), 1);
  EXPECT_NE(output_.find("'a' is defined twice: by " + at("a.f90.o") + " and by " + at("b.f90.o")), std::string::npos)
      << output_;
}

TEST_F(FortranOrder, ACircleIsTold) {
  tree_.write("a.f90", "module a\nuse b\nend\n");
  tree_.write("b.f90", "module b\nuse c\nend\n");
  tree_.write("c.f90", "module c\nuse b\nend\n");
  EXPECT_EQ(order({"a.f90", "b.f90", "c.f90"}), 1);
  EXPECT_NE(output_.find("circle: b.f90 uses c.f90 uses b.f90"), std::string::npos) << output_;
}

TEST_F(FortranOrder, ModulesThatNothingDefinesGo) {
  tree_.write("a.f90", "module a\nend\n");
  tree_.write("modules/a.mod", "");
  tree_.write("modules/gone.mod", "");
  tree_.write("modules/gone@part.smod", "");
  tree_.write("modules/notes", "");
  ASSERT_EQ(order({"a.f90"}), 0) << output_;
  EXPECT_TRUE(files::exists(at("modules/a.mod")));
  EXPECT_FALSE(files::exists(at("modules/gone.mod")));
  EXPECT_FALSE(files::exists(at("modules/gone@part.smod")));
  EXPECT_TRUE(files::exists(at("modules/notes")));
}

TEST_F(FortranOrder, IncludedLinesCountAndAreWatched) {
  tree_.write("a.f90", "program a\ninclude 'head.inc'\n include \"nowhere.inc\"\nend\n");
  tree_.write("include/head.inc", "use clay\ninclude 'more.inc'\n");
  tree_.write("include/more.inc", "use glaze\n");
  ASSERT_EQ(scan("a.f90"), 0) << output_;
  EXPECT_EQ(nlohmann::json::parse(tree_.read("a.f90.modules"))["uses"], (Names{"clay", "glaze"}));
  const std::string rule = tree_.read("a.f90.d");
  for (const char* name : {"include/head.inc", "include/more.inc", "nowhere.inc", "include/nowhere.inc"})
    EXPECT_NE(rule.find(at(name)), std::string::npos) << name << " in " << rule;
}

TEST_F(FortranOrder, FilesOfOthersAreHostile) {
  tree_.write("a.f90", "module a\nend\n");
  for (const char* text :
       {"", "[", "[1]", R"({"steps": 3, "modules": [1]})", R"({"steps": [{"step": 1}], "modules": {"b": 2}})"}) {
    tree_.write("order", text);
    tree_.write("used", text);
    EXPECT_EQ(order({"a.f90"}, {at("used")}), 0) << text << output_;
  }
  // What it says to take away lies elsewhere.
  tree_.write("kept.mod", "");
  tree_.write("order",
              R"({"steps": [{"makes": [")" + at("kept.mod") + R"(", ")" + at("modules/../kept.mod") + R"("]}]})");
  EXPECT_EQ(order({"a.f90"}), 0) << output_;
  EXPECT_TRUE(files::exists(at("kept.mod")));
  // An include that includes itself, twice, comes to an end.
  tree_.write("again.f90", "include 'again.inc'\nend\n");
  tree_.write("again.inc", "include 'again.inc'\ninclude 'again.inc'\nuse clay\n");
  EXPECT_EQ(scan("again.f90"), 0);
  // Links in place of files, and of the folder for modules, lead nowhere.
  const test::TreeFolder elsewhere;
  elsewhere.write("kept.mod", "kept");
  std::filesystem::remove_all(at("modules"));
  std::filesystem::create_directory_symlink(elsewhere.path(), at("modules"));
  EXPECT_EQ(order({"a.f90"}), 1);
  std::filesystem::remove(at("modules"));
  std::filesystem::remove(at("again.f90.modules"));
  std::filesystem::create_symlink(elsewhere.path("kept.mod"), at("again.f90.modules"));
  EXPECT_EQ(scan("again.f90"), 1);
  EXPECT_EQ(elsewhere.read("kept.mod"), "kept");
  EXPECT_EQ(run("order-modules", {at("order")}), 2);
  EXPECT_EQ(run("order-modules", {at("order"), at("modules"), "alone", "source", at("a.f90.o"), at("none")}), 1);
  EXPECT_EQ(step_operation("make_directory"), nullptr);
}

}  // namespace
}  // namespace coctilis::plan
