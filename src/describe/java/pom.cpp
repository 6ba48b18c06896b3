// pom.xml: modules, what they need of each other and of repositories, properties, resources, levels of the language.
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "base/xml.h"
#include "describe/java/module.h"

namespace coctilis::describe::java {

namespace {

constexpr int most_deep = 20;
constexpr std::size_t most_bytes = 1U << 20U;  // of a value

struct Dependency {
  std::string group, name, version, scope, type, system_path;
  bool optional = false;
  int line = 0;
};

// One file, with all that it has from those above it.
struct Pom {
  std::string file;  // absolute
  std::string group, name, version, packaging;
  std::string module;  // what it is called here: the name; where others have that too, with the group before it
  std::map<std::string, std::string> properties;
  std::vector<Dependency> dependencies;
  std::map<std::string, std::string> managed;         // "group:name" -> version
  std::map<std::string, std::string> managed_scopes;  // the same -> scope
  std::vector<std::string> modules;
  std::string source_folder;
  std::vector<ResourceFolder> resources;
  bool names_resources = false;
  std::string test_folder;
  std::vector<ResourceFolder> test_resources;
  std::vector<std::string> run_includes, run_excludes;  // of its tests
  std::string entry;
  std::vector<std::string> options;
};

class PomReader {
 public:
  PomReader(std::string tree, Modules& out) : tree_(std::move(tree)), out_(out) {}

  void run(const std::string& file) {
    read_all(file, 0);
    std::set<std::string> taken;
    for (const auto& pom : poms_) {
      pom->module = filled(*pom, pom->name);
      if (pom->packaging == "pom") continue;
      if (!taken.insert(pom->module).second) {
        const std::string plain = filled(*pom, pom->group) + "." + pom->module;
        pom->module = plain;
        for (int n = 2; !taken.insert(pom->module).second; ++n) pom->module = plain + "-" + std::to_string(n);
      }
    }
    for (const auto& pom : poms_) names_.emplace(pom->group + ":" + pom->name, pom->module);
    for (const auto& pom : poms_) {
      if (pom->packaging == "maven-plugin")
        out_.left_out.push_back({"module", pom->name, place(pom->file, 1), "it extends another program for building"});
      else if (pom->packaging != "pom")
        add_module(*pom);
    }
  }

 private:
  [[nodiscard]] Place place(const std::string& file, int line = 0) const {
    return {files::below(file, tree_), line, 0};
  }

  // The file with its modules.
  void read_all(const std::string& file, int depth) {
    if (depth > most_deep || !seen_.insert(file).second) return;
    auto pom = read(file, 0);
    if (depth == 0) {
      out_.name = pom->name;
      out_.version = pom->version;
    }
    const std::string folder = std::filesystem::path(file).parent_path().string();
    const auto modules = pom->modules;
    poms_.push_back(std::move(pom));
    for (const auto& module : modules) {
      std::string inner = files::absolute(module, folder);
      if (files::is_folder(inner)) inner += "/pom.xml";
      if (!files::is_below(inner, tree_) || !files::is_file(inner)) {
        out_.left_out.push_back({"module", module, place(file), "it is not there"});
        continue;
      }
      read_all(inner, depth + 1);
    }
  }

  std::unique_ptr<Pom> read(const std::string& file, int depth) {
    pugi::xml_document document;
    load_xml(document, file, files::below(file, tree_), "the project file",
             "mend it, or name another description under [tree] of coctilis.toml");
    const std::string content = files::read(file).value_or("");
    if (std::find(out_.read_files.begin(), out_.read_files.end(), file) == out_.read_files.end())
      out_.read_files.push_back(file);
    const auto root = document.child("project");
    if (!root)
      throw Fault({Exit::description, place(file, 1), "it has no <project>", {}, "name another description", {}});
    auto out = std::make_unique<Pom>();
    const std::string folder = std::filesystem::path(file).parent_path().string();
    if (const auto parent = root.child("parent")) inherit(*out, parent, folder, depth);
    out->file = file;
    const auto take = [&](const char* name, std::string& into) {
      if (const auto node = root.child(name)) into = text::trim(node.text().get());
    };
    take("groupId", out->group);
    take("version", out->version);
    out->name.clear();
    take("artifactId", out->name);
    out->packaging = "jar";
    take("packaging", out->packaging);
    out->modules.clear();
    take_from(*out, root, content);
    for (const auto& profile : root.child("profiles").children("profile")) {
      if (std::string_view(profile.child("activation").child("activeByDefault").text().get()) == "true")
        take_from(*out, profile, content);
    }
    if (out->name.empty())
      throw Fault({Exit::description, place(file, 1), "it has no artifactId", {}, "give the project a name", {}});
    return out;
  }

  // What a file has from the one above it, as far as that lies in the tree.
  void inherit(Pom& out, const pugi::xml_node& parent, const std::string& folder, int depth) {
    const auto relative = parent.child("relativePath");
    std::string path = relative ? std::string(text::trim(relative.text().get())) : std::string("../pom.xml");
    if (!path.empty() && depth < most_deep) {
      path = files::absolute(path, folder);
      if (files::is_folder(path)) path += "/pom.xml";
      if (files::is_below(path, tree_) && files::is_file(path)) {
        const auto above = read(path, depth + 1);
        if (above->name == text::trim(parent.child("artifactId").text().get())) out = *above;
      }
    }
    out.group = text::trim(parent.child("groupId").text().get());
    out.version = text::trim(parent.child("version").text().get());
  }

  // A project, or a profile of one.
  void take_from(Pom& out, const pugi::xml_node& node, const std::string& content) {
    for (const auto& property : node.child("properties").children())
      out.properties[property.name()] = text::trim(property.text().get());
    for (const auto& module : node.child("modules").children("module"))
      out.modules.emplace_back(text::trim(module.text().get()));
    for (const auto& one : node.child("dependencyManagement").child("dependencies").children("dependency")) {
      const auto dependency = dependency_of(one, content);
      out.managed[dependency.group + ":" + dependency.name] = dependency.version;
      out.managed_scopes[dependency.group + ":" + dependency.name] = dependency.scope;
    }
    for (const auto& one : node.child("dependencies").children("dependency"))
      out.dependencies.push_back(dependency_of(one, content));
    const auto build = node.child("build");
    if (const auto source = build.child("sourceDirectory")) out.source_folder = text::trim(source.text().get());
    if (const auto source = build.child("testSourceDirectory")) out.test_folder = text::trim(source.text().get());
    if (const auto resources = build.child("resources"); resources.child("resource")) {
      out.names_resources = true;
      out.resources = resources_of(resources, "resource");
    }
    if (const auto resources = build.child("testResources"); resources.child("testResource"))
      out.test_resources = resources_of(resources, "testResource");
    for (const auto& plugins : {build.child("pluginManagement").child("plugins"), build.child("plugins")}) {
      for (const auto& plugin : plugins.children("plugin")) take_plugin(out, plugin);
    }
  }

  // "includes" or "excludes" of a node.
  static std::vector<std::string> patterns_of(const pugi::xml_node& node, const char* list, const char* each) {
    std::vector<std::string> out;
    for (const auto& pattern : node.child(list).children(each)) out.emplace_back(text::trim(pattern.text().get()));
    return out;
  }

  static std::vector<ResourceFolder> resources_of(const pugi::xml_node& list, const char* each) {
    std::vector<ResourceFolder> out;
    for (const auto& one : list.children(each)) {
      ResourceFolder resource;
      resource.folder = text::trim(one.child("directory").text().get());
      resource.below = text::trim(one.child("targetPath").text().get());
      resource.includes = patterns_of(one, "includes", "include");
      resource.excludes = patterns_of(one, "excludes", "exclude");
      resource.is_filtered = std::string_view(text::trim(one.child("filtering").text().get())) == "true";
      out.push_back(std::move(resource));
    }
    return out;
  }

  static void take_plugin(Pom& out, const pugi::xml_node& plugin) {
    const std::string name = std::string(text::trim(plugin.child("artifactId").text().get()));
    if (name == "maven-surefire-plugin") {
      const auto settings = plugin.child("configuration");
      if (settings.child("includes")) out.run_includes = patterns_of(settings, "includes", "include");
      if (settings.child("excludes")) out.run_excludes = patterns_of(settings, "excludes", "exclude");
      return;
    }
    if (name == "maven-compiler-plugin") {
      const auto settings = plugin.child("configuration");
      for (const char* key : {"source", "target", "release"}) {
        if (const auto node = settings.child(key))
          out.properties["maven.compiler." + std::string(key)] = text::trim(node.text().get());
      }
      if (const auto encoding = settings.child("encoding"))
        out.properties["project.build.sourceEncoding"] = text::trim(encoding.text().get());
      for (const auto& word : settings.child("compilerArgs").children("arg"))
        out.options.emplace_back(text::trim(word.text().get()));
      return;
    }
    // Where the class is named that a program begins with.
    std::vector<pugi::xml_node> settings = {plugin.child("configuration")};
    for (const auto& execution : plugin.child("executions").children("execution"))
      settings.push_back(execution.child("configuration"));
    for (const auto& one : settings) {
      const auto found = one.find_node([](const pugi::xml_node& node) {
        return std::string_view(node.name()) == "mainClass" || std::string_view(node.name()) == "Main-Class";
      });
      if (found && out.entry.empty()) out.entry = text::trim(found.text().get());
    }
  }

  static Dependency dependency_of(const pugi::xml_node& node, const std::string& content) {
    const auto text_of = [&](const char* name) { return std::string(text::trim(node.child(name).text().get())); };
    Dependency out;
    out.group = text_of("groupId");
    out.name = text_of("artifactId");
    out.version = text_of("version");
    out.scope = text_of("scope");
    out.type = text_of("type");
    out.system_path = text_of("systemPath");
    out.optional = text_of("optional") == "true";
    out.line = line_of(node, content);
    return out;
  }

  // ---- values ------------------------------------------------------------------------------------------------------
  [[nodiscard]] std::optional<std::string> value_of(const Pom& pom, const std::string& name) const {
    std::string plain = name;
    if (plain.starts_with("pom.")) plain = "project." + plain.substr(4);
    const std::string folder = std::filesystem::path(pom.file).parent_path().string();
    if (plain == "project.version" || plain == "version") return pom.version;
    if (plain == "project.groupId" || plain == "project.parent.groupId") return pom.group;
    if (plain == "project.parent.version") return pom.version;
    if (plain == "project.artifactId") return pom.name;
    if (plain == "project.basedir" || plain == "basedir") return folder;
    if (const auto it = pom.properties.find(name); it != pom.properties.end()) return it->second;
    return std::nullopt;
  }

  [[nodiscard]] std::string filled(const Pom& pom, std::string text) const {
    // A value may have others in it; one that stands for itself ends that.
    for (int round = 0; round < most_deep && text.find("${") != std::string::npos && text.size() < (1U << 16U);
         ++round) {
      std::string out;
      std::size_t done = 0;
      bool any = false;
      for (auto at = text.find("${"); at != std::string::npos; at = text.find("${", done)) {
        const auto end = text.find('}', at);
        if (end == std::string::npos) break;
        out.append(text, done, at - done);
        const auto value = value_of(pom, text.substr(at + 2, end - at - 2));
        if (value)
          out += *value;
        else
          out.append(text, at, end - at + 1);
        any = any || value.has_value();
        done = end + 1;
        if (out.size() > most_bytes)
          throw Fault({Exit::description,
                       place(pom.file, 1),
                       "a value of it grows without end",
                       {},
                       "mend its properties",
                       {}});
      }
      out.append(text, done);
      text = std::move(out);
      if (!any) break;
    }
    return text;
  }

  static int level_of(std::string text) {
    if (text.starts_with("1.")) text = text.substr(2);
    const int out = std::atoi(text.c_str());
    return out > 0 && out < 1000 ? out : 0;
  }

  // ---- modules -----------------------------------------------------------------------------------------------------
  void add_module(const Pom& pom) {
    Module out;
    out.name = pom.module;
    out.folder = std::filesystem::path(pom.file).parent_path().string();
    out.place = place(pom.file, 1);
    const auto folder = [&](const std::string& text) { return files::absolute(filled(pom, text), out.folder); };
    out.source_roots = {folder(pom.source_folder.empty() ? "src/main/java" : pom.source_folder)};
    if (pom.names_resources) {
      for (auto resource : pom.resources) {
        resource.folder = folder(resource.folder);
        out.resources.push_back(std::move(resource));
      }
    } else {
      out.resources.push_back({folder("src/main/resources"), {}, {}, {}, false});
    }
    for (const char* key :
         {"maven.compiler.release", "maven.compiler.source", "maven.compiler.target", "java.version"}) {
      if (const auto it = pom.properties.find(key); it != pom.properties.end() && out.level == 0)
        out.level = level_of(filled(pom, it->second));
    }
    out.level_is_api = pom.properties.contains("maven.compiler.release");
    if (const auto it = pom.properties.find("project.build.sourceEncoding"); it != pom.properties.end())
      out.encoding = filled(pom, it->second);
    out.entry = filled(pom, pom.entry);
    for (const auto& word : pom.options) out.options.push_back(filled(pom, word));
    out.values = pom.properties;
    for (const char* name : {"project.version", "project.artifactId", "project.groupId"})
      out.values[name] = value_of(pom, name).value_or("");
    for (auto& [name, value] : out.values) value = filled(pom, value);
    Module tests = tests_of(pom, out);
    std::set<std::string> known;
    for (const auto& dependency : pom.dependencies) add_dependency(pom, dependency, out, tests, known);
    if (pom.packaging != "jar" && pom.packaging != "bundle" && pom.packaging != "war" && pom.packaging != "ejb")
      out_.left_out.push_back({"packaging", pom.packaging, out.place, "an archive of classes is made in its place"});
    out_.modules.push_back(std::move(out));
    if (files::is_folder(tests.source_roots.front())) out_.modules.push_back(std::move(tests));
  }

  // The tests of a module, but for what they need.
  [[nodiscard]] Module tests_of(const Pom& pom, const Module& module) const {
    Module out;
    out.tests_of = module.name;
    out.name = tests_name(module.name);
    out.folder = module.folder;
    out.place = module.place;
    out.level = module.level;
    out.encoding = module.encoding;
    out.options = module.options;
    out.values = module.values;
    out.uses = {module.name};
    const auto folder = [&](const std::string& text) { return files::absolute(filled(pom, text), module.folder); };
    out.source_roots = {folder(pom.test_folder.empty() ? "src/test/java" : pom.test_folder)};
    for (auto resource : pom.test_resources) {
      resource.folder = folder(resource.folder);
      out.resources.push_back(std::move(resource));
    }
    if (pom.test_resources.empty()) out.resources.push_back({folder("src/test/resources"), {}, {}, {}, false});
    out.run_includes = pom.run_includes;
    out.run_excludes = pom.run_excludes;
    if (out.run_includes.empty())
      out.run_includes = {"**/Test*.java", "**/*Test.java", "**/*Tests.java", "**/*TestCase.java"};
    for (auto* list : {&out.run_includes, &out.run_excludes}) {
      for (auto& pattern : *list) {
        pattern = filled(pom, pattern);
        if (pattern.ends_with(".class")) pattern.replace(pattern.size() - 6, 6, ".java");
      }
    }
    return out;
  }

  void add_dependency(const Pom& pom, const Dependency& one, Module& out, Module& tests, std::set<std::string>& known) {
    const std::string group = filled(pom, one.group);
    const std::string name = filled(pom, one.name);
    if (name.empty() || !known.insert(group + ":" + name + ":" + one.type).second) return;
    const std::string key = one.group + ":" + one.name;
    std::string scope = one.scope;
    if (const auto it = pom.managed_scopes.find(key); scope.empty() && it != pom.managed_scopes.end())
      scope = it->second;
    Module& of = scope == "test" ? tests : out;
    if (const auto it = names_.find(group + ":" + name); it != names_.end()) {
      of.uses.push_back(one.type == "test-jar" ? tests_name(it->second) : it->second);
      return;
    }
    if (scope == "import" || one.type == "pom") return;
    if (!one.system_path.empty()) {
      of.archives.push_back(files::absolute(filled(pom, one.system_path), out.folder));
      return;
    }
    WantedPackage wanted;
    wanted.group = group;
    wanted.name = name;
    wanted.version = filled(pom, one.version);
    if (const auto it = pom.managed.find(key); wanted.version.empty() && it != pom.managed.end())
      wanted.version = filled(pom, it->second);
    wanted.optional = one.optional;
    wanted.place = place(pom.file, one.line);
    of.packages.push_back(std::move(wanted));
  }

  const std::string tree_;
  Modules& out_;
  std::vector<std::unique_ptr<Pom>> poms_;
  std::set<std::string> seen_;
  std::map<std::string, std::string> names_;  // "group:name" of a module -> its name
};

}  // namespace

Modules read_pom(const std::string& file, const std::string& tree) {
  Modules out;
  PomReader(tree, out).run(file);
  return out;
}

}  // namespace coctilis::describe::java
