#include "describe/code_generators.h"

#include <re2/re2.h>

#include <filesystem>

#include "base/files.h"

namespace coctilis::describe {

std::vector<std::string> files_of_resource_list(const std::string& path) {
  static const RE2 entry(R"(<file[^>]*>\s*([^<]+?)\s*</file>)");
  const std::string text = files::read(path).value_or("");
  const std::string folder = std::filesystem::path(path).parent_path().string();
  std::vector<std::string> out;
  re2::StringPiece rest(text);
  std::string file;
  while (RE2::FindAndConsume(&rest, entry, &file)) out.push_back(files::absolute(file, folder));
  return out;
}

std::vector<std::string> command_for_predefined_macros(const std::string& compiler, const std::string& standard,
                                                       const std::string& output) {
  std::vector<std::string> out = {compiler};
  if (!standard.empty()) out.push_back("-std=gnu++" + standard);
  for (const char* word : {"-w", "-dM", "-E", "-x", "c++", "/dev/null", "-o"}) out.emplace_back(word);
  out.push_back(output);
  return out;
}

}  // namespace coctilis::describe
