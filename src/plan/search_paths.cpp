#include "plan/search_paths.h"

#include "base/files.h"

namespace coctilis::plan {

model::SearchPath search_path_of(const std::vector<std::string>& argv, const std::string& folder,
                                 const std::vector<std::string>& own) {
  model::SearchPath out;
  std::vector<std::string> system;
  std::vector<std::string> last;
  bool nothing_of_its_own = false;
  const std::pair<std::string_view, std::vector<std::string>*> options[] = {
      {"-iquote", &out.quoted}, {"-isystem", &system}, {"-idirafter", &last}, {"-I", &out.folders}};
  for (std::size_t i = 1; i < argv.size(); ++i) {
    const std::string& word = argv[i];
    if (word == "-nostdinc") nothing_of_its_own = true;
    for (const auto& [option, list] : options) {
      if (!word.starts_with(option)) continue;
      std::string_view name = std::string_view(word).substr(option.size());
      if (name.empty() && i + 1 < argv.size()) name = argv[++i];
      if (!name.empty()) list->push_back(files::absolute(name, folder));
      break;
    }
  }
  out.folders.insert(out.folders.end(), system.begin(), system.end());
  out.own = out.folders.size();
  if (!nothing_of_its_own) out.folders.insert(out.folders.end(), own.begin(), own.end());
  out.folders.insert(out.folders.end(), last.begin(), last.end());
  return out;
}

}  // namespace coctilis::plan
