// What lists beside sources say of them, in trees whose description cannot be followed.
#include "describe/sources/lists.h"

#include <algorithm>

#include "base/text.h"
#include "support.h"

namespace coctilis::describe::sources {
namespace {

class SourceListsTest : public testing::Test {
 protected:
  SourceLists lists() {
    const Tree tree(tree_.path(), settings_, [](const std::string&) { return false; });
    return source_lists(tree, "yard");
  }
  static const ListedResult* named(const SourceLists& lists, const std::string& name) {
    const auto it =
        std::find_if(lists.results.begin(), lists.results.end(), [&](const auto& one) { return one.name == name; });
    return it == lists.results.end() ? nullptr : &*it;
  }
  test::TreeFolder tree_;
  model::Settings settings_;
};

TEST_F(SourceListsTest, ProgramsAndLibrariesHaveTheirNamesAndSources) {
  tree_.write("Makefile.am",
              "# lists\nbin_PROGRAMS = fire-curve\nnoinst_PROGRAMS = mold\nfire_curve_SOURCES = main.c \\\n"
              "  cone.c cone.h # of old\nif WITH_GLAZE\nfire_curve_SOURCES += glaze.c\nendif\n"
              "lib_LTLIBRARIES = libclay.la\nlibclay_la_SOURCES = clay.c $(MORE)\nMORE = pit.c $(UNKNOWN)\n"
              "all-local:\n\tbin_PROGRAMS = none\n");
  tree_.write("src/Makefile.am",
              "check_PROGRAMS = test_kiln\nlibexec_PROGRAMS = kiln\nkiln_SOURCES = kiln.c ../common/heat.c\n");
  const auto all = lists();
  ASSERT_NE(named(all, "fire-curve"), nullptr);
  EXPECT_EQ(text::join(named(all, "fire-curve")->sources, " "), "main.c cone.c cone.h glaze.c");
  EXPECT_EQ(named(all, "fire-curve")->place.text(), "Makefile.am:2");
  EXPECT_TRUE(named(all, "fire-curve")->installed);
  ASSERT_NE(named(all, "mold"), nullptr);
  EXPECT_EQ(text::join(named(all, "mold")->sources, " "), "mold.c") << "with nothing said the source of its name";
  EXPECT_FALSE(named(all, "mold")->installed);
  ASSERT_NE(named(all, "clay"), nullptr);
  EXPECT_TRUE(named(all, "clay")->library);
  EXPECT_EQ(text::join(named(all, "clay")->sources, " "), "clay.c pit.c") << "a word that is not known spoils no other";
  ASSERT_NE(named(all, "kiln"), nullptr);
  EXPECT_EQ(text::join(named(all, "kiln")->sources, " "), "src/kiln.c common/heat.c");
  ASSERT_NE(named(all, "test_kiln"), nullptr);
  EXPECT_TRUE(named(all, "test_kiln")->test);
  EXPECT_EQ(all.results.back().name, "test_kiln") << "tests come last";
  EXPECT_EQ(named(all, "none"), nullptr) << "what stands in a rule is no list";
}

TEST_F(SourceListsTest, DefinitionsHaveTheirVariablesPutIn) {
  tree_.write("configure.ac",
              "AC_INIT([Brick Yard], [2.1], [nobody])\nAS_IF([test -n \"$with_run\"],\n"
              "  [RUN_FOLDER=\"$with_run\"],\n  [RUN_FOLDER=\"${localstatedir}/run/yard\"])\nAC_SUBST(RUN_FOLDER)\n");
  tree_.write(
      "Makefile.am",
      "bin_PROGRAMS = fire\nAM_CPPFLAGS = -DCONES=\\\"\"$(sysconfdir)/cones\"\\\" -DPEAK=1250 -DLOST=$(NOBODY) "
      "-I$(top_srcdir)/include -Ilost\nAM_CFLAGS = -O3 -DRUN='\"$(RUN_FOLDER)\"' -DSHARE=\\\"$(pkgdatadir)\\\"\n"
      "fire_SOURCES = fire.c\ncheck_PROGRAMS = try\ntry_SOURCES = fire.c try.c\ntry_CPPFLAGS = -DTRY\n");
  tree_.write("include/cone.h", "");
  const auto all = lists();
  EXPECT_EQ(text::join(all.definitions.at("fire.c"), " "),
            "CONES=\"/usr/local/etc/cones\" PEAK=1250 RUN=\"/usr/local/var/run/yard\" "
            "SHARE=\"/usr/local/share/brick-yard\"")
      << "a test that is made of the same source has no say";
  EXPECT_EQ(text::join(all.definitions.at("try.c"), " "),
            "TRY RUN=\"/usr/local/var/run/yard\" SHARE=\"/usr/local/share/brick-yard\"");
  EXPECT_EQ(text::join(tree_.named(all.folders.at("fire.c")), " "), "TREE/include");
}

TEST_F(SourceListsTest, ValuesThatConfiguringDefinesAreTaken) {
  tree_.write("configure.ac",
              "AC_INIT(yard, 2.1)\nowner=\"fireman\"\nAC_DEFINE_UNQUOTED(OWNER, \"$owner\", [who fires])\n"
              "AC_DEFINE([CONES], [12], [how many])\nAC_DEFINE(HAS_GLAZE, 1, [there])\nAC_DEFINE([EMPTY], [])\n"
              "AC_DEFINE_UNQUOTED([HOST], [\"`hostname`\"])\nAC_DEFINE_UNQUOTED(LOST, $nobody)\n");
  const auto all = lists();
  EXPECT_EQ(all.values, (std::map<std::string, std::string>{{"CONES", "12"}, {"OWNER", "\"fireman\""}}));
}

TEST_F(SourceListsTest, VariablesThatLeadToThemselvesEnd) {
  tree_.write("Makefile.am", "A = $(B)\nB = $(A) $(A)\nbin_PROGRAMS = $(A) fire\nfire_SOURCES = $(B) fire.c\n");
  const auto all = lists();
  ASSERT_EQ(all.results.size(), 1U);
  EXPECT_EQ(text::join(all.results.front().sources, " "), "fire.c");
}

TEST_F(SourceListsTest, NothingOutsideOfTheTreeIsNamed) {
  tree_.write("Makefile.am",
              "bin_PROGRAMS = fire\nfire_SOURCES = ../../etc/x.c /etc/y.c fire.c\nAM_CPPFLAGS = -I/etc\n");
  const auto all = lists();
  ASSERT_EQ(all.results.size(), 1U);
  EXPECT_EQ(text::join(all.results.front().sources, " "), "fire.c");
  EXPECT_TRUE(all.folders.at("fire.c").empty());
}

}  // namespace
}  // namespace coctilis::describe::sources
