#include "base/shared_library.h"

#include <cmath>

#include "base/result.h"

namespace coctilis {
namespace {

constexpr SharedLibrary mathematics("libm.so.6");
constexpr SharedLibrary nowhere("libclay-pit.so.0");

TEST(SharedLibrary, AFunctionIsCalledAsItIsDeclared) {
  const double root = COCTILIS_FUNCTION_OF(mathematics, sqrtl)(81.0L);
  EXPECT_EQ(root, 9.0);
}

TEST(SharedLibrary, WhatIsNotThereIsAFaultWithTheNameOfTheLibrary) {
  try {
    static_cast<void>(nowhere.function("dig"));
    FAIL() << "found";
  } catch (const Fault& fault) {
    EXPECT_EQ(fault.problem().exit, Exit::missing);
    EXPECT_NE(fault.problem().what.find("'libclay-pit.so.0'"), std::string::npos);
    EXPECT_FALSE(fault.problem().remedy.empty());
  }
  try {
    static_cast<void>(mathematics.function("fire_the_kiln"));
    FAIL() << "found";
  } catch (const Fault& fault) {
    EXPECT_NE(fault.problem().cause.find("fire_the_kiln"), std::string::npos);
  }
}

}  // namespace
}  // namespace coctilis
