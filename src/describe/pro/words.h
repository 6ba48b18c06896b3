// Small helpers for values of project files.
#pragma once

#include <algorithm>
#include <filesystem>
#include <string>

#include "base/text.h"
#include "describe/pro/evaluator.h"

namespace coctilis::describe::pro {

inline std::string stem_of(const std::string& path) { return std::filesystem::path(path).stem().string(); }
inline std::string folder_of(const std::string& path) { return std::filesystem::path(path).parent_path().string(); }

inline bool is_word(const Values& list, const std::string& word) {
  return std::find(list.begin(), list.end(), word) != list.end();
}

// A definition as a shell would hand it over: VERSION=\"1.0\" is VERSION="1.0".
inline std::string unquoted(const std::string& text) {
  if (text.find_first_of("\\\"'") == std::string::npos) return text;
  return text::join(text::shell_words(text), " ");
}

}  // namespace coctilis::describe::pro
