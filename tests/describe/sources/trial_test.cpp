// Compiling on trial, and the libraries of the system for what is left undefined.
#include "describe/sources/trial.h"

#include "base/text.h"
#include "describe/reader.h"
#include "describe/sources/outside.h"
#include "locate/symbol_index.h"

namespace coctilis::describe::sources {
namespace {

class TrialTest : public testing::Test {
 protected:
  TrialSource source(const std::string& name, const std::string& text, const std::string& language = "C") {
    tree_.write(name, text);
    TrialSource out;
    out.path = tree_.path(name);
    out.language = language;
    return out;
  }
  std::vector<Trial> compile(const std::vector<TrialSource>& sources) {
    std::size_t done = 0;
    auto out = compile_on_trial(sources, test::Reading::toolchain(), 2, &answers_, [&](std::size_t n) { done = n; });
    EXPECT_EQ(done, sources.size());
    return out;
  }
  // "+defined -wanted": in the order of their names.
  static std::string symbols(const Trial& trial) {
    std::set<std::string> out;
    for (const auto& one : trial.symbols) out.insert((one.defined ? "+" : "-") + one.name);
    return text::join(std::vector<std::string>(out.begin(), out.end()), " ");
  }
  test::TreeFolder tree_;
  Answers answers_{tree_.scratch() + "/answers"};
};

TEST_F(TrialTest, TellsWhatIsDefinedAndWanted) {
  const auto trials = compile({source("kiln.c", "int fire(int);\nint heat;\nint kiln(void) { return fire(heat); }\n"),
                               source("press.cc", "struct Press { void go(); };\nvoid Press::go() {}\n", "C++")});
  ASSERT_TRUE(trials[0].compiled);
  EXPECT_EQ(symbols(trials[0]), "+heat +kiln -fire");
  EXPECT_EQ(symbols(trials[1]), "+_ZN5Press2goEv");
}
TEST_F(TrialTest, OneOptionMoreMayBeEnough) {
  auto kiln = source("kiln.c", "#ifndef HOT\n#error cold\n#endif\nint kiln;\n");
  kiln.further = {"-DCOLD", "-DHOT", "-DHOTTER"};
  const auto trials = compile({kiln});
  ASSERT_TRUE(trials[0].compiled);
  EXPECT_EQ(trials[0].options, std::vector<std::string>{"-DHOT"});
}
TEST_F(TrialTest, FailuresHaveAFirstErrorAndAHeader) {
  const auto trials = compile({source("a.c", "#include <no_such_clay.h>\n"), source("b.c", "int b(void) { return }\n"),
                               source("c.adb", "", "Ada")});
  EXPECT_EQ(trials[0].missing_header, "no_such_clay.h");
  EXPECT_FALSE(trials[1].compiled);
  EXPECT_NE(trials[1].failure.find("b.c:1:"), std::string::npos) << trials[1].failure;
  EXPECT_TRUE(trials[2].no_compiler);
}
TEST_F(TrialTest, OneThatCompiledBeforeIsRemembered) {
  const std::string kept = tree_.scratch() + "/kept";
  const auto in_a_run = [&](const TrialSource& one) {
    Answers answers(kept);
    return compile_on_trial({one}, test::Reading::toolchain(), 1, &answers, [](std::size_t) {});
  };
  EXPECT_EQ(symbols(in_a_run(source("kiln.c", "int kiln(void) { return 1; }\n"))[0]), "+kiln");
  const auto after = in_a_run(source("kiln.c", "int kiln(void) { return }\n"));
  EXPECT_FALSE(after[0].compiled);
  EXPECT_EQ(symbols(after[0]), "+kiln");
}
TEST_F(TrialTest, AnAnswerIsKeptUntilAHeaderChanges) {
  tree_.write("heat.h", "int cold;\n");
  const auto kiln = source("kiln.c", "#include \"heat.h\"\n");
  EXPECT_EQ(symbols(compile({kiln})[0]), "+cold");
  tree_.write("heat.h", "int warm;\n");
  // Within a run nothing is looked at twice.
  Answers later(tree_.scratch() + "/later");
  EXPECT_EQ(symbols(compile_on_trial({kiln}, test::Reading::toolchain(), 1, &later, [](std::size_t) {})[0]), "+warm");
}
TEST_F(TrialTest, ModulesComeBeforeWhoUsesThem) {
  auto kiln = source("a_kiln.f90", "program kiln\nuse clay\nend program\n", "Fortran");
  kiln.uses_modules = {"clay"};
  auto clay = source("b_clay.f90", "module clay\nend module\n", "Fortran");
  clay.defines_modules = {"clay"};
  ASSERT_TRUE(test::Reading::toolchain().compiler("Fortran").present());
  const auto trials = compile({kiln, clay});
  EXPECT_TRUE(trials[0].compiled) << trials[0].failure;
  EXPECT_TRUE(trials[1].compiled);
}

TEST_F(TrialTest, OfModulesOfOneNameTheNearestIsUsed) {
  // Two programs, each with a module of its own; the names in them differ.
  std::vector<TrialSource> all;
  for (const std::string name : {"kiln", "press"}) {
    all.push_back(source(name + "/main.f90", "program p\nuse clay, only: " + name + "_clay\nend program\n", "Fortran"));
    all.back().uses_modules = {"clay"};
    all.push_back(source(name + "/clay.f90", "module clay\ninteger :: " + name + "_clay\nend module\n", "Fortran"));
    all.back().defines_modules = {"clay"};
    all.back().further = {"-std=legacy"};
  }
  for (const auto& trial : compile(all)) {
    EXPECT_TRUE(trial.compiled) << trial.failure;
    EXPECT_TRUE(trial.options.empty());
  }
}

class OutsideTest : public TrialTest {
 protected:
  OutsideTest() {
    // A library in a prefix of its own.
    files::write(prefix() + "/clay.c", "int clay_fire(void) { return 1; }\nint clay_cool(void) { return 2; }\n");
    files::write(prefix() + "/include/clay/clay.h", "int clay_fire(void);\n");
    files::write(prefix() + "/lib/pkgconfig/clay.pc",
                 "prefix=" + prefix() +
                     "\nName: clay\nDescription: c\nVersion: 1\nCflags: -I${prefix}/include/clay -DCLAY=1\n"
                     "Libs: -L${prefix}/lib -lclay\n");
    Command command;
    command.argv = {"cc", "-shared", "-fPIC", "-o", prefix() + "/lib/libclay.so", prefix() + "/clay.c"};
    EXPECT_TRUE(run(command).good());
    settings_.prefixes = {prefix()};
  }
  [[nodiscard]] std::string prefix() const { return tree_.scratch() + "/prefix"; }
  model::Settings settings_;
};

TEST_F(OutsideTest, LibrariesAreFoundBySymbolsAndHeaders) {
  locate::Locator locator(test::Reading::toolchain(), settings_);
  Outside outside(locator);
  EXPECT_TRUE(outside.system_has("stdio.h"));
  EXPECT_TRUE(outside.system_has("stddef.h"));
  EXPECT_FALSE(outside.system_has("clay.h"));
  EXPECT_FALSE(outside.is_found("clay.h"));
  const auto use = outside.use_of("clay.h");
  ASSERT_TRUE(use);
  EXPECT_EQ(use->library, "clay");
  EXPECT_EQ(use->usage.definitions, std::vector<std::string>{"CLAY=1"});
  EXPECT_FALSE(outside.use_of("no_such_glaze.h"));
  outside.ask({"clay_fire", "clay_cool", "sqrt", "no_such_symbol_anywhere"}, {"clay.h", "math.h"});
  EXPECT_TRUE(outside.is_defined("clay_cool"));
  EXPECT_FALSE(outside.is_defined("no_such_symbol_anywhere"));
  std::set<std::string> wanted = {"clay_fire", "sqrt", "no_such_symbol_anywhere"};
  std::vector<std::string> names;
  for (const auto& library : outside.libraries(wanted, {"clay.h", "math.h"}, "'kiln'", {}, true))
    names.push_back(library.name);
  EXPECT_EQ(names, (std::vector<std::string>{"clay", "m"}));
  EXPECT_EQ(wanted, std::set<std::string>{"no_such_symbol_anywhere"});
  EXPECT_EQ(locator.findings().size(), 2U);
}
TEST_F(OutsideTest, TheToolChainHasSymbolsOfItsOwn) {
  const locate::Locator locator(test::Reading::toolchain(), settings_);
  const auto c = locate::symbols_of_toolchain(locator, {"C"}, false);
  EXPECT_TRUE(c.contains("printf"));
  EXPECT_FALSE(c.contains("sqrt"));
  EXPECT_FALSE(c.contains("_Znwm"));
  EXPECT_TRUE(locate::symbols_of_toolchain(locator, {"C"}, true).contains("sqrt"));
  EXPECT_TRUE(locate::symbols_of_toolchain(locator, {"C++"}, false).contains("_Znwm"));
}

}  // namespace
}  // namespace coctilis::describe::sources
