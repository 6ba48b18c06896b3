// Trees side by side.
#include "report/comparison.h"

#include <gtest/gtest.h>

#include "base/text.h"

namespace coctilis::report {
namespace {

model::Survey tree(const std::string& path, std::size_t files, std::vector<model::LanguageCount> languages) {
  model::Survey out;
  out.tree = path;
  out.files = files;
  out.bytes = files * 1000;
  out.languages = std::move(languages);
  return out;
}

std::string row(const std::vector<std::vector<std::string>>& table, const std::string& about) {
  for (const auto& one : table) {
    if (one.front() == about) return text::join(one, " | ");
  }
  return "no such row";
}

TEST(Comparison, HasAColumnForEachTree) {
  const auto table = trees_table({tree("/yards/kiln", 10, {{"C", 4, 1000, 100, 50}, {"Shell", 1, 20, 5, 0}}),
                                  tree("/yards/press", 30, {{"C", 9, 1500, 10, 5}, {"Fortran", 8, 1050, 0, 0}})});
  EXPECT_EQ(row(table, ""), " | kiln | press");
  EXPECT_EQ(row(table, "files"), "files | 10 | 30");
  EXPECT_EQ(row(table, "C"), "C | 1,000 | 1,500");
  EXPECT_EQ(row(table, "Fortran"), "Fortran | - | 1,050");
  EXPECT_EQ(row(table, "code in all"), "code in all | 1,020 | 2,550");
  EXPECT_EQ(row(table, "comment"), "comment | 105 | 10");
  EXPECT_EQ(row(table, "against the first"), "against the first | 1.00 times | 2.50 times");
}

TEST(Comparison, LanguagesWithTheMostCodeComeFirstAndNotTooMany) {
  std::vector<model::LanguageCount> many;
  for (std::size_t i = 0; i < 20; ++i) many.push_back({"L" + std::to_string(i), 1, 10 + i, 0, 0});
  const auto table = trees_table({tree("/yard", 20, many)}, 3);
  EXPECT_EQ(table[3].front(), "L19");
  EXPECT_EQ(row(table, "L16"), "no such row");
  EXPECT_EQ(row(table, "code in all"), "code in all | 390") << "all count, shown or not";
}

TEST(Comparison, TreesWithoutCodeHaveNoShare) {
  const auto table = trees_table({tree("/empty", 0, {}), tree("/yard", 1, {{"C", 1, 5, 0, 0}})});
  EXPECT_EQ(row(table, "against the first"), "no such row");
}

}  // namespace
}  // namespace coctilis::report
