#include "locate/toolchain_search.h"

#include <dirent.h>
#include <re2/re2.h>

#include "base/files.h"
#include "base/observed.h"
#include "base/process.h"
#include "base/text.h"
#include "model/toolchain.h"

namespace coctilis::locate {

namespace {

void add_folder(std::vector<CompilerSet>& sets, const std::string& folder, const std::string& origin) {
  static const RE2 pattern(R"(((?:[A-Za-z0-9_]+-){2,})?(gcc|g\+\+|gfortran|clang|clang\+\+)(-[0-9][0-9.]*)?)");
  observe::entries(folder);
  DIR* stream = ::opendir(folder.c_str());
  if (stream == nullptr) return;
  std::vector<std::string> names;
  while (const dirent* entry = ::readdir(stream)) names.emplace_back(entry->d_name);
  ::closedir(stream);
  std::sort(names.begin(), names.end());
  for (const auto& name : names) {
    CompilerSet set;
    std::string program;
    if (!RE2::FullMatch(name, pattern, &set.triplet, &program, &set.suffix)) continue;
    const std::string path = folder + "/" + name;
    if (!files::is_program(path)) continue;
    set.family = program[0] == 'g' ? "gcc" : "clang";
    set.origin = origin;
    auto it = std::find_if(sets.begin(), sets.end(), [&](const CompilerSet& known) {
      return known.triplet == set.triplet && known.family == set.family && known.suffix == set.suffix &&
             known.origin == origin;
    });
    if (it == sets.end()) it = sets.insert(sets.end(), set);
    for (const auto& driver : model::driver_names) {
      if (program == driver.gcc || program == driver.clang) it->paths.emplace(driver.language, path);
    }
  }
}

void sort_by_rank(std::vector<CompilerSet>& sets) {
  std::stable_sort(sets.begin(), sets.end(), [](const CompilerSet& a, const CompilerSet& b) {
    const auto rank = [](const CompilerSet& s) {
      return std::make_tuple(!s.triplet.empty(), s.family != "gcc", !s.suffix.empty());
    };
    if (rank(a) != rank(b)) return rank(a) < rank(b);
    return text::compare_versions(a.suffix, b.suffix) > 0;
  });
}

// The driver of another language beside one: under the usual name of its family; empty when it is not there.
std::string partner(const std::string& path, const model::DriverName& to) {
  static const RE2 name_pattern(R"((.*/(?:[A-Za-z0-9_]+-)*)(gcc|g\+\+|clang|clang\+\+)(-[0-9][0-9.]*)?)");
  std::string before;
  std::string name;
  std::string after;
  if (!RE2::FullMatch(path, name_pattern, &before, &name, &after)) return {};
  const std::string wanted = name.starts_with("clang") ? to.clang : to.gcc;
  const std::string candidate = before + wanted + after;
  return wanted.empty() || !files::is_program(candidate) ? std::string{} : candidate;
}

// What CC, CXX and FC name. The fronts that are not named lie beside those that are, under the usual names.
void add_environment_choice(std::vector<CompilerSet>& sets) {
  const auto path_of = [](const char* variable) {
    const char* value = std::getenv(variable);
    const auto words = text::shell_words(value == nullptr ? "" : value);
    return words.empty() ? std::string{} : find_program(words.front());
  };
  CompilerSet set;
  std::vector<std::string> named;
  for (const auto& driver : model::driver_names) {
    if (const std::string path = path_of(driver.variable); !path.empty()) {
      set.paths[driver.language] = path;
      named.emplace_back(driver.variable);
    }
  }
  if (named.empty()) return;
  set.origin = "by " + text::join(named, " and ");
  if (set.path("C").empty() && set.path("C++").empty()) {
    // Fortran alone says nothing of the others: the first set on PATH takes it in.
    if (sets.empty()) return;
    sets.insert(sets.begin(), sets.front());
    sets.front().paths["Fortran"] = set.path("Fortran");
    sets.front().origin = set.origin;
    return;
  }
  set.origin = "by " + text::join({named.begin(), std::find(named.begin(), named.end(), "FC")}, " and ");
  const std::string known = set.any();
  for (const auto& driver : model::driver_names) {
    if (const std::string path = partner(known, driver); !path.empty()) set.paths.emplace(driver.language, path);
  }
  sets.insert(sets.begin(), set);
}

}  // namespace

std::vector<std::string> path_folders() {
  const char* path = std::getenv("PATH");
  std::vector<std::string> out;
  for (auto& folder : text::split(path != nullptr ? path : "/usr/local/bin:/usr/bin:/bin", ':')) {
    if (!folder.empty() && std::find(out.begin(), out.end(), folder) == out.end()) out.push_back(folder);
  }
  return out;
}

std::vector<CompilerSet> compiler_sets(const std::vector<std::string>& prefixes) {
  std::vector<CompilerSet> out;
  for (const auto& prefix : prefixes) {
    std::vector<CompilerSet> own;
    add_folder(own, prefix + "/bin", "in the prefix " + prefix);
    sort_by_rank(own);
    out.insert(out.end(), own.begin(), own.end());
  }
  std::vector<CompilerSet> common;
  for (const auto& folder : path_folders()) add_folder(common, folder, "on PATH");
  sort_by_rank(common);
  out.insert(out.end(), common.begin(), common.end());
  add_environment_choice(out);
  return out;
}

}  // namespace coctilis::locate
