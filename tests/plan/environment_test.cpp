// Environments that commands share until one of them is changed.
#include "model/environment.h"

#include <gtest/gtest.h>

namespace coctilis::model {
namespace {

TEST(Environment, CopiesShareUntilOneIsChanged) {
  Environment first = Environment::Map{{"CONE", "6"}, {"CLAY", "red"}};
  Environment second = first;
  EXPECT_EQ(&first.values(), &second.values());
  second["CONE"] = "9";
  EXPECT_EQ(first.values().at("CONE"), "6");
  EXPECT_EQ(second.values().at("CONE"), "9");
  EXPECT_EQ(second.values().at("CLAY"), "red");
  EXPECT_FALSE(first == second);
  second["CONE"] = "6";
  EXPECT_TRUE(first == second);
}

TEST(Environment, EmptyOnesHoldNothing) {
  Environment none;
  EXPECT_TRUE(none.empty());
  EXPECT_EQ(none.begin(), none.end());
  EXPECT_FALSE(none.contains("CONE"));
  Environment other = none;
  other["CONE"] = "6";
  EXPECT_TRUE(none.empty());
  EXPECT_EQ(other.size(), 1U);
  EXPECT_TRUE(none == Environment());
}

}  // namespace
}  // namespace coctilis::model
