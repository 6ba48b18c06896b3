// What rules for installing come to: what goes where, with which mode.
#include <fmt/format.h>

#include "base/text.h"
#include "plan/planning.h"

namespace coctilis::test {
namespace {

using Words = std::vector<std::string>;

class InstallTest : public PlanTest {
 protected:
  void SetUp() override {
    sources({"a.c", "b.c", "m.c", "inc/kiln/cone.h", "inc/kiln/deep/clay.h", "own.h", "data/cones.csv", "note.txt"});
  }
  // Each thing in a line: "file to mode <- from", with the tree called TREE, the folder of results WORK.
  Words installed(const std::string& text) {
    plan_ = plan(text);
    Words out;
    for (const auto& item : plan_.install) {
      static constexpr const char* kinds[] = {"file", "folder", "link", "text"};
      std::string line = std::string(kinds[static_cast<int>(item.kind)]) + " " + item.to;
      if (item.mode != 0) line += fmt::format(" {:o}", item.mode);
      if (item.optional) line += " optional";
      if (item.keep_mode) line += " as-it-is";
      if (item.kind != model::InstallItem::Kind::text && !item.from.empty()) line += " <- " + item.from;
      for (const auto& pattern : item.patterns)
        line += std::string(pattern.exclude ? " -" : " +") + (pattern.regex ? "/" : "") + pattern.text +
                (pattern.mode == 0 ? "" : fmt::format(":{:o}", pattern.mode));
      if (item.only_matching) line += " only";
      line = text::replace_all(line, reading_.tree.kiln() + "/work", "WORK");
      out.push_back(text::replace_all(line, tree(), "TREE"));
    }
    return out;
  }
  model::Plan plan_;
};

constexpr const char* targets =
    "add_executable(fire m.c)\nadd_library(clay STATIC a.c)\nadd_library(kiln SHARED b.c)\nadd_library(plug MODULE "
    "a.c)\n"
    "set_target_properties(kiln PROPERTIES VERSION 2.1.3 SOVERSION 2)\n";

TEST_F(InstallTest, TargetsGoWhereTheirKindGoes) {
  EXPECT_EQ(installed(std::string(targets) + "install(TARGETS fire clay kiln)\n"),
            (Words{"file bin/fire 755 <- WORK/fire", "file lib/libclay.a 644 <- WORK/libclay.a",
                   "file lib/libkiln.so.2.1.3 644 <- WORK/libkiln.so.2.1.3",
                   "link lib/libkiln.so.2 <- libkiln.so.2.1.3", "link lib/libkiln.so <- libkiln.so.2"}));
}

TEST_F(InstallTest, OneDestinationIsForAllUnlessAPartHasItsOwn) {
  EXPECT_EQ(
      installed(std::string(targets) + "install(TARGETS fire clay plug DESTINATION all RUNTIME DESTINATION run)\n"),
      (Words{"file run/fire 755 <- WORK/fire", "file all/libclay.a 644 <- WORK/libclay.a",
             "file all/libplug.so 644 <- WORK/libplug.so"}));
  EXPECT_EQ(
      installed(std::string(targets) +
                "install(TARGETS fire clay plug RUNTIME DESTINATION r LIBRARY DESTINATION l ARCHIVE DESTINATION a)\n"),
      (Words{"file r/fire 755 <- WORK/fire", "file a/libclay.a 644 <- WORK/libclay.a",
             "file l/libplug.so 644 <- WORK/libplug.so"}));
}

TEST_F(InstallTest, NamesToLinkWithGoAloneOrStay) {
  EXPECT_EQ(
      installed(std::string(targets) + "install(TARGETS kiln LIBRARY DESTINATION lib NAMELINK_SKIP)\n"),
      (Words{"file lib/libkiln.so.2.1.3 644 <- WORK/libkiln.so.2.1.3", "link lib/libkiln.so.2 <- libkiln.so.2.1.3"}));
  EXPECT_EQ(installed(std::string(targets) + "install(TARGETS kiln LIBRARY DESTINATION dev NAMELINK_ONLY)\n"),
            (Words{"link dev/libkiln.so <- libkiln.so.2"}));
}

TEST_F(InstallTest, ModesConfigurationsAndWhatIsLeftOut) {
  EXPECT_EQ(installed(std::string(targets) +
                      "install(TARGETS fire DESTINATION bin PERMISSIONS OWNER_READ OWNER_EXECUTE GROUP_READ SETUID)\n"),
            Words{"file bin/fire 540 <- WORK/fire"});
  EXPECT_EQ(installed(std::string(targets) + "install(TARGETS fire CONFIGURATIONS Debug DESTINATION bin)\n"
                                             "install(TARGETS clay CONFIGURATIONS release DESTINATION lib)\n"
                                             "install(TARGETS plug DESTINATION lib EXCLUDE_FROM_ALL)\n"
                                             "install(FILES own.h DESTINATION x CONFIGURATIONS Debug MinSizeRel)\n"),
            Words{"file lib/libclay.a 644 <- WORK/libclay.a"});
  EXPECT_EQ(installed(std::string(targets) + "install(TARGETS fire RUNTIME DESTINATION bin OPTIONAL)\n"),
            Words{"file bin/fire 755 optional <- WORK/fire"});
}

TEST_F(InstallTest, HeadersOfTargets) {
  EXPECT_EQ(installed(std::string(targets) +
                      "set_target_properties(clay PROPERTIES PUBLIC_HEADER \"own.h;inc/kiln/cone.h\")\n"
                      "install(TARGETS clay ARCHIVE DESTINATION lib PUBLIC_HEADER DESTINATION include/yard)\n"),
            (Words{"file include/yard/own.h 644 <- TREE/own.h", "file include/yard/cone.h 644 <- TREE/inc/kiln/cone.h",
                   "file lib/libclay.a 644 <- WORK/libclay.a"}));
  // Sets of headers keep their folders.
  EXPECT_EQ(installed(std::string(targets) +
                      "target_sources(clay PUBLIC FILE_SET HEADERS BASE_DIRS inc FILES inc/kiln/cone.h "
                      "inc/kiln/deep/clay.h)\n"
                      "install(TARGETS clay FILE_SET HEADERS DESTINATION include)\n"),
            (Words{"file include/kiln/cone.h 644 <- TREE/inc/kiln/cone.h",
                   "file include/kiln/deep/clay.h 644 <- TREE/inc/kiln/deep/clay.h",
                   "file lib/libclay.a 644 <- WORK/libclay.a"}));
}

TEST_F(InstallTest, Files) {
  EXPECT_EQ(installed("install(FILES own.h note.txt DESTINATION share)\n"
                      "install(PROGRAMS note.txt DESTINATION bin RENAME tool)\n"
                      "install(FILES note.txt TYPE DOC)\n"
                      "install(FILES note.txt TYPE INCLUDE)\n"
                      "install(FILES note.txt DESTINATION ${CMAKE_INSTALL_PREFIX}/inside OPTIONAL)\n"
                      "install(FILES note.txt DESTINATION /etc/yard PERMISSIONS OWNER_READ)\n"
                      "install(FILES ${CMAKE_CURRENT_BINARY_DIR}/made.h DESTINATION .)\n"),
            (Words{"file share/own.h 644 <- TREE/own.h", "file share/note.txt 644 <- TREE/note.txt",
                   "file bin/tool 755 <- TREE/note.txt", "file share/doc/yard/note.txt 644 <- TREE/note.txt",
                   "file include/note.txt 644 <- TREE/note.txt", "file inside/note.txt 644 optional <- TREE/note.txt",
                   "file /etc/yard/note.txt 400 <- TREE/note.txt", "file made.h 644 <- WORK/made.h"}));
}

TEST_F(InstallTest, FoldersAsThemselvesOrWhatIsInThem) {
  EXPECT_EQ(
      installed("install(DIRECTORY data inc/kiln DESTINATION share)\n"
                "install(DIRECTORY data/ DESTINATION share)\n"
                "install(DIRECTORY DESTINATION var/log)\n"
                "install(DIRECTORY inc/ DESTINATION include FILES_MATCHING PATTERN \"*.h\" PATTERN deep EXCLUDE)\n"
                "install(DIRECTORY data DESTINATION d USE_SOURCE_PERMISSIONS REGEX \"csv$\" PERMISSIONS OWNER_READ "
                "WORLD_READ)\n"
                "install(DIRECTORY data DESTINATION e FILE_PERMISSIONS OWNER_READ OWNER_WRITE)\n"),
      (Words{"folder share/data <- TREE/data", "folder share/kiln <- TREE/inc/kiln", "folder share <- TREE/data",
             "folder var/log", "folder include <- TREE/inc +*.h -deep only",
             "folder d/data as-it-is <- TREE/data +/csv$:404", "folder e/data 600 <- TREE/data"}));
}

TEST_F(InstallTest, ExpressionsInRules) {
  EXPECT_EQ(
      installed(
          std::string(targets) +
          "install(FILES $<TARGET_FILE:fire> $<$<CONFIG:Debug>:own.h> DESTINATION $<IF:$<CONFIG:Release>,r,d>)\n"),
      Words{"file r/fire 644 <- WORK/fire"});
}

TEST_F(InstallTest, WhatIsNotFollowedIsListed) {
  EXPECT_EQ(installed("add_library(o OBJECT a.c)\ninstall(CODE \"message(x)\")\ninstall(SCRIPT more.cmake)\n"
                      "install(TARGETS o OBJECTS DESTINATION lib/o)\n"),
            Words{});
  Words kinds;
  for (const auto& left : plan_.not_installed) kinds.push_back(left.kind + " " + left.name);
  EXPECT_EQ(kinds, (Words{"install rule CODE", "install rule SCRIPT", "objects o"}));
}

TEST_F(InstallTest, MistakesAreToldWithTheirPlace) {
  auto problem = refused("install(TARGETS nobody DESTINATION bin)\n");
  EXPECT_EQ(problem.exit, Exit::description);
  EXPECT_EQ(problem.place.line, 3);
  HAS(problem.what, "'nobody'");
  problem = refused("install(FILES own.h)\n");
  HAS(problem.what, "without DESTINATION");
  problem = refused("install(EXPORT kilns DESTINATION lib)\n");
  HAS(problem.what, "kilns");
}

// The text of the only exported file.
std::string exported(const model::Plan& plan) {
  for (const auto& item : plan.install) {
    if (item.kind == model::InstallItem::Kind::text) return item.from;
  }
  return {};
}

TEST_F(InstallTest, ExportsSayWhatUsersNeedAndNothingOfThisMachine) {
  installed(
      "add_library(clay STATIC a.c)\nadd_library(kiln SHARED b.c)\n"
      "target_include_directories(kiln PUBLIC $<BUILD_INTERFACE:${CMAKE_CURRENT_SOURCE_DIR}/inc> "
      "$<INSTALL_INTERFACE:include>)\n"
      "target_compile_definitions(kiln PUBLIC SHARED=1 PRIVATE HIDDEN=1 INTERFACE $<$<CONFIG:Debug>:SLOW>)\n"
      "target_compile_features(kiln PUBLIC c_std_11)\n"
      "target_link_libraries(kiln PUBLIC clay m PRIVATE dl)\n"
      "install(TARGETS clay kiln EXPORT kilns INCLUDES DESTINATION include/yard)\n"
      "install(EXPORT kilns NAMESPACE yard:: DESTINATION lib/cmake/kilns FILE kilns.cmake)\n");
  const std::string text = exported(plan_);
  for (const char* part : {"yard::kiln", "yard::clay", "SHARED=1", "include", "c_std_11", "$<$<CONFIG:Debug>:SLOW>",
                           "libkiln.so", "libclay.a", "include/yard"})
    HAS(text, part);
  for (const std::string& part : {std::string("HIDDEN"), tree(), reading_.tree.kiln(), std::string("BUILD_INTERFACE"),
                                  std::string("INSTALL_INTERFACE")})
    HAS_NOT(text, part);
  EXPECT_EQ(plan_.install.back().to, "lib/cmake/kilns/kilns.cmake");
}

TEST_F(InstallTest, AnExportedFileIsReadByOthersAsItWasMeant) {
  const auto made = plan(
      "add_library(clay STATIC a.c)\nadd_library(body INTERFACE)\n"
      "target_compile_definitions(body INTERFACE BODY=2)\ntarget_link_libraries(clay PUBLIC body PRIVATE m)\n"
      "install(TARGETS clay body EXPORT kilns)\ninstall(EXPORT kilns NAMESPACE yard:: DESTINATION lib/cmake/kilns)\n");
  Reading other;
  other.tree.write("prefix/lib/cmake/kilns/kilns-config.cmake", exported(made));
  other.tree.write("prefix/lib/libclay.a", "!<arch>\n");
  EXPECT_EQ(other.says("find_package(kilns REQUIRED PATHS ${CMAKE_SOURCE_DIR}/prefix NO_DEFAULT_PATH)\n"
                       "get_target_property(where yard::clay IMPORTED_LOCATION_NOCONFIG)\n"
                       "if(NOT where)\nget_target_property(where yard::clay IMPORTED_LOCATION)\nendif()\n"
                       "get_target_property(link yard::clay INTERFACE_LINK_LIBRARIES)\n"
                       "get_target_property(body yard::body INTERFACE_COMPILE_DEFINITIONS)\n"
                       "file(RELATIVE_PATH where ${CMAKE_SOURCE_DIR} ${where})\n"
                       "message(STATUS \"${where} ${link} ${body}\")\n"),
            Words{"prefix/lib/libclay.a yard::body;$<LINK_ONLY:m> BODY=2"});
}

}  // namespace
}  // namespace coctilis::test
