// Which tool chain a tree gets, and why the others are left.
#include <fmt/format.h>
#include <re2/re2.h>

#include "base/files.h"
#include "base/text.h"
#include "locate/packages.h"
#include "locate/toolchain.h"
#include "locate/toolchain_search.h"
#include "model/environment_variables.h"

namespace coctilis::locate {

namespace {

// The family and version that a wish names; false for a wish of another form.
bool read_wish(const std::string& wish, std::string& family, std::string& constraint) {
  if (!RE2::FullMatch(wish, R"((gcc|g\+\+|gfortran|clang|clang\+\+)[ -]?(.*))", &family, &constraint)) return false;
  family = family[0] == 'g' ? "gcc" : "clang";
  constraint = std::string(text::trim(constraint));
  return true;
}

std::string listed(const std::vector<std::string>& names) {
  if (names.size() < 2) return text::join(names, "");
  return text::join({names.begin(), names.end() - 1}, ", ") + " and " + names.back();
}

// "wanted is gcc 13; there are gcc 11, 12 and 14": and whether one of them will do.
std::string neighbours(const std::vector<model::Toolchain>& all, const std::string& wish, const std::string& machine) {
  std::string family;
  std::string constraint;
  const bool named = read_wish(wish, family, constraint);
  std::vector<std::string> others;
  std::vector<const model::Toolchain*> same;
  for (const auto& chain : all) {
    if ((!machine.empty() && chain.machine != machine) || (machine.empty() && chain.foreign)) continue;
    others.push_back(chain.name);
    if (named && chain.family == family) same.push_back(&chain);
  }
  if (all.empty()) return "there is no compiler at all";
  if (others.empty()) {
    std::set<std::string> machines;
    for (const auto& chain : all) machines.insert(chain.machine);
    return "there are tool chains for " + listed({machines.begin(), machines.end()}) + " only";
  }
  std::string out = (others.size() == 1 ? "there is " : "there are ") + listed(others);
  if (same.empty()) return out;
  static const RE2 number(R"([^0-9]*([0-9]+).*)");
  int wanted = 0;
  if (!RE2::FullMatch(constraint, number, &wanted)) return out;
  const model::Toolchain* newer = nullptr;
  const model::Toolchain* older = nullptr;
  const auto major = [](const model::Toolchain& chain) { return std::atoi(chain.version.c_str()); };
  for (const auto* chain : same) {
    if (major(*chain) > wanted && (newer == nullptr || major(*chain) < major(*newer))) newer = chain;
    if (major(*chain) < wanted && (older == nullptr || major(*chain) > major(*older))) older = chain;
  }
  if (newer != nullptr) {
    out += "; " + newer->name + " is newer and takes what " + family + " " + std::to_string(wanted) +
           " takes: --toolchain '" + newer->name + "' should do";
  } else if (older != nullptr) {
    out += "; " + older->name + " is older: it does only if the tree needs no more than C++" +
           std::to_string(newest_standard(*older, "C++")) + " (--toolchain '" + older->name + "')";
  }
  return out;
}

// The package with compilers of a family: `base` is the name that GNU's has, `version` empty for the usual one,
// `machine` for this one. Empty when there is none for such a machine.
std::string compiler_package(bool clang, const std::string& base, const std::string& version,
                             const std::string& machine) {
  if (!machine.empty() && debian_architecture(machine).empty()) return {};
  const std::string name = (clang ? "clang" : base) + (version.empty() ? "" : "-" + version);
  return clang || machine.empty() ? name : name + "-" + text::replace_all(machine, "_", "-");
}

std::string package_for(const std::string& wish, const std::string& machine, const std::vector<model::Toolchain>& all) {
  std::string family;
  std::string constraint;
  // Of a compiler that is not known here nobody knows the package.
  if (!wish.empty() && !read_wish(wish, family, constraint)) return {};
  static const RE2 exact(R"((?:=+ ?)?([0-9]+)[0-9.]*)");
  std::string version;
  const bool pinned = RE2::FullMatch(constraint, exact, &version);
  // The package without a version would be the same again.
  const bool there = std::any_of(all.begin(), all.end(), [&](const auto& chain) {
    return chain.family == (family == "clang" ? "clang" : "gcc") &&
           (machine.empty() ? !chain.foreign : chain.machine == machine);
  });
  if (there && !pinned) return {};
  return compiler_package(family == "clang", "g++", version, machine);
}

}  // namespace

bool answers_wish(const model::Toolchain& chain, const std::string& wish) {
  if (wish.empty()) return true;
  if (wish == chain.machine || wish == chain.name) return true;
  std::string family;
  std::string constraint;
  if (!read_wish(wish, family, constraint) || family != chain.family) return false;
  if (constraint.empty()) return true;
  if (RE2::FullMatch(constraint, "[0-9.]+"))
    return chain.version == constraint || chain.version.starts_with(constraint + ".");
  return text::version_meets(chain.version, constraint);
}

std::string package_of_compiler(const model::Toolchain& chain, const std::string& language) {
  // The one beside it: a compiler called by its version has a partner of that version.
  static const RE2 versioned(R"(.*-([0-9]+)[0-9.]*)");
  std::string version;
  RE2::FullMatch(chain.any().path, versioned, &version);
  return compiler_package(chain.family == "clang", language == "C++" ? "g++" : "gcc", version,
                          chain.foreign ? chain.machine : "");
}

int newest_standard(const model::Toolchain& chain, const std::string& language) {
  // The first version that takes the option and has most of the standard, by the families' release notes.
  struct Row {
    int standard;
    int gcc;
    int clang;
  };
  static const std::vector<Row> c = {{23, 9, 9}, {17, 8, 6}, {11, 5, 3}, {99, 4, 3}};
  static const std::vector<Row> cxx = {{26, 14, 17}, {23, 11, 13}, {20, 10, 10}, {17, 7, 5}, {14, 5, 3}, {11, 4, 3}};
  const int version = std::atoi(chain.version.c_str());
  for (const auto& row : language == "C" ? c : cxx) {
    if (version >= (chain.family == "clang" ? row.clang : row.gcc)) return row.standard;
  }
  return language == "C" ? 90 : 98;
}

bool knows_standard(const model::Toolchain& chain, const std::string& language, int standard) {
  const auto age = [](int year) { return year >= 90 ? year - 100 : year; };
  return age(newest_standard(chain, language)) >= age(standard);
}

Choice choose(std::vector<model::Toolchain>& all, const model::Settings& settings,
              const std::set<std::string>& languages, const std::map<std::string, int>& standards) {
  Choice choice;
  auto& finding = choice.finding;
  std::vector<std::string> wishes;
  for (const auto& wish : settings.toolchain) wishes.push_back(wish.text);
  finding.requirement.kind = model::RequirementKind::toolchain;
  finding.requirement.name = wishes.empty() ? "C and C++ compilers" : text::join(wishes, ", ");
  if (!settings.machine.empty()) finding.requirement.name += " for " + settings.machine;
  finding.requirement.required_by = wishes.empty() && settings.machine.empty() ? "the sources" : "the user";
  finding.requirement.place = settings.toolchain_place;

  std::vector<model::Toolchain*> allowed;
  for (auto& chain : all) {
    const auto refusing = std::find_if(settings.toolchain.begin(), settings.toolchain.end(),
                                       [&](const model::ToolchainWish& w) { return !answers_wish(chain, w.text); });
    const bool named = chain.origin.starts_with("by ");
    if (refusing != settings.toolchain.end())
      chain.verdict = "required is " + refusing->text;
    else if (!settings.machine.empty() && chain.machine != settings.machine)
      chain.verdict = "for " + chain.machine + ", required is " + settings.machine;
    else if (settings.machine.empty() && chain.foreign && !named &&
             std::none_of(wishes.begin(), wishes.end(), [&](const auto& w) { return w == chain.machine; }))
      chain.verdict = "for another machine; --toolchain " + chain.machine + " chooses it";
    else
      allowed.push_back(&chain);
  }
  const auto lacks = [&](const model::Toolchain& chain) {
    for (const auto& language : languages) {
      if (!chain.compiler(language).present()) return "has no " + language + " compiler";
    }
    for (const auto& [language, standard] : standards) {
      if (!knows_standard(chain, language, standard))
        return fmt::format("is too old for {}{:02}, which the tree asks for", language, standard);
    }
    return std::string{};
  };
  model::Toolchain* chosen = nullptr;
  for (auto* chain : allowed) {
    if (chosen == nullptr && lacks(*chain).empty()) chosen = chain;
  }
  if (chosen == nullptr && !allowed.empty()) chosen = allowed.front();  // what it lacks is told as a want of its own
  for (auto* chain : allowed) {
    if (chain == chosen)
      chain->verdict = chain->origin.starts_with("by ") ? "named " + chain->origin
                       : !wishes.empty()                ? "the first that is " + text::join(wishes, ", ")
                       : !settings.machine.empty()      ? "the first for " + settings.machine
                                                        : "the first " + chain->origin;
    else if (const auto missing = lacks(*chain); !missing.empty())
      chain->verdict = missing;
    else
      chain->verdict = "available; --toolchain '" + chain->name + "' chooses it";
  }
  if (chosen != nullptr) {
    choice.toolchain = *chosen;
    finding.found = true;
    finding.where = chosen->any().path;
    finding.version = chosen->version;
    finding.how = chosen->origin;
    return choice;
  }
  for (const auto& folder : path_folders()) finding.looked.push_back(folder);
  finding.reason = neighbours(all, wishes.empty() ? "" : wishes.front(), settings.machine);
  finding.package = package_for(wishes.empty() ? "" : wishes.front(), settings.machine, all);
  return choice;
}

std::optional<model::Finding> choose_linker(model::Toolchain& chain, const model::Settings& settings) {
  if (settings.linker.empty()) return std::nullopt;
  model::Finding finding;
  finding.requirement = {
      model::RequirementKind::program, settings.linker, {}, true, "the user", settings.toolchain_place, {}};
  finding.how = "linker";
  std::vector<std::string> names;
  for (const auto& linker : chain.linkers) {
    names.push_back(linker.name);
    if (linker.name != settings.linker) continue;
    finding.found = true;
    finding.where = linker.path;
    chain.link_options = {"-fuse-ld=" + linker.name};
  }
  // The first version of gcc that takes the option's word; clang takes all of them.
  if (finding.found && chain.family == "gcc" && settings.linker == "mold" &&
      text::compare_versions(chain.version, "12.1") < 0) {
    finding.found = false;
    finding.refused = true;
    finding.reason = chain.name + " cannot be told to link with it; gcc 12 and clang can";
    return finding;
  }
  if (finding.found) return finding;
  finding.reason = chain.name + " can link with " + (names.empty() ? "its own linker only" : listed(names));
  for (const auto& folder : path_folders()) finding.looked.push_back(folder + "/ld." + settings.linker);
  if (settings.linker == "bfd" || settings.linker == "gold")
    finding.package = "binutils";
  else if (settings.linker == "lld" || settings.linker == "mold")
    finding.package = settings.linker;
  return finding;
}

std::vector<model::EnvironmentUse> environment_in_use() {
  std::vector<model::EnvironmentUse> out;
  for (const auto& variable : model::environment_variables) {
    const char* value = variable.effect == nullptr ? nullptr : std::getenv(variable.name);
    if (value != nullptr && *value != '\0') out.push_back({variable.name, value, variable.effect});
  }
  return out;
}

}  // namespace coctilis::locate
