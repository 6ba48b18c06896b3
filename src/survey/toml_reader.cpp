#include "survey/toml_reader.h"

#include <fmt/format.h>
#include <re2/re2.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::survey {

Place TomlReader::place(const toml::node& node) const {
  return {path_, static_cast<int>(node.source().begin.line), static_cast<int>(node.source().begin.column)};
}

void TomlReader::wrong(const toml::node& node, const std::string& what, const std::string& remedy) const {
  throw Fault({Exit::usage, place(node), what, "", remedy, {}});
}

void TomlReader::section(const toml::table& table, const std::string& name, const Keys& keys) const {
  for (const auto& [key, node] : table) {
    const std::string word(key.str());
    const auto it = std::find_if(keys.begin(), keys.end(), [&](const auto& k) { return k.first == word; });
    if (it != keys.end()) {
      it->second(node);
      continue;
    }
    std::vector<std::string> known;
    std::string nearest;
    for (const auto& k : keys) {
      known.push_back(k.first);
      if (text::edit_distance(k.first, word) <= 2) nearest = k.first;
    }
    const Place at{path_, static_cast<int>(key.source().begin.line), static_cast<int>(key.source().begin.column)};
    throw Fault({Exit::usage,
                 at,
                 "unknown key '" + word + "'" + (name.empty() ? "" : " in [" + name + "]"),
                 "",
                 nearest.empty() ? "known here: " + text::join(known, ", ") : "did you mean '" + nearest + "'?",
                 {}});
  }
}

const toml::table& TomlReader::table(const toml::node& node, const std::string& name) const {
  if (!node.is_table()) wrong(node, "'" + name + "' must be a table", "write [" + name + "] on a line of its own");
  return *node.as_table();
}

void TomlReader::each(const toml::node& node, const std::string& name,
                      const std::function<void(const toml::table&)>& f) const {
  // One alone, in braces, stands for a list of one.
  if (const auto* alone = node.as_table(); alone != nullptr && alone->is_inline()) return f(*alone);
  if (!node.is_array()) wrong(node, "'" + name + "' must be an array of tables", "write [[" + name + "]] before each");
  for (const auto& entry : *node.as_array()) {
    if (!entry.is_table())
      wrong(entry, "'" + name + "' must be an array of tables", "write [[" + name + "]] before each");
    f(*entry.as_table());
  }
}

std::string TomlReader::string(const toml::node& node, const std::string& key) const {
  if (const auto* value = node.as_string()) return value->get();
  wrong(node, "'" + key + "' must be a text", "put it in quotes");
}

std::vector<std::string> TomlReader::strings(const toml::node& node, const std::string& key) const {
  if (!node.is_array()) wrong(node, "'" + key + "' must be a list of texts", "write [\"...\", \"...\"]");
  std::vector<std::string> out;
  for (const auto& entry : *node.as_array()) out.push_back(string(entry, key));
  return out;
}

std::string TomlReader::scalar(const toml::node& node, const std::string& key) const {
  if (const auto* value = node.as_string()) return value->get();
  if (const auto* value = node.as_boolean()) return value->get() ? "ON" : "OFF";
  if (const auto* value = node.as_integer()) return std::to_string(value->get());
  if (const auto* value = node.as_floating_point()) return fmt::format("{}", value->get());
  wrong(node, "'" + key + "' must be a text, a number, true or false", "lists are written as one text with semicolons");
}

bool TomlReader::boolean(const toml::node& node, const std::string& key) const {
  if (const auto* value = node.as_boolean()) return value->get();
  wrong(node, "'" + key + "' is true or false", "write: " + key + " = true");
}

std::string TomlReader::with_environment(const toml::node& node, std::string value) const {
  static const RE2 pattern(R"(\$\{([A-Za-z_][A-Za-z0-9_]*)\})");
  std::string name;
  while (RE2::PartialMatch(value, pattern, &name)) {
    const char* found = std::getenv(name.c_str());
    if (found == nullptr)
      wrong(node, "the environment variable '" + name + "' is not set", "set it, or write the path");
    value = text::replace_all(value, "${" + name + "}", found);
    if (std::string(found).find("${") != std::string::npos) break;
  }
  return value;
}

std::vector<std::string> TomlReader::string_or_strings(const toml::node& node, const std::string& key) const {
  return node.is_string() ? std::vector<std::string>{string(node, key)} : strings(node, key);
}

int TomlReader::integer(const toml::node& node, const std::string& key, int least, int most) const {
  const auto* value = node.as_integer();
  if (value == nullptr)
    wrong(node, "'" + key + "' must be a number", fmt::format("write {} = {}", key, std::max(least, 0)));
  if (value->get() < least || value->get() > most)
    wrong(node, fmt::format("'{}' is from {} to {}, not {}", key, least, most, value->get()), "write one of these");
  return static_cast<int>(value->get());
}

double TomlReader::number(const toml::node& node, const std::string& key) const {
  if (const auto* value = node.as_floating_point(); value != nullptr && std::isfinite(value->get()))
    return value->get();
  if (const auto* value = node.as_integer()) return static_cast<double>(value->get());
  wrong(node, "'" + key + "' must be a number", "write " + key + " = 0.5");
}

double TomlReader::duration(const toml::node& node, const std::string& key) const {
  const double seconds = read_duration(string(node, key));
  if (seconds <= 0) wrong(node, "'" + key + "' must be a time", "write " + key + " = \"10 s\"");
  return seconds;
}

std::uint64_t TomlReader::amount(const toml::node& node, const std::string& key) const {
  const std::uint64_t bytes = read_amount(string(node, key));
  if (bytes < 1000000) wrong(node, "'" + key + "' must be an amount, 1 MB at least", "write " + key + " = \"8 GB\"");
  return bytes;
}

std::string TomlReader::pattern(const toml::node& node, const std::string& key, int groups) const {
  std::string text = string(node, key);
  RE2::Options quiet;
  quiet.set_log_errors(false);
  const RE2 read(text, quiet);
  if (!read.ok())
    wrong(node, "the pattern of '" + key + "' cannot be read: " + read.error(),
          "it is a regular expression; \\ takes a letter literally");
  if (groups >= 0 && read.NumberOfCapturingGroups() != groups)
    wrong(node, fmt::format("the pattern of '{}' has {} groups, not {}", key, read.NumberOfCapturingGroups(), groups),
          "put what is looked for in ( ), and whatever else is in brackets in (?: )");
  return text;
}

std::vector<std::string> TomlReader::patterns(const toml::node& node, const std::string& key) const {
  if (node.is_string()) return {pattern(node, key)};
  std::vector<std::string> out = strings(node, key);
  for (const auto& entry : *node.as_array()) (void)pattern(entry, key);
  return out;
}

toml::table read_toml(const std::string& path) {
  const auto content = files::read(path);
  if (!content)
    throw Fault({Exit::usage, {path, 0, 0}, "the file cannot be read", "", "name a TOML file that is there", {}});
  try {
    return toml::parse(*content, path);
  } catch (const toml::parse_error& error) {
    throw Fault({Exit::usage,
                 {path, static_cast<int>(error.source().begin.line), static_cast<int>(error.source().begin.column)},
                 "this is not TOML: " + text::printable_line(error.description()),
                 "",
                 "mend the line; docs/coctilis-toml.md has the keys",
                 {}});
  }
}

std::uint64_t read_amount(const std::string& value) {
  double number = 0;
  std::string unit;
  if (!RE2::FullMatch(value, R"(\s*([0-9]+(?:\.[0-9]+)?)\s*(MB|GB|TB)\s*)", &number, &unit)) return 0;
  const double bytes = number * (unit == "MB" ? 1e6 : unit == "GB" ? 1e9 : 1e12);
  return bytes < 1e18 ? static_cast<std::uint64_t>(bytes) : 0;
}

double read_duration(const std::string& value) {
  double number = 0;
  std::string unit;
  if (!RE2::FullMatch(value, R"(\s*([0-9]+(?:\.[0-9]+)?)\s*(ms|s|min|h)\s*)", &number, &unit)) return -1;
  return unit == "ms" ? number / 1000 : unit == "s" ? number : unit == "min" ? number * 60 : number * 3600;
}

}  // namespace coctilis::survey
