// Which empty submodules are in the way of a build.
#include "pipeline/submodules.h"

#include "support.h"

namespace coctilis::test {
namespace {

class EmptySubmodules : public testing::Test {
 protected:
  EmptySubmodules() {
    run_.tree = tree.path();
    run_.options.tree = tree.path();
    run_.toolchain.compilers["C"].path = "/usr/bin/cc";
    run_.toolchain.compilers["C"].include_folders = {"/usr/include"};
    model::Submodule part;
    part.path = "parts/slip";
    part.url = "../slip";
    part.state = model::SubmoduleState::empty;
    run_.survey.submodules = {part};
    std::filesystem::create_directories(tree.path("parts/slip"));
    press_.name = "press";
    press_.folder = tree.path();
    press_.sources = {tree.path("press.c")};
    press_.include_folders = {tree.path("parts/slip/include")};
  }
  // Is the submodule required, when the target's source is `text`?
  bool required(const std::string& text) {
    tree.write("press.c", text);
    return required();
  }
  bool required() {
    run_.project.outlines = {press_};
    run_.findings.clear();
    pipeline::add_submodule_requirements(run_);
    for (const auto& finding : run_.findings) {
      if (finding.requirement.kind == model::RequirementKind::submodule) return finding.requirement.required;
    }
    ADD_FAILURE() << "it is not among the findings";
    return false;
  }
  TreeFolder tree;
  model::Run run_;
  model::Outline press_;
};

TEST_F(EmptySubmodules, AHeaderThatIsNowhereElseIsMissed) {
  EXPECT_TRUE(required("#include \"slip.h\"\nint main(void) { return 0; }\n"));
  EXPECT_TRUE(required("  #  include <slip/grain.h>\n"));
  EXPECT_TRUE(required("#if defined(GLAZED)\n#include \"other.h\"\n#endif\n#include \"slip.h\"\n"));
}

TEST_F(EmptySubmodules, HeadersThatAreSomewhereAreNot) {
  EXPECT_FALSE(required("int main(void) { return 0; }\n"));
  EXPECT_FALSE(required("#include <stdio.h>\n#include <vector>\n"));
  tree.write("inner/clay.h", "");
  tree.write("config.h.in", "");
  // In any folder, made from something in the tree, of a library of the system, or beside the source.
  EXPECT_FALSE(required("#include \"clay.h\"\n#include \"yard/config.h\"\n#include <zlib.h>\n"));
  // What only some systems include says nothing.
  EXPECT_FALSE(required("#ifdef _WIN32\n# include <windows.h>\n# ifdef OLD\n# include \"old.h\"\n# endif\n#endif\n"));
}

TEST_F(EmptySubmodules, OfTargetsThatAreNotMadeNothingIsMissed) {
  press_.in_default = false;
  EXPECT_FALSE(required("#include \"slip.h\"\n"));
  press_.in_default = true;
  press_.include_folders.clear();
  EXPECT_FALSE(required("#include \"slip.h\"\n"));
}

TEST_F(EmptySubmodules, ASourceInItIsMissed) {
  press_.sources.push_back(tree.path("parts/slip/slip.c"));
  EXPECT_TRUE(required("int main(void) { return 0; }\n"));
}

TEST_F(EmptySubmodules, WhatTheDescriptionStoppedAtIsMissed) {
  press_.include_folders.clear();
  tree.write("press.c", "");
  Problem problem;
  problem.what = "the folder 'parts/slip' has no description";
  run_.problem = problem;
  EXPECT_TRUE(required());
  problem.what = "the folder 'slip' has no description";
  problem.place = {"parts/CMakeLists.txt", 3, 1};
  run_.problem = problem;
  EXPECT_TRUE(required());
  problem.what = "the folder 'glaze' has no description";
  run_.problem = problem;
  EXPECT_FALSE(required());
}

TEST_F(EmptySubmodules, TheRemedyIsToldAsFarAsItIsKnown) {
  (void)required("#include \"slip.h\"\n");
  EXPECT_FALSE(pipeline::can_be_filled(run_));
  EXPECT_NE(run_.findings[0].reason.find("it is from ../slip"), std::string::npos);
  run_.survey.submodules[0].pinned = "82df3c637971d0c63e987196a1ea92c1bd15614e";
  (void)required();
  EXPECT_TRUE(pipeline::can_be_filled(run_));
  EXPECT_NE(run_.findings[0].reason.find(pipeline::fill_command(run_)), std::string::npos);
  EXPECT_EQ(run_.findings[0].requirement.constraint, "= 82df3c637971");
}

TEST_F(EmptySubmodules, NamesThatNobodyKnowsMayBeTargetsOfIt) {
  model::Finding library;
  library.requirement = {model::RequirementKind::library, "slip", {}, true, "target 'press'", {}, {}};
  library.requirement.required_by = "target press";
  tree.write("press.c", "#include \"slip.h\"\n");
  run_.project.outlines = {press_};
  run_.findings = {library};
  pipeline::add_submodule_requirements(run_);
  EXPECT_FALSE(run_.findings[0].requirement.required);
  EXPECT_NE(run_.findings[0].reason.find("perhaps a target of parts/slip"), std::string::npos);
}

TEST_F(EmptySubmodules, OneAtAnotherRevisionIsNotInTheWay) {
  auto& part = run_.survey.submodules[0];
  part.state = model::SubmoduleState::elsewhere;
  part.pinned = std::string(40, 'a');
  part.actual = std::string(40, 'b');
  part.changed = true;
  tree.write("press.c", "");
  EXPECT_FALSE(required());
  EXPECT_NE(run_.findings[0].reason.find("bbbbbbbbbbbb, with local changes"), std::string::npos);
}

}  // namespace
}  // namespace coctilis::test
