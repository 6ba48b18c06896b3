// Modules of Java as units: an archive of classes each, and a program for each class that can be started.
#include <algorithm>
#include <functional>
#include <optional>
#include <set>

#include "base/files.h"
#include "base/starter_script.h"
#include "base/text.h"
#include "describe/java/archives.h"
#include "describe/java/module.h"
#include "describe/java/source.h"
#include "describe/java/test_run.h"
#include "describe/known_facts.h"
#include "describe/switches.h"
#include "locate/java.h"

namespace coctilis::describe::java {

namespace {

constexpr std::size_t most_files = 200'000;
constexpr std::size_t most_filled = 16U << 20U;  // bytes of a resource whose values are filled in

// "**/*.java", "img/*.png", "**/x/": as lists of resources have them.
bool any_matches(const std::vector<std::string>& patterns, const std::string& path) {
  return std::any_of(patterns.begin(), patterns.end(), [&](const std::string& pattern) {
    return files::path_matches(pattern.ends_with('/') ? pattern + "**" : pattern, path);
  });
}

class Units {
 public:
  Units(Modules modules, const ReadRequest& request) : modules_(std::move(modules)), request_(request) {
    project_.tree = request.survey.tree;
    project_.binary_root = request.work;
    project_.name =
        modules_.name.empty() ? std::filesystem::path(request.survey.tree).filename().string() : modules_.name;
    project_.version = modules_.version;
    project_.read_files = modules_.read_files;
    project_.left_out = modules_.left_out;
  }

  model::Project run() {
    for (const auto& module : modules_.modules) by_name_.emplace(module.name, &module);
    if (!tests_wanted(request_.locator.settings(), project_))
      std::erase_if(modules_.modules, [](const Module& module) { return !module.tests_of.empty(); });
    drop_empty();
    refuse_circles();
    choose_kit();
    archives_.emplace(request_, modules_.modules, sources_, build_.units, facts_);
    // Tests come behind all that they may use.
    std::stable_partition(modules_.modules.begin(), modules_.modules.end(),
                          [](const Module& module) { return module.tests_of.empty(); });
    by_name_.clear();
    for (const auto& module : modules_.modules) by_name_.emplace(module.name, &module);
    for (const auto& module : modules_.modules) add(module);
    if (build_.units.empty())
      throw Fault({Exit::description,
                   {files::below(request_.file, project_.tree), 0, 0},
                   "it names no sources of Java that are there",
                   {},
                   "name another description under [tree] of coctilis.toml",
                   {}});
    name_programs();
    project_.languages = {"Java"};
    project_.facts = known_facts(std::move(build_));
    return std::move(project_);
  }

 private:
  // ---- modules -----------------------------------------------------------------------------------------------------
  void drop_empty() {
    for (auto& module : modules_.modules) sources_[module.name] = sources_of(module);
    std::erase_if(modules_.modules, [&](const Module& module) {
      if (!module.tests_of.empty()) return sources_[module.name].empty();
      if (!sources_[module.name].empty() || has_resources(module)) return false;
      project_.left_out.push_back({"module", module.name, module.place, "it has no sources"});
      return true;
    });
    by_name_.clear();
    for (const auto& module : modules_.modules) by_name_.emplace(module.name, &module);
  }

  [[nodiscard]] static bool has_resources(const Module& module) {
    return !module.files.empty() || !module.classes_of.empty() ||
           std::any_of(module.resources.begin(), module.resources.end(),
                       [](const auto& resource) { return files::is_folder(resource.folder); });
  }

  // Files below a folder, by path from it, sorted; what lies in the kiln is none of the tree.
  [[nodiscard]] std::vector<std::string> files_in(const std::string& folder, bool flat) const {
    std::vector<std::string> out;
    const std::function<void(const std::string&, const std::string&, int)> walk =
        [&](const std::string& path, const std::string& below, int depth) {
          if (depth > 60 || out.size() > most_files) return;
          for (const auto& name : files::names_in(path)) {
            const std::string inner = path + "/" + name;
            const std::string shown = below.empty() ? name : below + "/" + name;
            if (name == ".git" || files::is_below(request_.work, inner)) continue;
            if (files::is_folder(inner)) {
              if (!flat && !files::is_link(inner)) walk(inner, shown, depth + 1);
            } else if (files::is_file(inner)) {
              out.push_back(shown);
            }
          }
        };
    walk(folder, {}, 0);
    return out;
  }

  [[nodiscard]] std::vector<std::string> sources_of(const Module& module) const {
    if (!module.sources.empty()) return module.sources;
    std::vector<std::string> out;
    for (const auto& root : module.source_roots) {
      for (const auto& name : files_in(root, false)) {
        if (!name.ends_with(".java") || any_matches(module.source_excludes, name)) continue;
        if (!module.source_includes.empty() && !any_matches(module.source_includes, name)) continue;
        out.push_back(root + "/" + name);
      }
    }
    return out;
  }

  void refuse_circles() const {
    std::map<std::string, int> state;
    std::vector<std::string> way;
    const std::function<void(const Module&)> visit = [&](const Module& module) {
      auto& now = state[module.name];
      if (now == 2) return;
      way.push_back(module.name);
      if (now == 1) {
        way.erase(way.begin(), std::find(way.begin(), way.end(), module.name));
        throw Fault({Exit::description,
                     module.place,
                     "modules need each other in a circle: " + text::join(way, " -> "),
                     {},
                     "take one of these uses out",
                     {}});
      }
      now = 1;
      for (const auto& use : module.uses) {
        if (const auto it = by_name_.find(use); it != by_name_.end()) visit(*it->second);
      }
      state[module.name] = 2;
      way.pop_back();
    };
    for (const auto& module : modules_.modules) visit(module);
  }

  // ---- from elsewhere ----------------------------------------------------------------------------------------------
  void choose_kit() {
    locate::JavaWish wish;
    wish.exactly = modules_.kit;
    wish.place = modules_.kit_place;
    wish.required_by = "the description";
    for (const auto& module : modules_.modules) {
      if (module.level > wish.at_least) {
        wish.at_least = module.level;
        if (wish.exactly == 0) wish.place = module.place;
      }
    }
    const auto& settings = request_.locator.settings();
    if (settings.java > 0) {
      wish.exactly = settings.java;
      wish.place = settings.java_place;
      wish.required_by = "coctilis.toml";
    }
    auto chosen = locate::choose_java(locate::java_kits(settings.wished_prefixes()), wish);
    kit_ = chosen.kit;
    // A release that the system does not have is none that could be installed.
    if (!chosen.finding.package.empty() && !request_.locator.packages().available(chosen.finding.package))
      chosen.finding.package.clear();
    request_.locator.keep(chosen.finding);
    if (!chosen.note.empty()) build_.notes.push_back(chosen.note);
    // What the kit that is named would know is what may be used.
    if (wish.exactly > 0 && kit_.release > wish.exactly) release_ = wish.exactly;
  }

  // ---- units -------------------------------------------------------------------------------------------------------
  void add(const Module& module) {
    const auto& sources = sources_[module.name];
    model::Unit unit;
    unit.name = module.name + ".jar";
    unit.kind = model::TargetKind::class_library;
    unit.folder = module.folder;
    unit.work_folder = request_.work;
    unit.place = module.place;
    unit.installed = true;
    unit.result.file = request_.work + "/" + file_name(module.name) + ".jar";
    unit.result.linker_file = unit.result.file;
    unit.parts = {{"Java", {}}};
    for (const auto& path : sources) {
      model::UnitSource source;
      source.path = path;
      if (const auto it = module.source_values.find(path); it != module.source_values.end()) {
        std::map<std::string, std::string> words;
        for (const auto& [name, value] : it->second) words["@" + name + "@"] = value;
        source.path = replaced(module, path, "sources/" + files::below(path, project_.tree), words);
      }
      source.part = 0;
      source.place = module.place;
      unit.sources.push_back(std::move(source));
    }
    auto& whole = unit.whole.emplace();
    whole.compiler = kit_.compiler;
    whole.runtime = kit_.runtime;
    whole.encoding = module.encoding;
    add_level(module, whole);
    whole.options.insert(whole.options.end(), module.options.begin(), module.options.end());
    for (const auto& use : module.uses) {
      if (by_name_.contains(use)) {
        whole.units.push_back(use + ".jar");
        unit.uses.push_back({use + ".jar", model::Use::How::link});
      } else if (use != module.tests_of) {
        project_.left_out.push_back(
            {"module", use, module.place, "'" + module.name + "' needs it, and it has no sources"});
      }
    }
    const bool of_tests = !module.tests_of.empty();
    bool lacks = false;
    for (const auto& path : module.archives) {
      if (!of_tests || !is_of_framework(path)) lacks = !archives_->take_archive(path, module, whole) || lacks;
    }
    for (const auto& package : module.packages) {
      if ((!of_tests || !is_of_framework(package.name)) && !package.only_for_imports)
        lacks = !archives_->take_package(package, module, whole) || lacks;
    }
    if (!of_tests) lacks = !archives_->take_for_imports(module, sources, whole) || lacks;
    add_resources(module, whole);
    whole.manifest = module.manifest;
    whole.class_includes = module.class_includes;
    whole.class_excludes = module.class_excludes;
    if (!module.classes_of.empty()) {
      whole.classes_of = module.classes_of + ".jar";
      unit.uses.push_back({whole.classes_of, model::Use::How::link});
    }
    if (of_tests) return add_tests(module, std::move(unit), lacks);
    outline(unit, sources);
    find_entries(module, sources);
    install(unit.result.file, "share/java/" + file_name(module.name) + ".jar", unit.name, module.place);
    build_.units.push_back(std::move(unit));
  }

  // ---- tests -------------------------------------------------------------------------------------------------------

  // Those that lack nothing are built and run; else they are built when they are asked for.
  void add_tests(const Module& module, model::Unit unit, bool lacks) {
    const auto& sources = sources_[module.name];
    std::set<std::string> imports;
    std::vector<std::string> classes;
    for (const auto& path : sources) {
      const auto& facts = facts_.of(path);
      imports.insert(facts.imports.begin(), facts.imports.end());
      if (!is_run(path, module)) continue;
      const std::string name = std::filesystem::path(path).stem().string();
      if (name != "package-info" && name != "module-info")
        classes.push_back(facts.package.empty() ? name : facts.package + "." + name);
    }
    const auto frameworks = frameworks_of(imports);
    std::string why;
    if (lacks) why = "what they are compiled with is not here";
    auto& whole = *unit.whole;
    if (frameworks.any() && !archives_->take_frameworks(frameworks, module, whole)) why = "what runs them is not here";
    if (!archives_->take_for_imports(module, sources, whole)) why = "what they are compiled with is not here";
    if (why.empty() && !frameworks.other.empty())
      why = "they are written with " + frameworks.other + ", which is not run here";
    if (why.empty() && !frameworks.any()) why = "nothing tells what runs them";
    if (why.empty() && classes.empty()) why = "the description runs none of them";
    unit.installed = false;
    unit.in_default = why.empty();
    outline(unit, sources);
    project_.outlines.back().in_default = unit.in_default;
    if (why.empty()) {
      run_tests(module, unit, classes);
    } else {
      project_.left_out.push_back({"tests", module.tests_of, module.place, why});
      build_.notes.push_back("the tests of '" + module.tests_of + "' are left out: " + why);
    }
    build_.units.push_back(std::move(unit));
  }

  [[nodiscard]] bool is_run(const std::string& path, const Module& module) const {
    for (const auto& root : module.source_roots) {
      if (!files::is_below(path, root)) continue;
      const std::string below = files::below(path, root);
      return (module.run_includes.empty() || any_matches(module.run_includes, below)) &&
             !any_matches(module.run_excludes, below);
    }
    return true;
  }

  void run_tests(const Module& module, const model::Unit& unit, const std::vector<std::string>& classes) {
    const std::string base = request_.work + "/.java/" + unit.name;
    // Tests open what comes with them as files: folders stand before the archive.
    std::vector<std::string> path = {base + "/classes"};
    for (const auto& resource : module.resources) {
      if (files::is_folder(resource.folder)) path.push_back(resource.folder);
    }
    path.push_back(unit.result.file);
    std::set<std::string> seen;
    const std::function<void(const model::Whole&)> add_behind = [&](const model::Whole& whole) {
      for (const auto& library : whole.libraries) {
        if (std::find(path.begin(), path.end(), library) == path.end()) path.push_back(library);
      }
      for (const auto& name : whole.units) {
        if (!seen.insert(name).second) continue;
        for (const auto& other : build_.units) {
          if (other.name != name) continue;
          path.push_back(other.result.file);
          add_behind(*other.whole);
        }
      }
    };
    add_behind(*unit.whole);
    const std::string options = base + "/tests-to-run";
    build_.files.push_back({options, classes_to_run(classes), false});
    model::TestCase test;
    test.name = "tests of " + module.tests_of;
    test.command = test_command(kit_.runtime, path, options);
    test.folder = module.folder;
    test.limit_seconds = 600;
    // A test may end the program, and with it all that was still to be run.
    test.prints = {"tests successful"};
    test.program = unit.name;
    test.place = module.place;
    build_.tests.push_back(std::move(test));
  }

  static std::string file_name(std::string name) {
    for (auto& c : name) {
      if (c == '/' || c == ' ' || static_cast<unsigned char>(c) < 0x20) c = '-';
    }
    return name;
  }

  void add_level(const Module& module, model::Whole& whole) {
    int level = release_ > 0 && module.level == 0 ? release_ : module.level;
    if (level == 0 || kit_.release == 0) return;
    if (level < locate::least_release_for(kit_)) {
      const int least = locate::least_release_for(kit_);
      build_.notes.push_back("'" + module.name + "' is written in Java " + std::to_string(level) + "; " + kit_.version +
                             " compiles for " + std::to_string(least) + " and later, so for that");
      level = least;
    }
    if (level >= kit_.release && !module.level_is_api) return;
    if (kit_.release >= 9 && (module.level_is_api || release_ > 0))
      whole.level = std::to_string(level);
    else
      whole.options.insert(whole.options.end(),
                           {"-source", std::to_string(level), "-target", std::to_string(level), "-Xlint:-options"});
  }

  void add_resources(const Module& module, model::Whole& whole) {
    std::set<std::string> names;
    for (const auto& resource : module.resources) {
      for (const auto& name : files_in(resource.folder, resource.is_flat)) {
        if (!resource.includes.empty() && !any_matches(resource.includes, name)) continue;
        if (any_matches(resource.excludes, name) || name.ends_with(".class")) continue;
        const std::string shown = resource.below.empty() || resource.below == "." ? name : resource.below + "/" + name;
        if (!names.insert(shown).second || shown == "META-INF/MANIFEST.MF") continue;
        std::string from = resource.folder + "/" + name;
        if (resource.is_filtered) from = filtered(module, from, shown);
        whole.resources.push_back({from, shown});
      }
    }
    for (const auto& file : module.files) {
      if (!names.insert(file.name).second) continue;
      std::map<std::string, std::string> words;
      for (const auto& [name, value] : file.values) words["@" + name + "@"] = value;
      whole.resources.push_back({words.empty() ? file.from : replaced(module, file.from, file.name, words), file.name});
    }
  }

  // A copy in which ${NAME} is replaced by what the description says it is.
  std::string filtered(const Module& module, const std::string& from, const std::string& shown) {
    std::map<std::string, std::string> words;
    for (const auto& [name, value] : module.values) words["${" + name + "}"] = value;
    return replaced(module, from, shown, words);
  }
  // The same for any words.
  std::string replaced(const Module& module, const std::string& from, const std::string& shown,
                       const std::map<std::string, std::string>& words) {
    const auto content = files::read(from);
    if (!content || std::none_of(words.begin(), words.end(),
                                 [&](const auto& word) { return content->find(word.first) != std::string::npos; }))
      return from;
    std::string text = *content;
    for (const auto& [word, value] : words) {
      // What it comes to is known before it is made: a few letters may stand for a lot.
      std::size_t times = 0;
      for (auto at = text.find(word); at != std::string::npos; at = text.find(word, at + word.size())) ++times;
      if (text.size() + times * value.size() > most_filled)
        throw Fault({Exit::description,
                     {files::below(from, project_.tree), 0, 0},
                     "filled in, it has more than " + text::size(most_filled),
                     {},
                     "let it not be filled in",
                     {}});
      text = text::replace_all(std::move(text), word, value);
    }
    std::string to = request_.work + "/.java/" + module.name + ".jar/filtered/" + shown;
    build_.files.push_back({to, std::move(text), false});
    return to;
  }

  void outline(const model::Unit& unit, const std::vector<std::string>& sources) {
    model::Outline out;
    out.name = unit.name;
    out.folder = unit.folder;
    out.sources = sources;
    project_.outlines.push_back(std::move(out));
  }

  void install(const std::string& from, const std::string& to, const std::string& unit, const Place& place) {
    model::InstallItem item;
    item.from = from;
    item.to = to;
    item.mode = 0644;
    item.target = unit;
    item.place = place;
    build_.install.push_back(std::move(item));
  }

  // ---- programs ----------------------------------------------------------------------------------------------------
  struct Entry {
    const Module* module;
    std::string type;  // the class, with its package
    Place place;
  };

  void find_entries(const Module& module, const std::vector<std::string>& sources) {
    for (const auto& path : sources) {
      const auto& facts = facts_.of(path);
      if (!facts.has_main) continue;
      const std::string name = std::filesystem::path(path).stem().string();
      entries_.push_back({&module,
                          facts.package.empty() ? name : facts.package + "." + name,
                          {files::below(path, project_.tree), 0, 0}});
    }
  }

  // A program is called like the module that has but one, or names it; else like its class.
  void name_programs() {
    std::set<std::string> names;
    for (const auto& entry : entries_) {
      const auto of_module = std::count_if(entries_.begin(), entries_.end(),
                                           [&](const auto& other) { return other.module == entry.module; });
      const bool named = entry.module->entry == entry.type;
      std::string name = named || (of_module == 1 && entry.module->entry.empty())
                             ? file_name(entry.module->name)
                             : entry.type.substr(entry.type.rfind('.') + 1);
      if (named || (of_module == 1 && entry.module->entry.empty())) tell_entry(entry);
      if (names.contains(name)) name = entry.type;
      if (names.contains(name)) name = file_name(entry.module->name) + "." + entry.type;
      const std::string plain = name;
      for (int n = 2; !names.insert(name).second; ++n) name = plain + "-" + std::to_string(n);
      add_program(entry, name);
    }
    for (const auto& module : modules_.modules) {
      const bool there = std::any_of(entries_.begin(), entries_.end(), [&](const auto& entry) {
        return entry.module == &module && entry.type == module.entry;
      });
      if (!module.entry.empty() && !there)
        project_.left_out.push_back(
            {"program", module.entry, module.place, "no source of '" + module.name + "' has it with a main"});
    }
  }

  // An archive with one program, or with one that is named, can be started by itself.
  void tell_entry(const Entry& entry) {
    for (auto& unit : build_.units) {
      if (unit.name != entry.module->name + ".jar") continue;
      auto& manifest = unit.whole->manifest;
      manifest.emplace_back("Main-Class", entry.type);
      std::vector<std::string> others;
      for (const auto& name : names_behind(*unit.whole)) others.push_back(name);
      if (!others.empty()) manifest.emplace_back("Class-Path", text::join(others, " "));
    }
  }
  // Archives that one runs with, as its manifest names them: those of the tree lie beside it.
  [[nodiscard]] std::vector<std::string> names_behind(const model::Whole& whole) const {
    std::vector<std::string> out;
    std::set<std::string> seen;
    const std::function<void(const model::Whole&)> walk = [&](const model::Whole& one) {
      for (const auto& path : one.libraries) {
        const std::string file = std::filesystem::path(path).filename().string();
        const bool own = files::is_below(path, project_.tree);
        const std::string name = own ? file : "file:" + path;
        if (name.find(' ') == std::string::npos && seen.insert(name).second) out.push_back(name);
      }
      for (const auto& used : one.units) {
        for (const auto& other : build_.units) {
          if (other.name != used || !other.whole) continue;
          const std::string file = std::filesystem::path(other.result.file).filename().string();
          if (file.find(' ') != std::string::npos || !seen.insert(file).second) continue;
          out.push_back(file);
          walk(*other.whole);
        }
      }
    };
    walk(whole);
    return out;
  }

  void add_program(const Entry& entry, const std::string& name) {
    model::Unit unit;
    unit.name = name;
    unit.kind = model::TargetKind::program;
    unit.folder = entry.module->folder;
    unit.work_folder = request_.work;
    unit.place = entry.place;
    unit.installed = true;
    unit.result.file = request_.work + "/bin/" + name;
    unit.result.linker_file = unit.result.file;
    unit.parts = {{"Java", {}}};
    auto& whole = unit.whole.emplace();
    whole.compiler = kit_.compiler;
    whole.runtime = kit_.runtime;
    whole.entry = entry.type;
    whole.units = {entry.module->name + ".jar"};
    unit.uses.push_back({whole.units.front(), model::Use::How::link});
    outline(unit, {});
    install_program(unit);
    build_.units.push_back(std::move(unit));
  }

  // The same script for the place where the archives are installed.
  void install_program(const model::Unit& unit) {
    std::vector<std::string> words;
    std::set<std::string> seen;
    const std::function<void(const std::string&)> add_unit = [&](const std::string& name) {
      if (!seen.insert(name).second) return;
      for (const auto& other : build_.units) {
        if (other.name != name) continue;
        words.push_back(from_script("../share/java/" + std::filesystem::path(other.result.file).filename().string()));
        for (const auto& path : other.whole->libraries) {
          const bool own = files::is_below(path, project_.tree);
          const std::string file = std::filesystem::path(path).filename().string();
          words.push_back(own ? from_script("../share/java/" + file) : text::shell_quote(path));
          if (own && installed_.insert(file).second) install(path, "share/java/" + file, name, other.place);
        }
        for (const auto& behind : other.whole->units) add_unit(behind);
      }
    };
    add_unit(unit.whole->units.front());
    model::InstallItem item;
    item.kind = model::InstallItem::Kind::text;
    item.from = starter_script(unit.whole->entry, {text::shell_quote(unit.whole->runtime), "-cp",
                                                   text::join(words, ":"), text::shell_quote(unit.whole->entry)});
    item.to = "bin/" + unit.name;
    item.mode = 0755;
    item.target = unit.name;
    item.place = unit.place;
    build_.install.push_back(std::move(item));
  }

  Modules modules_;
  const ReadRequest& request_;
  model::Project project_;
  model::Build build_;
  std::map<std::string, const Module*> by_name_;
  std::map<std::string, std::vector<std::string>> sources_;  // by module
  locate::JavaKit kit_;
  int release_ = 0;  // that all of it is compiled for; 0: each for its own
  SourcesRead facts_;
  std::optional<Archives> archives_;
  std::vector<Entry> entries_;
  std::set<std::string> installed_;
};

}  // namespace

std::string tests_name(const std::string& module) { return "tests of " + module; }

model::Project project_of(Modules modules, const ReadRequest& request) {
  return Units(std::move(modules), request).run();
}

}  // namespace coctilis::describe::java
