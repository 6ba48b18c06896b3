// Messages of compilers and linkers, found in what they print.
#include "engine/diagnostics.h"

#include <gtest/gtest.h>

#include "engine/documents.h"

namespace coctilis::engine {
namespace {

struct Message {
  const char* line;
  const char* severity;
  const char* place;
  const char* option;
  const char* text;
};
class Messages : public testing::TestWithParam<Message> {};

TEST_P(Messages, AreTakenApart) {
  const auto& m = GetParam();
  const auto found = find_diagnostics(std::string("before\n") + m.line + "\nafter\n", 7);
  ASSERT_EQ(found.size(), 1U);
  EXPECT_EQ(found[0].severity, m.severity);
  EXPECT_EQ(found[0].place.text(), m.place);
  EXPECT_EQ(found[0].option, m.option);
  EXPECT_EQ(found[0].message, m.text);
  EXPECT_EQ(found[0].step, 7U);
}

INSTANTIATE_TEST_SUITE_P(
    All, Messages,
    testing::Values(Message{"/yard/Kiln.cs(3,10): warning CS0168: The variable `x' is declared", "warning",
                            "/yard/Kiln.cs:3:10", "CS0168", "The variable `x' is declared"},
                    Message{"/yard/Kiln.java:7: warning: [deprecation] stop() is old", "warning", "/yard/Kiln.java:7",
                            "-Xlint:deprecation", "stop() is old"},
                    Message{"a.c:3:7: warning: unused variable 'clay' [-Wunused-variable]", "warning", "a.c:3:7",
                            "-Wunused-variable", "unused variable 'clay'"},
                    Message{"src/a b.cc:12: error: no", "error", "src/a b.cc:12", "", "no"},
                    Message{"/t/a.c:1:10: fatal error: clay.h: No such file or directory", "error", "/t/a.c:1:10", "",
                            "clay.h: No such file or directory"},
                    Message{"a.c:3:7: error: unused variable 'x' [-Werror=unused-variable]", "error", "a.c:3:7",
                            "-Wunused-variable", "unused variable 'x'"},
                    Message{"\x1b[1ma.c:3:7:\x1b[0m \x1b[35mwarning: \x1b[0mhot [\x1b[35m-Wfire\x1b[0m]", "warning",
                            "a.c:3:7", "-Wfire", "hot"},
                    Message{"a.c:3:7: warning: two [words] and [-Wone] [-Wtwo]", "warning", "a.c:3:7", "-Wtwo",
                            "two [words] and [-Wone]"}));

TEST(Diagnostics, OtherLinesAreNone) {
  for (const char* line :
       {"a.c:3:7: note: declared here", "a.c: In function 'main':", "warning: no place", "error",
        "make: *** [all] Error 2", "10:20:30: warming up", "   3 | int warning: error;", "a.c:x:7: warning: no line"})
    EXPECT_TRUE(find_diagnostics(line, 0).empty()) << line;
}

TEST(Diagnostics, TheFirstErrorStandsByItself) {
  const std::string output =
      "a.c: In function 'one':\na.c:1:1: warning: w\n    1 | x\nIn file included from b.h:3,\n                 from "
      "a.c:2:\nclay.h: In function 'two':\nclay.h:9:2: error: first\n    9 | y\nclay.h:8:1: note: here\na.c:7:1: "
      "error: "
      "second\n";
  EXPECT_EQ(
      first_error(output),
      "In file included from b.h:3,\n                 from a.c:2:\nclay.h: In function 'two':\nclay.h:9:2: error: "
      "first\n    9 | y\nclay.h:8:1: note: here\n");
  EXPECT_EQ(first_error("nothing of the kind\n"), "nothing of the kind\n");
  EXPECT_EQ(first_error(""), "");
}

TEST(Diagnostics, LinesOfTemplatesThatLeadToAnErrorStay) {
  const std::string output =
      "a.cc: In instantiation of 'f<int>':\na.cc:9:3:   required from here\na.cc:2:1: error: no member\n";
  EXPECT_EQ(first_error(output), output);
}

TEST(DocumentSteps, AreThoseThatMakeNothingElse) {
  model::Step step;
  EXPECT_FALSE(makes_documents(step));
  step.outputs = {"/k/press.1", "/k/press.html"};
  EXPECT_TRUE(makes_documents(step));
  step.outputs.emplace_back("/k/press");
  EXPECT_FALSE(makes_documents(step));
}

TEST(DocumentSteps, TheToolThatTheyLack) {
  const auto missing = [](const char* end, const char* output, const char* command = "") {
    model::StepResult result;
    result.end = end;
    result.output = output;
    result.command = command;
    return missing_tool(result);
  };
  EXPECT_EQ(missing("exit code 127", "/bin/sh: 1: glazer: not found\n"), "glazer");
  EXPECT_EQ(missing("exit code 127", "bash: line 2: glazer: command not found\n"), "glazer");
  EXPECT_EQ(missing("exit code 127", "WARNING: 'makeinfo' is missing on your system.\n"), "makeinfo");
  EXPECT_EQ(missing("could not be started: No such file or directory", "", "'/opt/my tools/glazer' -o x"),
            "/opt/my tools/glazer");
  EXPECT_EQ(missing("exit code 1", "glazer: not found\n"), "");
  EXPECT_EQ(missing("exit code 127", "something else\n"), "");
}

}  // namespace
}  // namespace coctilis::engine
