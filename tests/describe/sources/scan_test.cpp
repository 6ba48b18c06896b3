// What sources say of themselves.
#include "describe/sources/scan.h"

#include <gtest/gtest.h>

#include "base/text.h"
#include "describe/script/arguments.h"
#include "support.h"
#include "survey/folders.h"

namespace coctilis::describe::sources {
namespace {

std::string includes_of(const std::string& content, bool fortran = false) {
  std::vector<std::string> out;
  for (const auto& include : scan(content, fortran).includes)
    out.push_back((include.quoted ? "'" : "") + include.name + ":" + std::to_string(include.line) +
                  (include.condition.empty() ? "" : "(" + include.condition + ")"));
  return text::join(out, " ");
}

TEST(Scan, IncludesHaveNamesPlacesAndConditions) {
  EXPECT_EQ(includes_of("#include <stdio.h>\n  #  include \"clay.h\" // why\n#ifdef HAVE_X\n#include <x.h>\n#endif\n"),
            "stdio.h:1 'clay.h:2 x.h:4(HAVE_X)");
}
TEST(Scan, AGuardIsNoCondition) {
  EXPECT_EQ(includes_of("#ifndef CLAY\n#define CLAY\n#include \"fire.h\"\n#endif\n"), "'fire.h:3");
  EXPECT_EQ(includes_of("#if !defined(CLAY_)\n#define CLAY_\n#include \"fire.h\"\n#endif\n"), "'fire.h:3");
  EXPECT_EQ(includes_of("#include <a.h>\n#ifndef CLAY\n#include \"fire.h\"\n#endif\n"), "a.h:1 'fire.h:3(CLAY)");
}
TEST(Scan, WhatOtherSystemsIncludeIsPassedOver) {
  EXPECT_EQ(includes_of("#ifdef _WIN32\n#include <windows.h>\n#else\n#include <unistd.h>\n#endif\n"),
            "unistd.h:4(_WIN32)");
  EXPECT_EQ(includes_of("#ifndef _WIN32\n#include <unistd.h>\n#else\n#include <windows.h>\n#endif\n#include <a.h>\n"),
            "unistd.h:2 a.h:6");
  EXPECT_EQ(includes_of("#include <a.h>\n#if !defined(_WIN32)\n#include <unistd.h>\n#endif\n"),
            "a.h:1 unistd.h:3(!defined(_WIN32))");
}
TEST(Scan, CommentsAndWhatIsSwitchedOffSayNothing) {
  EXPECT_EQ(includes_of("/* #include <a.h>\n#include <b.h>\n*/ #include <c.h>\n#if 0\n#include <d.h>\n#endif\n"),
            "c.h:3");
  EXPECT_EQ(includes_of("const char* s = \"/*\";\n#include <a.h>\n"), "a.h:2");
}
TEST(Scan, NamesThatConditionsAskFor) {
  const auto scanned = scan("#if HAVE_UNISTD_H && !defined(HAVE_FIRE)\n#endif\n#ifdef NO_HAVE_X\n#endif\n", false);
  EXPECT_EQ(scanned.asked, (std::vector<std::string>{"HAVE_UNISTD_H", "HAVE_FIRE"}));
}
TEST(Scan, ModulesOfFortran) {
  const auto scanned = scan(
      "module Clay\n use, intrinsic :: iso_c_binding\n Use Fire, only: cone\n use :: glaze\n"
      "contains\n module procedure x\nend module\n",
      true);
  EXPECT_EQ(scanned.defines_modules, std::vector<std::string>{"clay"});
  EXPECT_EQ(scanned.uses_modules, (std::vector<std::string>{"fire", "glaze"}));
  EXPECT_EQ(includes_of("      include 'clay.inc'\n#include \"defs.h\"\n", true), "'clay.inc:1 'defs.h:2");
}

TEST(FolderRoles, AreTheFirstOnThePathThatSaysMore) {
  using survey::FolderRole;
  EXPECT_EQ(survey::role_of_path("src/clay"), FolderRole::own);
  EXPECT_EQ(survey::role_of_path("src/Tests/win32"), FolderRole::tests);
  std::string which;
  EXPECT_EQ(survey::role_of_path("lib/win32/x", &which), FolderRole::elsewhere);
  EXPECT_EQ(which, "lib/win32");
  EXPECT_EQ(survey::role_of_path("third_party/fire"), FolderRole::third_party);
}

class ScriptArguments : public testing::Test {
 protected:
  std::string words(const std::string& script, const std::vector<std::string>& given = {}) {
    return text::join(script::arguments_for("build", script, tree.path(), given, "release").words, " ");
  }
  test::TreeFolder tree;
};
const char* const insists =
    "#!/bin/sh\nif [ $# -lt 1 ]; then\n  echo \"usage: $0 linux|macos|windows\"\n  exit 1\nfi\n[ \"$1\" = linux ] && "
    "cc -o kiln kiln.c\n";

TEST_F(ScriptArguments, AScriptThatInsistsOnNoneGetsNone) { EXPECT_EQ(words("#!/bin/sh\ncc -o kiln kiln.c\n"), ""); }
TEST_F(ScriptArguments, TheUserHasTheFirstWord) { EXPECT_EQ(words(insists, {"macos"}), "macos"); }
TEST_F(ScriptArguments, TheUsageTextNamesThisSystem) { EXPECT_EQ(words(insists), "linux"); }
TEST_F(ScriptArguments, DocumentsCallIt) {
  tree.write("README.md", "Build it:\n\n    ./build linux\n");
  EXPECT_EQ(words("#!/bin/sh\n[ $# -eq 1 ] || { echo \"usage: build TARGET\"; exit 2; }\n"), "linux");
}

}  // namespace
}  // namespace coctilis::describe::sources
