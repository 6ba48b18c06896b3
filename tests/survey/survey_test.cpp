#include "survey/survey.h"

#include <sys/stat.h>
#include <unistd.h>

#include "describe/readers.h"
#include "support.h"
#include "survey/languages.h"
#include "survey/settings.h"
#include "survey/toml_reader.h"

namespace coctilis::survey {
namespace {

using test::TreeFolder;

LineCount count(const std::string& text, const char* name) { return count_lines(text, *language_of(name)); }

TEST(Languages, CountsCodeCommentAndBlank) {
  const auto lines = count("// brick\nint a;  // clay\n\n/* one\n two */\nint b; /* three\n */ int c;\n", "a.c");
  EXPECT_EQ(lines.code, 3U);
  EXPECT_EQ(lines.comment, 3U);
  EXPECT_EQ(lines.blank, 1U);
}

TEST(Languages, StringsHideCommentsAndBack) {
  const auto lines = count("const char* a = \"/* no comment\";\nint b = 1'000;\n// x\n", "a.cpp");
  EXPECT_EQ(lines.code, 2U);
  EXPECT_EQ(lines.comment, 1U);
}

TEST(Languages, EntryPointsAreDefinitionsOfMain) {
  EXPECT_EQ(count("int\nmain(int argc, char** argv)\n{\n}\n", "a.c").entry_lines, std::vector<int>{2});
  EXPECT_TRUE(count("int main(void);\n", "a.c").entry_lines.empty());
  EXPECT_EQ(count("class A {\n  public static void main(String[] a) {}\n  // public static void main(\n}\n", "A.java")
                .entry_lines,
            std::vector<int>{2});
  EXPECT_EQ(count("package main\n\nfunc main() {}\nfunc Main() {}\n", "a.go").entry_lines, std::vector<int>{3});
  EXPECT_EQ(
      count("class A {\n  static async Task Main(string[] a) {}\n  int Main(int b) => 1;\n}\n", "A.cs").entry_lines,
      std::vector<int>{2});
  EXPECT_EQ(count("! a kiln\n  Program Kiln ! hot\nend program kiln\n", "a.f90").entry_lines, std::vector<int>{2});
  EXPECT_EQ(count("      PROGRAM KILN\r\n      END\r\n", "a.f").entry_lines, std::vector<int>{1});
  EXPECT_TRUE(
      count("program = 3\nprogrammed x\nmodule program_names\n! program x\nprogram\n", "a.f90").entry_lines.empty());
  EXPECT_TRUE(count("// int main() {}\nconst char* s = \"int main() {\";\n", "a.cpp").entry_lines.empty());
  EXPECT_TRUE(count("int kiln_main(void) { return 0; }\nint x = app.main();\n", "a.cpp").entry_lines.empty());
}

TEST(Languages, ByExtension) {
  EXPECT_EQ(compiled_language("a/b.cc"), "C++");
  EXPECT_EQ(compiled_language("b.c"), "C");
  EXPECT_EQ(compiled_language("b.S"), "Assembler");
  EXPECT_EQ(compiled_language("b.h"), "");
  EXPECT_EQ(compiled_language("b.py"), "");
  EXPECT_TRUE(is_header("x.hpp"));
  EXPECT_EQ(language_of(".c"), nullptr);
}

model::Survey survey_of(const TreeFolder& tree, const model::Settings& settings = {}) {
  auto result = survey(tree.path(), settings, describe::description_formats());
  EXPECT_TRUE(result.ok());
  return *result;
}

TEST(Survey, FindsAllDescriptionsAndFollowsOne) {
  TreeFolder tree;
  tree.write("Makefile", "all:\n");
  tree.write("CMakeLists.txt", "\n");
  tree.write("sub/CMakeLists.txt", "\n");
  const auto found = survey_of(tree);
  ASSERT_EQ(found.descriptions.size(), 2U);
  EXPECT_EQ(found.descriptions[0].path, "CMakeLists.txt");
  EXPECT_TRUE(found.descriptions[0].followed);
  EXPECT_EQ(found.descriptions[1].path, "Makefile");
  EXPECT_FALSE(found.descriptions[1].followed);
  EXPECT_FALSE(found.descriptions[1].reason.empty());
}

TEST(Survey, DescriptionNamedInSettingsMustBeThere) {
  TreeFolder tree;
  tree.write("CMakeLists.txt", "\n");
  model::Settings settings;
  settings.description = "build/CMakeLists.txt";
  const auto result = survey(tree.path(), settings, describe::description_formats());
  ASSERT_FALSE(result.ok());
  EXPECT_EQ(result.problem().exit, Exit::usage);
}

TEST(Survey, TellsHazards) {
  TreeFolder tree;
  tree.write("roof tile.c", "int a;\n");
  tree.write("kiln.c", "int a;\n");
  tree.write("Kiln.c", "int a;\n");
  tree.write("Öfen.c", "int a;\n");
  ASSERT_EQ(::symlink("nowhere", tree.path("gone").c_str()), 0);
  ASSERT_EQ(::symlink("loop", tree.path("loop").c_str()), 0);
  std::map<std::string, int> kinds;
  for (const auto& hazard : survey_of(tree).hazards) ++kinds[hazard.kind];
  EXPECT_EQ(kinds["blank in the path"], 1);
  EXPECT_EQ(kinds["names differ only in case"], 1);
  EXPECT_EQ(kinds["letters outside ASCII in the path"], 1);
  EXPECT_EQ(kinds["dangling link"], 1);
  EXPECT_EQ(kinds["link in a circle"], 1);
}

TEST(Survey, LeavesOutKilnsAndWhatIsAskedFor) {
  TreeFolder tree;
  tree.write("a.c", "int a;\n");
  tree.write("old/b.c", "int b;\n");
  tree.write("kiln/.gitignore", std::string(kiln_mark) + "\n*\n");
  tree.write("kiln/x/c.c", "int c;\n");
  model::Settings settings;
  settings.leave_out = {"old/**"};
  EXPECT_EQ(survey_of(tree, settings).files, 1U);
  EXPECT_EQ(survey_of(tree).files, 2U);
}

TEST(Survey, KilnMovesAsideForAFolderOfThatName) {
  TreeFolder tree;
  EXPECT_EQ(kiln_root(tree.path(), ""), tree.path("kiln"));
  tree.write("kiln/oven.c", "int a;\n");
  EXPECT_EQ(kiln_root(tree.path(), ""), tree.path(".kiln"));
  EXPECT_EQ(kiln_root(tree.path(), "/elsewhere"), "/elsewhere");
}

TEST(Survey, EmptySubmoduleIsTold) {
  TreeFolder tree;
  tree.write(".gitmodules",
             "[submodule \"clay\"]\n\tpath = modules/clay\n\turl = ../clay\n[submodule \"evil\"]\n\tpath = "
             "../outside\n\turl = x\n");
  const auto found = survey_of(tree);
  ASSERT_EQ(found.submodules.size(), 1U);
  EXPECT_EQ(found.submodules[0].path, "modules/clay");
  EXPECT_EQ(found.submodules[0].state, model::SubmoduleState::empty);
  EXPECT_EQ(found.hazards.size(), 1U);
}

// ---- coctilis.toml
// ---------------------------------------------------------------------------------------------------

Result<model::Settings> settings_from(const TreeFolder& tree, const std::string& text) {
  tree.write("coctilis.toml", text);
  return settings_of(tree.path(), "");
}

TEST(Settings, ReadsEverything) {
  TreeFolder tree;
  const auto settings = settings_from(tree, R"(
[tree]
description = "CMakeLists.txt"
leave-out = ["old/**"]
[sandbox]
network = true
devices = ["/dev/dri"]
[toolchain]
"c++" = "gcc >= 12"
[options]
WITH_CHARTS = true
SHIFTS = 3
[[need]]
library = "claykit"
version = ">= 2.1, < 3"
prefix = "/opt/clay"
[variant.field]
based-on = "release"
compile = ["-march=native"]
[[smoke]]
name = "a full firing"
run = ["firecurve", "--cone", "6"]
expect = { exit = 2, output = "peak", within = "500 ms" }
)");
  ASSERT_TRUE(settings.ok());
  EXPECT_EQ(settings->toolchain.at(0).text, "gcc >= 12");
  EXPECT_TRUE(settings->network);
  EXPECT_EQ(settings->devices, std::vector<std::string>{"/dev/dri"});
  EXPECT_EQ(settings->options.at("WITH_CHARTS"), "ON");
  EXPECT_EQ(settings->options.at("SHIFTS"), "3");
  EXPECT_EQ(settings->needs.at(0).constraint, ">= 2.1, < 3");
  EXPECT_EQ(settings->variants.at("field").compile, std::vector<std::string>{"-march=native"});
  EXPECT_TRUE(settings->variants.contains("debug"));
  EXPECT_EQ(settings->smoke.at(0).steps.at(0).expected.exit, 2);
  EXPECT_DOUBLE_EQ(settings->smoke.at(0).steps.at(0).expected.within, 0.5);
}

TEST(Settings, OfMembersSourcesAndChoices) {
  TreeFolder tree;
  const auto settings = settings_from(tree, R"([tree]
name = "oven"
version = "2.1"
needs = ["clay >= 2, < 3", "heat"]
choose = ["driver/soaking"]
[[source]]
folder = "vendor/clay"
options = { TESTS = false, LEVEL = 3 }
[[source]]
name = "heat"
folder = "vendor/heat-kit"
url = "https://brickyard.example/heat.git"
revision = "v1"
[[need]]
library = "clay"
source = "clay"
)");
  ASSERT_TRUE(settings.ok()) << settings.problem().what;
  EXPECT_EQ(settings->package_name, "oven");
  EXPECT_EQ(settings->package_version, "2.1");
  EXPECT_EQ(settings->package_needs, (std::vector<std::string>{"clay >= 2, < 3", "heat"}));
  EXPECT_EQ(settings->package_place.line, 4);
  EXPECT_EQ(settings->choose, std::vector<std::string>{"driver/soaking"});
  ASSERT_EQ(settings->sources.size(), 2U);
  EXPECT_EQ(settings->sources[0].name, "clay");  // by its folder
  EXPECT_EQ(settings->sources[0].options.at("TESTS"), "OFF");
  EXPECT_EQ(settings->sources[1].name, "heat");
  EXPECT_EQ(settings->needs.at(0).source, "clay");
  EXPECT_EQ(settings->needs.at(0).places.at("source").line, 16);
  for (const char* variant : {"debug", "release", "sanitized", "coverage"})
    EXPECT_TRUE(settings->variants.contains(variant)) << variant;
}

TEST(Settings, ASourceOfALaterFileTakesThePlaceOfOneOfItsName) {
  TreeFolder tree;
  tree.write("coctilis.local.toml", "[[source]]\nname = \"clay\"\nfolder = \"own/clay\"\n");
  const auto settings = settings_from(tree, "[[source]]\nfolder = \"vendor/clay\"\n");
  ASSERT_TRUE(settings.ok());
  ASSERT_EQ(settings->sources.size(), 1U);
  EXPECT_EQ(settings->sources[0].folder, "own/clay");
}

struct WrongSetting {
  const char* text;
  int line;
  const char* says;
};
class WrongSettings : public testing::TestWithParam<WrongSetting> {};

TEST_P(WrongSettings, AreErrorsWithTheirLine) {
  TreeFolder tree;
  const auto settings = settings_from(tree, GetParam().text);
  ASSERT_FALSE(settings.ok());
  EXPECT_EQ(settings.problem().exit, Exit::usage);
  EXPECT_EQ(settings.problem().place.line, GetParam().line);
  EXPECT_NE((settings.problem().what + settings.problem().remedy).find(GetParam().says), std::string::npos)
      << settings.problem().what << settings.problem().remedy;
}

INSTANTIATE_TEST_SUITE_P(
    All, WrongSettings,
    testing::Values(WrongSetting{"[tree]\ndescripton = \"x\"\n", 2, "did you mean 'description'"},
                    WrongSetting{"[tree]\nleave-out = \"x\"\n", 2, "list of texts"},
                    WrongSetting{"[[smoke]]\nname = \"x\"\n", 1, "needs run"}, WrongSetting{"[tree\n", 1, "not TOML"},
                    WrongSetting{"\n[[smoke]]\nrun = [\"a\"]\nexpect = { within = \"soon\" }\n", 4, "must be a time"},
                    WrongSetting{"[[smoke]]\nrun = [\"a\"]\nexpect = { output = \"(\" }\n", 3, "cannot be read"},
                    WrongSetting{"[tree]\nneeds = [\"clay >> 2\"]\n", 2, "no member's name"},
                    WrongSetting{"[tree]\nneeds = \"clay\"\n", 2, "list of texts"},
                    WrongSetting{"[[source]]\nname = \"clay\"\n", 1, "needs a folder"},
                    WrongSetting{"[[source]]\nfolder = \"x\"\nurl = \"y\"\n", 1, "url and revision, or neither"},
                    WrongSetting{"[[source]]\nfolder = \"a b\"\n", 1, "needs a name"},
                    WrongSetting{"[[source]]\nfolder = \"a/x\"\n[[source]]\nfolder = \"b/x\"\n", 3, "already"},
                    WrongSetting{"[[need]]\nversion = \"1\"\n", 1, "names one thing"},
                    WrongSetting{"[variant.x]\nbased-on = \"fast\"\n", 2, "debug or release"}));

TEST(Settings, LocalFileOverrides) {
  TreeFolder tree;
  tree.write("coctilis.local.toml", "[options]\nSHIFTS = 2\n");
  const auto settings = settings_from(tree, "[options]\nSHIFTS = 3\nCHARTS = false\n");
  ASSERT_TRUE(settings.ok());
  EXPECT_EQ(settings->options.at("SHIFTS"), "2");
  EXPECT_EQ(settings->options.at("CHARTS"), "OFF");
}

TEST(Settings, Durations) {
  EXPECT_DOUBLE_EQ(read_duration("10 s"), 10);
  EXPECT_DOUBLE_EQ(read_duration("2min"), 120);
  EXPECT_DOUBLE_EQ(read_duration("1.5 s"), 1.5);
  EXPECT_LT(read_duration("soon"), 0);
}

}  // namespace
}  // namespace coctilis::survey
