// Modules by what a build file would do: what is compiled into one folder, or packed into one archive, is one of them.
#include <algorithm>
#include <functional>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "describe/java/build_file.h"
#include "describe/java/module.h"

namespace coctilis::describe::java {

namespace {

std::string stem_of(const std::string& path) { return std::filesystem::path(path).stem().string(); }

// "tables-1.4" is a "tables" of release 1.4.
WantedPackage package_of(const std::string& archive, const Place& place) {
  WantedPackage out;
  out.name = stem_of(archive);
  for (auto at = out.name.find('-'); at != std::string::npos; at = out.name.find('-', at + 1)) {
    if (at + 1 >= out.name.size() || std::isdigit(static_cast<unsigned char>(out.name[at + 1])) == 0) continue;
    out.version = out.name.substr(at + 1);
    out.name.resize(at);
    break;
  }
  out.place = place;
  return out;
}

class BuildModules {
 public:
  BuildModules(BuildFile file, std::string tree) : file_(std::move(file)), tree_(std::move(tree)) {}

  Modules run() {
    out_.name = file_.name;
    out_.read_files = file_.read_files;
    out_.left_out = file_.left_out;
    for (const auto& one : file_.compilations) group_of_.emplace(one.to, group_of_.size());
    for (const auto& archive : file_.archives) join(archive);
    for (const auto& one : file_.compilations) groups_[group_of_.at(one.to)].push_back(&one);
    for (auto& [group, compilations] : groups_) name_group(group, *compilations.front());
    for (const auto& [group, compilations] : groups_) add(group, compilations);
    for (const auto& archive : file_.archives) {
      if (!taken_.contains(&archive)) add_archive(archive);
    }
    refuse_without_sources();
    add_tests();
    return std::move(out_);
  }

 private:
  // What would be packed is but half of what is meant where sources are made by what is not followed.
  void refuse_without_sources() const {
    for (const auto& module : out_.modules) {
      if (!module.sources.empty()) return;
    }
    if (out_.modules.empty()) return;
    std::vector<std::string> tasks;
    for (const auto& left : file_.left_out) {
      if (left.kind == "task") tasks.push_back(left.name);
    }
    if (tasks.empty() && file_.compilations.empty()) return;
    throw Fault(
        {Exit::description,
         out_.modules.front().place,
         "nothing is compiled of it, as far as it is followed",
         tasks.empty() ? "the folders that it compiles have no sources" : "not followed: " + text::join(tasks, ", "),
         "name another description under [tree] of coctilis.toml",
         {}});
  }

  // ---- which folders belong together -------------------------------------------------------------------------------
  void join(const MadeArchive& archive) {
    std::optional<std::size_t> first;
    for (const auto& part : archive.content) {
      const auto it = group_of_.find(part.from.folder);
      if (it == group_of_.end()) continue;
      if (!first) first = it->second;
      const std::size_t gone = it->second;
      for (auto& [folder, group] : group_of_) {
        if (group == gone) group = *first;
      }
    }
  }

  // What packs the classes of a group whole, or else the first that packs some.
  [[nodiscard]] const MadeArchive* archive_of(std::size_t group) const {
    const MadeArchive* some = nullptr;
    for (const auto& archive : file_.archives) {
      for (const auto& part : archive.content) {
        const auto it = group_of_.find(part.from.folder);
        if (it == group_of_.end() || it->second != group) continue;
        if (part.from.includes.empty()) return &archive;
        if (some == nullptr) some = &archive;
      }
    }
    return some;
  }

  std::string unused(const std::string& wanted) {
    std::string name = wanted.empty() ? "classes" : wanted;
    for (int n = 2; !names_.insert(name).second; ++n) name = wanted + "-" + std::to_string(n);
    return name;
  }

  void name_group(std::size_t group, const Compilation& first) {
    const auto* archive = archive_of(group);
    if (archive != nullptr) taken_.insert(archive);
    name_of_[group] =
        unused(archive != nullptr                           ? stem_of(archive->file)
               : groups_.size() == 1 && !file_.name.empty() ? file_.name
                                                            : std::filesystem::path(first.to).filename().string());
    if (archive != nullptr) module_of_archive_[archive->file] = name_of_[group];
  }

  // ---- files -------------------------------------------------------------------------------------------------------
  // What is there or comes there by being copied, as files of the archive below `to`.
  // `only`: what is packed of where it comes to lie.
  void add_files(const Moved& moved, const std::string& to, Module& out, const FileChoice& only = {}) const {
    for (auto& [path, name] : files_of(moved.from, tree_)) {
      if (!files::is_below(path, tree_)) continue;
      std::string inner = !moved.name.empty() ? moved.name
                          : moved.flat        ? std::filesystem::path(name).filename().string()
                                              : name;
      inner = to.empty() ? inner : to + "/" + inner;
      if (!takes(only, inner)) continue;
      if (inner != "META-INF/MANIFEST.MF" && !inner.ends_with(".class"))
        out.files.push_back({path, inner, moved.values});
    }
  }
  void add_copies_below(const std::string& folder, const std::string& to, Module& out,
                        const FileChoice& only = {}) const {
    for (const auto& copy : file_.copies) {
      if (!files::is_below(copy.to, folder)) continue;
      std::string below = copy.to == folder ? std::string{} : files::below(copy.to, folder);
      if (!to.empty()) below = below.empty() ? to : to + "/" + below;
      add_files(copy, below, out, only);
    }
  }
  void add_content(const MadeArchive& archive, Module& out) {
    for (const auto& part : archive.content) {
      if (const auto it = group_of_.find(part.from.folder); it != group_of_.end()) {
        out.class_includes.insert(out.class_includes.end(), part.from.includes.begin(), part.from.includes.end());
        out.class_excludes.insert(out.class_excludes.end(), part.from.excludes.begin(), part.from.excludes.end());
        if (!part.to.empty())
          out_.left_out.push_back({"folder", part.to, archive.place, "classes are packed at the top of their archive"});
      } else {
        add_files(part, part.to, out);
      }
      add_copies_below(part.from.folder, part.to, out, part.to.empty() ? part.from : FileChoice{});
    }
    for (const auto& [name, value] : archive.manifest) {
      if (name == "Main-Class")
        out.entry = text::trim(value);
      else if (name != "Class-Path" && name != "Manifest-Version" && name != "Created-By" && !name.empty())
        out.manifest.emplace_back(name, value);
    }
  }

  // ---- modules -----------------------------------------------------------------------------------------------------
  static bool add_source(const std::string& path, Module& out) {
    if (!path.ends_with(".java") || std::find(out.sources.begin(), out.sources.end(), path) != out.sources.end())
      return false;
    out.sources.push_back(path);
    return true;
  }

  void add_compilation(const Compilation& one, Module& out) {
    for (const auto& choice : one.sources) {
      FileChoice all = choice;
      // What a source that is named takes in is compiled with it.
      if (std::none_of(all.includes.begin(), all.includes.end(),
                       [](const auto& pattern) { return pattern.find('*') != std::string::npos; }))
        all.includes.clear();
      for (const auto& [path, name] : files_of(all, tree_)) add_source(path, out);
      // What would be copied there is compiled where it is.
      for (const auto& copy : file_.copies) {
        if (!files::is_below(copy.to, choice.folder) || copy.flat) continue;
        const std::string below = copy.to == choice.folder ? std::string{} : files::below(copy.to, choice.folder) + "/";
        for (const auto& [path, name] : files_of(copy.from, tree_)) {
          if (!files::is_below(path, tree_)) continue;
          if (!takes(all, below + (copy.name.empty() ? name : copy.name)) || !add_source(path, out)) continue;
          if (!copy.values.empty()) out.source_values[path] = copy.values;
        }
      }
      out.source_roots.push_back(choice.folder);
    }
    std::string level = one.level;
    if (level.starts_with("1.")) level = level.substr(2);
    out.level = std::max(out.level, std::atoi(level.c_str()));
    out.level_is_api = out.level_is_api || one.level_is_api;
    if (!one.encoding.empty() && one.encoding.find("${") == std::string::npos) out.encoding = one.encoding;
    for (const auto& word : one.options) {
      if (!word.empty() && word.find("${") == std::string::npos) out.options.push_back(word);
    }
  }

  void add_class_path(const Compilation& one, const std::string& own, Module& out) const {
    const auto use = [&](const std::string& name) {
      if (name != own && std::find(out.uses.begin(), out.uses.end(), name) == out.uses.end()) out.uses.push_back(name);
    };
    for (const auto& path : one.class_path) {
      if (const auto it = group_of_.find(path); it != group_of_.end()) {
        if (groups_.at(it->second).front()->order < one.order) use(name_of_.at(it->second));
      } else if (const auto made = std::find_if(file_.archives.begin(), file_.archives.end(),
                                                [&](const auto& archive) { return archive.file == path; });
                 made != file_.archives.end()) {
        const auto module = module_of_archive_.find(path);
        if (made->order < one.order && module != module_of_archive_.end()) use(module->second);
      } else if (files::is_file(path)) {
        if (std::find(out.archives.begin(), out.archives.end(), path) == out.archives.end())
          out.archives.push_back(path);
      } else if (path.ends_with(".jar")) {
        // Those of kits have no such files any more.
        static const std::set<std::string> of_kits = {"tools", "rt", "dt", "jfxrt", "classes"};
        auto wanted = package_of(path, one.place);
        const bool known = std::any_of(out.packages.begin(), out.packages.end(),
                                       [&](const auto& other) { return other.name == wanted.name; });
        wanted.only_for_imports = true;
        if (!known && !of_kits.contains(wanted.name)) out.packages.push_back(std::move(wanted));
      }
    }
  }

  void add(std::size_t group, const std::vector<const Compilation*>& compilations) {
    Module out;
    out.name = name_of_.at(group);
    out.folder = tree_;
    out.place = compilations.front()->place;
    for (const auto* one : compilations) add_compilation(*one, out);
    for (const auto* one : compilations) add_class_path(*one, out.name, out);
    const auto* archive = archive_of(group);
    if (archive != nullptr) {
      add_content(*archive, out);
    } else {
      std::set<std::string> folders;
      for (const auto* one : compilations) {
        if (folders.insert(one->to).second) add_copies_below(one->to, {}, out);
      }
    }
    out.finds_packages = true;
    out_.modules.push_back(std::move(out));
  }

  // An archive of classes that another one has as well, or of none.
  void add_archive(const MadeArchive& archive) {
    Module out;
    out.name = unused(stem_of(archive.file));
    out.folder = tree_;
    out.place = archive.place;
    for (const auto& part : archive.content) {
      const auto it = group_of_.find(part.from.folder);
      if (it != group_of_.end()) out.classes_of = name_of_.at(it->second);
    }
    add_content(archive, out);
    out.entry.clear();
    if (!out.classes_of.empty() || !out.files.empty()) out_.modules.push_back(std::move(out));
  }

  void add_tests() {
    if (file_.tests.empty() || out_.modules.empty()) return;
    Module out;
    out.tests_of = out_.modules.front().name;
    out.name = unused(tests_name(out.tests_of));
    out.folder = tree_;
    out.place = file_.tests.front().place;
    std::set<std::string> folders;
    for (const auto& one : file_.tests) {
      add_compilation(one, out);
      add_class_path(one, {}, out);
      if (folders.insert(one.to).second) add_copies_below(one.to, {}, out);
    }
    // What is compiled for tests and no test is compiled elsewhere already.
    std::set<std::string> known;
    for (const auto& module : out_.modules) known.insert(module.sources.begin(), module.sources.end());
    std::erase_if(out.sources, [&](const auto& path) { return known.contains(path); });
    if (out.sources.empty()) return;
    if (out.uses.empty()) out.uses.push_back(out.tests_of);
    out.finds_packages = true;
    for (const auto& choice : file_.run) {
      const auto as_source = [](std::string pattern) {
        return pattern.ends_with(".class") ? pattern.substr(0, pattern.size() - 6) + ".java" : pattern;
      };
      for (const auto& pattern : choice.includes) out.run_includes.push_back(as_source(pattern));
      for (const auto& pattern : choice.excludes) out.run_excludes.push_back(as_source(pattern));
    }
    out_.modules.push_back(std::move(out));
  }

  BuildFile file_;
  const std::string tree_;
  Modules out_;
  std::map<std::string, std::size_t> group_of_;  // folder of classes -> group
  std::map<std::size_t, std::vector<const Compilation*>> groups_;
  std::map<std::size_t, std::string> name_of_;
  std::map<std::string, std::string> module_of_archive_;
  std::set<const MadeArchive*> taken_;
  std::set<std::string> names_;
};

}  // namespace

Modules read_build_xml(const std::string& file, const std::string& tree) {
  return BuildModules(read_build_file(file, tree), tree).run();
}

}  // namespace coctilis::describe::java
