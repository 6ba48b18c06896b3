#include "base/sights.h"

#include <fcntl.h>
#include <gtest/gtest.h>
#include <sys/stat.h>
#include <unistd.h>

#include <filesystem>

#include "base/files.h"

namespace coctilis {
namespace {

class SightsTest : public testing::Test {
 protected:
  SightsTest() : folder(scratch.path().string()) {}
  [[nodiscard]] std::string at(const std::string& name) const { return folder + "/" + name; }
  // Long enough ago that a change shows.
  static void grow_old() { ::usleep(40000); }
  files::ScratchFolder scratch{"sights"};
  std::string folder;
};

TEST_F(SightsTest, StandsAsLongAsAllIsAsItWas) {
  files::write(at("brick"), "clay");
  std::filesystem::create_symlink("brick", at("link"));
  std::filesystem::create_symlink("nowhere", at("lost"));
  grow_old();
  Sights sights;
  sights.look(Sights::Kind::file, at("brick"));
  sights.look(Sights::Kind::file, folder);
  sights.look(Sights::Kind::link, at("link"));
  sights.look(Sights::Kind::absent, at("glaze"));
  sights.look(Sights::Kind::dangling, at("lost"));
  sights.look(Sights::Kind::presence, at("link"));
  ASSERT_FALSE(sights.spoilt());
  EXPECT_EQ(sights.size(), 6U);
  EXPECT_TRUE(Sights::stand(sights.packed()));
  EXPECT_TRUE(Sights::stand(""));
}

TEST_F(SightsTest, EveryKindShowsItsChange) {
  const auto falls = [&](Sights::Kind kind, const std::string& name, auto&& change) {
    grow_old();
    Sights sights;
    sights.look(kind, at(name));
    EXPECT_FALSE(sights.spoilt()) << name;
    EXPECT_TRUE(Sights::stand(sights.packed())) << name;
    change();
    EXPECT_FALSE(Sights::stand(sights.packed())) << name;
  };
  files::write(at("brick"), "clay");
  falls(Sights::Kind::file, "brick", [&] { files::write(at("brick"), "loam"); });
  falls(Sights::Kind::file, "brick", [&] { ::chmod(at("brick").c_str(), 0600); });
  falls(Sights::Kind::file, "brick", [&] {
    // Another content under the same size and date: its status has another.
    struct stat info {};
    ASSERT_EQ(::stat(at("brick").c_str(), &info), 0);
    files::write(at("brick"), "marl");
    const timespec times[2] = {info.st_atim, info.st_mtim};
    ASSERT_EQ(::utimensat(AT_FDCWD, at("brick").c_str(), times, 0), 0);
  });
  falls(Sights::Kind::absent, "glaze", [&] { std::filesystem::create_symlink("nowhere", at("glaze")); });
  falls(Sights::Kind::dangling, "glaze", [&] { files::write(at("nowhere"), ""); });
  falls(Sights::Kind::link, "glaze", [&] {
    std::filesystem::remove(at("glaze"));
    std::filesystem::create_symlink("brick", at("glaze"));
  });
  falls(Sights::Kind::presence, "brick", [&] { ::chmod(at("brick").c_str(), 0755); });
  files::make_folder(at("shelf"));
  falls(Sights::Kind::file, "shelf", [&] { files::write(at("shelf/tile"), ""); });
}

TEST_F(SightsTest, WhatMayHaveChangedUnseenSpoils) {
  files::write(at("brick"), "clay");
  Sights young;
  young.look(Sights::Kind::file, at("brick"));
  EXPECT_TRUE(young.spoilt());
  Sights gone;
  gone.look(Sights::Kind::file, at("glaze"));
  EXPECT_TRUE(gone.spoilt());
  grow_old();
  Sights twice;
  twice.look(Sights::Kind::file, at("brick"));
  files::write(at("brick"), "loam");
  grow_old();
  EXPECT_FALSE(twice.spoilt());
  twice.look(Sights::Kind::file, at("brick"));
  EXPECT_TRUE(twice.spoilt());
}

TEST_F(SightsTest, ManyAreLookedAtToo) {
  Sights sights;
  for (int i = 0; i < 6000; ++i) files::write(at(std::to_string(i)), "");
  grow_old();
  for (int i = 0; i < 6000; ++i) sights.look(Sights::Kind::file, at(std::to_string(i)));
  EXPECT_TRUE(Sights::stand(sights.packed()));
  files::write(at("5999"), "x");
  EXPECT_FALSE(Sights::stand(sights.packed()));
}

TEST_F(SightsTest, WhatIsNoSightDoesNotStand) {
  grow_old();
  Sights sights;
  sights.look(Sights::Kind::file, folder);
  const std::string packed = sights.packed();
  for (std::size_t size = 1; size < packed.size(); ++size) EXPECT_FALSE(Sights::stand(packed.substr(0, size))) << size;
}

TEST(Sights, WhatThisProgramWroteMayBeYoung) {
  const files::ScratchFolder scratch("sights");
  const std::string folder = scratch.path().string() + "/results";
  files::write(folder + "/lib/clay", "18\n");
  std::filesystem::create_symlink("lib/clay", folder + "/link");
  Sights sights;
  sights.see_own_below(folder);
  sights.see_own(folder + "/absent");
  EXPECT_FALSE(sights.spoilt());
  const std::string packed = sights.packed();
  EXPECT_TRUE(Sights::stand(packed));
  files::write(folder + "/absent", "");
  EXPECT_FALSE(Sights::stand(packed));
  std::filesystem::remove(folder + "/absent");
  files::write(folder + "/lib/clay", "21\n");
  EXPECT_FALSE(Sights::stand(packed));
}

}  // namespace
}  // namespace coctilis
