// What sources and module files of Go say.
#include "describe/go/module.h"
#include "describe/go/source.h"
#include "describe/go/test_source.h"
#include "support.h"

namespace coctilis::describe::go {
namespace {

TEST(GoSource, SaysItsPackageItsImportsAndWhatItEmbeds) {
  const auto facts = facts_of_source(
      "// Package firing fires.\n//go:build linux && !gas\n\n/* import \"no/such\" */\npackage firing\n\nimport "
      "\"fmt\"\n"
      "import (\n\t_ \"embed\"\n\tg \"yard.example/glaze\" // import \"x\"\n\t. `yard.example/clay`\n)\n\n"
      "//go:embed pages/*.html \"a b.txt\"\n//go:embed all:art\nvar pages string\n\nvar s = `import \"y\"`\n");
  EXPECT_EQ(facts.package, "firing");
  EXPECT_EQ(facts.constraint, "linux && !gas");
  EXPECT_EQ(facts.imports, (std::vector<std::string>{"fmt", "embed", "yard.example/glaze", "yard.example/clay"}));
  EXPECT_EQ(facts.embeds, (std::vector<std::string>{"pages/*.html", "a b.txt", "all:art"}));
  EXPECT_FALSE(facts.uses_c);
}
TEST(GoSource, OldConstraintsAreReadToo) {
  EXPECT_EQ(facts_of_source("// +build linux,amd64 darwin\n// +build !gas\n\npackage x\n").constraint,
            "((linux && amd64) || (darwin)) && ((!gas))");
}
TEST(GoSource, LinesForC) {
  const auto facts = facts_of_source(
      "package x\n\n// #cgo LDFLAGS: -lm\n// #cgo pkg-config: zlib\n// #include <math.h>\nimport \"C\"\nimport "
      "\"fmt\"\n");
  EXPECT_TRUE(facts.uses_c);
  EXPECT_EQ(facts.cgo, (std::vector<std::string>{"LDFLAGS: -lm", "pkg-config: zlib"}));
  EXPECT_EQ(facts.imports, std::vector<std::string>{"fmt"});
}
TEST(GoSource, WhatIsNoneIsTold) {
  for (const char* text : {"", "hello", "/* never", "\"", "import \"fmt\"\n"})
    EXPECT_FALSE(facts_of_source(text).problem.empty()) << text;
}

struct Constraint {
  const char* name;
  const char* text;
  bool holds;
  bool good;
};
class Constraints : public testing::TestWithParam<Constraint> {};
TEST_P(Constraints, AreWorkedOut) {
  std::string problem;
  const auto has = [](const std::string& tag) { return tag == "linux" || tag == "amd64" || tag == "go1.18"; };
  EXPECT_EQ(holds(GetParam().text, has, problem), GetParam().holds);
  EXPECT_EQ(problem.empty(), GetParam().good) << problem;
}
INSTANTIATE_TEST_SUITE_P(Texts, Constraints,
                         testing::Values(Constraint{"One", "linux", true, true},
                                         Constraint{"Not", "!linux", false, true},
                                         Constraint{"Both", "linux && amd64 && go1.18", true, true},
                                         Constraint{"AndBindsMore", "windows && linux || amd64", true, true},
                                         Constraint{"Brackets", "(windows || linux) && !(gas || arm)", true, true},
                                         Constraint{"Open", "(linux", false, false},
                                         Constraint{"Nothing", "", false, false},
                                         Constraint{"Trailing", "linux amd64", false, false},
                                         Constraint{"Sign", "linux & amd64", false, false}),
                         [](const auto& one) { return one.param.name; });
TEST(GoConstraint, ThatGoesTooDeepEnds) {
  std::string problem;
  EXPECT_FALSE(holds(
      std::string(100000, '('), [](const std::string&) { return true; }, problem));
  EXPECT_FALSE(problem.empty());
}

TEST(GoNames, SayForWhatTheyAre) {
  bool test = false;
  const auto fits = [&](const char* name) { return name_fits(name, "linux", "amd64", test); };
  for (const char* name : {"kiln.go", "kiln_linux.go", "kiln_amd64.go", "kiln_linux_amd64.go", "linux.go", "windows.go",
                           "kiln_clay.go", "amd64.s"})
    EXPECT_TRUE(fits(name)) << name;
  for (const char* name :
       {"kiln_windows.go", "kiln_arm64.go", "kiln_linux_arm64.go", "kiln_darwin_amd64.go", "x_js.go"})
    EXPECT_FALSE(fits(name)) << name;
  EXPECT_TRUE(fits("kiln_linux_test.go"));
  EXPECT_TRUE(test);
  EXPECT_FALSE(fits("kiln_windows_test.go"));
}

TEST(GoModuleFile, IsRead) {
  const auto file = read_module_file(
      "// The yard.\nmodule \"yard.example/kiln/v2\"\n\ngo 1.18 // since spring\n\nrequire yard.example/clay "
      "v1.2.3\nrequire (\n"
      "\tyard.example/glaze v0.1.0 // indirect\n)\nreplace yard.example/clay => ../clay\n"
      "replace (\n\ta.b/c v1.0.0 => d.e/f v2.0.0\n)\nexclude yard.example/old v1.0.0\nretract [v1.0.0, v1.1.0]\n",
      "go.mod");
  EXPECT_EQ(file.path, "yard.example/kiln/v2");
  EXPECT_EQ(file.minor, 18);
  EXPECT_EQ(file.requires_.size(), 2U);
  EXPECT_EQ(file.requires_.at("yard.example/glaze").version, "v0.1.0");
  EXPECT_EQ(file.requires_.at("yard.example/glaze").place.line, 8);
  EXPECT_EQ(file.replaces.at("yard.example/clay").path, "../clay");
  EXPECT_EQ(file.replaces.at("a.b/c").version, "v2.0.0");
}
TEST(GoModuleFile, WhatIsNoLineIsTold) {
  for (const auto& [text, line] : std::vector<std::pair<const char*, int>>{
           {"module a\nbuild all\n", 2}, {"go two\n", 1}, {"module a\n\nrequire a.b/c\n", 3}, {"replace a b\n", 1}}) {
    try {
      static_cast<void>(read_module_file(text, "go.mod"));
      ADD_FAILURE() << text;
    } catch (const Fault& fault) {
      EXPECT_EQ(fault.problem().place.line, line) << text;
      EXPECT_EQ(fault.problem().exit, Exit::description);
    }
  }
}
TEST(GoModuleFile, CapitalsOfTheCacheAreWrittenOtherwise) {
  EXPECT_EQ(escaped_path("yard.example/BrickWorks"), "yard.example/!brick!works");
}

// "kind name[: output]" of each.
std::vector<std::string> functions_of(std::string_view text) {
  std::vector<std::string> out;
  for (const auto& one : test_functions_of(text)) {
    static const char* const kinds[] = {"test", "benchmark", "fuzz", "example", "main"};
    out.push_back(std::string(kinds[static_cast<int>(one.kind)]) + " " + one.name +
                  (one.has_output ? (one.any_order ? " in any order: " : ": ") + one.output : std::string{}));
  }
  return out;
}

TEST(GoTestSource, FunctionsOfTests) {
  using List = std::vector<std::string>;
  EXPECT_EQ(
      functions_of("package x\nimport . \"testing\"\nfunc TestMain(m *testing.M) {}\nfunc TestHeat(t *T) {\n"
                   "  // func TestNo(t *T) {}\n  s := `func TestNeither(t *T) {}`; r := '{'; _ = func() {}\n}\n"
                   "func Test(t *testing.T){}\nfunc BenchmarkHeat(b *testing.B) {}\nfunc FuzzHeat(f *testing.F) {}\n"),
      (List{"main TestMain", "test TestHeat", "test Test", "benchmark BenchmarkHeat", "fuzz FuzzHeat"}));
  // What has such a name only, or takes something else.
  EXPECT_EQ(functions_of("package x\nfunc Testing(t *testing.T) {}\nfunc TestTwo(t *testing.T, n int) {}\n"
                         "func (k kiln) TestKiln(t *testing.T) {}\nfunc TestAny[V any](t *testing.T) {}\n"
                         "func TestB(b *testing.B) {}\nfunc TestGives(t *testing.T) int { return 0 }\n"
                         "func ExampleOf(n int) {}\nvar TestVariable = 1\nfunc TestMain(t *testing.T) {}\n"),
            (List{"test TestMain"}));
  // A function whose body is elsewhere takes nothing of what follows.
  EXPECT_EQ(functions_of("package x\nfunc add(a, b int) int\nfunc TestAdd(t *testing.T) {}\n"), (List{"test TestAdd"}));
  EXPECT_EQ(functions_of("package x\nfunc TestOpen(t *testing.T) {"), (List{"test TestOpen"}));
}

TEST(GoTestSource, ExamplesSayWhatTheyWrite) {
  using List = std::vector<std::string>;
  EXPECT_EQ(
      functions_of(
          "package x\nfunc Example() {\n\t// Output: no, not the last\n\tfire()\n\t// output:\n\t// a\n\t//   b\n"
          "}\nfunc ExampleTwo() {\n\tfire()\n\n\t/* Unordered output: c\nd */\n}\n"
          "func ExampleThree() {\n\t// Output: no\n\n\t// says nothing\n}\nfunc ExampleNone() {\n\t// Output:\n}\n"),
      (List{"example Example: a\n  b", "example ExampleTwo in any order: c\nd", "example ExampleThree",
            "example ExampleNone: "}));
}

TEST(GoTestSource, TextsStandInSources) { EXPECT_EQ(as_text("a\"b\\c\n\xc3\xa4"), "\"a\\\"b\\\\c\\x0a\\xc3\\xa4\""); }
}  // namespace
}  // namespace coctilis::describe::go
