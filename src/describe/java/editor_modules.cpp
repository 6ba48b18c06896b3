// Module files of editors: *.iml, with what the folder .idea says of the whole; and modules by the folders of sources.
#include <functional>
#include <optional>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "base/xml.h"
#include "describe/java/module.h"
#include "describe/java/source.h"
#include "describe/java/test_run.h"
#include "survey/survey.h"

namespace coctilis::describe::java {

namespace {

std::string folder_of(const std::string& path) { return std::filesystem::path(path).parent_path().string(); }

int level_of(const std::string& text) {
  // "JDK_17", "JDK_1_8", "17", "corretto-17", "1.8"
  std::string digits;
  for (std::size_t i = text.size(); i > 0; --i) {
    if (std::isdigit(static_cast<unsigned char>(text[i - 1])) != 0)
      digits.insert(digits.begin(), text[i - 1]);
    else if (!digits.empty())
      break;
  }
  const int out = std::atoi(digits.c_str());
  return out > 0 && out < 1000 ? out : 0;
}

class EditorModules {
 public:
  EditorModules(std::string tree, Modules& out) : tree_(std::move(tree)), out_(out) {}

  void run(const std::vector<std::string>& module_files) {
    read_whole();
    read_libraries();
    for (const auto& file : module_files) read_module(file);
    std::set<std::string> names;
    for (auto& module : out_.modules) {
      if (!names.insert(module.name).second)
        throw Fault({Exit::description,
                     module.place,
                     "two modules are called '" + text::printable_line(module.name) + "'",
                     {},
                     "give one of the module files another name",
                     {}});
      if (module.level == 0) module.level = level_;
    }
  }

 private:
  pugi::xml_document load(const std::string& file) {
    pugi::xml_document document;
    load_xml(document, file, files::below(file, tree_), "the module file",
             "mend it, or name another description under [tree] of coctilis.toml");
    out_.read_files.push_back(file);
    return document;
  }

  // "jar://$MODULE_DIR$/lib/x.jar!/", "file://$PROJECT_DIR$/src": the path, absolute; empty where it hangs on more.
  [[nodiscard]] std::string path_of(std::string url, const std::string& module_folder) const {
    for (const std::string_view scheme : {"jar://", "file://"}) {
      if (url.starts_with(scheme)) url = url.substr(scheme.size());
    }
    if (const auto at = url.find("!/"); at != std::string::npos) url.resize(at);
    url = text::replace_all(std::move(url), "$MODULE_DIR$", module_folder);
    url = text::replace_all(std::move(url), "$PROJECT_DIR$", tree_);
    return url.find('$') == std::string::npos && url.starts_with('/') ? files::absolute(url) : std::string{};
  }

  void read_whole() {
    const std::string file = tree_ + "/.idea/misc.xml";
    if (!files::is_file(file)) return;
    const auto document = load(file);
    for (const auto& component : document.child("project").children("component")) {
      if (std::string_view(component.attribute("name").value()) != "ProjectRootManager") continue;
      level_ = level_of(component.attribute("languageLevel").value());
      out_.kit = level_of(component.attribute("project-jdk-name").value());
      out_.kit_place = {files::below(file, tree_), 0, 0};
    }
  }

  void read_libraries() {
    const std::string folder = tree_ + "/.idea/libraries";
    for (const auto& name : files::names_in(folder)) {
      if (!name.ends_with(".xml")) continue;
      const auto document = load(folder + "/" + name);
      const auto library = document.child("component").child("library");
      libraries_[library.attribute("name").value()] = archives_of(library, tree_);
    }
  }

  [[nodiscard]] std::vector<std::string> archives_of(const pugi::xml_node& library, const std::string& folder) const {
    std::vector<std::string> out;
    for (const auto& root : library.child("CLASSES").children("root")) {
      if (std::string path = path_of(root.attribute("url").value(), folder); !path.empty())
        out.push_back(std::move(path));
    }
    return out;
  }

  void read_module(const std::string& file) {
    const auto document = load(file);
    Module out;
    out.name = std::filesystem::path(file).stem().string();
    out.folder = folder_of(file);
    out.place = {files::below(file, tree_), 1, 0};
    const auto whole = document.child("module");
    const auto component = whole.find_child_by_attribute("component", "name", "NewModuleRootManager");
    if (!component)
      throw Fault(
          {Exit::description, out.place, "it names no folders of sources", {}, "open and save it in an editor", {}});
    out.level = level_of(component.attribute("LANGUAGE_LEVEL").value());
    Module tests;
    tests.tests_of = out.name;
    tests.name = tests_name(out.name);
    tests.folder = out.folder;
    tests.place = out.place;
    tests.level = out.level;
    for (const auto& content : component.children("content")) {
      for (const auto& source : content.children("sourceFolder")) {
        const bool of_tests = std::string_view(source.attribute("isTestSource").value()) == "true" ||
                              std::string_view(source.attribute("type").value()) == "java-test-resource";
        read_folder(source, of_tests ? tests : out);
      }
    }
    for (const auto& entry : component.children("orderEntry")) {
      const bool of_tests = std::string_view(entry.attribute("scope").value()) == "TEST";
      read_entry(entry, of_tests ? tests : out);
    }
    // One without sources only holds others together.
    if (!out.source_roots.empty()) {
      tests.uses.push_back(out.name);
      out_.modules.push_back(std::move(out));
    }
    // Tests may be a module by themselves.
    if (!tests.source_roots.empty()) out_.modules.push_back(std::move(tests));
  }

  void read_folder(const pugi::xml_node& node, Module& out) {
    const std::string path = path_of(node.attribute("url").value(), out.folder);
    const std::string type = node.attribute("type").value();
    if (path.empty()) return;
    if (type == "java-resource" || type == "java-test-resource") {
      out.resources.push_back(
          {path, text::replace_all(node.attribute("relativeOutputPath").value(), "\\", "/"), {}, {}, false});
      return;
    }
    out.source_roots.push_back(path);
    // What lies among sources and is none is a resource.
    out.resources.push_back({path, {}, {}, {"**/*.java", "**/*.form"}, false});
  }

  void read_entry(const pugi::xml_node& node, Module& out) {
    const std::string type = node.attribute("type").value();
    if (type == "module") {
      out.uses.emplace_back(node.attribute("module-name").value());
    } else if (type == "module-library") {
      for (auto& path : archives_of(node.child("library"), out.folder)) out.archives.push_back(std::move(path));
    } else if (type == "library") {
      const std::string name = node.attribute("name").value();
      if (const auto it = libraries_.find(name); it != libraries_.end()) {
        for (const auto& path : it->second) out.archives.push_back(path);
      } else if (!name.empty()) {
        WantedPackage wanted;
        wanted.name = name;
        wanted.place = out.place;
        out.packages.push_back(std::move(wanted));
      }
    } else if (type == "jdk" && out_.kit == 0) {
      out_.kit = level_of(node.attribute("jdkName").value());
      out_.kit_place = out.place;
    }
  }

  const std::string tree_;
  Modules& out_;
  int level_ = 0;
  std::map<std::string, std::vector<std::string>> libraries_;
};

// ---- by sources -----------------------------------------------------------------------------------------------------

bool is_left_out(const std::string& name) {
  static const std::set<std::string> names = {"test", "tests",    "target",  "build", "out",         "bin",
                                              "docs", "examples", "example", "doc",   "node_modules"};
  return name.starts_with('.') || names.contains(text::lower(name));
}

void sources_below(const std::string& folder, int depth, std::vector<std::string>& out) {
  if (depth > 60 || out.size() > 100'000) return;
  for (const auto& name : files::names_in(folder)) {
    const std::string path = folder + "/" + name;
    if (files::is_link(path)) continue;
    if (files::is_folder(path)) {
      // The name of a package may be any; what lies at the top tells of the tree.
      if (!is_left_out(name) && !survey::is_kiln(path)) sources_below(path, depth + 1, out);
    } else if (name.ends_with(".java")) {
      out.push_back(path);
    }
  }
}

// The folder that a source's package counts from: "src" of src/brick/clay/Clay.java in package brick.clay. Its own
// folder where the package is another.
std::string root_of(const std::string& path, const std::string& package) {
  std::string folder = folder_of(path);
  if (package.empty()) return folder;
  const std::string below = "/" + text::replace_all(package, ".", "/");
  return folder.ends_with(below) ? folder.substr(0, folder.size() - below.size()) : folder;
}

// Folders of packages may have others in them that hold no sources, but what the classes load.
void add_resources_below(const std::string& root, Module& module) {
  std::set<std::string> with_sources;
  for (const auto& path : module.sources) {
    for (std::string folder = folder_of(path); files::is_below(folder, root) && with_sources.insert(folder).second;)
      folder = folder_of(folder);
  }
  const auto of_packages = module.resources;
  for (const auto& resource : of_packages) {
    if (!resource.is_flat || resource.folder == root) continue;
    for (const auto& name : files::names_in(resource.folder)) {
      const std::string path = resource.folder + "/" + name;
      if (name.starts_with('.') || with_sources.contains(path) || !files::is_folder(path) || files::is_link(path))
        continue;
      module.resources.push_back({path, resource.below + "/" + name, {}, {"**/*.java"}, false, false});
    }
  }
}

// The root that has what an import names: the package of the class, or that of the class it is in. Empty: none has.
std::string root_with(const std::string& import, const std::map<std::string, std::string>& owners) {
  for (std::string name = import; name.find('.') != std::string::npos;) {
    name.resize(name.rfind('.'));
    if (const auto it = owners.find(name); it != owners.end()) return it->second;
  }
  return {};
}

// The tests of a module by the folder that holds such, where what they import says that they are some that can be run;
// others may be files that tests work on. `module_of`: who has what is imported, or nothing. `taken`: folders that are.
std::optional<Module> tests_beside(const Module& module,
                                   const std::function<std::string(const std::string&)>& module_of,
                                   std::set<std::string>& taken) {
  for (const char* below : {"src/test/java", "src/test", "test/java", "test/src", "test", "tests"}) {
    const std::string folder = module.folder + "/" + below;
    if (!files::is_folder(folder) || files::is_link(folder) || !taken.insert(folder).second) continue;
    Module out;
    out.tests_of = module.name;
    out.name = tests_name(module.name);
    out.folder = module.folder;
    out.place = {module.place.file, 0, 0};
    sources_below(folder, 0, out.sources);
    std::set<std::string> imports;
    std::set<std::string> uses = {module.name};
    for (const auto& path : out.sources) {
      const auto facts = facts_of_source(files::read(path).value_or(""));
      imports.insert(facts.imports.begin(), facts.imports.end());
      const std::string root = root_of(path, facts.package);
      if (std::find(out.source_roots.begin(), out.source_roots.end(), root) == out.source_roots.end())
        out.source_roots.push_back(root);
    }
    if (!frameworks_of(imports).any()) continue;
    out.finds_packages = true;
    for (const auto& import : imports) {
      if (std::string other = module_of(import); !other.empty()) uses.insert(std::move(other));
    }
    out.uses.assign(uses.begin(), uses.end());
    for (const auto& root : out.source_roots) out.resources.push_back({root, {}, {}, {"**/*.java"}, false, false});
    if (const std::string resources = module.folder + "/src/test/resources"; files::is_folder(resources))
      out.resources.push_back({resources, {}, {}, {}, false, false});
    return out;
  }
  return std::nullopt;
}

using Imports = std::map<std::string, std::set<std::string>>;

// Roots that need each other are one module: that of the first.
void merge_circles(std::map<std::string, Module>& by_root, std::map<std::string, std::string>& owners,
                   Imports& imports) {
  for (bool again = true; again;) {
    again = false;
    std::map<std::string, std::set<std::string>> reaches;
    for (const auto& [root, module] : by_root) {
      for (const auto& import : imports[root]) {
        const std::string other = root_with(import, owners);
        if (!other.empty() && other != root) reaches[root].insert(other);
      }
    }
    for (std::size_t round = 0; round < by_root.size(); ++round) {
      bool grew = false;
      for (auto& [root, others] : reaches) {
        const auto now = others;
        for (const auto& other : now) {
          const auto it = reaches.find(other);
          if (it == reaches.end() || other == root) continue;
          const auto size = others.size();
          others.insert(it->second.begin(), it->second.end());
          grew = grew || others.size() != size;
        }
      }
      if (!grew) break;
    }
    for (const auto& [root, others] : reaches) {
      if (!others.contains(root)) continue;
      for (const auto& other : others) {
        const auto it = reaches.find(other);
        if (other == root || it == reaches.end() || !it->second.contains(root)) continue;
        auto& into = by_root[root];
        auto& from = by_root[other];
        for (const auto list : {&Module::sources, &Module::source_roots})
          (into.*list).insert((into.*list).end(), (from.*list).begin(), (from.*list).end());
        into.resources.insert(into.resources.end(), from.resources.begin(), from.resources.end());
        imports[root].insert(imports[other].begin(), imports[other].end());
        for (auto& [package, owner] : owners) {
          if (owner == other) owner = root;
        }
        by_root.erase(other);
        imports.erase(other);
        again = true;
        break;
      }
      if (again) break;
    }
  }
}

}  // namespace

Modules read_editor_modules(const std::string& tree, const std::vector<std::string>& module_files) {
  Modules out;
  EditorModules(tree, out).run(module_files);
  return out;
}

Modules modules_of_sources(const std::string& tree) {
  Modules out;
  std::vector<std::string> sources;
  sources_below(tree, 0, sources);
  std::map<std::string, Module> by_root;
  std::map<std::string, std::string> owners;  // package -> the root that has it
  Imports imports;                            // root -> packages and classes
  for (const auto& path : sources) {
    const auto facts = facts_of_source(files::read(path).value_or(""));
    const std::string root = root_of(path, facts.package);
    auto& module = by_root[root];
    if (module.source_roots.empty()) {
      module.source_roots = {root};
      // src, src/main/java and the like belong to the folder that they lie in.
      std::string folder = root;
      for (const char* ending : {"/src/main/java", "/src/java", "/src", "/source", "/java"}) {
        if (folder.ends_with(ending) && folder.size() > std::string(ending).size()) {
          folder.resize(folder.size() - std::string(ending).size());
          break;
        }
      }
      module.folder = files::is_below(folder, tree) ? folder : tree;
      module.name = std::filesystem::path(module.folder).filename().string();
      const std::string resources =
          module.folder + (root.ends_with("/src/main/java") ? "/src/main/resources" : "/resources");
      if (files::is_folder(resources)) module.resources.push_back({resources, {}, {}, {}, false});
      module.place = {files::below(root, tree), 0, 0};
    }
    module.finds_packages = true;
    module.sources.push_back(path);
    // What lies beside sources and is none belongs to them.
    const std::string folder = folder_of(path);
    if (std::none_of(module.resources.begin(), module.resources.end(),
                     [&](const auto& resource) { return resource.folder == folder; }) &&
        (folder != tree || !facts.package.empty()))
      module.resources.push_back(
          {folder, folder == root ? "" : files::below(folder, root), {}, {"*.java"}, false, true});
    owners.emplace(facts.package, root);
    imports[root].insert(facts.imports.begin(), facts.imports.end());
  }
  for (auto& [root, module] : by_root) add_resources_below(root, module);
  merge_circles(by_root, owners, imports);
  std::set<std::string> names;
  for (auto& [root, module] : by_root) {
    const std::string plain = module.name;
    for (int n = 2; !names.insert(module.name).second; ++n) module.name = plain + "-" + std::to_string(n);
  }
  for (auto& [root, module] : by_root) {
    std::set<std::string> uses;
    for (const auto& import : imports[root]) {
      const std::string other = root_with(import, owners);
      if (!other.empty() && other != root) uses.insert(by_root[other].name);
    }
    module.uses.assign(uses.begin(), uses.end());
    // Archives that lie beside the sources are there to be used.
    for (const char* folder : {"lib", "libs", "jars", "."}) {
      for (const auto& base : {module.folder, tree}) {
        const std::string path = files::absolute(folder, base);
        for (const auto& name : files::names_in(path)) {
          const std::string archive = path + "/" + name;
          if (name.ends_with(".jar") && files::is_file(archive) &&
              std::find(module.archives.begin(), module.archives.end(), archive) == module.archives.end())
            module.archives.push_back(archive);
        }
      }
    }
  }
  std::vector<Module> tests;
  std::set<std::string> taken;
  for (const auto& [root, module] : by_root) {
    const auto module_of = [&](const std::string& import) {
      const std::string other = root_with(import, owners);
      return other.empty() ? std::string{} : by_root[other].name;
    };
    if (auto one = tests_beside(module, module_of, taken)) tests.push_back(std::move(*one));
  }
  for (auto& [root, module] : by_root) out.modules.push_back(std::move(module));
  out.modules.insert(out.modules.end(), std::make_move_iterator(tests.begin()), std::make_move_iterator(tests.end()));
  return out;
}

}  // namespace coctilis::describe::java
