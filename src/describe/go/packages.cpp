#include "describe/go/packages.h"

#include <algorithm>
#include <cstdlib>
#include <functional>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "describe/go/source.h"

namespace coctilis::describe::go {

namespace {

constexpr std::size_t most_packages = 20'000;

std::string folder_of(const std::string& path) { return std::filesystem::path(path).parent_path().string(); }

class Finder {
 public:
  Finder(const std::vector<Module>& modules, const locate::GoKit& kit, const std::vector<std::string>& tags,
         bool calls_c, bool tests, const ReadRequest& request)
      : modules_(modules),
        kit_(kit),
        tags_(tags.begin(), tags.end()),
        calls_c_(calls_c),
        tests_(tests),
        request_(request),
        tree_(request.survey.tree) {}

  Packages run() {
    for (const auto& module : modules_) {
      if (module.own) walk(module, module.folder, 0);
    }
    for (const auto& [path, place] : wanted_) static_cast<void>(load(path, place.first, {}, place.second));
    of_tests_ = true;
    for (const auto& [path, place] : with_tests_) load_tests(path, place.first, place.second);
    return std::move(out_);
  }

 private:
  struct From {
    std::string folder;
    const Module* module = nullptr;
  };

  [[noreturn]] static void refuse(const Place& place, const std::string& what, const std::string& remedy) {
    throw Fault({Exit::description, place, what, {}, remedy, {}});
  }
  [[nodiscard]] std::string shown(const std::string& path) const { return files::below(path, tree_); }

  // ---- what is built by itself -------------------------------------------------------------------------------------
  void walk(const Module& module, const std::string& folder, int depth) {
    if (depth > 60 || wanted_.size() > most_packages) return;
    bool any = false;
    bool any_tests = false;
    for (const auto& name : files::names_in(folder)) {
      const std::string path = folder + "/" + name;
      if (name.ends_with(".go") && !name.starts_with('_') && !name.starts_with('.'))
        (name.ends_with("_test.go") ? any_tests : any) = true;
      if (!files::is_folder(path) || files::is_link(path)) continue;
      if (name.starts_with('.') || name.starts_with('_') || name == "testdata" || name == "vendor") continue;
      if (files::is_below(request_.work, path) || files::is_file(path + "/go.mod")) continue;
      walk(module, path, depth + 1);
    }
    const std::string below = files::below(folder, module.folder);
    const std::string path = folder == module.folder ? module.path : module.path + "/" + below;
    if (any_tests && tests_) with_tests_.emplace(path, std::pair{From{folder, &module}, Place{shown(folder), 0, 0}});
    if (!any) return;
    // A folder of which nothing is for this machine is left out as long as nobody imports it.
    if (has_sources(folder))
      wanted_.emplace(path, std::pair{From{folder, &module}, Place{shown(folder), 0, 0}});
    else
      out_.left_out.push_back(
          {"package", path, {shown(folder), 0, 0}, "its constraints leave out all of its files here"});
  }

  // ---- files -------------------------------------------------------------------------------------------------------
  [[nodiscard]] bool has_tag(const std::string& tag) const {
    if (tag == kit_.system || tag == kit_.processor || tag == "gc" || tag == "unix" || tags_.contains(tag)) return true;
    if (tag == "cgo") return calls_c_;
    if (tag.starts_with("go1.")) return std::atoi(tag.c_str() + 4) <= kit_.minor;
    return false;
  }

  // Whether a file, of tests or none, is for this machine; what it says, if so.
  bool takes(const std::string& path, SourceFacts& facts, bool of_tests = false) {
    const std::string name = std::filesystem::path(path).filename().string();
    bool test = false;
    if (name.starts_with('_') || name.starts_with('.') || !name_fits(name, kit_.system, kit_.processor, test) ||
        test != of_tests)
      return false;
    facts = facts_of_source(files::read(path).value_or(""));
    if (!facts.constraint.empty()) {
      std::string problem;
      const bool good = holds(
          facts.constraint, [&](const std::string& tag) { return has_tag(tag); }, problem);
      if (!problem.empty())
        refuse({shown(path), facts.lines[facts.constraint], 0}, "its build constraint cannot be read: " + problem,
               "mend it");
      if (!good) return false;
    }
    return true;
  }

  bool has_sources(const std::string& folder) {
    for (const auto& name : files::names_in(folder)) {
      SourceFacts facts;
      if (name.ends_with(".go") && files::is_file(folder + "/" + name) && takes(folder + "/" + name, facts) &&
          (calls_c_ || !facts.uses_c) && facts.package != "documentation")
        return true;
    }
    return false;
  }

  // ---- where an import lies ----------------------------------------------------------------------------------------
  [[nodiscard]] static bool is_path_below(const std::string& path, const std::string& module) {
    return path == module || (path.size() > module.size() && path.starts_with(module) && path[module.size()] == '/');
  }

  // The archive of the standard library; empty when it has none of the name.
  [[nodiscard]] std::string standard(const std::string& import) const {
    std::string path = kit_.packages + "/" + import + ".a";
    return files::is_file(path) ? path : std::string{};
  }

  From in_module(const Module& module, const std::string& import) const {
    const std::string folder =
        import == module.path ? module.folder : module.folder + "/" + import.substr(module.path.size() + 1);
    return files::is_folder(folder) ? From{folder, &module} : From{};
  }

  From locate_import(const std::string& import, const Module& from, std::vector<std::string>& looked) {
    const Module* best = nullptr;
    for (const auto& module : modules_) {
      if (is_path_below(import, module.path) && (best == nullptr || module.path.size() > best->path.size()))
        best = &module;
    }
    if (best != nullptr) {
      looked.push_back(best->folder);
      if (From found = in_module(*best, import); !found.folder.empty()) return found;
    }
    const auto try_folder = [&](const std::string& folder) {
      looked.push_back(folder);
      return files::is_folder(folder);
    };
    for (const auto& module : modules_) {
      if (!module.vendored) continue;
      const std::string folder = module.folder + "/vendor/" + import;
      if (try_folder(folder)) return {folder, foreign(import, module.folder + "/vendor")};
    }
    for (const auto* module : {&from, &modules_.front()}) {
      if (From found = by_requirement(import, *module, looked); !found.folder.empty()) return found;
    }
    std::vector<std::string> bases;
    for (const auto& prefix : request_.locator.settings().wished_prefixes()) {
      bases.push_back(prefix + "/share/gocode/src");
      bases.push_back(prefix + "/src");
    }
    if (const char* path = std::getenv("GOPATH")) bases.push_back(std::string(path) + "/src");
    bases.emplace_back("/usr/share/gocode/src");
    for (const auto& base : bases) {
      const std::string folder = base + "/" + import;
      if (try_folder(folder)) return {folder, foreign(import, base)};
    }
    return {};
  }

  // A module that a file replaces or requires, where the cache of modules has it.
  From by_requirement(const std::string& import, const Module& from, std::vector<std::string>& looked) {
    std::string path;
    for (const auto& [module, required] : from.file.requires_) {
      if (is_path_below(import, module) && module.size() > path.size()) path = module;
    }
    for (const auto& [module, replaced] : from.file.replaces) {
      if (is_path_below(import, module) && module.size() > path.size()) path = module;
    }
    if (path.empty()) return {};
    const std::string rest = import.size() > path.size() ? import.substr(path.size()) : std::string{};
    std::string target = path;
    std::string version;
    if (const auto it = from.file.requires_.find(path); it != from.file.requires_.end()) version = it->second.version;
    if (const auto it = from.file.replaces.find(path); it != from.file.replaces.end()) {
      const auto& replaced = it->second;
      if (replaced.path.starts_with('.') || replaced.path.starts_with('/')) {
        const std::string folder = files::absolute(replaced.path, from.folder);
        if (!files::is_below(folder, tree_))
          refuse(replaced.place,
                 "the replacement of " + path + " leads out of the tree: " + text::printable_line(replaced.path),
                 "bring its sources into the tree, and let the line name them there");
        looked.push_back(folder + rest);
        if (files::is_folder(folder + rest)) return {folder + rest, foreign_at(path, folder)};
        return {};
      }
      target = replaced.path;
      version = replaced.version;
    }
    std::vector<std::string> caches;
    if (const char* cache = std::getenv("GOMODCACHE")) caches.emplace_back(cache);
    if (const char* go = std::getenv("GOPATH")) caches.push_back(std::string(go) + "/pkg/mod");
    if (const char* home = std::getenv("HOME")) caches.push_back(std::string(home) + "/go/pkg/mod");
    for (const auto& cache : caches) {
      const std::string folder = cache + "/" + escaped_path(target) + "@" + escaped_path(version);
      looked.push_back(folder);
      if (files::is_folder(folder + rest)) return {folder + rest, foreign_at(path, folder)};
    }
    return {};
  }

  // A module of others, for what its own packages import.
  const Module* foreign(const std::string& import, const std::string& base) {
    // The folder that has its go.mod, else the package's own.
    std::string path = import;
    while (path.find('/') != std::string::npos && !files::is_file(base + "/" + path + "/go.mod"))
      path = folder_of(path);
    if (!files::is_file(base + "/" + path + "/go.mod")) path = import;
    return foreign_at(path, base + "/" + path);
  }
  const Module* foreign_at(const std::string& path, const std::string& folder) {
    auto& module = foreign_[folder];
    if (!module.folder.empty()) return &module;
    module.path = path;
    module.folder = folder;
    if (const auto content = files::read(folder + "/go.mod")) {
      module.file = read_module_file(*content, folder + "/go.mod");
      // What stands in the place of others counts in the tree's own files only.
      module.file.replaces.clear();
    }
    return &module;
  }

  // ---- packages ----------------------------------------------------------------------------------------------------

  // Loads a package with all that it imports. False where something of that is missing.
  bool load(const std::string& path, const From& at, std::vector<std::string> way, const Place& place) {
    if (const auto it = state_.find(path); it != state_.end()) {
      if (it->second != State::loading) return it->second == State::whole;
      way.erase(way.begin(), std::find(way.begin(), way.end(), path));
      way.push_back(path);
      refuse(place, "packages import each other in a circle: " + text::join(way, " -> "),
             "take one of these imports out");
    }
    if (way.size() > 1000 || state_.size() > most_packages)
      refuse(place, "there are too many packages", "name fewer modules");
    state_[path] = State::loading;
    way.push_back(path);
    Package package;
    package.path = path;
    package.folder = at.folder;
    package.module = at.module;
    package.own = at.module->own;
    package.minor = at.module->file.minor;
    package.place = {shown(at.folder), 0, 0};
    std::map<std::string, Place> imports;
    std::vector<std::pair<std::string, Place>> patterns;
    std::string first;
    std::size_t with_c = 0;
    for (const auto& name : files::names_in(at.folder)) {
      const std::string file = at.folder + "/" + name;
      if (!files::is_file(file)) continue;
      if (name.ends_with(".s") || name.ends_with(".S")) {
        bool test = false;
        if (name.ends_with(".s") && name_fits(name, kit_.system, kit_.processor, test) && assembler_fits(file))
          package.assembler.push_back(file);
        continue;
      }
      if (name.ends_with(".h")) package.headers.push_back(file);
      for (const char* ending : {".c", ".cc", ".cpp", ".cxx"}) {
        bool test = false;
        if (name.ends_with(ending) && name_fits(name, kit_.system, kit_.processor, test) && assembler_fits(file))
          package.c_sources.push_back(file);
      }
      if (!name.ends_with(".go")) continue;
      SourceFacts facts;
      if (!takes(file, facts)) continue;
      if (!facts.problem.empty()) refuse({shown(file), 1, 0}, facts.problem, "mend it");
      if (facts.package == "documentation") continue;
      if (facts.uses_c && !calls_c_) {
        ++with_c;
        out_.left_out.push_back(
            {"source", shown(file), {shown(file), 0, 0}, "it calls C, and cgo is off or there is no C compiler"});
        continue;
      }
      if (!package.name.empty() && facts.package != package.name)
        refuse({shown(file), 1, 0},
               "the folder has two packages: " + package.name + " in " + first + ", and " + facts.package,
               "let a build constraint leave one out, or give it a folder of its own");
      if (package.name.empty()) first = name;
      package.name = facts.package;
      (facts.uses_c ? package.calling_c : package.sources).push_back(file);
      for (const auto& line : facts.cgo) take_line_for_c(line, {shown(file), facts.lines["C"], 0}, package);
      for (const auto& import : facts.imports) imports.emplace(import, Place{shown(file), facts.lines[import], 0});
      for (const auto& pattern : facts.embeds)
        patterns.emplace_back(pattern, Place{shown(file), facts.lines[pattern], 0});
    }
    if (package.sources.empty() && package.calling_c.empty())
      refuse(place,
             "the package " + path + " has no sources for this machine" + (with_c > 0 ? " that do not call C" : ""),
             "its build constraints leave out all of its files: see " + shown(at.folder));
    if (package.calling_c.empty()) {
      package.c_sources.clear();
    } else {
      // What they come to needs these besides.
      for (const char* import : {"runtime/cgo", "syscall"}) imports.emplace(import, Place{shown(at.folder), 0, 0});
    }
    for (const auto& [pattern, where] : patterns) embed(pattern, where, package);
    bool whole = !package.lacks;
    for (const auto& [import, where] : imports) whole = add_import(import, where, package, way) && whole;
    state_[path] = whole ? State::whole : State::lacking;
    if (!whole) return false;
    package.module = nullptr;
    if (package.name == "main") programs_.insert(path);
    at_.emplace(path, out_.all.size());
    out_.all.push_back(std::move(package));
    return true;
  }

  // "CFLAGS: -I${SRCDIR}/x", "linux,!arm LDFLAGS: -lm", "pkg-config: zlib".
  void take_line_for_c(const std::string& line, const Place& where, Package& package) {
    const auto colon = line.find(':');
    if (colon == std::string::npos)
      refuse(where, "a line for C has a name and a colon: " + text::printable_line(line), "mend it");
    auto head = text::words(line.substr(0, colon));
    if (head.empty()) refuse(where, "a line for C has a name before its colon", "mend it");
    const std::string name = head.back();
    head.pop_back();
    const auto holds_all = [&](const std::string& terms) {
      const auto all = text::split(terms, ',');
      return std::all_of(all.begin(), all.end(), [&](const std::string& term) {
        return term.starts_with('!') ? !has_tag(term.substr(1)) : has_tag(term);
      });
    };
    if (!head.empty() && std::none_of(head.begin(), head.end(), holds_all)) return;
    const auto words = text::words(
        text::replace_all(text::replace_all(line.substr(colon + 1), "${SRCDIR}", package.folder), "\"", ""));
    if (name == "pkg-config") {
      for (const auto& module : words) {
        if (module.starts_with('-')) continue;
        auto finding =
            request_.locator.module({model::RequirementKind::library, module, {}, !of_tests_, package.path, where, {}});
        package.lacks = package.lacks || !finding.found;
        for (const auto& folder : finding.usage.include_folders) package.c_options.push_back("-I" + folder);
        for (const auto& definition : finding.usage.definitions) package.c_options.push_back("-D" + definition);
        for (const auto& option : finding.usage.compile_options) package.c_options.push_back(option);
        for (const auto& folder : finding.usage.link_folders) package.c_link_words.push_back("-L" + folder);
        for (const auto& item : finding.usage.link_items) package.c_link_words.push_back(item);
        request_.locator.keep(std::move(finding));
      }
      return;
    }
    if (name == "LDFLAGS") {
      for (const auto& word : words) {
        package.c_link_words.push_back(word);
        if (!word.starts_with("-l") || word.size() < 3) continue;
        std::vector<std::string> folders;
        for (const auto& other : package.c_link_words) {
          if (other.starts_with("-L")) folders.push_back(files::absolute(other.substr(2), package.folder));
        }
        auto finding = request_.locator.link_name(
            {model::RequirementKind::library, word.substr(2), {}, !of_tests_, package.path, where, {}}, folders);
        package.lacks = package.lacks || !finding.found;
        request_.locator.keep(std::move(finding));
      }
    } else if (name == "CFLAGS" || name == "CPPFLAGS" || name == "CXXFLAGS") {
      package.c_options.insert(package.c_options.end(), words.begin(), words.end());
    }
  }

  bool assembler_fits(const std::string& file) {
    // Constraints stand in assembler as they do in Go.
    const auto facts = facts_of_source(files::read(file).value_or("") + "\npackage x\n");
    std::string problem;
    return facts.constraint.empty() ||
           holds(
               facts.constraint, [&](const std::string& tag) { return has_tag(tag); }, problem);
  }

  bool add_import(const std::string& import, const Place& where, Package& package,
                  const std::vector<std::string>& way) {
    if (import == "unsafe") return true;
    if (import == "C") return true;
    if (std::string archive = standard(import); !archive.empty()) {
      package.imports.emplace(import, std::move(archive));
      return true;
    }
    if (import.starts_with("./") || import.starts_with("../"))
      refuse(where, "it imports the folder " + text::printable_line(import), "import it by the module's path");
    check_internal(import, package, where);
    std::vector<std::string> looked;
    const From found = locate_import(import, *package.module, looked);
    if (found.folder.empty()) {
      missing(import, where, package, std::move(looked));
      return false;
    }
    package.imports.emplace(import, import);
    if (!load(import, found, way, where)) return false;
    if (programs_.contains(import))
      refuse(where, "it imports " + import + ", which is a program", "move what both need into a package of its own");
    return true;
  }

  // What lies in or below "internal" is for those beside it.
  static void check_internal(const std::string& import, const Package& package, const Place& where) {
    const std::string whole = "/" + import + "/";
    const auto at = whole.rfind("/internal/");
    if (at == std::string::npos) return;
    const std::string parent = at == 0 ? std::string{} : whole.substr(1, at - 1);
    if (parent.empty() || is_path_below(package.path, parent)) return;
    refuse(where, "it imports " + import + ", which is internal to " + parent, "import what that gives to others");
  }

  void missing(const std::string& import, const Place& where, const Package& package, std::vector<std::string> looked) {
    // The module that a file requires for it.
    std::string module = import;
    std::string version;
    Place place = where;
    for (const auto& [path, required] : package.module->file.requires_) {
      if (!is_path_below(import, path)) continue;
      module = path;
      version = required.version;
      place = required.place;
    }
    model::Finding finding;
    finding.requirement = {model::RequirementKind::package,
                           module,
                           {},
                           !of_tests_,
                           of_tests_ ? "tests of " + testing_ : package.path,
                           place,
                           {}};
    finding.looked = std::move(looked);
    finding.how = "Go module";
    // Names without a dot in their first part are the standard library's.
    const bool of_library = module == import && import.substr(0, import.find('/')).find('.') == std::string::npos;
    finding.reason =
        "the package " + import + (version.empty() ? "" : " (" + version + ")") +
        " is nowhere here, and nothing is fetched: bring it in by a folder vendor, the module cache, or a prefix";
    if (of_library)
      finding.reason =
          "the standard library of Go " + kit_.version + " has no package " + import + "; one of a later release may";
    for (const auto& name : of_library ? std::vector<std::string>{} : debian_names(module)) {
      if (!request_.locator.packages().available(name)) continue;
      finding.package = name;
      break;
    }
    request_.locator.keep(std::move(finding));
  }

  // How Debian calls packages of Go: golang-github-brick-clay-dev of github.com/brick/clay.
  static std::vector<std::string> debian_names(const std::string& module) {
    auto parts = text::split(text::lower(module), '/');
    std::string release;
    if (parts.size() > 1 && parts.back().size() > 1 && parts.back()[0] == 'v' &&
        std::isdigit(static_cast<unsigned char>(parts.back()[1])) != 0) {
      release = parts.back();
      parts.pop_back();
    }
    std::string host = parts.front();
    const auto dot = host.rfind('.');
    if (dot != std::string::npos) host.resize(dot);
    parts.front() = text::replace_all(host, ".", "-");
    std::vector<std::string> out;
    const std::string joined = text::replace_all(text::join(parts, "-"), "_", "-");
    if (!release.empty()) out.push_back("golang-" + joined + "-" + release + "-dev");
    out.push_back("golang-" + joined + "-dev");
    if (parts.size() > 1) {
      parts.erase(parts.begin());
      out.push_back("golang-" + text::replace_all(text::join(parts, "-"), "_", "-") + "-dev");
    }
    return out;
  }

  // ---- tests -------------------------------------------------------------------------------------------------------
  [[nodiscard]] const Package* loaded(const std::string& path) const {
    const auto it = at_.find(path);
    return it == at_.end() ? nullptr : &out_.all[it->second];
  }

  // The tests of the package of that path, or of a folder that has nothing else.
  void load_tests(const std::string& path, const From& at, const Place& place) {
    // What is lacking for it is told already.
    if (const auto it = state_.find(path); it != state_.end() && it->second != State::whole) return;
    testing_ = path;
    try {
      PackageTests tests;
      Imports inside, outside;
      if (!read_tests(path, at, tests, inside, outside)) return;
      if (!import_all(tests, at, inside, outside)) {
        out_.left_out.push_back({"tests", path, place, "what they import is not here"});
        return;
      }
      for (const char* import : {"os", "reflect", "testing", "testing/internal/testdeps"}) {
        std::string archive = standard(import);
        if (archive.empty()) {
          out_.left_out.push_back({"tests", path, place, std::string("the distribution has no package ") + import});
          return;
        }
        tests.imports.emplace(import, std::move(archive));
      }
      out_.tests.push_back(std::move(tests));
    } catch (const Fault& fault) {
      // What is wrong with tests is no reason to build nothing.
      for (auto& [other, state] : state_) {
        if (state == State::loading) state = State::lacking;
      }
      const auto& problem = fault.problem();
      out_.left_out.push_back({"tests", path, problem.place, problem.what});
    }
  }

  // What sources import, and where they say it.
  using Imports = std::map<std::string, Place>;

  // Their sources and functions, and what they import; false: there is nothing to be run here.
  bool read_tests(const std::string& path, const From& at, PackageTests& tests, Imports& inside, Imports& outside) {
    const Package* package = loaded(path);
    tests.path = path;
    if (package != nullptr) tests.inside = *package;
    for (auto* one : {&tests.inside, &tests.outside}) {
      one->module = at.module;
      one->folder = at.folder;
      one->minor = at.module->file.minor;
      one->place = {shown(at.folder), 0, 0};
    }
    // What is internal to the one is so to the other.
    tests.inside.path = tests.outside.path = path;
    bool any = false;
    for (const auto& name : files::names_in(at.folder)) {
      const std::string file = at.folder + "/" + name;
      SourceFacts facts;
      if (!name.ends_with("_test.go") || !files::is_file(file) || !takes(file, facts, true)) continue;
      if (!facts.problem.empty()) refuse({shown(file), 1, 0}, facts.problem, "mend it");
      if (facts.uses_c) refuse({shown(file), facts.lines["C"], 0}, "tests cannot call C", "let their package call it");
      if (tests.inside.name.empty())
        tests.inside.name =
            facts.package.ends_with("_test") ? facts.package.substr(0, facts.package.size() - 5) : facts.package;
      const bool beside = facts.package == tests.inside.name + "_test";
      if (!beside && facts.package != tests.inside.name)
        refuse({shown(file), 1, 0},
               "the folder has two packages: " + tests.inside.name + ", and " + facts.package + " in " + name,
               "let a build constraint leave one out, or give it a folder of its own");
      Package& of = beside ? tests.outside : tests.inside;
      of.name = facts.package;
      of.sources.push_back(file);
      tests.anew = tests.anew || !beside;
      for (const auto& import : facts.imports)
        (beside ? outside : inside).emplace(import, Place{shown(file), facts.lines[import], 0});
      for (const auto& pattern : facts.embeds) embed(pattern, {shown(file), facts.lines[pattern], 0}, of);
      for (auto& function : test_functions_of(files::read(file).value_or(""))) {
        any = any || function.runs();
        tests.functions.push_back({std::move(function), beside});
      }
    }
    return any;
  }

  bool import_all(PackageTests& tests, const From& at, const Imports& inside, const Imports& outside) {
    bool whole = true;
    tests.inside.module = tests.outside.module = at.module;
    for (const auto& [import, where] : inside) {
      whole = add_import(import, where, tests.inside, {}) && whole;
      if (whole && reaches(import, tests.path))
        refuse(where, "it imports " + import + ", which imports " + tests.path + " itself",
               "let the test be of the package " + tests.inside.name + "_test");
    }
    for (const auto& [import, where] : outside) {
      // A program, too, may be what is tested.
      if (import == tests.path)
        tests.outside.imports.emplace(import, import);
      else
        whole = add_import(import, where, tests.outside, {}) && whole;
    }
    if (!whole) return false;
    // What stands between the tests beside the package and the package has to be of the one that has tests.
    std::set<std::string> seen;
    const std::function<void(const Package&)> again = [&](const Package& package) {
      for (const auto& [import, from] : package.imports) {
        if (from.starts_with('/') || from == tests.path || !seen.insert(from).second) continue;
        const Package* next = loaded(from);
        if (next == nullptr || !reaches(from, tests.path)) continue;
        again(*next);
        tests.again.push_back(*next);
      }
    };
    if (tests.anew && !tests.outside.sources.empty()) again(tests.outside);
    tests.inside.module = tests.outside.module = nullptr;
    tests.outside.path = tests.path + "_test";
    return true;
  }

  // Whether a package is another, or imports it by whatever way.
  bool reaches(const std::string& from, const std::string& path) {
    if (reaching_ != path) {
      reaching_ = path;
      reaches_.clear();
    }
    if (from == path) return true;
    if (const auto it = reaches_.find(from); it != reaches_.end()) return it->second;
    bool out = false;
    if (const Package* package = loaded(from)) {
      for (const auto& [import, next] : package->imports) out = out || (!next.starts_with('/') && reaches(next, path));
    }
    return reaches_[from] = out;
  }

  // ---- files that go in --------------------------------------------------------------------------------------------
  void embed(const std::string& pattern, const Place& where, Package& package) {
    model::GoPackage::Embed out;
    out.pattern = pattern;
    const bool all = pattern.starts_with("all:");
    const std::string plain = all ? pattern.substr(4) : pattern;
    const std::string normal = std::filesystem::path(plain).lexically_normal().string();
    if (plain.empty() || plain.starts_with('/') || normal == ".." || normal.starts_with("../"))
      refuse(where, "the pattern '" + text::printable_line(pattern) + "' leads out of the package",
             "name files below it");
    std::set<std::string> names;
    const std::function<void(const std::string&, const std::string&, bool)> add =
        [&](const std::string& path, const std::string& name, bool named) {
          const std::string last = name.substr(name.rfind('/') + 1);
          if (!named && !all && (last.starts_with('.') || last.starts_with('_'))) return;
          if (names.size() > 100'000 || files::is_link(path)) return;
          if (files::is_file(path)) {
            if (names.insert(name).second) out.files.emplace_back(name, path);
            return;
          }
          // A module of its own is none of this one's files.
          if (!files::is_folder(path) || (!named && files::is_file(path + "/go.mod"))) return;
          for (const auto& inner : files::names_in(path)) add(path + "/" + inner, name + "/" + inner, false);
        };
    const auto parts = text::split(plain, '/');
    const std::function<void(std::size_t, const std::string&, const std::string&)> match =
        [&](std::size_t at, const std::string& path, const std::string& name) {
          if (at == parts.size()) return add(path, name, true);
          if (parts[at].find_first_of("*?[") == std::string::npos) {
            const std::string inner = path + "/" + parts[at];
            if (files::exists(inner)) match(at + 1, inner, name.empty() ? parts[at] : name + "/" + parts[at]);
            return;
          }
          for (const auto& inner : files::names_in(path)) {
            if (files::matches(parts[at], inner))
              match(at + 1, path + "/" + inner, name.empty() ? inner : name + "/" + inner);
          }
        };
    match(0, package.folder, {});
    if (out.files.empty())
      refuse(where, "the pattern '" + text::printable_line(pattern) + "' to embed takes no file",
             "make what it names first: it may be the output of other tools (a front end, say)");
    package.embeds.push_back(std::move(out));
  }

  const std::vector<Module>& modules_;
  const locate::GoKit& kit_;
  const std::set<std::string> tags_;
  const bool calls_c_;
  const bool tests_;
  const ReadRequest& request_;
  const std::string tree_;
  std::map<std::string, std::pair<From, Place>> wanted_, with_tests_;
  enum class State { loading, whole, lacking };
  std::map<std::string, State> state_;
  std::map<std::string, std::size_t> at_;  // in out_.all
  bool of_tests_ = false;                  // what is loaded is for tests
  std::string testing_;                    // the package whose tests these are
  std::string reaching_;                   // what reaches_ tells of
  std::map<std::string, bool> reaches_;
  std::set<std::string> programs_;  // of those that are
  std::map<std::string, Module> foreign_;
  Packages out_;
};

}  // namespace

Packages find_packages(const std::vector<Module>& modules, const locate::GoKit& kit,
                       const std::vector<std::string>& tags, bool calls_c, bool tests, const ReadRequest& request) {
  return Finder(modules, kit, tags, calls_c, tests, request).run();
}

}  // namespace coctilis::describe::go
