// Installing what a plan says: files, folders, links and texts below a prefix, and nothing beside it.
#include "stage/stage.h"

#include <sys/stat.h>

#include "support.h"

namespace coctilis::stage {
namespace {

using model::InstallItem;

class Staging : public testing::Test {
 protected:
  Staging() {
    plan_.tree = tree_.path();
    plan_.kiln = tree_.kiln();
    plan_.work = plan_.kiln + "/work";
  }
  InstallItem& add(InstallItem::Kind kind, const std::string& from, const std::string& to) {
    InstallItem item;
    item.kind = kind;
    item.from = from;
    item.to = to;
    plan_.install.push_back(item);
    return plan_.install.back();
  }
  model::Staged staged() {
    auto done = install(plan_, prefix_);
    EXPECT_TRUE(done.ok()) << (done.ok() ? "" : done.problem().what);
    return done ? *done : model::Staged{};
  }
  Problem refused() {
    const auto done = install(plan_, prefix_);
    EXPECT_FALSE(done.ok());
    return done ? Problem{} : done.problem();
  }
  [[nodiscard]] unsigned mode(const std::string& name) const {
    struct stat info {};
    return ::stat((prefix_ + "/" + name).c_str(), &info) == 0 ? info.st_mode & 07777U : 0;
  }
  test::TreeFolder tree_;
  model::Plan plan_;
  const std::string prefix_ = tree_.scratch() + "/to/here";
};

TEST_F(Staging, FilesComeWithTheModeThatIsAsked) {
  tree_.write("cone.h", "cone\n");
  add(InstallItem::Kind::file, tree_.path("cone.h"), "include/cone.h").mode = 0644;
  add(InstallItem::Kind::file, tree_.path("cone.h"), "bin/cone").mode = 0755;
  const auto done = staged();
  EXPECT_EQ(done.files, (std::vector<std::string>{"include/cone.h", "bin/cone"}));
  EXPECT_EQ(done.written, 2U);
  EXPECT_EQ(files::read(prefix_ + "/include/cone.h"), "cone\n");
  EXPECT_EQ(mode("include/cone.h"), 0644U);
  EXPECT_EQ(mode("bin/cone"), 0755U);
}

TEST_F(Staging, WhatIsTheSameStays) {
  tree_.write("cone.h", "cone\n");
  tree_.write("clay.h", "clay\n");
  add(InstallItem::Kind::file, tree_.path("cone.h"), "cone.h");
  add(InstallItem::Kind::file, tree_.path("clay.h"), "clay.h");
  EXPECT_EQ(staged().written, 2U);
  EXPECT_EQ(staged().written, 0U);
  tree_.write("clay.h", "loam\n");
  EXPECT_EQ(staged().written, 1U);
  EXPECT_EQ(files::read(prefix_ + "/clay.h"), "loam\n");
}

TEST_F(Staging, FoldersComeWithAllThatIsInThem) {
  tree_.write("clays/red/iron", "1\n");
  tree_.write("clays/white", "2\n");
  add(InstallItem::Kind::folder, tree_.path("clays"), "share");
  std::filesystem::create_directories(tree_.path("clays/none"));
  (void)staged();
  EXPECT_TRUE(files::is_folder(prefix_ + "/share/none"));
  EXPECT_EQ(files::read(prefix_ + "/share/red/iron"), "1\n");
  EXPECT_EQ(files::read(prefix_ + "/share/white"), "2\n");
}

TEST_F(Staging, OfFoldersPatternsChoose) {
  tree_.write("clays/red.h", "");
  tree_.write("clays/red.c", "");
  tree_.write("clays/old/white.h", "");
  auto& item = add(InstallItem::Kind::folder, tree_.path("clays"), "include");
  item.only_matching = true;
  item.patterns = {{false, "*.h", false, 0}, {true, "/old$", true, 0}};
  (void)staged();
  EXPECT_TRUE(files::is_file(prefix_ + "/include/red.h"));
  EXPECT_FALSE(files::is_file(prefix_ + "/include/red.c"));
  EXPECT_FALSE(files::is_file(prefix_ + "/include/old/white.h"));
}

TEST_F(Staging, EmptyFoldersLinksAndTexts) {
  add(InstallItem::Kind::folder, "", "var/kiln");
  add(InstallItem::Kind::link, "libclay.so.2", "lib/libclay.so");
  add(InstallItem::Kind::text, "Name: clay\n", "lib/clay.pc");
  (void)staged();
  (void)staged();
  EXPECT_TRUE(files::is_folder(prefix_ + "/var/kiln"));
  EXPECT_EQ(std::filesystem::read_symlink(prefix_ + "/lib/libclay.so"), "libclay.so.2");
  EXPECT_EQ(files::read(prefix_ + "/lib/clay.pc"), "Name: clay\n");
}

TEST_F(Staging, WhatIsNotThereIsAFailureUnlessItIsOptional) {
  auto& item = add(InstallItem::Kind::file, tree_.path("none"), "none");
  item.place = {"CMakeLists.txt", 9, 1};
  const auto problem = refused();
  EXPECT_EQ(problem.exit, Exit::step);
  EXPECT_EQ(problem.place.line, 9);
  plan_.install[0].optional = true;
  EXPECT_TRUE(staged().files.empty());
}

TEST_F(Staging, PlacesOutsideAreListedAndLeftAlone) {
  tree_.write("cone.h", "cone\n");
  const std::string outside = tree_.scratch() + "/outside/cone.h";
  add(InstallItem::Kind::file, tree_.path("cone.h"), outside);
  const auto done = staged();
  EXPECT_EQ(done.outside.size(), 1U);
  EXPECT_FALSE(files::is_file(outside));
}

TEST_F(Staging, NoPlaceLeavesThePrefix) {
  tree_.write("cone.h", "cone\n");
  add(InstallItem::Kind::file, tree_.path("cone.h"), "share/../../../cone.h");
  EXPECT_EQ(refused().exit, Exit::description);
  EXPECT_FALSE(files::is_file(tree_.scratch() + "/cone.h"));
}

TEST_F(Staging, APrefixThatCannotBeWrittenIsTold) {
  tree_.write("cone.h", "cone\n");
  files::write(tree_.scratch() + "/to", "a file\n");
  add(InstallItem::Kind::file, tree_.path("cone.h"), "cone.h");
  EXPECT_EQ(refused().exit, Exit::kiln);
}

}  // namespace
}  // namespace coctilis::stage
