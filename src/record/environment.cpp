#include "record/environment.h"

#include <filesystem>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "locate/prefix_environment.h"
#include "record/record.h"

namespace coctilis::record {

Result<EnvironmentOfResults> environment_of_results(const std::string& kiln_root, const std::string& variant) {
  return guarded("the environment of results", [&] {
    const std::string folder = newest_folder(kiln_root, 0, variant);
    if (folder.empty())
      throw Fault({Exit::usage,
                   {},
                   variant.empty() ? "nothing is built in '" + kiln_root + "' yet"
                                   : "nothing of the variant '" + variant + "' is built in '" + kiln_root + "' yet",
                   {},
                   "'coctilis build' builds it",
                   {}});
    EnvironmentOfResults out;
    out.kiln = std::filesystem::path(folder).parent_path().parent_path().string();
    const auto record = nlohmann::json::parse(newest(out.kiln), nullptr, false);
    if (!record.is_object())
      throw Fault({Exit::kiln,
                   {folder + "/run.json", 0, 0},
                   "the record of the run cannot be read",
                   {},
                   "'coctilis build' makes a new one",
                   {}});
    std::vector<std::string> prefixes = {out.kiln};
    std::string machine;
    if (const auto it = record.find("prefixes"); it != record.end() && it->is_array()) {
      for (const auto& one : *it) {
        if (one.is_string()) prefixes.push_back(one.get<std::string>());
      }
    }
    if (const auto it = record.find("toolchain"); it != record.end() && it->is_object()) {
      if (const auto name = it->find("machine"); name != it->end() && name->is_string())
        machine = name->get<std::string>();
    }
    const auto folders = locate::folders_of_prefixes(prefixes, machine);
    for (const char* name : {"PATH", "LD_LIBRARY_PATH", "PKG_CONFIG_PATH"}) {
      if (const auto it = folders.find(name); it != folders.end()) out.variables.emplace_back(name, it->second);
    }
    return out;
  });
}

}  // namespace coctilis::record
