#include "smoke/harmless.h"

#include "base/embedded.h"
#include "base/toml.h"

namespace coctilis::smoke {

const std::vector<std::string>& harmless_lines() {
  static const std::vector<std::string> all = [] {
    std::vector<std::string> out;
    for (const auto& file : embedded::data_tables) {
      if (file.path != "harmless_lines.toml") continue;
      const toml::table read = toml::parse(file.content);
      const auto* lines = read["line"].as_array();
      if (lines == nullptr) continue;
      for (const auto& line : *lines) out.push_back(line.at_path("pattern").value_or(std::string{}));
    }
    return out;
  }();
  return all;
}

}  // namespace coctilis::smoke
