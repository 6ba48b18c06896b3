// Headers that appear where a compiler looked in vain before.
#include "engine/lookups.h"

#include <unistd.h>

#include "engine/engine.h"
#include "support.h"

namespace coctilis::engine {
namespace {

TEST(HeadersNamedIn, AreFoundWithHowTheyAreAskedFor) {
  const auto named = headers_named_in(
      "#include <clay.h>\n"
      "  #  include \"glaze.h\" // why\n"
      "#include_next <limits.h>\n"
      "#ifdef __has_include\n"
      "#if __has_include(<cone.h>) && __has_include ( \"own.h\" )\n"
      "#endif\n#endif\n");
  ASSERT_EQ(named.included.size(), 3U);
  EXPECT_EQ(named.included[0].text, "clay.h");
  EXPECT_FALSE(named.included[0].quoted);
  EXPECT_EQ(named.included[1].text, "glaze.h");
  EXPECT_TRUE(named.included[1].quoted);
  EXPECT_TRUE(named.included[2].next);
  ASSERT_EQ(named.asked.size(), 2U);
  EXPECT_EQ(named.asked[0].text, "cone.h");
  EXPECT_TRUE(named.asked[1].quoted);
  EXPECT_FALSE(named.any_included || named.any_asked);
}

TEST(HeadersNamedIn, NamesThatAreWorkedOutAreTold) {
  EXPECT_TRUE(headers_named_in("#include CONE_HEADER\n").any_included);
  EXPECT_TRUE(headers_named_in("#include /* the clay */ <clay.h>\n").any_included);
  EXPECT_TRUE(headers_named_in("#if __has_include(CONE_HEADER)\n").any_asked);
  EXPECT_FALSE(headers_named_in("#include\n#included <x>\nint include;\n\"#include <y>\"\n").any_included);
}

// Compiles for real: what compilers do is what counts.
class LookupsTest : public testing::Test {
 protected:
  LookupsTest() {
    plan_.tree = tree_.path();
    plan_.kiln = tree_.kiln();
    plan_.work = tree_.kiln() + "/work";
    files::make_folder(plan_.work);
  }
  void compile(const std::string& source, const std::vector<std::string>& folders,
               const std::vector<std::string>& quoted = {}) {
    model::Step step;
    step.kind = model::StepKind::compile;
    step.language = "C";
    step.source = tree_.path(source);
    step.subject = source;
    step.inputs = {step.source};
    step.outputs = {plan_.work + "/" + source + ".o"};
    step.dependency_file = step.outputs[0] + ".d";
    model::Action action;
    action.folder = plan_.work;
    action.argv = {"cc", "-c", step.source, "-o", step.outputs[0], "-MD", "-MF", step.dependency_file};
    model::SearchPath path;
    for (const auto& folder : quoted) {
      action.argv.insert(action.argv.end(), {"-iquote", tree_.path(folder)});
      path.quoted.push_back(tree_.path(folder));
    }
    for (const auto& folder : folders) {
      action.argv.insert(action.argv.end(), {"-I", tree_.path(folder)});
      path.folders.push_back(tree_.path(folder));
    }
    path.own = path.folders.size();
    path.folders.push_back("/usr/include");
    step.search = plan_.search_number(path);
    step.actions = {action};
    plan_.steps = {step};
  }
  // Why it ran; empty: it did not.
  std::string build() {
    // What is written in the very moment in which a compiler starts is not believed.
    ::usleep(30000);
    struct Nobody : Observer {
      void step_ended(std::size_t, const model::StepResult&) override {}
      void progress(const Progress&) override {}
    } nobody;
    Request request;
    request.selection = {true};
    const auto outcome = engine::build(plan_, request, nobody);
    EXPECT_TRUE(outcome.ok());
    if (!outcome.ok()) return "error";
    EXPECT_EQ(outcome->failed, 0U) << outcome->steps[0].output;
    return outcome->steps[0].reason;
  }
  test::TreeFolder tree_;
  model::Plan plan_;
};

TEST_F(LookupsTest, AHeaderThatIsFoundFirstNow) {
  tree_.write("kiln.c", "#include <clay.h>\nint kiln = CLAY;\n");
  tree_.write("late/clay.h", "#define CLAY 1\n");
  files::make_folder(tree_.path("early"));
  compile("kiln.c", {"early", "late"});
  build();
  EXPECT_EQ(build(), "");
  tree_.write("early/other.h", "");
  EXPECT_EQ(build(), "");
  tree_.write("early/clay.h", "#define CLAY 2\n");
  EXPECT_EQ(build(), "early/clay.h is found first now");
  EXPECT_EQ(build(), "");
  std::filesystem::remove(tree_.path("early/clay.h"));
  EXPECT_EQ(build(), "early/clay.h is gone");
}

TEST_F(LookupsTest, InAFolderThatWasNotThere) {
  tree_.write("kiln.c", "#include <red/clay.h>\nint kiln = CLAY;\n");
  tree_.write("late/red/clay.h", "#define CLAY 1\n");
  compile("kiln.c", {"early", "late"});
  build();
  EXPECT_EQ(build(), "");
  tree_.write("early/red/clay.h", "#define CLAY 2\n");
  EXPECT_EQ(build(), "early/red/clay.h is found first now");
}

TEST_F(LookupsTest, BesideTheSourceForNamesInQuotesOnly) {
  tree_.write("parts/kiln.c", "#include \"clay.h\"\n#include <glaze.h>\nint kiln = CLAY + GLAZE;\n");
  tree_.write("late/clay.h", "#define CLAY 1\n");
  tree_.write("late/glaze.h", "#define GLAZE 1\n");
  files::make_folder(plan_.work + "/parts");
  compile("parts/kiln.c", {"late"});
  build();
  tree_.write("parts/glaze.h", "#define GLAZE 2\n");
  EXPECT_EQ(build(), "");
  tree_.write("parts/clay.h", "#define CLAY 2\n");
  EXPECT_EQ(build(), "parts/clay.h is found first now");
}

TEST_F(LookupsTest, BesideAHeaderThatNamesAnother) {
  tree_.write("kiln.c", "#include <clay.h>\nint kiln = CLAY;\n");
  tree_.write("parts/clay.h", "#include \"cone.h\"\n#define CLAY CONE\n");
  tree_.write("late/cone.h", "#define CONE 1\n");
  compile("kiln.c", {"parts", "late"});
  build();
  EXPECT_EQ(build(), "");
  tree_.write("parts/cone.h", "#define CONE 2\n");
  EXPECT_EQ(build(), "parts/cone.h is found first now");
}

TEST_F(LookupsTest, AHeaderFoundBesideItsUserIsLookedForNowhereElse) {
  tree_.write("kiln.c", "#include <clay.h>\nint kiln = CLAY;\n");
  tree_.write("late/clay.h", "#include \"cone.h\"\n#define CLAY CONE\n");
  tree_.write("late/cone.h", "#define CONE 1\n");
  files::make_folder(tree_.path("early"));
  compile("kiln.c", {"early", "late"});
  build();
  tree_.write("early/cone.h", "#define CONE 2\n");
  EXPECT_EQ(build(), "");
}

TEST_F(LookupsTest, InFoldersForQuotesOnly) {
  tree_.write("kiln.c", "#include \"clay.h\"\nint kiln = CLAY;\n");
  tree_.write("late/clay.h", "#define CLAY 1\n");
  files::make_folder(tree_.path("quotes"));
  compile("kiln.c", {"late"}, {"quotes"});
  build();
  tree_.write("quotes/clay.h", "#define CLAY 2\n");
  EXPECT_EQ(build(), "quotes/clay.h is found first now");
}

TEST_F(LookupsTest, WhatIsAskedForByHasInclude) {
  tree_.write("kiln.c",
              "#include \"clay.h\"\n#if __has_include(<glaze.h>)\n#define GLAZE 1\n#else\n#define GLAZE 0\n#endif\n"
              "int kiln = GLAZE;\n");
  tree_.write("late/clay.h", "#if __has_include(\"cone.h\")\nint cone;\n#endif\n");
  files::make_folder(tree_.path("early"));
  compile("kiln.c", {"early", "late"});
  build();
  EXPECT_EQ(build(), "");
  tree_.write("late/glaze.h", "");
  EXPECT_EQ(build(), "late/glaze.h is there now");
  EXPECT_EQ(build(), "");
  tree_.write("early/glaze.h", "");
  EXPECT_EQ(build(), "early/glaze.h is there now");
  tree_.write("late/cone.h", "");
  EXPECT_EQ(build(), "late/cone.h is there now");
  std::filesystem::remove(tree_.path("late/cone.h"));
  EXPECT_EQ(build(), "late/cone.h is gone");
}

TEST_F(LookupsTest, AskedForByANameThatIsWorkedOut) {
  tree_.write("kiln.c",
              "#include <clay.h>\n#define NAME <glaze.h>\n#if __has_include(NAME)\nint glaze;\n#endif\nint kiln;\n");
  tree_.write("late/clay.h", "");
  files::make_folder(tree_.path("early"));
  compile("kiln.c", {"early", "late"});
  build();
  EXPECT_EQ(build(), "");
  tree_.write("early/glaze.h", "");
  EXPECT_EQ(build(), "early has other files in it");
  EXPECT_EQ(build(), "");
}

TEST_F(LookupsTest, AHeaderThatAppearsWhileItIsCompiled) {
  tree_.write("kiln.c", "#include <clay.h>\nint kiln = CLAY;\n");
  tree_.write("late/clay.h", "#define CLAY 1\n");
  files::make_folder(tree_.path("early"));
  compile("kiln.c", {"early", "late"});
  model::Action behind;
  behind.how = model::Action::How::shell;
  behind.folder = plan_.work;
  behind.argv = {"echo '#define CLAY 2' > " + tree_.path("early/clay.h")};
  plan_.steps[0].actions.push_back(behind);
  build();
  EXPECT_EQ(build(), "early/clay.h is found first now");
}

TEST_F(LookupsTest, AHeaderThatIsEditedWhileItIsCompiledAndGivenItsOldDate) {
  tree_.write("kiln.c", "#include <clay.h>\nint kiln = CLAY;\n");
  tree_.write("late/clay.h", "#define CLAY 1\n");
  compile("kiln.c", {"late"});
  model::Action behind;
  behind.how = model::Action::How::shell;
  behind.folder = plan_.work;
  const std::string header = tree_.path("late/clay.h");
  behind.argv = {"touch -r " + header + " stamp; echo '#define CLAY 2' > " + header + "; touch -r stamp " + header};
  plan_.steps[0].actions.push_back(behind);
  build();
  plan_.steps[0].actions.pop_back();
  build();
  // Not even when nothing but that is another.
  EXPECT_EQ(build(), "");
  plan_.steps[0].actions.push_back(behind);
  build();
  EXPECT_EQ(build(), "late/clay.h was changed while it was read");
}

}  // namespace
}  // namespace coctilis::engine
