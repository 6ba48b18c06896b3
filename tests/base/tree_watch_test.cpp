// Waiting for changes of a tree.
#include "base/tree_watch.h"

#include <unistd.h>

#include <fstream>
#include <thread>

#include "support.h"

namespace coctilis {
namespace {

class TreeWatchTest : public testing::Test {
 protected:
  // What is told of a change that is made while it is waited.
  std::string told(const std::function<void()>& change) {
    TreeWatch watch(tree_.path(), {tree_.path("kiln"), tree_.path("made.txt")});
    std::thread other([&] {
      ::usleep(20000);
      change();
    });
    const std::string out = watch.wait();
    other.join();
    return out;
  }
  test::TreeFolder tree_;
};

TEST_F(TreeWatchTest, TellsWhatHasChanged) {
  tree_.write("clay/a.c", "int a;\n");
  EXPECT_EQ(told([&] { tree_.write("clay/a.c", "int b;\n"); }), "clay/a.c");
  EXPECT_EQ(told([&] { std::filesystem::remove(tree_.path("clay/a.c")); }), "clay/a.c");
  EXPECT_EQ(told([&] {
              std::filesystem::permissions(tree_.path("clay"), std::filesystem::perms::owner_all);
              tree_.write("b.c", "");
            }),
            "b.c");
}

TEST_F(TreeWatchTest, AFolderThatComesLaterIsWatchedToo) {
  TreeWatch watch(tree_.path(), {});
  tree_.write("new/deep/a.c", "int a;\n");
  EXPECT_EQ(watch.wait(), "new");
  tree_.write("new/deep/a.c", "int b;\n");
  EXPECT_EQ(watch.wait(), "new/deep/a.c");
}

TEST_F(TreeWatchTest, WhatIsLeftOutTellsNothing) {
  for (const char* folder : {"kiln/x", ".git/x", "clay/x"}) tree_.write(folder, "");
  EXPECT_EQ(told([&] {
              for (const char* file : {"kiln/x", "kiln/y", ".git/x", "made.txt"})
                std::ofstream(tree_.path(file)) << "more";
              ::usleep(200000);
              tree_.write("clay/x", "more");
            }),
            "clay/x");
}

TEST_F(TreeWatchTest, WhatHappenedBeforeItWaitsIsNotLost) {
  tree_.write("a.c", "");
  TreeWatch watch(tree_.path(), {});
  EXPECT_EQ(watch.folders(), 1U);
  tree_.write("a.c", "int a;\n");
  EXPECT_EQ(watch.wait(), "a.c");
}

}  // namespace
}  // namespace coctilis
