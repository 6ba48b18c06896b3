// Names in the text of commands, and in *.pc files.
#include "survey/names.h"

#include "base/text.h"
#include "support.h"

namespace coctilis::survey {
namespace {

// "asked@line constraint, ... | given ...".
std::string told(const Names& names) {
  std::vector<std::string> asked;
  for (const auto& one : names.asked)
    asked.push_back(one.name + "@" + std::to_string(one.line) + (one.constraint.empty() ? "" : " " + one.constraint));
  return text::join(asked, ", ") + " | " + text::join(names.given, " ");
}

struct Commands {
  const char* name;
  const char* text;
  const char* told;
};
class NamesInCommands : public testing::TestWithParam<Commands> {};

TEST_P(NamesInCommands, AreFound) {
  Names names;
  names_in_commands(GetParam().text, names);
  EXPECT_EQ(told(names), GetParam().told) << GetParam().text;
}

INSTANTIATE_TEST_SUITE_P(
    All, NamesInCommands,
    testing::Values(
        Commands{"Linked", "kiln:\n\tcc -o kiln -lclay -lheat_2\n", "clay@2, heat_2@2 | "},
        Commands{"LinkedInAVariable", "LIBS=-lclay\nX='-lheat' \"-lstone\"\n", "clay@1, heat@2, stone@2 | "},
        Commands{"NoOption", "cc --libs-only -o file-list.c\n", " | "},
        Commands{"Asked", "L = $(shell ask --cflags --libs clay 'heat >= 2.1')\n", "clay@1, heat@1 >= 2.1 | "},
        Commands{"AskedWhether", "ask --exists \"clay>=1\"\n", "clay@1 >= 1 | "},
        Commands{"ModulesOfAScript", "PKG_CHECK_MODULES([C], [clay >= 1.2, heat])\n", "clay@1 >= 1.2, heat@1 | "},
        Commands{"LibraryOfAScript", "AC_CHECK_LIB([clay], [fire])\n", "clay@1 | "},
        Commands{"Archives", "all: libclay.a out/libheat.so.2\nlibstone.la:\n", " | clay heat stone"},
        Commands{"Comments", "# -lclay libclay.a\n   # --libs heat\n", " | "}, Commands{"Nothing", "", " | "}),
    [](const auto& one) { return one.param.name; });

TEST(NamesInPcFiles, AreRequirementsAndAVersion) {
  Names names;
  names_in_pc_file("Name: kiln\nVersion: 2.1.3\nRequires: clay >= 1, heat\nRequires.private: stone = 3\nLibs: -lkiln\n",
                   names);
  EXPECT_EQ(told(names), "clay@3 >= 1, heat@3, stone@4 = 3 | ");
  EXPECT_EQ(names.version, "2.1.3");
  Names of_template;
  names_in_pc_file("Version: @VERSION@\nRequires: @REQUIRED@ clay\n", of_template);
  EXPECT_EQ(of_template.version, "");
  EXPECT_EQ(told(of_template), "clay@2 | ");
}

}  // namespace
}  // namespace coctilis::survey
