#include "describe/makefile/libraries.h"

#include <set>

#include "base/files.h"
#include "describe/commands.h"

namespace coctilis::describe::makefile {

namespace {

bool belongs_to_toolchain(const std::string& name) {
  static const std::set<std::string> known = {"c",  "l",    "m",   "pthread", "rt",     "trace", "xnet",
                                              "dl", "util", "gcc", "gcc_s",   "stdc++", "y",     "resolv"};
  return known.contains(name);
}

// The names after -l, and the folders after -L, of one link command.
struct Words {
  std::vector<std::string> libraries;
  std::vector<std::string> folders;  // absolute
  bool statically = false;
};
Words words_of(const Understood& link) {
  Words out;
  for (std::size_t i = 1; i < link.argv.size(); ++i) {
    const std::string& word = link.argv[i];
    if (word == "-static") out.statically = true;
    if (!word.starts_with("-l") && !word.starts_with("-L")) continue;
    std::string value = word.substr(2);
    if (value.empty() && i + 1 < link.argv.size()) value = link.argv[++i];
    if (value.empty()) continue;
    if (word[1] == 'l')
      out.libraries.push_back(value);
    else
      out.folders.push_back(files::absolute(value, link.folder));
  }
  return out;
}

}  // namespace

void keep_libraries(const std::vector<model::Recipe>& recipes, const std::string& work, locate::Locator& locator) {
  std::set<std::string> made;
  for (const auto& recipe : recipes) {
    for (const auto& output : recipe.outputs) made.insert(std::filesystem::path(output).filename().string());
  }
  std::set<std::string> seen;
  for (const auto& recipe : recipes) {
    if (recipe.late) continue;
    for (const auto& line : recipe.lines) {
      if (line.command.find(" -l") == std::string::npos) continue;
      for (const auto& done : understand(line.command, recipe.folder)) {
        if (done.kind != model::StepKind::link) continue;
        const Words words = words_of(done);
        const bool in_tree = std::any_of(words.folders.begin(), words.folders.end(),
                                         [&](const auto& folder) { return files::is_below(folder, work); });
        for (const auto& name : words.libraries) {
          if (belongs_to_toolchain(name) || made.contains("lib" + name + ".a") || made.contains("lib" + name + ".so") ||
              !seen.insert(name).second)
            continue;
          const model::Requirement want = {
              model::RequirementKind::library, name, {}, !line.ignore_errors, recipe.name, recipe.place,
              words.statically ? "static" : ""};
          auto finding = locator.link_name(want, words.folders);
          if (finding.found || !in_tree) locator.keep(std::move(finding));
        }
      }
    }
  }
}

}  // namespace coctilis::describe::makefile
