#include "base/result.h"

#include <fmt/format.h>

namespace coctilis {

std::string Place::text() const {
  if (file.empty()) return {};
  if (line <= 0) return file;
  return column > 0 ? fmt::format("{}:{}:{}", file, line, column) : fmt::format("{}:{}", file, line);
}

Problem defect(const std::string& where, const char* what) {
  return {Exit::defect,
          {},
          fmt::format("a defect in Coctilis, in the stage '{}': {}", where, what),
          "",
          "please report it with the record of this run",
          {}};
}

}  // namespace coctilis
