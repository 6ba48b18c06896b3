// What the readers of coctilis.toml's sections have in common: values of the right type, known keys, and errors with
// the place that they are about (Exit::usage).
#pragma once

#include <functional>
#include <string>
#include <utility>
#include <vector>

#include "base/result.h"
#include "base/toml.h"

namespace coctilis::survey {

class TomlReader {
 public:
  explicit TomlReader(std::string path) : path_(std::move(path)) {}

 protected:
  using Handler = std::function<void(const toml::node&)>;
  using Keys = std::vector<std::pair<std::string, Handler>>;

  [[nodiscard]] const std::string& path() const { return path_; }
  [[nodiscard]] Place place(const toml::node& node) const;
  [[noreturn]] void wrong(const toml::node& node, const std::string& what, const std::string& remedy) const;
  // Calls the handler of each key of the table; a key without one is an error, which tells the nearest.
  void section(const toml::table& table, const std::string& name, const Keys& keys) const;
  [[nodiscard]] const toml::table& table(const toml::node& node, const std::string& name) const;
  void each(const toml::node& node, const std::string& name, const std::function<void(const toml::table&)>& f) const;

  [[nodiscard]] std::string string(const toml::node& node, const std::string& key) const;
  [[nodiscard]] std::vector<std::string> strings(const toml::node& node, const std::string& key) const;
  // A text alone stands for a list of one.
  [[nodiscard]] std::vector<std::string> string_or_strings(const toml::node& node, const std::string& key) const;
  // As a text: true is ON.
  [[nodiscard]] std::string scalar(const toml::node& node, const std::string& key) const;
  [[nodiscard]] bool boolean(const toml::node& node, const std::string& key) const;
  [[nodiscard]] int integer(const toml::node& node, const std::string& key, int least, int most) const;
  [[nodiscard]] double number(const toml::node& node, const std::string& key) const;
  // Seconds, more than none.
  [[nodiscard]] double duration(const toml::node& node, const std::string& key) const;
  // Bytes, 1 MB at least.
  [[nodiscard]] std::uint64_t amount(const toml::node& node, const std::string& key) const;
  // A regular expression (RE2) that can be read; `groups`: how many groups it has to have, -1: any number.
  [[nodiscard]] std::string pattern(const toml::node& node, const std::string& key, int groups = -1) const;
  [[nodiscard]] std::vector<std::string> patterns(const toml::node& node, const std::string& key) const;
  // Replaces ${NAME} by environment variables.
  [[nodiscard]] std::string with_environment(const toml::node& node, std::string value) const;

 private:
  std::string path_;
};

// The file as a table. Throws Fault (Exit::usage) when it cannot be read or is not TOML.
[[nodiscard]] toml::table read_toml(const std::string& path);

// "800 MB", "1.5 GB" in bytes (powers of 1000); 0 when it cannot be read.
[[nodiscard]] std::uint64_t read_amount(const std::string& text);

// "10 s", "500 ms", "2 min" in seconds; negative when it cannot be read.
[[nodiscard]] double read_duration(const std::string& text);

}  // namespace coctilis::survey
