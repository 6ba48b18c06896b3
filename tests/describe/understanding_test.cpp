// What command lines of makefiles and scripts are understood to do.
#include "base/text.h"
#include "describe/commands.h"
#include "support.h"

namespace coctilis::test {
namespace {

using describe::divide;
using describe::understand;
using describe::without_empty_quotes;
using Words = std::vector<std::string>;

// "compile C: sources -> output", a line for each command that is understood.
Words told(const std::string& command) {
  Words out;
  for (const auto& one : understand(command, "/yard")) {
    if (one.kind == model::StepKind::custom) {
      out.push_back("custom");
      continue;
    }
    out.push_back(std::string(model::name_of(one.kind)) + (one.language.empty() ? "" : " " + one.language) +
                  (one.shared ? " shared" : "") + ": " + text::join(one.sources, " ") + " -> " + one.output +
                  (one.dependency_file.empty() ? "" : " " + one.dependency_file));
  }
  return out;
}

using Line = Saying;
class Understanding : public testing::TestWithParam<Line> {};
TEST_P(Understanding, Tells) { EXPECT_EQ(told(GetParam().text), GetParam().says); }

INSTANTIATE_TEST_SUITE_P(
    Compilers, Understanding,
    testing::Values(
        Line{"Object", "gcc -O2 -c clay.c -o out/clay.o", {"compile C: /yard/clay.c -> /yard/out/clay.o"}},
        Line{"ObjectWithoutAName", "cc -c src/clay.c", {"compile C: /yard/src/clay.c -> /yard/clay.o"}},
        Line{"OutputInOneWord", "g++ -c clay.cpp -oclay.o", {"compile C++: /yard/clay.cpp -> /yard/clay.o"}},
        Line{"CrossCompilerWithAVersion",
             "aarch64-linux-gnu-gcc-12 -c clay.c",
             {"compile C: /yard/clay.c -> /yard/clay.o"}},
        Line{"ACppCompilerTakesCForCpp", "clang++ -c clay.c", {"compile C++: /yard/clay.c -> /yard/clay.o"}},
        Line{"LanguageBySwitch", "gcc -x c++ -c clay.c", {"compile C++: /yard/clay.c -> /yard/clay.o"}},
        Line{"DependencyFiles",
             "gcc -MMD -c clay.c -o o/clay.o; gcc -MD -MF d/x.d -c x.c; gcc -Wp,-MMD,y.d -c y.c",
             {"compile C: /yard/clay.c -> /yard/o/clay.o /yard/o/clay.d",
              "compile C: /yard/x.c -> /yard/x.o /yard/d/x.d", "compile C: /yard/y.c -> /yard/y.o /yard/y.d"}},
        Line{"ValuesOfOptionsAreNoSources",
             "gcc -include conf.c -isystem x.c -D A.c -c clay.c",
             {"compile C: /yard/clay.c -> /yard/clay.o"}},
        Line{"ProgramAtOnce", "cc -o kiln kiln.c door.c -lm", {"link: /yard/kiln.c /yard/door.c -> /yard/kiln"}},
        Line{"ProgramOfObjects", "cc kiln.o door.o -lm -o kiln", {"link:  -> /yard/kiln"}},
        Line{"ProgramWithoutAName", "cc kiln.o", {"link:  -> /yard/a.out"}},
        Line{"SharedLibrary", "cc -shared -o libclay.so clay.o", {"link shared:  -> /yard/libclay.so"}},
        Line{"OnlyPreprocesses", "gcc -E clay.c -o clay.i", {}}, Line{"OnlyTells", "gcc --version", {}},
        Line{"WrittenOverLines", "gcc -c \\\n  cl\\\nay.c", {"compile C: /yard/clay.c -> /yard/clay.o"}}),
    name_of_saying);

INSTANTIATE_TEST_SUITE_P(
    Lines, Understanding,
    testing::Values(
        Line{"Archive", "ar rcs libclay.a a.o b.o", {"archive:  -> /yard/libclay.a"}},
        Line{"ArchiveWithADash", "x86_64-linux-gnu-ar -cr lib/libclay.a a.o", {"archive:  -> /yard/lib/libclay.a"}},
        Line{"ArchiveThatIsOnlyRead", "ar t libclay.a", {}},
        Line{"FolderFirst", "cd sub && gcc -c clay.c", {"compile C: /yard/sub/clay.c -> /yard/sub/clay.o"}},
        Line{"SeveralCommands",
             "echo CC clay; gcc -c clay.c && ar r l.a clay.o || exit 1",
             {"compile C: /yard/clay.c -> /yard/clay.o", "archive:  -> /yard/l.a"}},
        Line{"Wrapped",
             "ccache gcc -c clay.c; env LC_ALL=C gcc -c x.c; LANG=C cc -c y.c",
             {"compile C: /yard/clay.c -> /yard/clay.o", "compile C: /yard/x.c -> /yard/x.o",
              "compile C: /yard/y.c -> /yard/y.o"}},
        Line{"Redirected",
             "gcc -c clay.c >log 2>&1; gcc -c x.c 2> err.c",
             {"compile C: /yard/clay.c -> /yard/clay.o", "compile C: /yard/x.c -> /yard/x.o"}},
        Line{"Quoted", "gcc -D'NAME=\"red clay\"' -c \"my clay.c\"", {"compile C: /yard/my clay.c -> /yard/my clay.o"}},
        Line{"OnlyAShellKnows", "gcc -c `ls *.c`", {}}, Line{"Variables", "for i in a b; do gcc -c $i.c; done", {}},
        Line{"Steered", "if test -f x; then gcc -c x.c; fi", {}},
        Line{"OtherPrograms", "mkdir -p out && cp a.c out/", {}}),
    name_of_saying);

TEST(Understanding, KeepsTheWordsOfTheCompiler) {
  const auto all = understand("cd sub; ccache gcc -DA='x y' -c clay.c", "/yard");
  ASSERT_EQ(all.size(), 1U);
  EXPECT_EQ(all[0].folder, "/yard/sub");
  EXPECT_EQ(all[0].argv, (Words{"gcc", "-DA=x y", "-c", "clay.c"}));
}

TEST(PlainCommands, AreDividedWithoutAShell) {
  for (const auto& [line, words] :
       std::vector<std::pair<std::string, Words>>{{"gcc -DA='x  y' -DB=\"z\" -DC=\\\"q\\\" -DD='' \"\" a.c",
                                                   {"gcc", "-DA=x  y", "-DB=z", "-DC=\"q\"", "-DD=", "", "a.c"}},
                                                  {"  cc\t-c 'a;b.c' ", {"cc", "-c", "a;b.c"}},
                                                  {"cc \"a\\\"b\\\\ \\n\"", {"cc", "a\"b\\ \\n"}},
                                                  {"cc -c \\\n a\\\nb.c", {"cc", "-c", "ab.c"}}}) {
    const auto divided = divide(line);
    EXPECT_TRUE(divided.plain) << line;
    EXPECT_EQ(divided.commands, std::vector<Words>{words}) << line;
  }
  for (const char* line :
       {"",      "  ",    "a; b",  "a && b", "a | b",   "a > b", "a $b",    "a `b`",  "a \"$b\"", "a \"`b`\"",
        "a *.c", "a ?",   "a [x]", "a ~",    "a {b,c}", "A=1 b", "'A=1' b", "echo a", "cd x",     "\"\" a",
        "a 'b",  "a \"b", "a \\",  "a # b",  "! a",     "if a",  "then b",  "a $(b)", "(a)"})
    EXPECT_FALSE(divide(line).plain) << line;
}

TEST(PlainCommands, WhatOnlyAShellKnowsIsNotDivided) {
  for (const char* line : {"a `b`", "a $b", "a $(b)", "a | b", "for i in x; do y; done", "a 'b", "{ a; }", "a &"})
    EXPECT_TRUE(divide(line).commands.empty()) << line;
  EXPECT_EQ(divide("a >x 2>&1; b \"$c\" <y && d").commands, (std::vector<Words>{{"a"}, {"b", "$c"}, {"d"}}));
}

TEST(PlainCommands, EmptyQuotesInAWordGo) {
  EXPECT_EQ(without_empty_quotes("cc -DA='' -DB=\"\"; x"), "cc -DA= -DB=; x");
  EXPECT_EQ(without_empty_quotes("cc a''b"), "cc ab");
  // Where they are the word, or stand for something else, they stay.
  for (const char* line : {"cc '' x", "cc \"a''b\"", "cc 'a\"\"b'", "cc a\\''b'", "echo $''", "case x in '') ;; esac"})
    EXPECT_EQ(without_empty_quotes(line), line);
}

}  // namespace
}  // namespace coctilis::test
