#include "describe/listfile/lower/expression_values.h"

#include <algorithm>
#include <stdexcept>

#include "base/lists.h"
#include "base/path_text.h"
#include "base/text.h"
#include "describe/listfile/regex.h"

namespace coctilis::describe::listfile::lower {

namespace {

using List = std::vector<std::string>;

// The index that a word names; counted from the end when it is negative. Nothing when there is none such.
std::optional<std::size_t> index_in(const std::string& word, std::size_t size) {
  char* end = nullptr;
  long long at = std::strtoll(word.c_str(), &end, 10);
  if (word.empty() || *end != '\0') return std::nullopt;
  if (at < 0) at += static_cast<long long>(size);
  if (at < 0 || at >= static_cast<long long>(size)) return std::nullopt;
  return static_cast<std::size_t>(at);
}

List filtered(const List& list, const std::string& pattern, bool include) {
  const describe::listfile::Regex regex(pattern);
  List out;
  for (const auto& element : list) {
    if (regex.matches(element) == include) out.push_back(element);
  }
  return out;
}

std::optional<List> transformed(List list, const List& args) {
  const std::string& action = args[1];
  if (action == "TOUPPER" || action == "TOLOWER" || action == "STRIP") {
    if (args.size() != 2) return std::nullopt;
    for (auto& element : list)
      element = action == "TOUPPER"   ? text::upper(element)
                : action == "TOLOWER" ? text::lower(element)
                                      : std::string(text::trim(element));
    return list;
  }
  if ((action == "APPEND" || action == "PREPEND") && args.size() == 3) {
    for (auto& element : list) element = action == "APPEND" ? element + args[2] : args[2] + element;
    return list;
  }
  if (action == "REPLACE" && args.size() == 4) {
    const describe::listfile::Regex regex(args[2]);
    for (auto& element : list) element = describe::listfile::regex_replace(regex, args[3], element);
    return list;
  }
  return std::nullopt;
}

}  // namespace

namespace {

std::optional<std::string> worked_out(const std::string& operation, const std::vector<std::string>& args) {
  if (args.empty()) return std::nullopt;
  List list = list_elements(args[0]);
  const List more(args.begin() + 1, args.end());
  const auto joined = [](const List& elements) { return text::join(elements, ";"); };
  if (operation == "LENGTH") return std::to_string(list.size());
  if (operation == "REVERSE") {
    std::reverse(list.begin(), list.end());
    return joined(list);
  }
  if (operation == "REMOVE_DUPLICATES") {
    List out;
    for (const auto& element : list) {
      if (std::find(out.begin(), out.end(), element) == out.end()) out.push_back(element);
    }
    return joined(out);
  }
  if (operation == "POP_BACK" || operation == "POP_FRONT") {
    if (!list.empty()) list.erase(operation == "POP_BACK" ? list.end() - 1 : list.begin());
    return joined(list);
  }
  if (operation == "SORT") {
    bool down = false;
    bool fold = false;
    for (const auto& word : more) {
      if (word == "ORDER:DESCENDING")
        down = true;
      else if (word == "CASE:INSENSITIVE")
        fold = true;
      else if (word != "ORDER:ASCENDING" && word != "CASE:SENSITIVE" && word != "COMPARE:STRING")
        return std::nullopt;
    }
    std::stable_sort(list.begin(), list.end(), [&](const auto& a, const auto& b) {
      const int order = fold ? text::lower(a).compare(text::lower(b)) : a.compare(b);
      return down ? order > 0 : order < 0;
    });
    return joined(list);
  }
  if (more.empty()) return std::nullopt;
  if (operation == "GET") {
    List out;
    for (const auto& word : more) {
      const auto at = index_in(word, list.size());
      if (!at) return std::nullopt;
      out.push_back(list[*at]);
    }
    return joined(out);
  }
  if (operation == "FIND") {
    const auto it = std::find(list.begin(), list.end(), more[0]);
    return std::to_string(it == list.end() ? -1 : it - list.begin());
  }
  if (operation == "JOIN") return text::join(list, more[0]);
  if (operation == "APPEND" || operation == "PREPEND") {
    list.insert(operation == "APPEND" ? list.end() : list.begin(), more.begin(), more.end());
    return joined(list);
  }
  if (operation == "INSERT" && more.size() > 1) {
    // One past the end is a place to insert at.
    const auto at = index_in(more[0], list.size() + (more[0].starts_with('-') ? 0 : 1));
    if (!at) return std::nullopt;
    list.insert(list.begin() + static_cast<std::ptrdiff_t>(*at), more.begin() + 1, more.end());
    return joined(list);
  }
  if (operation == "REMOVE_ITEM") {
    const List gone = list_elements(text::join(more, ";"));
    std::erase_if(list, [&](const auto& e) { return std::find(gone.begin(), gone.end(), e) != gone.end(); });
    return joined(list);
  }
  if (operation == "REMOVE_AT") {
    std::vector<bool> gone(list.size(), false);
    for (const auto& word : more) {
      const auto at = index_in(word, list.size());
      if (!at) return std::nullopt;
      gone[*at] = true;
    }
    List out;
    for (std::size_t i = 0; i < list.size(); ++i) {
      if (!gone[i]) out.push_back(list[i]);
    }
    return joined(out);
  }
  if (operation == "SUBLIST" && more.size() == 2) {
    const auto begin = static_cast<std::size_t>(std::max(0LL, std::strtoll(more[0].c_str(), nullptr, 10)));
    const long long length = std::strtoll(more[1].c_str(), nullptr, 10);
    if (begin > list.size()) return std::nullopt;
    const std::size_t left = list.size() - begin;
    const std::size_t count = length < 0 ? left : std::min(left, static_cast<std::size_t>(length));
    return joined(List(list.begin() + static_cast<std::ptrdiff_t>(begin),
                       list.begin() + static_cast<std::ptrdiff_t>(begin + count)));
  }
  if (operation == "FILTER" && more.size() == 2 && (more[0] == "INCLUDE" || more[0] == "EXCLUDE"))
    return joined(filtered(list, more[1], more[0] == "INCLUDE"));
  if (operation == "TRANSFORM") {
    const auto out = transformed(std::move(list), args);
    return out ? std::optional(joined(*out)) : std::nullopt;
  }
  return std::nullopt;
}

}  // namespace

std::optional<std::string> list_expression(const std::string& operation, const std::vector<std::string>& args) {
  try {
    return worked_out(operation, args);
  } catch (const std::invalid_argument&) {
    return std::nullopt;  // no pattern
  }
}

std::optional<std::string> path_expression(const std::string& operation, std::vector<std::string> args) {
  const auto take = [&](const std::string& word) {
    if (args.empty() || args.front() != word) return false;
    args.erase(args.begin());
    return true;
  };
  const auto yes = [](bool condition) { return std::string(condition ? "1" : "0"); };
  const bool normalize = take("NORMALIZE");
  const bool last_only = take("LAST_ONLY");
  if (args.empty()) return std::nullopt;
  if (operation == "IS_PREFIX") {
    if (args.size() < 2) return std::nullopt;
    return yes(paths::is_prefix(args[0], args[1], normalize));
  }
  if (const auto answer = paths::is_so(args[0], operation)) return yes(*answer);
  const List more(args.begin() + 1, args.end());
  List out;
  for (const auto& path : list_elements(args[0])) {
    const auto result = operation.starts_with("GET_") ? paths::part_of(path, operation.substr(4), last_only)
                                                      : paths::changed(path, operation, more, last_only, "");
    if (!result) return std::nullopt;
    out.push_back(normalize ? paths::normal(*result) : *result);
  }
  return text::join(out, ";");
}

}  // namespace coctilis::describe::listfile::lower
