#include "locate/locator.h"

#include <re2/re2.h>

#include "base/files.h"
#include "base/process.h"
#include "base/text.h"
#include "locate/known.h"

namespace coctilis::locate {

namespace {
// The prefixes to look in first: --with, then those that coctilis.toml pins.
std::vector<std::string> wished_prefixes(const model::Settings& settings) {
  std::vector<std::string> out = settings.prefixes;
  for (const auto& need : settings.needs) {
    if (!need.prefix.empty()) out.push_back(need.prefix);
  }
  return out;
}

void check_version(model::Finding& finding) {
  if (!finding.found || finding.want.constraint.empty() ||
      text::version_meets(finding.version, finding.want.constraint))
    return;
  finding.found = false;
  finding.reason = finding.version.empty() ? "its version cannot be told; asked for is " + finding.want.constraint
                                           : "version " + finding.version + " at " + finding.where +
                                                 " does not do; asked for is " + finding.want.constraint;
}

// The version that a header states as text, by the macro that holds it.
std::string version_in_header(const std::string& path, const std::string& macro) {
  const auto content = files::read(path);
  if (!content || macro.empty()) return {};
  std::string version;
  const RE2 pattern("#\\s*define\\s+" + RE2::QuoteMeta(macro) + "\\s+\"([0-9][0-9A-Za-z.+-]*)");
  RE2::PartialMatch(*content, pattern, &version);
  return version;
}
}  // namespace

Locator::Locator(const model::Toolchain& toolchain, const model::Settings& settings, Answers* answers)
    : toolchain_(toolchain),
      settings_(settings),
      answers_(answers),
      search_(pc_search(wished_prefixes(settings), toolchain.machine, toolchain.c.sysroot)) {}

std::vector<std::string> Locator::prefixes() const {
  std::vector<std::string> out = wished_prefixes(settings_);
  for (const char* prefix : {"/usr/local", "/usr", ""}) out.emplace_back(prefix);
  return out;
}

std::vector<std::string> Locator::include_folders() const {
  std::vector<std::string> out;
  for (const auto& prefix : wished_prefixes(settings_)) out.push_back(prefix + "/include");
  const auto& compiler = toolchain_.cxx.present() ? toolchain_.cxx : toolchain_.c;
  out.insert(out.end(), compiler.include_folders.begin(), compiler.include_folders.end());
  return out;
}

std::vector<std::string> Locator::link_folders() const {
  std::vector<std::string> out;
  for (const auto& prefix : wished_prefixes(settings_)) {
    for (const auto& name : {"lib/" + toolchain_.machine, std::string("lib64"), std::string("lib")})
      out.push_back(prefix + "/" + name);
  }
  const auto& compiler = toolchain_.c.present() ? toolchain_.c : toolchain_.cxx;
  out.insert(out.end(), compiler.link_folders.begin(), compiler.link_folders.end());
  return out;
}

model::Finding Locator::module(const model::Want& want, bool statically) const {
  model::Finding finding;
  finding.want = want;
  auto requirements = pc_requirements(want.name);
  if (requirements.empty()) return finding;
  const PcModule module = find_pc(requirements.front(), search_, statically);
  finding.looked = module.looked;
  finding.version = module.file.version;
  finding.usage = module.usage;
  finding.where = module.file.path;
  finding.how = ".pc file";
  finding.found = module.found && module.problem.empty();
  finding.reason = module.problem;
  check_version(finding);
  if (!finding.found) finding.package = package_of_module(requirements.front().name);
  return finding;
}

model::Finding Locator::header(const model::Want& want, const std::vector<std::string>& folders) const {
  model::Finding finding;
  finding.want = want;
  std::vector<std::string> all = folders;
  const auto builtin = include_folders();
  all.insert(all.end(), builtin.begin(), builtin.end());
  for (const auto& folder : all) {
    finding.looked.push_back(folder + "/" + want.name);
    if (!files::is_file(finding.looked.back())) continue;
    finding.found = true;
    finding.where = finding.looked.back();
    finding.how = "header";
    return finding;
  }
  finding.package = package_of_header(want.name);
  return finding;
}

model::Finding Locator::link_name(const model::Want& want, const std::vector<std::string>& folders) const {
  model::Finding finding;
  finding.want = want;
  std::vector<std::string> all = folders;
  const auto builtin = link_folders();
  all.insert(all.end(), builtin.begin(), builtin.end());
  const bool exact = want.name.starts_with(':');
  for (const auto& folder : all) {
    for (const auto& name : exact ? std::vector<std::string>{want.name.substr(1)}
                                  : std::vector<std::string>{"lib" + want.name + ".so", "lib" + want.name + ".a"}) {
      finding.looked.push_back(folder + "/" + name);
      if (!files::is_file(finding.looked.back())) continue;
      finding.found = true;
      finding.where = finding.looked.back();
      finding.how = "library";
      finding.usage.link_items = {finding.where};
      return finding;
    }
  }
  if (const auto* known = known_by_link_name(want.name)) finding.package = known->package;
  return finding;
}

model::Finding Locator::library(const model::Want& want) const {
  const KnownLibrary* known = known_library(want.name);
  std::vector<std::string> modules = known != nullptr ? known->modules : std::vector<std::string>{want.name};
  model::Finding first;
  first.want = want;
  for (const auto& name : modules) {
    model::Want asked = want;
    asked.name = name;
    model::Finding finding = module(asked);
    finding.want = want;
    if (finding.found) return finding;
    if (!finding.reason.empty() && first.reason.empty()) first.reason = finding.reason;
    first.looked.insert(first.looked.end(), finding.looked.begin(), finding.looked.end());
  }
  // Without a .pc file: every header and every library must be there.
  model::Finding parts;
  parts.want = want;
  parts.how = "header and library";
  parts.found = true;
  for (const auto& name : known != nullptr ? known->headers : std::vector<std::string>{}) {
    model::Want asked{model::WantKind::header, name, {}, want.required, want.asked_by, want.place};
    const model::Finding finding = header(asked, {});
    first.looked.insert(first.looked.end(), finding.looked.begin(), finding.looked.end());
    parts.found = parts.found && finding.found;
    if (!finding.found) continue;
    const std::string folder = finding.where.substr(0, finding.where.size() - name.size() - 1);
    const auto& system = search_.system_include_folders;
    const auto& builtin = toolchain_.c.include_folders;
    if (std::find(system.begin(), system.end(), folder) == system.end() &&
        std::find(builtin.begin(), builtin.end(), folder) == builtin.end()) {
      parts.usage.include_folders.push_back(folder);
    }
  }
  for (const auto& name : known != nullptr ? known->libraries : std::vector<std::string>{want.name}) {
    model::Want asked{model::WantKind::library, name, {}, want.required, want.asked_by, want.place};
    const model::Finding finding = link_name(asked, {});
    first.looked.insert(first.looked.end(), finding.looked.begin(), finding.looked.end());
    parts.found = parts.found && finding.found;
    if (!finding.found) continue;
    parts.where = finding.where;
    parts.usage.link_items.push_back(finding.where);
  }
  if (parts.found && known == nullptr) parts.how = "library";
  if (parts.found && known != nullptr && !known->version_header.empty()) {
    const model::Finding finding = header({model::WantKind::header, known->version_header, {}, false, {}, {}}, {});
    if (finding.found) parts.version = version_in_header(finding.where, known->version_macro);
  }
  check_version(parts);
  if (parts.found) return parts;
  first.found = false;
  if (first.reason.empty()) first.reason = parts.reason;
  first.package = known != nullptr ? known->package : package_of_module(want.name);
  return first;
}

model::Finding Locator::program(const model::Want& want, const std::vector<std::string>& names,
                                const std::vector<std::string>& folders) const {
  model::Finding finding;
  finding.want = want;
  const char* path = std::getenv("PATH");
  std::vector<std::string> all = folders;
  for (const auto& prefix : wished_prefixes(settings_)) all.push_back(prefix + "/bin");
  for (const auto& folder : text::split(path != nullptr ? path : "/usr/local/bin:/usr/bin:/bin", ':')) {
    if (!folder.empty()) all.push_back(folder);
  }
  for (const auto& name : names) {
    if (name.starts_with('/')) {
      finding.looked.push_back(name);
    } else {
      for (const auto& folder : all) finding.looked.push_back(folder + "/" + name);
    }
  }
  for (const auto& candidate : finding.looked) {
    if (!files::is_program(candidate)) continue;
    finding.found = true;
    finding.where = candidate;
    finding.how = "on PATH";
    return finding;
  }
  for (const auto& name : names) {
    if (finding.package.empty()) finding.package = package_of_program(name);
  }
  return finding;
}

void Locator::keep(model::Finding finding) {
  for (auto& known : findings_) {
    if (known.want.kind != finding.want.kind || known.want.name != finding.want.name) continue;
    // Asked for again, and met this time or needed more: the newer answer counts.
    const bool better = (finding.found && !known.found) ||
                        (finding.found == known.found && finding.want.required && !known.want.required) ||
                        (!finding.found && known.found && finding.want.required && !finding.want.constraint.empty());
    if (better) {
      const bool required = known.want.required || finding.want.required;
      known = std::move(finding);
      known.want.required = required;
    }
    return;
  }
  findings_.push_back(std::move(finding));
}

bool Locator::any_required_missing() const {
  return std::any_of(findings_.begin(), findings_.end(), [](const auto& f) { return f.want.required && !f.found; });
}

}  // namespace coctilis::locate
