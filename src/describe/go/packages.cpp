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
         bool calls_c, const ReadRequest& request)
      : modules_(modules),
        kit_(kit),
        tags_(tags.begin(), tags.end()),
        calls_c_(calls_c),
        request_(request),
        tree_(request.survey.tree) {}

  Packages run() {
    for (const auto& module : modules_) {
      if (module.own) walk(module, module.folder, 0);
    }
    for (const auto& [path, place] : wanted_) static_cast<void>(load(path, place.first, {}, place.second));
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

  // ---- what is built by itself
  // ---------------------------------------------------------------------------------------
  void walk(const Module& module, const std::string& folder, int depth) {
    if (depth > 60 || wanted_.size() > most_packages) return;
    bool any = false;
    for (const auto& name : files::names_in(folder)) {
      const std::string path = folder + "/" + name;
      if (name.ends_with(".go") && !name.ends_with("_test.go") && !name.starts_with('_') && !name.starts_with('.'))
        any = true;
      if (!files::is_folder(path) || files::is_link(path)) continue;
      if (name.starts_with('.') || name.starts_with('_') || name == "testdata" || name == "vendor") continue;
      if (files::is_below(request_.work, path) || files::is_file(path + "/go.mod")) continue;
      walk(module, path, depth + 1);
    }
    if (!any) return;
    const std::string below = files::below(folder, module.folder);
    const std::string path = folder == module.folder ? module.path : module.path + "/" + below;
    // A folder of which nothing is for this machine is left out as long as nobody imports it.
    if (has_sources(folder))
      wanted_.emplace(path, std::pair{From{folder, &module}, Place{shown(folder), 0, 0}});
    else
      out_.left_out.push_back(
          {"package", path, {shown(folder), 0, 0}, "its constraints leave out all of its files here"});
  }

  // ---- files
  // ---------------------------------------------------------------------------------------------------------
  [[nodiscard]] bool has_tag(const std::string& tag) const {
    if (tag == kit_.system || tag == kit_.processor || tag == "gc" || tag == "unix" || tags_.contains(tag)) return true;
    if (tag == "cgo") return calls_c_;
    if (tag.starts_with("go1.")) return std::atoi(tag.c_str() + 4) <= kit_.minor;
    return false;
  }

  // Whether a file is for this machine; what it says, if so.
  bool takes(const std::string& path, SourceFacts& facts) {
    const std::string name = std::filesystem::path(path).filename().string();
    bool test = false;
    if (name.starts_with('_') || name.starts_with('.') || !name_fits(name, kit_.system, kit_.processor, test) || test)
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

  // ---- where an import lies
  // ------------------------------------------------------------------------------------------
  [[nodiscard]] static bool is_path_below(const std::string& path, const std::string& module) {
    return path == module || (path.size() > module.size() && path.starts_with(module) && path[module.size()] == '/');
  }

  // The archive of the standard library; empty when it has none of the name.
  [[nodiscard]] std::string standard(const std::string& import) const {
    for (const auto& base : {kit_.packages + "/", kit_.packages + "/vendor/"}) {
      std::string path = base + import + ".a";
      if (base.ends_with("/vendor/")) break;
      if (files::is_file(path)) return path;
    }
    return {};
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

  // ---- packages
  // ------------------------------------------------------------------------------------------------------ Loads a
  // package with all that it imports. Gives its place in out_.all, or nothing where it is missing.
  bool load(const std::string& path, const From& at, std::vector<std::string> way, const Place& place) {
    if (const auto it = state_.find(path); it != state_.end()) {
      if (it->second == 2) return true;
      way.erase(way.begin(), std::find(way.begin(), way.end(), path));
      way.push_back(path);
      refuse(place, "packages import each other in a circle: " + text::join(way, " -> "),
             "take one of these imports out");
    }
    if (way.size() > 1000 || state_.size() > most_packages)
      refuse(place, "there are too many packages", "name fewer modules");
    state_[path] = 1;
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
    bool whole = true;
    for (const auto& [import, where] : imports) whole = add_import(import, where, package, way) && whole;
    state_[path] = 2;
    if (!whole) return false;
    package.module = nullptr;
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
            request_.locator.module({model::RequirementKind::library, module, {}, true, package.path, where, {}});
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
        request_.locator.keep(request_.locator.link_name(
            {model::RequirementKind::library, word.substr(2), {}, true, package.path, where, {}}, folders));
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
    const auto it = std::find_if(out_.all.begin(), out_.all.end(), [&](const auto& one) { return one.path == import; });
    if (it != out_.all.end() && it->name == "main")
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
    finding.requirement = {model::RequirementKind::package, module, {}, true, package.path, place, {}};
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

  // ---- files that go in
  // ----------------------------------------------------------------------------------------------
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
  const ReadRequest& request_;
  const std::string tree_;
  std::map<std::string, std::pair<From, Place>> wanted_;
  std::map<std::string, int> state_;  // 1: it is being loaded, 2: it is
  std::map<std::string, Module> foreign_;
  Packages out_;
};

}  // namespace

Packages find_packages(const std::vector<Module>& modules, const locate::GoKit& kit,
                       const std::vector<std::string>& tags, bool calls_c, const ReadRequest& request) {
  return Finder(modules, kit, tags, calls_c, request).run();
}

}  // namespace coctilis::describe::go
