#include "base/shared_count.h"

#include <gtest/gtest.h>

#include "base/files.h"

namespace coctilis {
namespace {

TEST(SharedCount, IsTheSameForAllThatOpenIt) {
  const files::ScratchFolder place("count");
  const std::string path = place.path().string() + "/count";
  SharedCount one(path);
  SharedCount other(path);
  one.add(0, 5);
  other.add(2, -1);
  EXPECT_EQ(one.values().done, 2U);
  EXPECT_EQ(one.values().total, 4U);
}

TEST(SharedCount, SurvivesThatSomebodyElseCutsItShort) {
  const files::ScratchFolder place("count");
  const std::string path = place.path().string() + "/count";
  SharedCount one(path);
  one.add(3, 3);
  std::filesystem::resize_file(path, 0);
  EXPECT_EQ(one.values().done, 0U);
  one.add(1, 1);
  EXPECT_EQ(one.values().done, 1U);
}

TEST(SharedCount, StaysAtZeroWhereThereIsNoFile) {
  SharedCount nowhere("/proc/no-such-kiln/count");
  nowhere.add(1, 1);
  EXPECT_EQ(nowhere.values().done, 0U);
}

}  // namespace
}  // namespace coctilis
