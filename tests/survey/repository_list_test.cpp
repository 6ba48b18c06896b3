// Lists of repositories that belong to a tree.
#include "survey/repository_list.h"

#include "support.h"

namespace coctilis::survey {
namespace {

TEST(RepositoryList, NamesSources) {
  const test::TreeFolder tree;
  tree.write("yard.repos",
             "repositories:\n  clay:\n    type: git\n    url: https://brickyard.example/clay.git\n    version: v2.1\n"
             "  kits/glaze: {type: git, url: ../glaze, version: main}\n");
  tree.write("other.repos", "things: [1, 2]\n");
  model::Settings settings;
  model::Source own;
  own.name = "glaze";
  own.folder = "glaze";
  settings.sources = {own};
  ASSERT_TRUE(read_repository_lists(tree.path(), settings));
  ASSERT_EQ(settings.sources.size(), 2U);  // glaze is there already
  const auto& clay = settings.sources[1];
  EXPECT_EQ(clay.folder, "clay");
  EXPECT_EQ(clay.revision, "v2.1");
  EXPECT_EQ(clay.place.text(), "yard.repos:2");
}

TEST(RepositoryList, WhatCannotBeFollowedHasItsLine) {
  struct Bad {
    const char* text;
    const char* told;
  };
  for (const auto& [text, told] :
       {Bad{"repositories:\n  a: [\n", "yard.repos:3"}, Bad{"repositories:\n  a: 3\n", "yard.repos:2"},
        Bad{"repositories:\n  a: {type: hg, url: u, version: v}\n", "yard.repos:2"},
        Bad{"repositories:\n\n  a: {type: git, url: u}\n", "yard.repos:3"}, Bad{"repositories: 3\n", "yard.repos:1"}}) {
    const test::TreeFolder tree;
    tree.write("yard.repos", text);
    model::Settings settings;
    const auto read = read_repository_lists(tree.path(), settings);
    ASSERT_FALSE(read) << text;
    EXPECT_EQ(read.problem().exit, Exit::description);
    EXPECT_EQ(read.problem().place.text(), told) << text;
  }
}

}  // namespace
}  // namespace coctilis::survey
