// Methods of texts, numbers, truths, lists and dictionaries.
#include <algorithm>

#include "base/text.h"
#include "describe/meson_build/evaluator.h"

namespace coctilis::describe::meson_build {

namespace {

std::string argument(const Arguments& a, std::size_t index, const Evaluator& e) { return e.text(a, index); }

// "@0@" stands for the first argument, and so on.
std::string format(const std::string& text, const Arguments& a, const Evaluator& e) {
  static const RE2 place(R"(@([0-9]{1,6})@)");
  const auto values = flattened(a.positional);
  return with_places(text, place, [&](const std::string& number) {
    const auto which = static_cast<std::size_t>(std::stoul(number));
    if (which >= values.size()) e.fail(a, "format() has no argument " + std::to_string(which));
    const auto file = values[which].as<File>();
    return file ? file->path : shown(values[which]);
  });
}

Value text_method(Evaluator& e, const std::string& self, Arguments& a, bool& known) {
  const std::string& name = a.name;
  if (name == "to_upper") return text::upper(self);
  if (name == "to_lower") return text::lower(self);
  if (name == "strip") {
    const std::string letters = a.positional.empty() ? " \t\r\n\v\f" : argument(a, 0, e);
    const auto begin = self.find_first_not_of(letters);
    if (begin == std::string::npos) return "";
    return self.substr(begin, self.find_last_not_of(letters) - begin + 1);
  }
  if (name == "startswith") return self.starts_with(argument(a, 0, e));
  if (name == "endswith") return self.ends_with(argument(a, 0, e));
  if (name == "contains") return self.find(argument(a, 0, e)) != std::string::npos;
  if (name == "substring") {
    const auto size = static_cast<std::int64_t>(self.size());
    const auto at = [&](std::size_t index, std::int64_t other) {
      if (index >= a.positional.size()) return other;
      if (a.positional[index].number() == nullptr) e.fail(a, "substring() takes numbers");
      const std::int64_t number = *a.positional[index].number();
      return std::clamp<std::int64_t>(number < 0 ? number + size : number, 0, size);
    };
    const auto begin = at(0, 0);
    const auto end = at(1, size);
    return begin >= end ? std::string()
                        : self.substr(static_cast<std::size_t>(begin), static_cast<std::size_t>(end - begin));
  }
  if (name == "replace") {
    const std::string from = argument(a, 0, e);
    if (from.empty()) return self;
    const std::string to = argument(a, 1, e);
    // What would get too long is not made.
    std::size_t times = 0;
    for (auto at = self.find(from); at != std::string::npos; at = self.find(from, at + from.size())) ++times;
    if (self.size() + times * to.size() > (64ULL << 20U)) e.fail(a, "a text gets too long");
    return text::replace_all(self, from, to);
  }
  if (name == "split") {
    Array out;
    if (a.positional.empty()) {
      for (auto& word : text::words(self)) out.emplace_back(std::move(word));
      return out;
    }
    const std::string by = argument(a, 0, e);
    if (by.empty()) e.fail(a, "split() by nothing");
    std::size_t begin = 0;
    for (auto at = self.find(by); at != std::string::npos; begin = at + by.size(), at = self.find(by, begin))
      out.emplace_back(self.substr(begin, at - begin));
    out.emplace_back(self.substr(begin));
    return out;
  }
  if (name == "splitlines") {
    Array out;
    auto lines = text::split(text::replace_all(text::replace_all(self, "\r\n", "\n"), "\r", "\n"), '\n');
    if (!lines.empty() && lines.back().empty()) lines.pop_back();
    for (auto& line : lines) out.emplace_back(std::move(line));
    return out;
  }
  if (name == "join") {
    std::string out;
    bool first = true;
    for (const auto& one : e.texts(flattened(a.positional), a)) {
      if (!first) out += self;
      first = false;
      out += one;
      if (out.size() > (64U << 20U)) e.fail(a, "a text gets too long");
    }
    return out;
  }
  if (name == "format") return format(self, a, e);
  if (name == "underscorify") {
    std::string out = self;
    for (auto& c : out) {
      const bool plain = (c >= '0' && c <= '9') || (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z');
      if (!plain) c = '_';
    }
    return out;
  }
  if (name == "to_int") {
    try {
      std::size_t used = 0;
      const std::string word(text::trim(self));
      const auto value = static_cast<std::int64_t>(std::stoll(word, &used, 0));
      if (used == word.size()) return value;
    } catch (const std::logic_error&) {
      // told below
    }
    e.fail(a, "'" + text::clip(text::printable_line(self), 40) + "' is no number");
  }
  if (name == "version_compare") return version_holds(self, e.texts(flattened(a.positional), a));
  known = false;
  return {};
}

Value list_method(Evaluator& e, const Array& self, Arguments& a, bool& known) {
  if (a.name == "length") return static_cast<std::int64_t>(self.size());
  if (a.name == "contains" && !a.positional.empty()) return contains(self, a.positional[0]);
  if (a.name == "flatten") return flattened(Value(self));
  if (a.name == "slice") {
    const auto size = static_cast<std::int64_t>(self.size());
    const auto at = [&](std::size_t index, std::int64_t other) {
      if (index >= a.positional.size() || a.positional[index].number() == nullptr) return other;
      const std::int64_t number = *a.positional[index].number();
      return std::clamp<std::int64_t>(number < 0 ? number + size : number, 0, size);
    };
    const auto step = e.number_or(a, "step", 1);
    if (step < 1) e.fail(a, "the steps of slice() are at least 1");
    Array out;
    for (auto i = at(0, 0); i < at(1, size); i += std::min(step, size + 1))
      out.push_back(self[static_cast<std::size_t>(i)]);
    return out;
  }
  if (a.name == "get" && !a.positional.empty() && a.positional[0].number() != nullptr) {
    const auto size = static_cast<std::int64_t>(self.size());
    const std::int64_t given = *a.positional[0].number();
    const std::int64_t index = given < 0 ? given + size : given;
    if (index >= 0 && index < size) return self[static_cast<std::size_t>(index)];
    if (a.positional.size() > 1) return a.positional[1];
    e.fail(a, "there is no item " + std::to_string(given) + " of " + std::to_string(size));
  }
  known = false;
  return {};
}

Value dictionary_method(Evaluator& e, const Dictionary& self, Arguments& a, bool& known) {
  if (a.name == "has_key") return find(self, e.text(a, 0)) != nullptr;
  if (a.name == "keys") {
    std::vector<std::string> names;
    for (const auto& [key, value] : self) names.push_back(key);
    std::sort(names.begin(), names.end());
    Array out;
    for (auto& name : names) out.emplace_back(std::move(name));
    return out;
  }
  if (a.name == "values") {
    Array out;
    for (const auto& [key, value] : self) out.push_back(value);
    return out;
  }
  if (a.name == "get") {
    if (const auto* value = find(self, e.text(a, 0))) return *value;
    if (a.positional.size() > 1) return a.positional[1];
    e.fail(a, "the dictionary has no '" + text::clip(text::printable_line(e.text(a, 0)), 60) + "'");
  }
  known = false;
  return {};
}

}  // namespace

Value plain_method(Evaluator& e, const Value& self, Arguments& a, bool& known) {
  if (const auto* text = self.text()) return text_method(e, *text, a, known);
  if (const auto* array = self.array()) return list_method(e, *array, a, known);
  if (const auto* dictionary = self.dictionary()) return dictionary_method(e, *dictionary, a, known);
  if (const auto* number = self.number()) {
    if (a.name == "is_even") return *number % 2 == 0;
    if (a.name == "is_odd") return *number % 2 != 0;
    if (a.name == "to_string") {
      std::string out = std::to_string(*number);
      const auto fill = static_cast<std::size_t>(std::clamp<std::int64_t>(e.number_or(a, "fill", 0), 0, 1000));
      const bool negative = out.starts_with('-');
      while (out.size() < fill) out.insert(negative ? 1 : 0, "0");
      return out;
    }
  }
  if (const auto* boolean = self.boolean()) {
    if (a.name == "to_int") return std::int64_t{*boolean ? 1 : 0};
    if (a.name == "to_string") {
      if (a.positional.size() == 2) return e.text(a, *boolean ? 0 : 1);
      return *boolean ? "true" : "false";
    }
  }
  known = false;
  return {};
}

bool version_holds(const std::string& version, const std::vector<std::string>& constraints) {
  return std::all_of(constraints.begin(), constraints.end(), [&](const std::string& constraint) {
    const std::string_view words = text::trim(constraint);
    const auto end = std::min(words.find_first_not_of("<>=!"), words.size());
    const std::string_view sign = words.substr(0, end);
    const int order = text::compare_versions(version, text::trim(words.substr(end)));
    return sign == "<"    ? order < 0
           : sign == "<=" ? order <= 0
           : sign == ">"  ? order > 0
           : sign == ">=" ? order >= 0
           : sign == "!=" ? order != 0
                          : order == 0;
  });
}

}  // namespace coctilis::describe::meson_build
