// The README says which descriptions are understood: every reader of the table has its row there, and no other has.
#include <algorithm>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "describe/readers.h"
#include "support.h"

namespace coctilis::test {
namespace {

// What stands in backquotes.
std::vector<std::string> quoted(const std::string& text) {
  std::vector<std::string> out;
  const auto parts = text::split(text, '`');
  for (std::size_t i = 1; i < parts.size(); i += 2) out.push_back(parts[i]);
  return out;
}

TEST(Readme, HasARowForEachReaderAndForNothingElse) {
  const std::string text = files::read(TEST_SOURCE "/README.md").value_or("");
  const auto begin = text.find("| description |");
  ASSERT_NE(begin, std::string::npos);
  const std::string table = text.substr(begin, text.find("\n\n", begin) - begin);
  auto rows = text::split(table, '\n');
  ASSERT_GT(rows.size(), 3U);
  rows.erase(rows.begin(), rows.begin() + 2);
  std::set<std::string> told;
  for (const auto& row : rows) {
    const auto cells = text::split(row, '|');
    ASSERT_EQ(cells.size(), 5U) << row;
    EXPECT_FALSE(text::trim(cells[2]).empty()) << row;
    const auto names = quoted(cells[1]);
    if (names.empty()) {
      told.insert("sources");
      continue;
    }
    // All names of a row are of one reader.
    const survey::DescriptionFormat* format = nullptr;
    for (const auto& name : names) {
      // Parts of a description that are none by themselves.
      if (name == "*.pri") continue;
      const survey::DescriptionFormat* of = nullptr;
      ASSERT_NE(survey::description_name(describe::description_formats(), text::replace_all(name, "*", "x"), &of),
                nullptr)
          << name;
      if (format == nullptr) format = of;
      EXPECT_EQ(of, format) << name;
    }
    ASSERT_NE(format, nullptr) << row;
    EXPECT_TRUE(format->readable && !format->is_hint) << row;
    told.insert(std::string(format->format));
  }
  std::set<std::string> there;
  for (const auto& reader : describe::readers()) {
    if (!reader.is_hint()) there.insert(std::string(reader.format.format));
  }
  EXPECT_EQ(told, there);
}

TEST(Readme, NamesTheFormatsThatNobodyReads) {
  const std::string text = files::read(TEST_SOURCE "/README.md").value_or("");
  const auto begin = text.find("Known by name");
  ASSERT_NE(begin, std::string::npos);
  const auto names = quoted(text.substr(begin, text.find(';', begin) - begin));
  std::vector<std::string> there;
  for (const auto& format : survey::unread_formats()) there.emplace_back(format.format);
  EXPECT_EQ(names, there);
}

// Every page and picture that documents lead to is there.
TEST(Readme, LinksLeadSomewhere) {
  std::vector<std::string> documents = {TEST_SOURCE "/README.md"};
  for (const auto& entry : std::filesystem::directory_iterator(TEST_SOURCE "/docs")) {
    if (entry.path().extension() == ".md") documents.push_back(entry.path().string());
  }
  for (const auto& document : documents) {
    const std::string text = files::read(document).value_or("");
    for (auto at = text.find("]("); at != std::string::npos; at = text.find("](", at + 1)) {
      std::string to = text.substr(at + 2, text.find(')', at) - at - 2);
      to = to.substr(0, to.find('#'));
      if (to.empty() || to.starts_with("http")) continue;
      EXPECT_TRUE(files::exists(std::filesystem::path(document).parent_path().string() + "/" + to))
          << document << ": " << to;
    }
  }
}

}  // namespace
}  // namespace coctilis::test
