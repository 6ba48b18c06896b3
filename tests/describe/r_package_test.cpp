// What a DESCRIPTION says.
#include <gtest/gtest.h>

#include "describe/r_package/reader.h"

namespace coctilis::describe::r_package {
namespace {

TEST(RPackage, FieldsAreReadWithTheirContinuations) {
  const auto fields = fields_in(
      "Package: kilnfit\r\nTitle: Fits\n  firing curves\n\tof kilns\nno field at all\n  lost\nVersion:1.2\n"
      "Package: another\n  more of it\nEmpty:\n  then something\n");
  EXPECT_EQ(fields, (std::map<std::string, std::string>{{"Package", "kilnfit"},
                                                        {"Title", "Fits firing curves of kilns"},
                                                        {"Version", "1.2"},
                                                        {"Empty", "then something"}}));
  EXPECT_TRUE(fields_in("").empty());
  EXPECT_TRUE(fields_in("\n \n:\n").empty());
}

TEST(RPackage, NeededPackagesHaveTheirConstraints) {
  const auto needed = needed_in("clays (>= 1.0.2), glazes,R (>= 4.0), $(touch x), slips( == 2 )");
  ASSERT_EQ(needed.size(), 4U);
  EXPECT_EQ(needed[0].name, "clays");
  EXPECT_EQ(needed[0].constraint, ">= 1.0.2");
  EXPECT_EQ(needed[1].name, "glazes");
  EXPECT_EQ(needed[1].constraint, "");
  EXPECT_EQ(needed[2].name, "R");
  EXPECT_EQ(needed[3].name, "slips");
  EXPECT_EQ(needed[3].constraint, "= 2");
}

}  // namespace
}  // namespace coctilis::describe::r_package
