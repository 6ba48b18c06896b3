// What lies in a folder, and whether that has changed.
#include "base/folder_stamps.h"

#include "support.h"

namespace coctilis {
namespace {

TEST(FolderStamps, FilesAndLinksByTheirWay) {
  const test::TreeFolder tree;
  tree.write("lib/deep/libclay.so", "x");
  std::filesystem::create_symlink("deep/libclay.so", tree.path("lib/libclay.so"));
  std::filesystem::create_symlink("/nowhere", tree.path("gone"));
  const auto stamps = stamps_below(tree.path());
  ASSERT_EQ(stamps.size(), 3U);
  EXPECT_EQ(stamps.at("lib/deep/libclay.so").size, 1U);
  EXPECT_TRUE(stamps.contains("lib/libclay.so"));
  EXPECT_TRUE(stamps.contains("gone"));
  EXPECT_TRUE(stamps_below(tree.path("none")).empty());
}

TEST(FolderStamps, AListingIsAnotherAfterEveryChange) {
  const test::TreeFolder tree;
  EXPECT_EQ(listing_of(tree.path()), "");
  tree.write("a", "1");
  std::set<std::string> seen = {"", listing_of(tree.path())};
  const auto is_another = [&] { return seen.insert(listing_of(tree.path())).second; };
  EXPECT_FALSE(is_another());
  tree.write("b", "2");
  EXPECT_TRUE(is_another());
  // The same bytes, the same size and date: the system knows.
  const auto date = std::filesystem::last_write_time(tree.path("a"));
  ::usleep(20'000);
  tree.write("a", "3");
  std::filesystem::last_write_time(tree.path("a"), date);
  EXPECT_TRUE(is_another());
  std::filesystem::permissions(tree.path("a"), std::filesystem::perms::owner_read);
  EXPECT_TRUE(is_another());
  std::filesystem::remove(tree.path("a"));
  EXPECT_TRUE(is_another());
}

}  // namespace
}  // namespace coctilis
