// pc_files: every .pc file on this machine, resolved with all it requires, a JSON line each. bench/pc-rules compares
// the lines with the rules of the format.
#include <dirent.h>
#include <fmt/format.h>

#include <nlohmann/json.hpp>
#include <set>

#include "base/process.h"
#include "base/text.h"
#include "locate/pc_file.h"

int main(int argc, char** argv) {
  using namespace coctilis;
  const auto search = locate::pc_search({}, argc > 1 ? argv[1] : "x86_64-linux-gnu", "");
  std::set<std::string> modules;
  for (const auto& folder : search.folders) {
    DIR* stream = ::opendir(folder.c_str());
    while (const dirent* entry = stream == nullptr ? nullptr : ::readdir(stream)) {
      const std::string name = entry->d_name;
      if (name.ends_with(".pc")) modules.insert(name.substr(0, name.size() - 3));
    }
    if (stream != nullptr) ::closedir(stream);
  }
  const double begin = now();
  for (const auto& name : modules) {
    for (const bool statically : {false, true}) {
      const auto module = locate::find_pc({name, "", ""}, search, statically);
      const nlohmann::ordered_json line = {{"module", name},
                                           {"static", statically},
                                           {"path", module.file.path},
                                           {"version", module.file.version},
                                           {"problem", module.problem},
                                           {"include_folders", module.usage.include_folders},
                                           {"definitions", module.usage.definitions},
                                           {"compile_options", module.usage.compile_options},
                                           {"link_folders", module.usage.link_folders},
                                           {"link_items", module.usage.link_items}};
      fmt::print("{}\n", line.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace));
    }
  }
  fmt::print(stderr, "{} modules, resolved twice each in {}\n", modules.size(), text::duration(now() - begin));
  return 0;
}
