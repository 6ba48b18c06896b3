#include "describe/sources/outside.h"

#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "locate/known.h"
#include "locate/symbol_index.h"

namespace coctilis::describe::sources {

bool Outside::system_has(const std::string& header) {
  const auto it = system_.find(header);
  if (it != system_.end()) return it->second;
  bool has = false;
  for (const auto& folder : locator_.toolchain().compiler_or_any("C++").include_folders) {
    const std::string path = folder + "/" + header;
    if (!files::is_file(path)) continue;
    // The compiler's own folders, and those of the C library's packages.
    const std::string owner = locator_.packages().owner(path);
    const std::string package = owner.substr(0, owner.find(':'));
    if (folder.find("/lib/gcc") != std::string::npos || folder.find("/include/c++") != std::string::npos ||
        folder.find("/lib/clang") != std::string::npos || folder.find("/lib/llvm") != std::string::npos)
      has = true;
    else if (owner.empty())
      // Without a package database what no library is known to have counts as the C library's.
      has = !folder.starts_with("/usr/local/") && locate::known_by_header(header) == nullptr;
    else
      has = package == "linux-libc-dev" || package.starts_with("libc6") || package.starts_with("libc-dev") ||
            package.starts_with("musl") || package.starts_with("libstdc++");
    break;
  }
  return system_[header] = has;
}

bool Outside::is_found(const std::string& header) {
  const auto it = found_.find(header);
  if (it != found_.end()) return it->second;
  const auto& folders = locator_.toolchain().compiler_or_any("C++").include_folders;
  return found_[header] = std::any_of(folders.begin(), folders.end(),
                                      [&](const auto& folder) { return files::is_file(folder + "/" + header); });
}

std::string Outside::folder_in_prefix(const std::string& name) const {
  const auto& usual = locator_.toolchain().compiler_or_any("C++").include_folders;
  for (const auto& folder : locator_.include_folders()) {
    if (std::find(usual.begin(), usual.end(), folder) == usual.end() && files::is_file(folder + "/" + name))
      return folder;
  }
  return {};
}

bool Outside::has_module(const std::string& module) {
  const std::string file = module + ".mod";
  return is_found(file) || !folder_in_prefix(file).empty() || !module_folder(module).empty() || use_of(file);
}

// LIBDIR/fortran/COMPILER-mod-VERSION, and a folder for each implementation of an interface below it.
std::string Outside::module_folder(const std::string& module) {
  if (!module_folders_) {
    module_folders_.emplace();
    for (const auto& libraries : locator_.link_folders()) {
      const std::string above = libraries + "/fortran";
      for (const auto& version : files::names_in(above)) {
        if (!version.starts_with("gfortran-mod-")) continue;
        const std::string folder = files::absolute(above + "/" + version);
        if (std::find(module_folders_->begin(), module_folders_->end(), folder) != module_folders_->end()) continue;
        module_folders_->push_back(folder);
        for (const auto& name : files::names_in(folder)) {
          if (files::is_folder(folder + "/" + name)) module_folders_->push_back(folder + "/" + name);
        }
      }
    }
  }
  for (const auto& folder : *module_folders_) {
    if (files::is_file(folder + "/" + module + ".mod")) return folder;
  }
  return {};
}

void Outside::read_modules() {
  if (modules_) return;
  modules_.emplace();
  std::set<std::string> seen;
  for (const auto& folder : locator_.pc_folders()) {
    for (const auto& file : files::names_in(folder)) {
      if (!file.ends_with(".pc") || !seen.insert(file).second) continue;
      model::Requirement want;
      want.name = file.substr(0, file.size() - 3);
      const auto finding = locator_.module(want);
      if (finding.found && !finding.usage.include_folders.empty()) modules_->push_back({want.name, finding.usage});
    }
  }
  // The module that needs the fewest folders for a header is the one that has it.
  std::stable_sort(modules_->begin(), modules_->end(), [](const auto& a, const auto& b) {
    return std::make_tuple(a.usage.include_folders.size(), a.usage.link_items.size(), a.name.size()) <
           std::make_tuple(b.usage.include_folders.size(), b.usage.link_items.size(), b.name.size());
  });
}

// By a header, or the file of a module.
const locate::KnownLibrary* Outside::known_by(const std::string& name) {
  return name.ends_with(".mod") ? locate::known_by_fortran_module(name.substr(0, name.size() - 4))
                                : locate::known_by_header(name);
}

std::optional<HeaderUse> Outside::use_of(const std::string& header) {
  const auto it = uses_.find(header);
  if (it != uses_.end()) return it->second;
  std::optional<HeaderUse> out;
  if (const auto* known = known_by(header); known != nullptr) {
    model::Requirement want;
    want.name = known->name;
    const auto finding = locator_.library(want);
    const auto& folders = finding.usage.include_folders;
    if (finding.found && std::any_of(folders.begin(), folders.end(),
                                     [&](const auto& folder) { return files::is_file(folder + "/" + header); }))
      out = HeaderUse{finding.usage, known->name};
  }
  if (!out) {
    read_modules();
    for (const auto& module : *modules_) {
      const auto& folders = module.usage.include_folders;
      if (std::none_of(folders.begin(), folders.end(),
                       [&](const auto& folder) { return files::is_file(folder + "/" + header); }))
        continue;
      out = HeaderUse{module.usage, module.name};
      break;
    }
  }
  return uses_[header] = out;
}

// The names of libraries whose headers are included: of several that define a symbol, these are meant.
std::set<std::string> Outside::meant_by(const std::set<std::string>& headers) const {
  std::set<std::string> meant;
  for (const auto& header : headers) {
    if (const auto* known = known_by(header); known != nullptr)
      meant.insert(known->libraries.begin(), known->libraries.end());
    const auto it = uses_.find(header);
    if (it == uses_.end() || !it->second) continue;
    for (const auto& item : it->second->usage.link_items) {
      if (item.starts_with("-l")) meant.insert(item.substr(2));
    }
  }
  return meant;
}

void Outside::ask(const std::set<std::string>& symbols, const std::set<std::string>& headers) {
  auto first = meant_by(headers);
  first.insert("m");
  definers_ = locate::libraries_with(locator_, symbols, first);
}

std::vector<Outside::Library> Outside::libraries(std::set<std::string>& wanted, const std::set<std::string>& headers,
                                                 const std::string& unit, const Place& place, bool required) {
  const auto meant = meant_by(headers);
  std::vector<std::string> chosen;
  std::set<std::string> open;
  std::set<std::string> nowhere;
  for (const auto& symbol : wanted) (definers_.contains(symbol) ? open : nowhere).insert(symbol);
  while (!open.empty()) {
    std::map<std::string, std::size_t> covers;
    for (const auto& symbol : open) {
      for (const auto& library : definers_.at(symbol)) ++covers[library];
    }
    const auto best = std::max_element(covers.begin(), covers.end(), [&](const auto& a, const auto& b) {
      const auto rank = [&](const auto& one) {
        // Libraries that are made for debugging, or hold others, have longer names.
        return std::make_tuple(meant.contains(one.first), one.second, -static_cast<int>(one.first.size()));
      };
      return rank(a) < rank(b);
    });
    const std::string library = best->first;
    chosen.push_back(library);
    std::erase_if(open, [&](const auto& symbol) {
      const auto& all = definers_.at(symbol);
      return std::find(all.begin(), all.end(), library) != all.end();
    });
  }
  wanted = std::move(nowhere);
  std::vector<Library> out;
  for (const auto& name : chosen) {
    const model::Requirement want = {model::RequirementKind::library, name, {}, required, unit, place, {}};
    auto finding = locator_.link_name(want, {});
    const bool usual = finding.why_here.empty();
    const std::string item = !finding.found || usual ? "-l" + name : finding.where;
    finding.requirement = want;
    locator_.keep(std::move(finding));
    out.push_back({item, name});
  }
  return out;
}

}  // namespace coctilis::describe::sources
