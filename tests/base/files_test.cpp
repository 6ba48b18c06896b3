#include "base/files.h"

#include <gtest/gtest.h>
#include <sys/stat.h>

#include "base/hash.h"

namespace coctilis::files {
namespace {

TEST(Files, WritesWholeAndOnlyWhenDifferent) {
  const ScratchFolder scratch("files");
  const std::string path = scratch.path().string() + "/deep/down/brick";
  EXPECT_TRUE(write_if_different(path, "clay"));
  EXPECT_FALSE(write_if_different(path, "clay"));
  EXPECT_TRUE(write_if_different(path, "glaze"));
  EXPECT_EQ(read(path), "glaze");
  EXPECT_EQ(std::distance(fs::directory_iterator(scratch.path() / "deep/down"), {}), 1);  // nothing temporary is left
}

TEST(Files, UnwritableFolderIsAProblemNotACrash) {
  const ScratchFolder scratch("files");
  write(scratch.path() / "file", "x");
  try {
    write(scratch.path() / "file" / "below", "y");
    FAIL() << "a file is no folder";
  } catch (const Fault& fault) {
    EXPECT_EQ(fault.problem().exit, Exit::kiln);
    EXPECT_FALSE(fault.problem().remedy.empty());
  }
}

TEST(Files, AbsoluteIsNormal) {
  EXPECT_EQ(absolute("a/../b/./c/", "/tree"), "/tree/b/c");
  EXPECT_EQ(absolute("/x//y/..", "/tree"), "/x");
  EXPECT_EQ(absolute("..", "/tree/kiln"), "/tree");
}

TEST(Files, BelowIsByNameNotByPrefix) {
  EXPECT_TRUE(is_below("/tree/kiln", "/tree"));
  EXPECT_TRUE(is_below("/tree", "/tree"));
  EXPECT_FALSE(is_below("/tree2/kiln", "/tree"));
  EXPECT_EQ(below("/tree/a/b", "/tree"), "a/b");
  EXPECT_EQ(below("/other", "/tree"), "/other");
}

TEST(Files, FoldersAndPipesAreNotRead) {
  const ScratchFolder scratch("files");
  EXPECT_FALSE(read(scratch.path()));
  const std::string pipe = scratch.path().string() + "/pipe";
  ASSERT_EQ(::mkfifo(pipe.c_str(), 0600), 0);
  EXPECT_FALSE(read(pipe));
  EXPECT_TRUE(hash_file(pipe));  // and does not wait for a writer
}

TEST(Files, HashTellsContents) {
  const ScratchFolder scratch("files");
  write(scratch.path() / "a", "clay");
  write(scratch.path() / "b", "clay");
  write(scratch.path() / "c", "glaze");
  const auto hash = [&](const char* name) { return hash_file((scratch.path() / name).string()); };
  EXPECT_EQ(hash("a"), hash("b"));
  EXPECT_NE(hash("a"), hash("c"));
  EXPECT_FALSE(hash("absent"));
  EXPECT_EQ(hash("a"), hash_bytes("clay"));
}

TEST(Files, ScratchFolderIsGoneAfterwards) {
  std::string path;
  {
    const ScratchFolder scratch("files");
    path = scratch.path().string();
    write(scratch.path() / "x/y", "z");
    EXPECT_TRUE(is_folder(path));
  }
  EXPECT_FALSE(is_folder(path));
}

}  // namespace
}  // namespace coctilis::files
