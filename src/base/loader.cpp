#include "base/loader.h"

#include <glob.h>

#include <set>

#include "base/files.h"
#include "base/text.h"

namespace coctilis {

namespace {

// Folders that ld.so.conf names, with what it includes.
void read_loader_conf(const std::string& path, std::vector<std::string>& out, int depth) {
  const auto content = files::read(path);
  if (!content || depth > 8) return;
  for (const auto& raw : text::split(*content, '\n')) {
    const std::string line(text::trim(raw.substr(0, raw.find('#'))));
    if (line.starts_with("include ")) {
      std::string pattern(text::trim(line.substr(8)));
      if (!pattern.starts_with('/')) pattern = "/etc/" + pattern;
      glob_t found{};
      if (::glob(pattern.c_str(), 0, nullptr, &found) == 0) {
        for (std::size_t i = 0; i < found.gl_pathc; ++i) read_loader_conf(found.gl_pathv[i], out, depth + 1);
      }
      ::globfree(&found);
    } else if (!line.empty() && !line.starts_with("hwcap")) {
      out.push_back(line);
    }
  }
}

const std::vector<std::string>& system_folders() {
  static const std::vector<std::string> folders = [] {
    std::vector<std::string> out;
    read_loader_conf("/etc/ld.so.conf", out, 0);
    for (const char* folder : {"/lib", "/usr/lib", "/lib64", "/usr/lib64"}) out.emplace_back(folder);
    return out;
  }();
  return folders;
}

std::string origin_of(const std::string& path) { return std::filesystem::path(path).parent_path().string(); }

std::string expand_origin(std::string entry, const std::string& path) {
  const std::string origin = origin_of(path);
  return text::replace_all(text::replace_all(std::move(entry), "${ORIGIN}", origin), "$ORIGIN", origin);
}

}  // namespace

const std::optional<ElfFacts>& SystemLibraries::facts(const std::string& path) {
  const auto [it, fresh] = read_.try_emplace(path);
  if (fresh) it->second = read_elf(path);
  return it->second;
}

LoadResult resolve_libraries(const std::string& path, const std::vector<std::string>& system,
                             const std::vector<std::string>& first, SystemLibraries* known) {
  LoadResult result;
  const auto top = read_elf(path);
  if (!top) return result;
  result.is_elf = true;
  std::vector<std::string> environment = first;
  if (const char* list = std::getenv("LD_LIBRARY_PATH")) {
    for (auto& folder : text::split(list, ':')) environment.push_back(std::move(folder));
  }
  std::set<std::string> done;
  struct Loaded {
    std::string path;
    ElfFacts facts;
    std::vector<std::string> inherited;  // DT_RPATH of those that loaded it
  };
  std::vector<Loaded> queue = {{path, *top, {}}};
  for (std::size_t at = 0; at < queue.size() && at < 5000; ++at) {
    const Loaded current = queue[at];
    std::vector<std::string> own;
    for (const auto& entry : current.facts.run_path) own.push_back(expand_origin(entry, current.path));
    for (const auto& name : current.facts.needed) {
      if (!done.insert(name).second) continue;
      std::vector<std::string> candidates;
      std::size_t of_the_system = std::string::npos;  // where those of the system's folders begin
      if (name.find('/') != std::string::npos) {
        candidates.push_back(name);
      } else {
        const auto add = [&](const std::vector<std::string>& folders) {
          for (const auto& folder : folders) {
            if (!folder.empty()) candidates.push_back(folder + "/" + name);
          }
        };
        if (!current.facts.has_run_path) {
          add(own);
          add(current.inherited);
        }
        add(environment);
        if (current.facts.has_run_path) add(own);
        of_the_system = candidates.size();
        add(system.empty() ? system_folders() : system);
      }
      bool found = false;
      for (std::size_t i = 0; i < candidates.size(); ++i) {
        const std::string& candidate = candidates[i];
        const bool kept = known != nullptr && i >= of_the_system;
        const std::optional<ElfFacts> facts = kept ? known->facts(candidate) : read_elf(candidate);
        if (!facts || facts->bits != top->bits || facts->machine != top->machine) continue;
        result.found.emplace_back(name, candidate);
        std::vector<std::string> inherited = current.inherited;
        if (!current.facts.has_run_path) inherited.insert(inherited.begin(), own.begin(), own.end());
        queue.push_back({candidate, *facts, inherited});
        found = true;
        break;
      }
      if (!found) result.missing.emplace_back(name, current.path);
    }
  }
  return result;
}

}  // namespace coctilis
