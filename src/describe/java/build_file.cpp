#include "describe/java/build_file.h"

#include <re2/re2.h>

#include <algorithm>
#include <cstdlib>
#include <ctime>
#include <functional>
#include <memory>
#include <optional>
#include <set>

#include "base/files.h"
#include "base/process.h"
#include "base/text.h"
#include "base/xml.h"

namespace coctilis::describe::java {

namespace {

constexpr int most_nested = 30;
constexpr std::size_t most_text = 1U << 16U;
constexpr std::size_t most_listed = 100'000;

using Node = pugi::xml_node;
using Properties = std::map<std::string, std::string>;

bool is_true(const std::string& value) {
  const std::string lower = text::lower(value);
  return lower == "true" || lower == "yes" || lower == "on";
}

// A file that is gone through, with the targets it has.
struct Document {
  pugi::xml_document xml;
  std::string file;     // absolute
  std::string content;  // for the lines
  bool joined = false;  // others stand in it: lines of the content are none of the file
};

class Walk {
 public:
  Walk(std::string tree, BuildFile& out) : tree_(std::move(tree)), out_(out) {}

  void run(const std::string& file) {
    Scope scope;
    enter(file, scope, 0);
    out_.name = scope.name;
    std::string wanted = scope.wanted;
    const auto begin = std::pair(out_.compilations.size(), out_.archives.size());
    if (!wanted.empty()) target(wanted, scope, {});
    // One that only tells of the others is not what is wanted, nor one that compiles and packs nothing.
    const bool none = std::pair(out_.compilations.size(), out_.archives.size()) == begin;
    for (const char* name : {"jar", "dist", "package", "all", "build", "compile", "main"}) {
      if (!out_.archives.empty() || !scope.targets.contains(name) || name == wanted) continue;
      if (!none && std::string_view(name) == "all") break;
      if (none) scope.done.clear();
      try_target(name, scope);
      if (none && std::pair(out_.compilations.size(), out_.archives.size()) != begin) break;
    }
    if (!scope.targets.empty() && out_.compilations.empty() && out_.archives.empty() && wanted.empty() &&
        scope.targets.size() == 1)
      target(scope.targets.begin()->first, scope, {});
    find_tests(scope);
  }

 private:
  // One build file with what it takes in: its targets, and what is known while they run.
  struct Scope {
    std::string name, wanted;
    std::string folder;  // absolute: places count from it
    Properties values;
    std::map<std::string, std::pair<Node, const Document*>> targets;
    std::map<std::string, std::pair<Node, const Document*>> named;   // by id
    std::map<std::string, std::pair<Node, const Document*>> macros;  // tasks that the file defines itself
    std::set<std::string> done;
  };

  [[nodiscard]] Place place(const Node& node, const Document& document) const {
    return {files::below(document.file, tree_), document.joined ? 0 : line_of(node, document.content), 0};
  }
  [[noreturn]] void refuse(const Node& node, const Document& document, const std::string& what,
                           const std::string& remedy) const {
    throw Fault({Exit::description, place(node, document), what, {}, remedy, {}});
  }
  void leave_out(const Node& node, const Document& document, const std::string& reason) {
    if (!told_.insert(std::string(node.name()) + " " + reason).second) return;
    out_.left_out.push_back({"task", node.name(), place(node, document), reason});
  }

  // ---- files -------------------------------------------------------------------------------------------------------
  // The text with other files of the tree in the places of &NAME; as its document type declares them (XML 1.0, 4.2.2).
  // What is in them is not looked at again.
  std::string with_parts(const std::string& content, const std::string& file) {
    static const RE2 declared(R"re(<!ENTITY\s+([\w.-]+)\s+SYSTEM\s+["'](?:file:)?([^"']+)["']\s*>)re");
    re2::StringPiece rest(content);
    std::string name, place;
    std::string out = content;
    while (RE2::FindAndConsume(&rest, declared, &name, &place)) {
      const std::string path = files::absolute(place, std::filesystem::path(file).parent_path().string());
      if (!files::is_below(path, tree_) || !files::is_file(path)) continue;
      std::string part = files::read(path).value_or("");
      out_.read_files.push_back(path);
      if (part.starts_with("<?xml")) part.erase(0, std::min(part.find("?>"), part.size() - 2) + 2);
      std::size_t times = 0;
      for (auto at = out.find("&" + name + ";"); at != std::string::npos; at = out.find("&" + name + ";", at + 1))
        ++times;
      if (out.size() + times * part.size() < (16U << 20U))
        out = text::replace_all(std::move(out), "&" + name + ";", part);
    }
    return out;
  }

  const Document& load(const std::string& file) {
    auto one = std::make_unique<Document>();
    one->file = file;
    one->content = files::read(file).value_or("");
    out_.read_files.push_back(file);
    const char* remedy = "mend it, or name another description under [tree] of coctilis.toml";
    if (std::string whole = with_parts(one->content, file); whole != one->content) {
      one->content = std::move(whole);
      one->joined = true;
      if (const auto read = one->xml.load_buffer(one->content.data(), one->content.size()); !read)
        throw Fault({Exit::description,
                     {files::below(file, tree_), 0, 0},
                     "the build file is broken, with the files that it takes in: " + text::lower(read.description()),
                     {},
                     remedy,
                     {}});
    } else {
      load_xml(one->xml, file, files::below(file, tree_), "the build file", remedy);
    }
    documents_.push_back(std::move(one));
    return *documents_.back();
  }

  void enter(const std::string& file, Scope& scope, int depth) {
    if (depth > most_nested || documents_.size() > 500)
      throw Fault({Exit::description,
                   {files::below(file, tree_), 0, 0},
                   "build files take in each other without end",
                   {},
                   "take one of them out",
                   {}});
    const Document& document = load(file);
    const Node project = document.xml.child("project");
    if (!project)
      throw Fault({Exit::description,
                   {files::below(file, tree_), 1, 0},
                   "it has no <project>",
                   {},
                   "name another description",
                   {}});
    const bool first = scope.folder.empty();
    if (first) {
      const std::string own = std::filesystem::path(file).parent_path().string();
      scope.name = project.attribute("name").value();
      scope.wanted = project.attribute("default").value();
      const std::string base = project.attribute("basedir").value();
      scope.folder = files::absolute(base.empty() ? "." : base, own);
      scope.values.emplace("basedir", scope.folder);
      scope.values.emplace("ant.file", file);
      scope.values.emplace("ant.project.name", scope.name);
      scope.values.emplace("file.separator", "/");
      scope.values.emplace("path.separator", ":");
      scope.values.emplace("line.separator", "\n");
      scope.values.emplace("os.name", "Linux");
      scope.values.emplace("user.dir", scope.folder);
      scope.values.emplace("user.name", "user");
      if (const char* home = std::getenv("HOME")) scope.values.emplace("user.home", home);
      scope.values.emplace("java.io.tmpdir", "/tmp");
    }
    for (const auto& node : project.children()) note_ids(node, document, scope, 0);
    for (const auto& node : project.children()) {
      if (std::string_view(node.name()) == "target" || std::string_view(node.name()) == "extension-point") {
        // Those of the file that takes another in come first.
        scope.targets.emplace(node.attribute("name").value(), std::pair(node, &document));
      }
    }
    for (const auto& node : project.children()) {
      const std::string_view name = node.name();
      if (name == "import" || name == "include") {
        const std::string path = files::absolute(filled(node.attribute("file").value(), scope),
                                                 std::filesystem::path(file).parent_path().string());
        if (files::is_file(path) && files::is_below(path, tree_))
          enter(path, scope, depth + 1);
        else if (!is_true(node.attribute("optional").value()))
          leave_out(node, document, "the file that it takes in is not there, or not of the tree");
      } else if (node.type() == pugi::node_element && name != "target" && name != "extension-point") {
        task(node, document, scope, depth);
      }
    }
  }

  static void note_ids(const Node& node, const Document& document, Scope& scope, int depth) {
    if (node.type() != pugi::node_element || depth > most_nested) return;
    if (const auto id = node.attribute("id")) scope.named.emplace(id.value(), std::pair(node, &document));
    for (const auto& inner : node.children()) note_ids(inner, document, scope, depth + 1);
  }

  // ---- values ------------------------------------------------------------------------------------------------------
  [[nodiscard]] std::string filled(const std::string& text, const Scope& scope) const {
    std::string out;
    std::size_t done = 0;
    for (auto at = text.find("${"); at != std::string::npos; at = text.find("${", done)) {
      const auto end = text.find('}', at);
      if (end == std::string::npos) break;
      out.append(text, done, at - done);
      const auto it = scope.values.find(text.substr(at + 2, end - at - 2));
      out += it != scope.values.end() ? it->second : text.substr(at, end - at + 1);
      done = end + 1;
      if (out.size() > most_text)
        throw Fault({Exit::description,
                     {files::below(documents_.front()->file, tree_), 1, 0},
                     "a value of it grows without end",
                     {},
                     "mend its properties",
                     {}});
    }
    return out.append(text, done);
  }
  [[nodiscard]] std::string of(const Node& node, const char* name, const Scope& scope) const {
    return filled(node.attribute(name).value(), scope);
  }
  [[nodiscard]] std::string path(const std::string& text, const Scope& scope) const {
    return files::absolute(text::replace_all(text, "\\", "/"), scope.folder);
  }
  [[nodiscard]] std::string path_of(const Node& node, const char* name, const Scope& scope) const {
    const std::string text = of(node, name, scope);
    return text.empty() ? std::string{} : path(text, scope);
  }

  // The first value counts.
  static void set(Scope& scope, const std::string& name, const std::string& value) {
    if (!name.empty() && value.size() < most_text) scope.values.emplace(name, value);
  }

  void property(const Node& node, const Document& document, Scope& scope) {
    const std::string name = of(node, "name", scope);
    if (!name.empty()) {
      if (node.attribute("location"))
        set(scope, name, path_of(node, "location", scope));
      else if (node.attribute("refid"))
        set(scope, name, text::join(listed(node.attribute("refid").value(), scope), ":"));
      else if (node.attribute("value"))
        set(scope, name, of(node, "value", scope));
      else
        set(scope, name, filled(std::string(text::trim(node.text().get())), scope));
      return;
    }
    const std::string prefix = of(node, "prefix", scope).empty() ? "" : of(node, "prefix", scope) + ".";
    if (const std::string file = path_of(node, "file", scope); !file.empty()) {
      if (!files::is_file(file)) return;
      if (files::is_below(file, tree_)) return read_properties_of(file, prefix, scope);
      return leave_out(node, document, "a file outside of the tree has no say");
    }
    if (const std::string environment = of(node, "environment", scope); !environment.empty()) {
      for (const auto& [variable, value] : own_environment()) set(scope, environment + "." + variable, value);
    }
  }

  void read_properties_of(const std::string& file, const std::string& prefix, Scope& scope) {
    out_.read_files.push_back(file);
    for (const auto& [name, value] : read_properties(files::read(file).value_or("")))
      set(scope, prefix + name, filled(value, scope));
  }

  // ---- conditions --------------------------------------------------------------------------------------------------
  bool holds(const Node& node, const Document& document, const Scope& scope, int depth = 0) {
    if (depth > most_nested) return false;
    const std::string_view name = node.name();
    const auto all = [&](bool any) {
      bool out = !any;
      for (const auto& inner : node.children()) {
        if (inner.type() != pugi::node_element) continue;
        const bool one = holds(inner, document, scope, depth + 1);
        out = any ? out || one : out && one;
      }
      return out;
    };
    if (name == "and" || name == "condition") return all(false);
    if (name == "or") return all(true);
    if (name == "not") return !all(false);
    if (name == "istrue") return is_true(of(node, "value", scope));
    if (name == "isfalse") return !is_true(of(node, "value", scope));
    if (name == "isset") return scope.values.contains(of(node, "property", scope));
    if (name == "equals") {
      std::string a = of(node, "arg1", scope), b = of(node, "arg2", scope);
      if (is_true(of(node, "trim", scope))) a = text::trim(a), b = text::trim(b);
      return node.attribute("casesensitive") && !is_true(of(node, "casesensitive", scope))
                 ? text::lower(a) == text::lower(b)
                 : a == b;
    }
    if (name == "contains") return of(node, "string", scope).find(of(node, "substring", scope)) != std::string::npos;
    if (name == "os") {
      const std::string family = of(node, "family", scope) + of(node, "name", scope);
      return text::lower(family) == "unix" || text::lower(family) == "linux";
    }
    if (name == "available") return is_available(node, scope);
    // What is to be made anew is for whoever builds to find out.
    if (name == "uptodate") return false;
    if (name == "filesmatch" || name == "http" || name == "socket") return false;
    leave_out(node, document, "as a condition it is not followed, and does not hold");
    return false;
  }
  [[nodiscard]] bool is_available(const Node& node, const Scope& scope) const {
    if (const std::string file = path_of(node, "file", scope); !file.empty()) {
      if (virtual_.contains(file)) return true;
      const std::string type = of(node, "type", scope);
      return type == "dir" ? files::is_folder(file) : type == "file" ? files::is_file(file) : files::exists(file);
    }
    const std::string name = of(node, "classname", scope);
    return name.starts_with("java.") || name.starts_with("javax.swing") || name.starts_with("javax.xml.parsers");
  }

  // ---- files and paths ---------------------------------------------------------------------------------------------
  void add_patterns(const Node& node, const Scope& scope, FileChoice& out, int depth = 0) {
    if (depth > most_nested) return;
    for (auto& one : patterns_of(of(node, "includes", scope))) out.includes.push_back(std::move(one));
    for (auto& one : patterns_of(of(node, "excludes", scope))) out.excludes.push_back(std::move(one));
    const auto fits = [&](const Node& inner) {
      return (!inner.attribute("if") || scope.values.contains(of(inner, "if", scope))) &&
             (!inner.attribute("unless") || !scope.values.contains(of(inner, "unless", scope)));
    };
    for (const auto& inner : node.children()) {
      const std::string_view name = inner.name();
      if (name == "include" && fits(inner)) {
        for (auto& one : patterns_of(of(inner, "name", scope))) out.includes.push_back(std::move(one));
      } else if (name == "exclude" && fits(inner)) {
        for (auto& one : patterns_of(of(inner, "name", scope))) out.excludes.push_back(std::move(one));
      } else if (name == "patternset") {
        if (const auto it = scope.named.find(of(inner, "refid", scope)); it != scope.named.end())
          add_patterns(it->second.first, scope, out, depth + 1);
        else
          add_patterns(inner, scope, out, depth + 1);
      }
    }
  }

  FileChoice files_of(const Node& node, const Scope& scope) {
    if (const auto id = node.attribute("refid")) {
      const auto it = scope.named.find(filled(id.value(), scope));
      if (it != scope.named.end() && it->second.first != node && !it->second.first.attribute("refid"))
        return files_of(it->second.first, scope);
      return {};
    }
    FileChoice out;
    if (const std::string file = path_of(node, "file", scope); !file.empty()) {
      out.files = {file};
      out.folder = std::filesystem::path(file).parent_path().string();
      return out;
    }
    out.folder = path_of(node, "dir", scope);
    if (std::string_view(node.name()) == "filelist") {
      for (const auto& name : patterns_of(of(node, "files", scope))) out.files.push_back(out.folder + "/" + name);
      return out;
    }
    add_patterns(node, scope, out);
    return out;
  }

  // Those that are there, and those that would be.
  [[nodiscard]] std::vector<std::string> found(const FileChoice& choice) const {
    if (!choice.files.empty()) return choice.files;
    std::vector<std::string> out;
    for (auto& [path, name] : java::files_of(choice, tree_)) out.push_back(std::move(path));
    for (const auto& path : virtual_) {
      if (files::is_below(path, choice.folder) && !files::exists(path) &&
          takes(choice, files::below(path, choice.folder)))
        out.push_back(path);
    }
    return out;
  }

  static void add_once(std::string path, std::vector<std::string>& out) {
    if (std::find(out.begin(), out.end(), path) == out.end()) out.push_back(std::move(path));
  }

  // "a:b;c" as places.
  void add_places(const std::string& text, const Scope& scope, std::vector<std::string>& out) const {
    for (const auto& part : text::split(text::replace_all(text, ";", ":"), ':')) {
      if (const std::string plain(text::trim(part)); !plain.empty() && plain.find("${") == std::string::npos)
        add_once(path(plain, scope), out);
    }
  }

  [[nodiscard]] std::vector<std::string> listed(const std::string& id, const Scope& scope) {
    const auto it = scope.named.find(filled(id, scope));
    std::vector<std::string> out;
    if (it != scope.named.end()) add_path(it->second.first, scope, out, 0);
    return out;
  }

  void add_path(const Node& node, const Scope& scope, std::vector<std::string>& out, int depth) {
    if (depth > most_nested || out.size() > most_listed) return;
    for (const char* name : {"path", "location"}) {
      if (node.attribute(name)) add_places(of(node, name, scope), scope, out);
    }
    if (const auto id = node.attribute("refid")) {
      const auto it = scope.named.find(filled(id.value(), scope));
      if (it != scope.named.end() && it->second.first != node) add_path(it->second.first, scope, out, depth + 1);
      return;
    }
    const std::string_view own = node.name();
    if (own == "fileset" || own == "filelist") {
      for (auto& one : found(files_of(node, scope))) add_once(std::move(one), out);
      return;
    }
    if (own == "dirset") return add_once(path_of(node, "dir", scope), out);

    for (const auto& inner : node.children()) {
      if (inner.type() == pugi::node_element) add_path(inner, scope, out, depth + 1);
    }
  }

  // ---- targets -----------------------------------------------------------------------------------------------------
  void target(const std::string& name, Scope& scope, std::vector<std::string> way) {
    if (scope.done.contains(name)) return;
    const auto it = scope.targets.find(name);
    if (it == scope.targets.end())
      throw Fault({Exit::description,
                   way.empty() ? Place{files::below(documents_.front()->file, tree_), 1, 0}
                               : place(scope.targets.at(way.back()).first, *scope.targets.at(way.back()).second),
                   "there is no target '" + text::printable_line(name) + "'",
                   {},
                   "give it one, or take its name out",
                   {}});
    const auto& [node, document] = it->second;
    if (std::find(way.begin(), way.end(), name) != way.end() || way.size() > 500) {
      way.push_back(name);
      refuse(node, *document, "targets depend on each other in a circle: " + text::join(way, " -> "),
             "take one of these out of depends");
    }
    way.push_back(name);
    for (const auto& other : text::split(of(node, "depends", scope), ',')) {
      if (const std::string plain(text::trim(other)); !plain.empty()) target(plain, scope, way);
    }
    scope.done.insert(name);
    const auto is_set = [&](const char* key) {
      const std::string text = of(it->second.first, key, scope);
      return scope.values.contains(text) || is_true(text);
    };
    if ((node.attribute("if") && !is_set("if")) || (node.attribute("unless") && is_set("unless"))) return;
    for (const auto& inner : node.children()) {
      if (inner.type() == pugi::node_element) task(inner, *document, scope, 0);
    }
  }

  // One that nobody asked for: what is wrong with it is told, and no reason to refuse the rest.
  void try_target(const std::string& name, Scope& scope) {
    try {
      target(name, scope, {});
    } catch (const Fault& fault) {
      out_.left_out.push_back({"target", name, fault.problem().place, fault.problem().what});
    }
  }

  void task(const Node& node, const Document& document, Scope& scope, int depth) {
    static const std::set<std::string_view> without_effect = {
        "description", "echo",          "tstamp",         "mkdir",     "delete",   "path",          "classpath",
        "fileset",     "patternset",    "filelist",       "dirset",    "chmod",    "fail",          "input",
        "javadoc",     "touch",         "echoproperties", "record",    "uptodate", "checksum",      "filterset",
        "selector",    "clean",         "sync",           "dependset", "depend",   "whichresource", "loadresource",
        "length",      "resourcecount", "waitfor",        "sleep"};
    const std::string_view name = node.name();
    if (depth > most_nested) return;
    if (name == "property") return property(node, document, scope);
    if (name == "available") {
      if (is_available(node, scope)) set(scope, of(node, "property", scope), value_of(node, scope));
      return;
    }
    if (name == "condition") {
      if (holds(node, document, scope))
        set(scope, of(node, "property", scope), value_of(node, scope));
      else if (node.attribute("else"))
        set(scope, of(node, "property", scope), of(node, "else", scope));
      return;
    }
    if (name == "tstamp") return stamp(node, scope);
    if (name == "basename" || name == "dirname") {
      const std::filesystem::path file = path_of(node, "file", scope);
      std::string value = name == "basename" ? file.filename().string() : file.parent_path().string();
      if (const std::string suffix = of(node, "suffix", scope); !suffix.empty() && value.ends_with(suffix))
        value.resize(value.size() - suffix.size());
      return set(scope, of(node, "property", scope), value);
    }
    if (name == "pathconvert" && node.attribute("refid") && !node.child("map") && !node.child("mapper"))
      return set(scope, of(node, "property", scope), text::join(listed(node.attribute("refid").value(), scope), ":"));
    if (name == "loadfile") {
      const std::string file = path_of(node, "srcFile", scope);
      if (!files::is_file(file) || !files::is_below(file, tree_)) return;
      out_.read_files.push_back(file);
      return set(scope, of(node, "property", scope), std::string(text::trim(files::read(file).value_or(""))));
    }
    if (name == "loadproperties") {
      if (const std::string file = path_of(node, "srcFile", scope);
          files::is_file(file) && files::is_below(file, tree_))
        read_properties_of(file, {}, scope);
      return;
    }
    if (name == "sequential" || name == "parallel") {
      for (const auto& inner : node.children()) {
        if (inner.type() == pugi::node_element) task(inner, document, scope, depth + 1);
      }
      return;
    }
    if (name == "macrodef" || name == "presetdef") {
      scope.macros[of(node, "name", scope)] = {node, &document};
      return;
    }
    if (const auto it = scope.macros.find(std::string(name)); it != scope.macros.end())
      return expand(node, it->second.first, *it->second.second, scope, depth);
    // Compilers that the tree brings along for itself take the same words.
    if (name == "javac" || (name.ends_with("javac") && node.attribute("destdir")))
      return compile(node, document, scope);
    const bool packs = node.attribute("destfile") || node.attribute("jarfile");
    if (name == "jar" || name == "war" || name == "ear" || (name.ends_with("jar") && packs))
      return pack(node, document, scope);
    if (name == "copy" || name == "move") return copy(node, document, scope);
    if (name == "junit" || name == "junitlauncher") return run_tests(node, scope);
    if (name == "antcall") return call(of(node, "target", scope), node, scope, depth);
    if (name == "ant") {
      const std::string folder = node.attribute("dir") ? path_of(node, "dir", scope) : scope.folder;
      const std::string file =
          files::absolute(node.attribute("antfile") ? of(node, "antfile", scope) : "build.xml", folder);
      return other_file(file, of(node, "target", scope), node, document, scope, depth);
    }
    if (name == "subant") {
      for (const auto& inner : node.children()) {
        const std::string_view kind = inner.name();
        if (kind != "fileset" && kind != "filelist" && kind != "dirset") continue;
        auto choice = files_of(inner, scope);
        for (auto& file : found(choice)) {
          if (file.ends_with(".xml")) other_file(file, of(node, "target", scope), node, document, scope, depth);
        }
      }
      return;
    }
    if (without_effect.contains(name) || name.find(':') != std::string_view::npos || name.empty()) return;
    leave_out(node, document, "it is not followed");
  }

  // A task that the file defines: its body with what the call says, or another task with attributes set before.
  void expand(const Node& call, const Node& macro, const Document& document, Scope& scope, int depth) {
    if (++calls_ > 2000) return;
    expanded_.push_back(std::make_unique<pugi::xml_document>());
    auto& copy = *expanded_.back();
    if (std::string_view(macro.name()) == "presetdef") {
      for (const auto& inner : macro.children()) {
        if (inner.type() != pugi::node_element) continue;
        Node task = copy.append_copy(inner);
        for (const auto& attribute : call.attributes()) {
          task.remove_attribute(attribute.name());
          task.append_attribute(attribute.name()) = attribute.value();
        }
        for (const auto& more : call.children()) task.append_copy(more);
        return this->task(task, document, scope, depth + 1);
      }
      return;
    }
    std::map<std::string, std::string> values;
    for (const auto& attribute : macro.children("attribute")) {
      const std::string name = attribute.attribute("name").value();
      const auto given = call.attribute(name.c_str());
      std::string value = filled(given ? given.value() : attribute.attribute("default").value(), scope);
      // One may stand for others before it.
      for (const auto& [other, text] : values) value = text::replace_all(std::move(value), "@{" + other + "}", text);
      values[name] = value.size() < most_text ? value : std::string{};
    }
    std::map<std::string, Node> elements;
    for (const auto& element : macro.children("element")) {
      const std::string name = element.attribute("name").value();
      elements[name] = is_true(element.attribute("implicit").value()) ? call : call.child(name.c_str());
    }
    const Node body = copy.append_copy(macro.child("sequential"));
    fill_in(body, values, elements, 0);
    task(body, document, scope, depth + 1);
  }
  static void fill_in(Node node, const std::map<std::string, std::string>& values,
                      const std::map<std::string, Node>& elements, int depth) {
    if (depth > most_nested) return;
    for (auto attribute : node.attributes()) {
      std::string text = attribute.value();
      for (const auto& [name, value] : values) text = text::replace_all(std::move(text), "@{" + name + "}", value);
      if (text.size() < most_text) attribute.set_value(text.c_str());
    }
    std::vector<Node> children;
    for (const auto& inner : node.children()) children.push_back(inner);
    for (auto& inner : children) {
      if (const auto it = elements.find(inner.name()); it != elements.end()) {
        for (const auto& given : it->second.children()) node.insert_copy_before(given, inner);
        node.remove_child(inner);
      } else {
        fill_in(inner, values, elements, depth + 1);
      }
    }
  }

  [[nodiscard]] std::string value_of(const Node& node, const Scope& scope) const {
    return node.attribute("value") ? of(node, "value", scope) : std::string("true");
  }

  // The day is that of SOURCE_DATE_EPOCH, or else the first of all: what is built does not hang on when it is.
  void stamp(const Node& node, Scope& scope) {
    const char* epoch = std::getenv("SOURCE_DATE_EPOCH");
    const std::time_t when = epoch != nullptr ? std::atoll(epoch) : 0;
    std::tm day{};
    ::gmtime_r(&when, &day);
    const auto shown = [&](const char* format) {
      char text[64];
      return std::string(text, std::strftime(text, sizeof text, format, &day));
    };
    const std::string prefix = of(node, "prefix", scope).empty() ? "" : of(node, "prefix", scope) + ".";
    set(scope, prefix + "DSTAMP", shown("%Y%m%d"));
    set(scope, prefix + "TSTAMP", shown("%H%M"));
    set(scope, prefix + "TODAY", shown("%B %d %Y"));
    for (const auto& format : node.children("format"))
      set(scope, prefix + of(format, "property", scope), shown_by(of(format, "pattern", scope), day));
  }

  void call(const std::string& name, const Node& node, Scope& scope, int depth) {
    if (depth > most_nested || ++calls_ > 2000) return;
    // It runs in a copy: what it sets is gone afterwards.
    Scope inner = scope;
    inner.done.clear();
    for (const auto& param : node.children("param")) inner.values[of(param, "name", scope)] = of(param, "value", scope);
    if (inner.targets.contains(name)) target(name, inner, {});
  }

  void other_file(const std::string& file, const std::string& wanted, const Node& node, const Document& document,
                  const Scope& scope, int depth) {
    if (depth > most_nested || ++calls_ > 2000) return;
    if (!files::is_file(file) || !files::is_below(file, tree_))
      return leave_out(node, document, "the build file that it calls is not there, or not of the tree");
    if (file == document.file && wanted.empty()) return;
    Scope inner;
    for (const auto& property : node.children("property")) {
      const std::string name = of(property, "name", scope);
      if (!name.empty()) inner.values.emplace(name, of(property, "value", scope));
    }
    if (!node.attribute("inheritAll") || is_true(of(node, "inheritAll", scope))) {
      for (const auto& [name, value] : scope.values) {
        if (name != "basedir" && !name.starts_with("ant.")) inner.values.emplace(name, value);
      }
    }
    enter(file, inner, depth + 1);
    const std::string name = wanted.empty() ? inner.wanted : wanted;
    if (inner.targets.contains(name)) target(name, inner, {});
  }

  // ---- what is made ------------------------------------------------------------------------------------------------
  void compile(const Node& node, const Document& document, Scope& scope) {
    Compilation out;
    out.place = place(node, document);
    std::vector<std::string> folders;
    add_places(of(node, "srcdir", scope), scope, folders);
    for (const auto& source : node.children("src")) add_path(source, scope, folders, 0);
    FileChoice patterns;
    add_patterns(node, scope, patterns);
    for (const auto& folder : folders) {
      FileChoice one = patterns;
      one.folder = folder;
      out.sources.push_back(std::move(one));
    }
    if (folders.empty()) return;
    out.to = node.attribute("destdir") ? path_of(node, "destdir", scope) : folders.front();
    if (node.attribute("classpath")) add_places(of(node, "classpath", scope), scope, out.class_path);
    for (const char* key : {"classpathref", "modulepathref"}) {
      if (node.attribute(key)) {
        for (auto& one : listed(node.attribute(key).value(), scope)) out.class_path.push_back(std::move(one));
      }
    }
    for (const auto& inner : node.children("classpath")) add_path(inner, scope, out.class_path, 0);
    for (const char* key : {"release", "source", "target"}) {
      if (out.level.empty()) out.level = of(node, key, scope);
    }
    if (out.level.find("${") != std::string::npos) out.level.clear();
    out.level_is_api = node.attribute("release") != nullptr;
    out.encoding = of(node, "encoding", scope);
    for (const auto& word : node.children("compilerarg")) {
      // Words for a compiler of that name only.
      const std::string whose = of(word, "compiler", scope);
      if (!whose.empty() && whose != "modern" && !whose.starts_with("javac")) continue;
      if (word.attribute("value")) out.options.push_back(of(word, "value", scope));
      for (auto& one : text::words(of(word, "line", scope))) out.options.push_back(std::move(one));
    }
    virtual_.insert(out.to);
    out.order = ++order_;
    (of_tests_ ? out_.tests : out_.compilations).push_back(std::move(out));
  }

  void pack(const Node& node, const Document& document, Scope& scope) {
    MadeArchive out;
    out.place = place(node, document);
    for (const char* key : {"destfile", "jarfile", "warfile", "earfile", "file", "zipfile"}) {
      if (out.file.empty()) out.file = path_of(node, key, scope);
    }
    if (out.file.empty()) return;
    if (node.attribute("basedir")) {
      Moved all;
      all.from.folder = path_of(node, "basedir", scope);
      add_patterns(node, scope, all.from);
      out.content.push_back(std::move(all));
    }
    for (const auto& inner : node.children()) {
      const std::string_view kind = inner.name();
      if (kind == "fileset" || kind == "zipfileset" || kind == "metainf" || kind == "classes" || kind == "lib" ||
          kind == "webinf" || kind == "filelist") {
        if (inner.attribute("src")) {
          leave_out(inner, document, "what is in another archive is not packed again");
          continue;
        }
        Moved one;
        one.from = files_of(inner, scope);
        one.to = of(inner, "prefix", scope);
        if (kind == "metainf") one.to = "META-INF";
        if (kind == "webinf") one.to = "WEB-INF";
        if (kind == "classes") one.to = "WEB-INF/classes";
        if (kind == "lib") one.to = "WEB-INF/lib";
        if (const std::string full = of(inner, "fullpath", scope); !full.empty() && one.from.files.size() == 1) {
          const std::filesystem::path name(full);
          one.to = name.parent_path().string();
          one.name = name.filename().string();
        }
        while (one.to.ends_with('/')) one.to.pop_back();
        out.content.push_back(std::move(one));
      } else if (kind == "manifest") {
        for (const auto& attribute : inner.children("attribute"))
          out.manifest.emplace_back(of(attribute, "name", scope), of(attribute, "value", scope));
      } else if (kind == "service") {
        std::vector<std::string> lines;
        if (inner.attribute("provider")) lines.push_back(of(inner, "provider", scope));
        for (const auto& provider : inner.children("provider")) lines.push_back(of(provider, "classname", scope));
        leave_out(inner, document,
                  "services of " + of(inner, "type", scope) + " are not written: " + text::join(lines, ", "));
      }
    }
    if (const std::string file = path_of(node, "manifest", scope);
        files::is_file(file) && files::is_below(file, tree_)) {
      out_.read_files.push_back(file);
      std::string last;
      for (auto line : text::split(files::read(file).value_or(""), '\n')) {
        while (line.ends_with('\r')) line.pop_back();
        if (line.starts_with(' ') && !out.manifest.empty()) {
          out.manifest.back().second += line.substr(1);
        } else if (const auto at = line.find(": "); at != std::string::npos) {
          out.manifest.emplace_back(line.substr(0, at), line.substr(at + 2));
        }
      }
    }
    virtual_.insert(out.file);
    out.order = ++order_;
    if (!of_tests_) out_.archives.push_back(std::move(out));
  }

  void copy(const Node& node, const Document& document, Scope& scope) {
    const std::string folder = path_of(node, "todir", scope);
    const std::string file = path_of(node, "tofile", scope);
    std::map<std::string, std::string> values;
    for (const auto& set : node.children("filterset")) {
      for (const auto& filter : set.children("filter")) values[of(filter, "token", scope)] = of(filter, "value", scope);
    }
    const auto add = [&](FileChoice from) {
      Moved one;
      one.from = std::move(from);
      one.values = values;
      one.to = !folder.empty() ? folder : std::filesystem::path(file).parent_path().string();
      if (folder.empty()) one.name = std::filesystem::path(file).filename().string();
      one.flat = is_true(of(node, "flatten", scope));
      for (const auto& path : found(one.from)) {
        const std::string name = one.name.empty() ? files::below(path, one.from.folder) : one.name;
        virtual_.insert(one.to + "/" + name);
      }
      out_.copies.push_back(std::move(one));
    };
    if (node.child("mapper") || node.child("globmapper") || node.child("regexpmapper") || node.child("filterchain")) {
      leave_out(node, document, "names and texts that change on the way are not followed");
      return;
    }
    if (const std::string from = path_of(node, "file", scope); !from.empty()) {
      FileChoice one;
      one.files = {from};
      one.folder = std::filesystem::path(from).parent_path().string();
      add(std::move(one));
    }
    for (const auto& inner : node.children()) {
      const std::string_view kind = inner.name();
      if (kind == "fileset" || kind == "filelist") add(files_of(inner, scope));
    }
  }

  // ---- tests -------------------------------------------------------------------------------------------------------
  void run_tests(const Node& node, const Scope& scope) {
    for (const char* list : {"batchtest", "testclasses"}) {
      for (const auto& batch : node.children(list)) {
        for (const auto& set : batch.children()) {
          if (std::string_view(set.name()) == "fileset") out_.run.push_back(files_of(set, scope));
        }
      }
    }
    for (const auto& one : node.children("test")) {
      FileChoice choice;
      choice.includes = {"**/" + text::replace_all(of(one, "name", scope), ".", "/") + ".java"};
      out_.run.push_back(std::move(choice));
    }
  }

  // The first target that runs tests, with what it depends on.
  void find_tests(Scope& scope) {
    for (const auto& [name, where] : scope.targets) {
      const auto runs = where.first.find_node([](const Node& inner) {
        return std::string_view(inner.name()) == "junit" || std::string_view(inner.name()) == "junitlauncher";
      });
      if (!runs) continue;
      of_tests_ = true;
      try_target(name, scope);
      of_tests_ = false;
      if (!out_.tests.empty()) return;
    }
  }

  const std::string tree_;
  BuildFile& out_;
  std::vector<std::unique_ptr<Document>> documents_;
  std::set<std::string> virtual_;  // what would be there
  std::set<std::string> told_;
  std::size_t calls_ = 0;
  std::size_t order_ = 0;
  std::vector<std::unique_ptr<pugi::xml_document>> expanded_;
  bool of_tests_ = false;
};

}  // namespace

BuildFile read_build_file(const std::string& file, const std::string& tree) {
  BuildFile out;
  Walk(tree, out).run(file);
  return out;
}

}  // namespace coctilis::describe::java
