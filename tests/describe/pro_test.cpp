// The language of project files, to the letter.
#include <gtest/gtest.h>

#include "base/text.h"
#include "describe/pro/evaluator.h"
#include "support.h"

namespace coctilis::describe::pro {
namespace {

class ProTest : public testing::Test {
 protected:
  ProTest() {
    out_.tree = tree_.path();
    out_.work = tree_.kiln() + "/work";
    out_.initial["CONFIG"] = {"release", "unix", "linux"};
    out_.initial["QT_MAJOR_VERSION"] = {"5"};
    out_.properties["QT_INSTALL_BINS"] = "/opt/tools/bin";
    out_.installed_feature = [](const std::string&) { return std::string{}; };
    out_.compiles = [](const std::string& name, const std::string&) { return name == "heat"; };
    out_.has_module = [](const std::string& module) { return module == "widgets"; };
    out_.has_package = [](const std::string& package) { return package == "clay"; };
    out_.run = [this](const std::string& line, const std::string&) -> std::pair<std::string, bool> {
      lines_.push_back(line);
      return {"one two\nthree\n", line != "false"};
    };
    out_.warn = [this](const Place& place, const std::string& what) {
      said_.push_back(std::to_string(place.line) + ": " + what);
    };
    out_.say = [this](const std::string& what) { said_.push_back(what); };
  }
  // The variable X behind the text.
  std::string x(const std::string& text) {
    tree_.write("yard.pro", text);
    Evaluator evaluator(out_, tree_.path("yard.pro"));
    evaluator.run();
    return text::join(evaluator.values("X"), "|");
  }
  std::string problem(const std::string& text) {
    try {
      return "X = " + x(text);
    } catch (const Fault& fault) {
      return fault.problem().place.text() + ": " + fault.problem().what;
    }
  }
  test::TreeFolder tree_;
  Surroundings out_;
  std::vector<std::string> said_;
  std::vector<std::string> lines_;
};

TEST_F(ProTest, AssignmentsChangeLists) {
  EXPECT_EQ(x("X = a b\nX += c\nX *= a d\nX -= b\n"), "a|c|d");
  EXPECT_EQ(x("X = clay.cpp \\\n  # a remark\n  glaze.cpp \\\n  fire.cpp # the last\n"), "clay.cpp|glaze.cpp|fire.cpp");
  EXPECT_EQ(x("X = kiln-1 kiln-2\nX ~= s/kiln-([0-9])/oven\\\\1/\n"), "oven1|oven2");
  EXPECT_EQ(x("X = \"one two\" three\n"), "one two|three");
  EXPECT_EQ(x("X = \"\"\n"), "");
}
TEST_F(ProTest, ValuesAreExpanded) {
  EXPECT_EQ(x("A = b c\nX = $$A\n"), "b|c");
  EXPECT_EQ(x("A = b c\nX = \"$$A\"\n"), "b c");
  EXPECT_EQ(x("A = b c\nX = pre$${A}post\n"), "preb|cpost");
  EXPECT_EQ(x("X = $$[QT_INSTALL_BINS]/fire\n"), "/opt/tools/bin/fire");
  ::setenv("YARD_CLAY", "red", 1);
  EXPECT_EQ(x("X = $$(YARD_CLAY) $(YARD_CLAY)\n"), "red|red");
  EXPECT_EQ(x("V = 1.0\nX = VERSION=\\\\\\\"$$V\\\\\\\"\n"), "VERSION=\\\"1.0\\\"");
  EXPECT_EQ(x("target.path = /usr/bin\nX = $$target.path\n"), "/usr/bin");
}
TEST_F(ProTest, ConditionsChoose) {
  EXPECT_EQ(x("unix:X = u\nwin32:X = w\n"), "u");
  EXPECT_EQ(x("win32 {\n X = w\n} else:unix {\n X = u\n} else {\n X = e\n}\n"), "u");
  EXPECT_EQ(x("win32 {\n X = w\n} else {\n X = e\n}\n"), "e");
  EXPECT_EQ(x("win32: X = w\nelse: X = e\n"), "e");
  EXPECT_EQ(x("!win32:unix|macx { X = u }\n"), "u");
  EXPECT_EQ(x("CONFIG(debug, debug|release): X = d\nelse: X = r\n"), "r");
  EXPECT_EQ(x("CONFIG += debug\nCONFIG(debug, debug|release): X = d\n"), "d");
  EXPECT_EQ(x("greaterThan(QT_MAJOR_VERSION, 4): X += five\nlessThan(QT_MAJOR_VERSION, 6): X += below\n"),
            "five|below");
  EXPECT_EQ(x("A = b c\ncontains(A, c) { X = has }\n!contains(A, d): X += none\n"), "has|none");
  EXPECT_EQ(x("isEmpty(A): X = empty\nA = 1\nequals(A, 1): X += one\ncount(A, 1): X += counted\n"),
            "empty|one|counted");
  EXPECT_EQ(x("qtHaveModule(widgets): X = w\nqtHaveModule(quick): X += q\npackagesExist(clay): X += c\n"), "w|c");
  EXPECT_EQ(x("if(unix|win32): X = either\n"), "either");
  EXPECT_EQ(x("linux-g++*: X = here\nwin32-g++: X = there\n"), "here");
}
TEST_F(ProTest, LoopsAndFunctions) {
  EXPECT_EQ(x("A = 1 2 3\nfor(a, A): X += v$$a\n"), "v1|v2|v3");
  EXPECT_EQ(x("for(a, 1..3) {\n equals(a, 2): next()\n X += $$a\n}\n"), "1|3");
  EXPECT_EQ(x("defineReplace(doubled) {\n out = $$1 $$1\n return($$out)\n}\nX = $$doubled(a)\n"), "a|a");
  EXPECT_EQ(x("defineTest(put) {\n X = $$1\n export(X)\n}\nput(b)\n"), "b");
  EXPECT_EQ(x("defineTest(keep) {\n X = inner\n}\nX = outer\nkeep()\n"), "outer");
  EXPECT_EQ(x("defineTest(no) {\n return(false)\n}\nno(): X = yes\nelse: X = no\n"), "no");
  EXPECT_EQ(x("n = 0\nfor(ever) {\n n = $$num_add($$n, 1)\n greaterThan(n, 3): break()\n}\nX = $$n\n"), "4");
}
TEST_F(ProTest, FunctionsThatGiveValues) {
  EXPECT_EQ(x("A = a b\nX = $$join(A, -, <, >)\n"), "<a-b>");
  EXPECT_EQ(x("A = 1.2.3\nX = $$split(A, .)\n"), "1|2|3");
  EXPECT_EQ(x("A = 1.2.3\nX = $$section(A, ., 0, 1)\n"), "1.2");
  EXPECT_EQ(x("A = a b c\nX = $$first(A) $$last(A) $$size(A) $$member(A, 1)\n"), "a|c|3|b");
  EXPECT_EQ(x("X = $$upper(clay) $$lower(CLAY)\n"), "CLAY|clay");
  EXPECT_EQ(x("A = /x/clay.cpp\nX = $$basename(A) $$dirname(A)\n"), "clay.cpp|/x");
  EXPECT_EQ(x("A = b a b\nX = $$unique(A) $$sorted(A)\n"), "b|a|a|b|b");
  EXPECT_EQ(x("X = $$replace(clay, a, o)\n"), "cloy");
  EXPECT_EQ(x("X = $$system(date)\n"), "one|two|three");
  EXPECT_EQ(x("X = $$system(date, lines)\n"), "one two|three");
  EXPECT_EQ(x("system(false): X = good\nelse: X = bad\n"), "bad");
  tree_.write("src/a.cpp", "");
  tree_.write("src/b.cpp", "");
  EXPECT_EQ(x("X = $$files(src/*.cpp)\n"), "src/a.cpp|src/b.cpp");
  tree_.write("VERSION", "1.2\n");
  EXPECT_EQ(x("X = $$cat(VERSION)\n"), "1.2");
}
TEST_F(ProTest, FilesIncludeOthers) {
  tree_.write("parts/clay.pri", "X += $$PWD/clay.cpp\nX -= none\n");
  EXPECT_EQ(x("include(parts/clay.pri)\n"), tree_.path("parts/clay.cpp"));
  EXPECT_EQ(x("exists(local.pri): include(local.pri)\nX = here\n"), "here");
  EXPECT_EQ(x("!include(local.pri): X = none\n"), "none");
  tree_.write("features/kiln.prf", "X += feature\n");
  EXPECT_EQ(x("CONFIG += kiln\n"), "feature");
  tree_.write(".qmake.conf", "X = before\n");
  EXPECT_EQ(x("Y = 1\n"), "before");
}
TEST_F(ProTest, MistakesHaveTheirPlace) {
  EXPECT_EQ(problem("unix {\nX = 1\n"), "yard.pro:1: a '{' is not closed");
  EXPECT_EQ(problem("}\n"), "yard.pro:1: a '}' without a '{'");
  EXPECT_EQ(problem("contains(A, b: X = 1\n"), "yard.pro:1: a '(' is not closed");
  EXPECT_EQ(problem("else: X = 1\n"), "yard.pro:1: an 'else' without a condition before it");
  EXPECT_EQ(problem("X = 1\nerror(no kiln here)\n"), "yard.pro:2: no kiln here");
  EXPECT_EQ(problem("requires(win32)\n"), "yard.pro:1: the project requires 'win32'");
  tree_.write("a.pri", "include(a.pri)\n");
  EXPECT_EQ(problem("include(a.pri)\n"), "a.pri:1: the file includes itself");
  EXPECT_NE(problem("for(ever): X = 1\n").find("steps"), std::string::npos);
  EXPECT_NE(problem("defineReplace(f) { return($$f()) }\nX = $$f()\n").find("deeper"), std::string::npos);
  EXPECT_NE(problem("include(yard.pro, Y)\n").find("deeper"), std::string::npos);
  EXPECT_NE(problem("A = \"eval(\\$\\$A)\"\neval($$A)\n").find("deeper"), std::string::npos);
  std::string nested;
  for (int i = 0; i < 5000; ++i) nested += "$$upper(";
  EXPECT_NE(problem("X = " + nested + "a" + std::string(5000, ')') + "\n").find("deeper"), std::string::npos);
  EXPECT_NE(problem("A = a\nfor(i, 1..60): A += $$A\n").find("more than"), std::string::npos);
}
TEST_F(ProTest, TestProjectsTellByBeingCompiled) {
  tree_.write("config.tests/heat/heat.pro", "SOURCES = main.cpp\n");
  tree_.write("config.tests/cold/cold.pro", "SOURCES = main.cpp\n");
  EXPECT_EQ(
      x("load(configure)\nqtCompileTest(heat): X += heat\nqtCompileTest(cold): X += cold\nconfig_heat: X += kept\n"),
      "heat|kept");
}
TEST_F(ProTest, WhatIsNotKnownIsSaid) {
  EXPECT_EQ(x("no_such_test(1): X = 1\nelse: X = 2\n"), "2");
  ASSERT_EQ(said_.size(), 1U);
  EXPECT_EQ(said_[0], "1: the test 'no_such_test' is not known: it does not hold");
}

}  // namespace
}  // namespace coctilis::describe::pro
