#include "describe/sources/alternatives.h"

#include <algorithm>
#include <map>
#include <set>

#include "base/files.h"
#include "base/text.h"

namespace coctilis::describe::sources {

namespace {

// The two folders that lie side by side above two files; empty where one of the files lies above the other.
std::pair<std::string, std::string> fork_of(const std::string& a, const std::string& b) {
  const auto left = text::split(a, '/');
  const auto right = text::split(b, '/');
  std::string above;
  for (std::size_t i = 0; i + 1 < left.size() && i + 1 < right.size(); ++i) {
    if (left[i] != right[i]) return {above + left[i], above + right[i]};
    above += left[i] + "/";
  }
  return {};
}

bool lies_in(const std::string& path, const std::string& folder) { return path.starts_with(folder + "/"); }

// A module that compilers have themselves (ISO/IEC 1539-1:2018, 16.10 and 17; OpenMP 5.2, 3; OpenACC 3.3, 3).
bool is_of_compilers(const std::string& module) {
  return module.starts_with("iso_") || module.starts_with("ieee_") || module == "omp_lib" ||
         module == "omp_lib_kinds" || module == "openacc";
}

class Search {
 public:
  explicit Search(Tree& tree) : tree_(tree) {}

  std::vector<Alternatives> all() {
    std::map<std::string, std::vector<std::string>> definers;
    for (const auto& file : tree_.files()) {
      if (file.language != "Fortran" || file.role != survey::FolderRole::own) continue;
      sources_.push_back(file.path);
      for (const auto& module : tree_.scanned(file.path).defines_modules) definers[module].push_back(file.path);
    }
    for (const auto& [module, paths] : definers) {
      if (paths.size() > 1)
        add(paths, "the module " + module, [&, &module = module](const std::string& source) {
          const auto& uses = tree_.scanned(source).uses_modules;
          return std::find(uses.begin(), uses.end(), module) != uses.end();
        });
    }
    std::set<std::string> names;
    for (const auto& source : sources_) {
      for (const auto& include : tree_.scanned(source).includes) names.insert(include.name);
    }
    for (const auto& name : names) {
      const auto paths = tree_.ending_in(name, "");
      if (paths.size() > 1)
        add(paths, name, [&](const std::string& source) {
          const auto& includes = tree_.scanned(source).includes;
          return std::any_of(includes.begin(), includes.end(), [&](const auto& one) {
            const std::string folder = folder_of(source);
            return one.name == name && !files::is_file(tree_.absolute(folder.empty() ? name : folder + "/" + name));
          });
        });
    }
    return std::move(out_);
  }

 private:
  // Files that have the same, and who asks for that.
  template <class Asks>
  void add(const std::vector<std::string>& paths, const std::string& shared, const Asks& asks) {
    std::set<std::string> folders;
    for (std::size_t i = 0; i < paths.size(); ++i) {
      for (std::size_t k = i + 1; k < paths.size(); ++k) {
        const auto [one, other] = fork_of(paths[i], paths[k]);
        if (one.empty()) continue;
        folders.insert(one);
        folders.insert(other);
      }
    }
    // Those below the same folder only.
    std::map<std::string, std::vector<std::string>> beside;
    for (const auto& folder : folders) beside[folder_of(folder)].push_back(folder);
    for (const auto& [above, there] : beside) {
      const auto& list = there;  // some compilers do not let a lambda have what is bound
      if (list.size() < 2) continue;
      const bool from_outside = std::any_of(sources_.begin(), sources_.end(), [&](const auto& source) {
        return asks(source) &&
               std::none_of(list.begin(), list.end(), [&](const auto& folder) { return lies_in(source, folder); });
      });
      if (!from_outside) continue;
      const auto known = std::find_if(out_.begin(), out_.end(), [&](const auto& one) { return one.folders == list; });
      if (known == out_.end()) out_.push_back({list, shared});
    }
  }

  Tree& tree_;
  std::vector<std::string> sources_;
  std::vector<Alternatives> out_;
};

// A module that sources of the folder use and nobody has; empty: there is none.
std::string lacks_module(Tree& tree, Outside& outside, const std::string& folder) {
  std::set<std::string> defined;
  for (const auto& file : tree.files()) {
    if (file.language != "Fortran") continue;
    const auto& modules = tree.scanned(file.path).defines_modules;
    defined.insert(modules.begin(), modules.end());
  }
  for (const auto& file : tree.files()) {
    if (file.language != "Fortran" || !lies_in(file.path, folder)) continue;
    for (const auto& module : tree.scanned(file.path).uses_modules) {
      if (!defined.contains(module) && !is_of_compilers(module) && !outside.has_module(module)) return module;
    }
  }
  return {};
}

}  // namespace

std::vector<Alternatives> alternatives_in(Tree& tree) { return Search(tree).all(); }

std::vector<model::LeftOut> choose_among_alternatives(Tree& tree, Outside& outside, const model::Settings& settings) {
  std::vector<model::LeftOut> out;
  std::set<std::string> chosen;
  for (const auto& name : settings.choose) {
    std::string folder = name;
    while (folder.ends_with('/')) folder.pop_back();
    chosen.insert(folder);
  }
  std::set<std::string> of_use;
  std::vector<std::string> open;
  std::vector<std::string> proposed;
  for (const auto& set : alternatives_in(tree)) {
    std::string taken;
    std::map<std::string, std::string> why;
    for (const auto& folder : set.folders) {
      if (chosen.contains(folder)) taken = folder;
    }
    if (!taken.empty()) {
      of_use.insert(taken);
      for (const auto& folder : set.folders) why[folder] = "[tree] choose takes " + taken;
    } else {
      std::vector<std::string> possible;
      for (const auto& folder : set.folders) {
        const auto module = lacks_module(tree, outside, folder);
        if (module.empty())
          possible.push_back(folder);
        else
          why[folder] = "it uses the module " + module + ", which nobody here has";
      }
      if (possible.size() == 1) taken = possible.front();
    }
    if (taken.empty()) {
      open.push_back(text::join(set.folders, " and ") +
                     " exclude each other: " + (set.folders.size() == 2 ? "both have " : "all have ") + set.shared);
      proposed.push_back('"' + set.folders.front() + '"');
      continue;
    }
    for (const auto& folder : set.folders) {
      if (folder == taken) continue;
      tree.leave_out_folder(folder);
      out.push_back(
          {"folder", folder, {folder, 0, 0}, "it excludes " + taken + " (" + set.shared + "); " + why[folder]});
    }
  }
  if (!open.empty())
    throw Fault(
        {Exit::description,
         {},
         open.front() + (open.size() > 1 ? "; " + text::count(open.size() - 1, "more such choice") + " to make" : ""),
         open.size() > 1 ? text::join({open.begin() + 1, open.end()}, "; ") : "",
         "say which are taken, under [tree] of coctilis.toml: choose = [" + text::join(proposed, ", ") + "]",
         {}});
  for (const auto& folder : chosen) {
    if (!of_use.contains(folder))
      throw Fault({Exit::usage,
                   settings.choose_place,
                   "choose names '" + text::printable_line(folder) + "', which excludes no other folder",
                   {},
                   "take it away, or leave folders out with leave-out",
                   {}});
  }
  return out;
}

}  // namespace coctilis::describe::sources
