// Libraries for other languages: the rule for an interface file, and the library of what comes out.
#include "plan/planning.h"

namespace coctilis::test {
namespace {

class Swig : public PlanTest {
 protected:
  void SetUp() override {
    reading_.tree.write("curve.i", "%module(docstring=\"curves\") firing\n%include \"curve.h\"\n");
    reading_.tree.write("inc/curve.h", "int peak(void);\n");
    sources({"curve.c"});
  }
  const describe::listfile::Target& target(const Declared& project, const std::string& name) {
    const auto* found = project.target(name);
    if (found == nullptr) throw std::runtime_error("no target " + name);
    return *found;
  }
};

TEST_F(Swig, AnInterfaceFileIsARuleAndALibrary) {
  const auto made = plan(
      "add_library(curve STATIC curve.c)\ntarget_include_directories(curve PUBLIC inc)\n"
      "set_source_files_properties(curve.i PROPERTIES CPLUSPLUS ON SWIG_FLAGS -builtin)\n"
      "swig_add_library(firing LANGUAGE python OUTPUT_DIR ${CMAKE_BINARY_DIR}/py SOURCES curve.i)\n"
      "target_link_libraries(firing PRIVATE curve)\n"
      "set_property(TARGET firing PROPERTY SWIG_COMPILE_DEFINITIONS CONE=6)\n");
  const auto* glue = step(made, "py/curvePYTHON_wrap.cxx");
  ASSERT_NE(glue, nullptr);
  const std::string said = command(made, "py/curvePYTHON_wrap.cxx", model::StepKind::generate);
  for (const auto& part : {std::string(" -python "), std::string(" -builtin "), std::string(" -c++ "),
                           "-I" + tree("inc"), std::string("-DCONE=6"), "-outdir " + work("py")})
    HAS(said, part);
  EXPECT_EQ(glue->byproducts, std::vector<std::string>{work("py/firing.py")});
  EXPECT_FALSE(glue->dependency_file.empty());
  bool linked = false;
  for (const auto& t : made.targets) linked = linked || t.output.ends_with("/_firing.so");
  EXPECT_TRUE(linked);
}

TEST_F(Swig, TheOlderFormNamesTheTargetAsTheFile) {
  const auto project = reading_.read(
      "cmake_policy(SET CMP0078 OLD)\nswig_add_module(firing python curve.i curve.c)\n"
      "swig_link_libraries(firing m)\nmessage(STATUS ${SWIG_MODULE_firing_REAL_NAME})\n"
      "swig_add_module(glaze lua curve.i)\n");
  ASSERT_TRUE(project.ok()) << project.problem().what;
  EXPECT_EQ(project->messages.back(), "_firing");
  EXPECT_EQ(target(*project, "_firing").sources.size(), 2U);
  EXPECT_EQ(target(*project, "_firing").own.link_items.size(), 1U);
  EXPECT_EQ(target(*project, "glaze").sources.size(), 1U);
}

// Nothing is made while the description is read, least of all in the tree or outside of it.
TEST_F(Swig, FoldersAreNotMadeWhileReading) {
  const std::string outside = reading_.tree.scratch() + "/outside";
  const auto wrapped = reading_.read("swig_add_library(firing LANGUAGE python OUTPUT_DIR " + outside +
                                     " OUTFILE_DIR ${CMAKE_BINARY_DIR}/glue SOURCES curve.i)\n");
  ASSERT_TRUE(wrapped.ok()) << wrapped.problem().what;
  EXPECT_EQ(wrapped->rules.size(), 1U);
  EXPECT_FALSE(files::exists(outside));
  const auto refused = reading_.read(
      "add_library(k STATIC a.c)\nprotobuf_generate(TARGET k PROTOS a.proto PROTOC_OUT_DIR " + outside + ")\n");
  ASSERT_TRUE(refused.ok()) << refused.problem().what;
  ASSERT_FALSE(refused->warnings.empty());
  HAS(refused->warnings[0].what, "outside its output folder");
  EXPECT_FALSE(files::exists(outside));
}

TEST_F(Swig, WhatItCannotDoIsToldAtThePlace) {
  HAS(refused("swig_add_library(firing LANGUAGE cobol SOURCES curve.i)\n").what, "'cobol' is no language");
  HAS(refused("swig_add_library(firing LANGUAGE lua SOURCES curve.c)\n").what, "no interface file");
  HAS(refused("swig_add_library(firing SOURCES curve.i)\n").what, "no LANGUAGE");
}

}  // namespace
}  // namespace coctilis::test
