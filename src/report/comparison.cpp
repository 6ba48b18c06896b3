#include "report/comparison.h"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <functional>
#include <map>

#include "base/text.h"

namespace coctilis::report {

namespace {

std::size_t code_of(const model::Survey& tree, const std::string& language) {
  std::size_t out = 0;
  for (const auto& one : tree.languages) {
    if (language.empty() || one.language == language) out += one.code;
  }
  return out;
}

}  // namespace

std::vector<std::vector<std::string>> trees_table(const std::vector<model::Survey>& trees, std::size_t most) {
  std::vector<std::vector<std::string>> out;
  const auto row = [&](const std::string& about, const std::function<std::string(const model::Survey&)>& value) {
    std::vector<std::string> cells = {about};
    for (const auto& tree : trees) cells.push_back(value(tree));
    out.push_back(std::move(cells));
  };
  row("", [](const auto& tree) { return std::filesystem::path(tree.tree).filename().string(); });
  row("files", [](const auto& tree) { return text::grouped(tree.files); });
  row("size", [](const auto& tree) { return text::size(tree.bytes); });
  std::map<std::string, std::size_t> languages;
  for (const auto& tree : trees) {
    for (const auto& one : tree.languages) languages[one.language] += one.code;
  }
  std::vector<std::pair<std::string, std::size_t>> order(languages.begin(), languages.end());
  std::stable_sort(order.begin(), order.end(), [](const auto& a, const auto& b) { return a.second > b.second; });
  if (order.size() > most) order.resize(most);
  for (const auto& [language, all] : order)
    row(language, [&name = language](const auto& tree) {
      const auto code = code_of(tree, name);
      return code == 0 ? std::string("-") : text::grouped(code);
    });
  row("code in all", [](const auto& tree) { return text::grouped(code_of(tree, {})); });
  row("comment", [](const auto& tree) {
    std::size_t comment = 0;
    for (const auto& one : tree.languages) comment += one.comment;
    return text::grouped(comment);
  });
  row("entry points", [](const auto& tree) { return text::grouped(tree.entry_points.size()); });
  const auto first = trees.empty() ? 0 : code_of(trees.front(), {});
  if (first > 0)
    row("against the first", [&](const auto& tree) {
      return fmt::format("{:.2f} times", static_cast<double>(code_of(tree, {})) / static_cast<double>(first));
    });
  return out;
}

}  // namespace coctilis::report
