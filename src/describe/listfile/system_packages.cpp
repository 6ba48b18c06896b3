// Packages that are programs, or this program's own work, and what all ways of finding a package share: what a
// description learns of it.
#include "base/files.h"
#include "base/lists.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/listfile/packages.h"
#include "describe/listfile/tool.h"
#include "locate/known.h"

namespace coctilis::describe::listfile {

void set_version(Evaluator& e, const std::string& prefix, const std::string& version) {
  e.set(prefix + "_VERSION", version);
  e.set(prefix + "_VERSION_STRING", version);
  const auto parts = text::split(version, '.');
  const char* const names[] = {"_VERSION_MAJOR", "_VERSION_MINOR", "_VERSION_PATCH"};
  for (std::size_t k = 0; k < 3; ++k) e.set(prefix + names[k], k < parts.size() ? parts[k] : "0");
}

void set_found(Evaluator& e, const PackageWish& wish, bool found, const std::string& version) {
  e.set(wish.name + "_FOUND", found ? "TRUE" : "FALSE");
  e.set(text::upper(wish.name) + "_FOUND", found ? "TRUE" : "FALSE");
  if (found && !version.empty()) {
    set_version(e, wish.name, version);
    set_version(e, text::upper(wish.name), version);
  }
  for (const auto& component : wish.components) e.set(wish.name + "_" + component + "_FOUND", found ? "TRUE" : "FALSE");
}

model::Requirement requirement_of(const PackageWish& wish, model::RequirementKind kind, const Invocation& i) {
  return {kind, wish.name, wish.constraint(), wish.required, "find_package", i.place};
}

void imported_target(Evaluator& e, const std::string& name, const model::Usage& usage, const Invocation& i) {
  if (e.target(name) != nullptr) return;
  auto& target = e.add_target(name, model::TargetKind::interface_library, i);
  target.imported = true;
  target.in_default = false;
  const auto put = [&](const std::string& property, const std::vector<std::string>& texts) {
    if (texts.empty()) return;
    for (const auto& text : texts) target.properties[property].push_back(e.word(text, i));
  };
  put("INTERFACE_INCLUDE_DIRECTORIES", usage.include_folders);
  put("INTERFACE_SYSTEM_INCLUDE_DIRECTORIES", usage.include_folders);
  put("INTERFACE_COMPILE_DEFINITIONS", usage.definitions);
  put("INTERFACE_COMPILE_OPTIONS", usage.compile_options);
  put("INTERFACE_LINK_DIRECTORIES", usage.link_folders);
  put("INTERFACE_LINK_LIBRARIES", usage.link_items);
}

void imported_program(Evaluator& e, const std::string& name, const std::string& path, const Invocation& i) {
  if (path.empty() || e.target(name) != nullptr) return;
  auto& target = e.add_target(name, model::TargetKind::program, i);
  target.imported = true;
  target.in_default = false;
  target.properties["IMPORTED_LOCATION"] = {e.word(path, i)};
}

bool find_program_package(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  const auto* package = locate::known_program(wish.name);
  if (package == nullptr) return false;
  std::vector<std::pair<std::string, std::string>> missing;  // components, and the programs that they need
  for (const auto& component : wish.components) {
    const auto needs = package->components.find(component);
    if (needs != package->components.end() && find_program(needs->second).empty()) missing.emplace_back(*needs);
    if (needs == package->components.end() && !package->parts)
      e.not_understood(i, "find_package(" + wish.name + " COMPONENTS " + component + ")");
  }
  auto want = requirement_of(wish, model::RequirementKind::program, i);
  want.name = package->programs.front();
  auto finding = e.locator.program(want, package->programs, {});
  if (finding.found) {
    finding.version = e.locator.version_of_program(finding.where);
    e.set(package->variable, finding.where);
    if (!package->target.empty()) imported_program(e, package->target, finding.where, i);
    for (const auto& [variable, program] : package->beside) {
      const std::string path = find_program(program);
      e.set(variable, path.empty() ? variable + "-NOTFOUND" : path);
    }
    for (const auto& [variable, word] : package->told)
      e.set(variable, std::string(text::trim(e.locator.told_by({finding.where, word}))));
    for (const auto& [variable, value] : package->values) e.set(variable, value);
    for (const auto& [name, content] : package->files) files::write_if_different(e.binary_root + "/" + name, content);
  }
  if (finding.found && !missing.empty()) {
    finding.found = false;
    finding.reason = "its component '" + missing.front().first + "' needs the program '" + missing.front().second + "'";
    finding.package = locate::package_of_program(missing.front().second);
  }
  set_found(e, wish, finding.found, finding.version);
  for (const auto& component : wish.components) {
    const bool there =
        std::none_of(missing.begin(), missing.end(), [&](const auto& m) { return m.first == component; });
    if (!missing.empty()) e.set(wish.name + "_" + component + "_FOUND", there ? "TRUE" : "FALSE");
  }
  e.keep(std::move(finding));
  return true;
}

bool find_own_work(Evaluator& e, const PackageWish& wish) {
  const auto* own = locate::known_own_work(wish.name);
  if (own == nullptr) return false;
  set_found(e, wish, true, own->version);
  for (const auto& [variable, value] : own->variables) e.set(variable, value == "{self}" ? tool_word : value);
  return true;
}

// The parts of a library that descriptions ask for one by one; `base` is what its main library needs.
void set_parts(Evaluator& e, const locate::KnownLibrary& known, const model::Usage& base, const Invocation& i) {
  std::vector<std::string> all = base.link_items;
  for (const auto& part : known.parts) {
    const auto library = e.locator.link_name(
        {model::RequirementKind::library, part.library, {}, false, i.name, i.place, {}}, base.link_folders);
    model::Finding header;
    header.found = part.header.empty();
    if (!part.header.empty())
      header = e.locator.header({model::RequirementKind::header, part.header, {}, false, i.name, i.place, {}},
                                base.include_folders);
    const bool there = library.found && header.found;
    e.set(part.found_variable, there ? "TRUE" : "FALSE");
    e.set(part.file_variable, library.found ? library.where : part.file_variable + "-NOTFOUND");
    if (!part.header.empty())
      e.set(part.folder_variable, header.found ? header.where.substr(0, header.where.size() - part.header.size() - 1)
                                               : part.folder_variable + "-NOTFOUND");
    if (!there) continue;
    if (part.adds) all.push_back(library.where);
    model::Usage usage = base;
    usage.link_items = {library.where};
    imported_target(e, part.target, usage, i);
  }
  for (const auto& variable : known.parts_add_to) e.set(variable, list_join(all));
}

// Another library that comes with it, by a name of its own.
void set_beside(Evaluator& e, const locate::KnownLibrary& known, const std::vector<std::string>& items,
                const Invocation& i) {
  if (known.beside.library.empty()) return;
  const auto beside = e.locator.library(
      {model::RequirementKind::library, known.beside.library, {}, false, "find_package", i.place, {}});
  for (const auto& name : known.beside.targets) imported_target(e, name, beside.usage, i);
  e.set(known.beside.own_variable, list_join(beside.usage.link_items));
  e.set(known.beside.both_variable, list_join(items) + ";" + list_join(beside.usage.link_items));
}

}  // namespace coctilis::describe::listfile
