#include "base/files.h"

#include <gtest/gtest.h>
#include <sys/stat.h>

#include "base/confine.h"
#include "base/file_operations.h"
#include "base/hash.h"
#include "support.h"

namespace coctilis::files {
namespace {

using Words = std::vector<std::string>;

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

TEST(Files, ANameThatIsTooLongIsAProblemToo) {
  const files::ScratchFolder folder("files");
  const std::string name(300, 'x');
  try {
    files::write(folder.path() / name / "brick", "x");
    FAIL() << "it was written";
  } catch (const Fault& fault) {
    EXPECT_EQ(fault.problem().exit, Exit::kiln);
  }
  EXPECT_FALSE(files::exists(folder.path().string() + "/" + name));
}

TEST(Files, AbsoluteIsNormal) {
  EXPECT_EQ(absolute("a/../b/./c/", std::string("/tree")), "/tree/b/c");
  EXPECT_EQ(absolute("/x//y/..", std::string("/tree")), "/x");
  EXPECT_EQ(absolute("..", std::string("/tree/kiln")), "/tree");
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

TEST(FileOperations, WriteOnlyIntoTheirFolder) {
  const ScratchFolder scratch("builtin");
  const std::string work = scratch.path().string() + "/work";
  write(work + "/a", "clay");
  std::string output;
  const auto act = [&](const Words& argv) { return run_operation(argv, work, work, output); };
  EXPECT_EQ(act({"copy", "a", "b"}), 0);
  EXPECT_EQ(read(work + "/b"), "clay");
  EXPECT_EQ(act({"make_directory", "d/e"}), 0);
  EXPECT_EQ(act({"copy", "a", "d"}), 0);
  EXPECT_TRUE(is_file(work + "/d/a"));
  EXPECT_EQ(act({"rm", "-rf", "d"}), 0);
  EXPECT_FALSE(is_folder(work + "/d"));
  EXPECT_EQ(act({"compare_files", "a", "b"}), 0);
  EXPECT_NE(act({"copy", "a", "../outside"}), 0);
  EXPECT_NE(act({"rm", "-rf", ".."}), 0);
  EXPECT_TRUE(is_file(work + "/a"));
  EXPECT_NE(act({"bake"}), 0);
  EXPECT_NE(output.find("outside the output folder"), std::string::npos);
}

// A link in the output folder does not lead out of it.
TEST(FileOperations, DoNotWriteThroughLinks) {
  const files::ScratchFolder scratch("operations");
  const std::string kiln = scratch.path().string() + "/kiln";
  const std::string other = scratch.path().string() + "/other";
  files::write(other + "/old.txt", "old");
  files::make_folder(kiln);
  std::filesystem::create_symlink(other, kiln + "/out");
  std::filesystem::create_symlink(other + "/old.txt", kiln + "/file");
  files::write(kiln + "/a.txt", "new");
  files::write(kiln + "/tree/sub/b.txt", "new");
  const auto before = std::filesystem::last_write_time(other + "/old.txt");
  std::string output;
  for (const auto& words : std::vector<std::vector<std::string>>{{"touch", "out/new.txt"},
                                                                 {"touch", "file"},
                                                                 {"copy", "a.txt", "out/new.txt"},
                                                                 {"copy", "a.txt", "out"},
                                                                 {"copy_directory", "tree", "out/tree"},
                                                                 {"make_directory", "out/new"},
                                                                 {"rm", "out/old.txt"},
                                                                 {"rename", "a.txt", "out/a.txt"}}) {
    output.clear();
    EXPECT_NE(files::run_operation(words, kiln, kiln, output), 0) << words[0];
    EXPECT_NE(output.find(outside_output_folder), std::string::npos) << output;
  }
  EXPECT_EQ(files::names_in(other), std::vector<std::string>{"old.txt"});
  EXPECT_EQ(std::filesystem::last_write_time(other + "/old.txt"), before);
  // The link itself is the output folder's; and what is reached through a link to the folder is in it.
  EXPECT_EQ(files::run_operation({"rm", "out"}, kiln, kiln, output), 0);
  EXPECT_FALSE(files::is_link(kiln + "/out"));
  std::filesystem::create_symlink(kiln, scratch.path().string() + "/way");
  const std::string way = scratch.path().string() + "/way";
  EXPECT_EQ(files::run_operation({"copy", "a.txt", "c.txt"}, way, way, output), 0) << output;
}

TEST(FileOperations, DoWhatTheirNamesSay) {
  const ScratchFolder scratch("operations");
  const std::string work = scratch.path().string();
  std::string output;
  const auto act = [&](const Words& argv) { return run_operation(argv, work, work, output); };
  write(work + "/from/a", "clay");
  write(work + "/from/deep/b", "glaze");
  EXPECT_EQ(act({"copy_directory", "from", "to"}), 0);
  EXPECT_EQ(read(work + "/to/deep/b"), "glaze");
  EXPECT_EQ(act({"rename", "to/a", "to/c"}), 0);
  EXPECT_EQ(read(work + "/to/c"), "clay");
  EXPECT_EQ(act({"create_symlink", "c", "to/link"}), 0);
  EXPECT_EQ(read(work + "/to/link"), "clay");
  EXPECT_EQ(act({"touch", "new"}), 0);
  EXPECT_TRUE(is_file(work + "/new"));
  EXPECT_EQ(act({"touch_nocreate", "never"}), 0);
  EXPECT_FALSE(is_file(work + "/never"));
  EXPECT_EQ(act({"compare_files", "from/a", "from/deep/b"}), 1);
  EXPECT_EQ(act({"true"}), 0);
  EXPECT_EQ(act({"false"}), 1);
  output.clear();
  EXPECT_EQ(act({"echo", "-n", "brick"}), 0);
  EXPECT_EQ(act({"cat", "from/a"}), 0);
  EXPECT_EQ(output, "-n brick\nclay");
  EXPECT_NE(act({"copy", "absent", "x"}), 0);
  EXPECT_NE(act({"copy"}), 0);
  EXPECT_NE(act({}), 0);
  EXPECT_EQ(act({"remove_directory", "to"}), 0);
  EXPECT_FALSE(is_folder(work + "/to"));
  EXPECT_TRUE(is_operation("copy"));
  EXPECT_FALSE(is_operation("bake"));
}

TEST(Operations, SumsAndArchives) {
  test::TreeFolder tree;
  tree.write("a/b.txt", "clay");
  const std::string folder = tree.path();
  std::string said;
  EXPECT_EQ(files::run_operation({"md5sum", "a/b.txt"}, folder, folder, said), 0);
  EXPECT_EQ(said, "01540f319ff0cf88928c83de23127fbb  a/b.txt\n");
  EXPECT_EQ(files::run_operation({"tar", "czf", "a.tar.gz", "a"}, folder, folder, said), 0);
  std::filesystem::remove_all(tree.path("a"));
  EXPECT_EQ(files::run_operation({"tar", "xzf", "a.tar.gz"}, folder, folder, said), 0);
  EXPECT_EQ(tree.read("a/b.txt"), "clay");
  EXPECT_NE(files::run_operation({"tar", "xf", "none.tar"}, folder, folder, said), 0);
  EXPECT_EQ(files::run_operation({"create_hardlink", "a/b.txt", "c"}, folder, folder, said), 0);
  EXPECT_NE(files::run_operation({"create_hardlink", "a/b.txt", "/tmp/brickyard-link"}, folder, folder, said), 0);
}

TEST(Files, APathMatchesAPatternWithFolders) {
  EXPECT_TRUE(files::path_matches("**/*.cs", "Kiln.cs"));
  EXPECT_TRUE(files::path_matches("**/*.cs", "a/b/Kiln.cs"));
  EXPECT_FALSE(files::path_matches("*.cs", "a/Kiln.cs"));
  EXPECT_TRUE(files::path_matches("**/glaze/**", "a/glaze/b/c.txt"));
  EXPECT_TRUE(files::path_matches("glaze/**", "glaze"));
  EXPECT_FALSE(files::path_matches("**/glaze/*", "a/glaze/b/c.txt"));
  // More of them than anybody would try in all ways.
  std::string pattern, path;
  for (int i = 0; i < 200; ++i) {
    pattern += "**/a/";
    path += "a/";
  }
  EXPECT_TRUE(files::path_matches(pattern + "x", path + "x"));
  EXPECT_FALSE(files::path_matches(pattern + "x", path + "y"));
}

}  // namespace
}  // namespace coctilis::files
