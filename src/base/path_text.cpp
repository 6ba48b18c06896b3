#include "base/path_text.h"

#include <algorithm>
#include <filesystem>

namespace coctilis::paths {

namespace {

namespace fs = std::filesystem;

// Where the extension of a file name begins; its size when there is none.
std::size_t extension_at(const std::string& name, bool last_only) {
  if (name == "." || name == "..") return name.size();
  const auto dot = last_only ? name.rfind('.') : name.find('.', 1);
  return dot == std::string::npos || dot == 0 ? name.size() : dot;
}

}  // namespace

std::string normal(const std::string& path) { return fs::path(path).lexically_normal().string(); }

std::optional<std::string> part_of(const std::string& text, const std::string& part, bool last_only) {
  const fs::path path = text;
  const std::string name = path.filename().string();
  if (part == "ROOT_NAME") return "";
  if (part == "ROOT_DIRECTORY") return path.root_directory().string();
  if (part == "ROOT_PATH") return path.root_path().string();
  if (part == "FILENAME") return name;
  if (part == "EXTENSION") return name.substr(extension_at(name, last_only));
  if (part == "STEM") return name.substr(0, extension_at(name, last_only));
  if (part == "RELATIVE_PART") return path.relative_path().string();
  if (part == "PARENT_PATH") return path.parent_path().string();
  return std::nullopt;
}

std::optional<bool> is_so(const std::string& path, const std::string& question) {
  if (question == "IS_ABSOLUTE") return path.starts_with('/');
  if (question == "IS_RELATIVE") return !path.starts_with('/');
  if (!question.starts_with("HAS_")) return std::nullopt;
  const auto part = part_of(path, question.substr(4), false);
  if (!part) return std::nullopt;
  return !part->empty();
}

bool is_prefix(const std::string& prefix, const std::string& path, bool normalize) {
  const fs::path one = normalize ? normal(prefix) : prefix;
  const fs::path other = normalize ? normal(path) : path;
  auto end = one.end();
  // A slash at the end stands for nothing of its own.
  if (one.has_relative_path() && one.filename().empty()) --end;
  return std::mismatch(one.begin(), end, other.begin(), other.end()).first == end;
}

bool are_equal(const std::string& one, const std::string& other) { return fs::path(one) == fs::path(other); }

std::optional<std::string> changed(const std::string& text, const std::string& operation,
                                   const std::vector<std::string>& words, bool last_only, const std::string& base) {
  const fs::path path = text;
  const std::string name = path.filename().string();
  const std::string before = text.substr(0, text.size() - name.size());
  if (operation == "NORMAL_PATH") return normal(text);
  if (operation == "CMAKE_PATH") return text;
  if (operation == "APPEND") {
    fs::path out = path;
    for (const auto& word : words) out /= word;
    return out.string();
  }
  if (operation == "APPEND_STRING") {
    std::string out = text;
    for (const auto& word : words) out += word;
    return out;
  }
  if (operation == "REMOVE_FILENAME") return before;
  if (operation == "REMOVE_EXTENSION") return before + name.substr(0, extension_at(name, last_only));
  if (operation == "RELATIVE_PATH") return path.lexically_relative(words.empty() ? base : words.front()).string();
  if (operation == "ABSOLUTE_PATH") return (fs::path(words.empty() ? base : words.front()) / path).string();
  if (words.empty()) return std::nullopt;
  if (operation == "REPLACE_FILENAME") return name.empty() ? text : before + words.front();
  if (operation == "REPLACE_EXTENSION") {
    const std::string& extension = words.front();
    return before + name.substr(0, extension_at(name, last_only)) +
           (extension.empty() || extension.starts_with('.') ? extension : "." + extension);
  }
  return std::nullopt;
}

}  // namespace coctilis::paths
