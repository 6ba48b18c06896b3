// Which objects belong together, by what they define and want.
#include "describe/sources/grouping.h"

#include <gtest/gtest.h>

#include <algorithm>

#include "base/text.h"
#include "describe/sources/tree.h"

namespace coctilis::describe::sources {
namespace {

// "defined +weak wanted?": names that are defined, and with a question mark those that are wanted.
Object object(const std::string& path, const std::string& symbols) {
  Object out;
  out.path = path;
  out.language = "C";
  out.role = survey::role_of_path(folder_of(path));
  for (auto word : text::words(symbols)) {
    ElfSymbol symbol;
    symbol.defined = !word.ends_with('?');
    if (!symbol.defined) word.pop_back();
    symbol.name = word;
    out.symbols.push_back(symbol);
  }
  return out;
}

class GroupingTest : public testing::Test {
 protected:
  void sort() { grouping = group(objects, "yard", hints, {"printf"}); }
  // "name: source source <library": of the group of that name.
  std::string of(const std::string& name) const {
    for (const auto& group : grouping.groups) {
      if (group.name != name) continue;
      std::vector<std::string> words;
      for (const auto i : group.objects) words.push_back(objects[i].path);
      std::sort(words.begin(), words.end());
      for (const auto i : group.libraries) words.push_back("<" + grouping.groups[i].name);
      if (!group.by_default) words.emplace_back("(on demand)");
      return text::join(words, " ");
    }
    return "no such group";
  }
  std::string reason_for(const std::string& path) const {
    for (const auto& one : grouping.left_out) {
      if (objects[one.object].path == path) return one.why;
    }
    return {};
  }
  std::vector<Object> objects;
  std::vector<LibraryHint> hints;
  Grouping grouping;
};

TEST_F(GroupingTest, AProgramIsWhatItsEntryPointNeeds) {
  objects = {object("main.c", "main fire? printf?"), object("fire.c", "fire cone?"), object("cone.c", "cone"),
             object("stray.c", "stray")};
  sort();
  EXPECT_EQ(of("yard"), "cone.c fire.c main.c");
  EXPECT_EQ(reason_for("stray.c"), "nothing uses what it defines");
}

TEST_F(GroupingTest, WhatTwoProgramsShareIsAnArchive) {
  objects = {object("press.c", "main fire?"), object("kiln.c", "main fire? cone?"), object("fire.c", "fire"),
             object("cone.c", "cone")};
  sort();
  EXPECT_EQ(of("press"), "press.c <common");
  EXPECT_EQ(of("kiln"), "cone.c kiln.c <common");
  EXPECT_EQ(of("common"), "fire.c");
}

TEST_F(GroupingTest, ATreeWithoutAProgramIsALibrary) {
  objects = {object("fire.c", "fire cone?"), object("cone.c", "cone"), object("tests/fire_test.c", "main fire?")};
  sort();
  EXPECT_EQ(of("yard"), "cone.c fire.c");
  EXPECT_EQ(of("fire_test"), "tests/fire_test.c <yard (on demand)");
}

TEST_F(GroupingTest, ALibraryThatTheTreeSpeaksOfIsMadeBesideItsPrograms) {
  hints = {{"clay", "", "clay.pc.in says -lclay"}};
  objects = {object("main.c", "main fire?"), object("fire.c", "fire"), object("glaze.c", "glaze")};
  sort();
  EXPECT_EQ(of("clay"), "fire.c glaze.c");
  EXPECT_EQ(of("yard"), "main.c <clay");
}

TEST_F(GroupingTest, AFolderOfALibraryIsOne) {
  objects = {object("src/main.c", "main fire?"), object("libclay/fire.c", "fire"), object("libclay/glaze.c", "glaze")};
  sort();
  EXPECT_EQ(of("clay"), "libclay/fire.c libclay/glaze.c");
  EXPECT_EQ(of("yard"), "src/main.c <clay");
}

TEST_F(GroupingTest, OfTwoDefinitionsTheNearerOneCountsAndIsSaid) {
  objects = {object("kiln/main.c", "main fire?"), object("kiln/fire.c", "fire"), object("spare/fire.c", "fire")};
  sort();
  EXPECT_EQ(of("kiln"), "kiln/fire.c kiln/main.c");
  EXPECT_FALSE(reason_for("spare/fire.c").empty());
  ASSERT_EQ(grouping.notes.size(), 1U);
  EXPECT_NE(grouping.notes[0].find("both kiln/fire.c and spare/fire.c define fire"), std::string::npos)
      << grouping.notes[0];
}

TEST_F(GroupingTest, WhatNobodyDefinesIsLeftToTheSystem) {
  objects = {object("main.c", "main deflate? printf?")};
  sort();
  ASSERT_EQ(grouping.groups.size(), 1U);
  EXPECT_EQ(grouping.groups[0].wanted, std::set<std::string>{"deflate"});
}

TEST_F(GroupingTest, TestsAreNamedLikeTests) {
  for (const char* name : {"clay_test", "test-clay", "tests", "unittest", "testclay", "example", "clay_bench"})
    EXPECT_TRUE(is_name_of_test(name)) << name;
  for (const char* name : {"contest", "latest", "clay", "request", "protest", "fastest"})
    EXPECT_FALSE(is_name_of_test(name)) << name;
}

TEST_F(GroupingTest, VersionsAreNoPartOfATreesName) {
  EXPECT_EQ(name_without_version("clay-1.2.3"), "clay");
  EXPECT_EQ(name_without_version("clay-tools-2"), "clay-tools");
  EXPECT_EQ(name_without_version("clay5.4"), "clay5.4");
  EXPECT_EQ(name_without_version("clay-main"), "clay");
  EXPECT_EQ(name_without_version("clay"), "clay");
  EXPECT_EQ(name_without_version("1.2"), "1.2");
}

}  // namespace
}  // namespace coctilis::describe::sources
