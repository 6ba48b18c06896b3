#include "plan/languages/fortran_modules.h"

#include <algorithm>
#include <cctype>
#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "plan/operations.h"
#include "survey/fortran.h"

namespace coctilis::plan {

namespace {

void add_once(std::vector<std::string>& to, std::string name) {
  if (std::find(to.begin(), to.end(), name) == to.end()) to.push_back(std::move(name));
}

}  // namespace

bool is_fixed_form(const std::string& path, model::SourceForm form) {
  return form == model::SourceForm::by_name ? survey::has_fixed_ending(path) : form == model::SourceForm::fixed;
}

bool is_preprocessed(const std::string& path, model::Preprocessing preprocessing) {
  return preprocessing == model::Preprocessing::by_name ? survey::has_preprocessed_ending(path)
                                                        : preprocessing == model::Preprocessing::yes;
}

namespace {

using nlohmann::json;

std::string dump(const json& document) { return document.dump(1, ' ', false, json::error_handler_t::replace) + "\n"; }

// No source that a person wrote is longer.
constexpr std::size_t most_bytes = 64U << 20U;

// Follows INCLUDE lines; every file that was read, and every name that was looked for, goes to `looked`.
class Includes {
 public:
  Includes(std::vector<std::string> folders, bool fixed_form) : folders_(std::move(folders)), fixed_(fixed_form) {}

  void follow(survey::SourceModules& modules, const std::string& from, int depth) {
    constexpr int deepest = 50;
    for (const auto& name : std::vector(modules.includes)) {
      const auto content = find(name, std::filesystem::path(from).parent_path().string());
      // What is included again says nothing new, and may include itself.
      if (!content || depth > deepest || !followed_.insert(found_).second) continue;
      auto inner = survey::scan_modules(*content, fixed_);
      follow(inner, found_, depth + 1);
      for (auto& module : inner.uses) add_once(modules.uses, std::move(module));
      for (auto& module : inner.defines) add_once(modules.defines, std::move(module));
    }
  }
  std::vector<std::string> looked;

 private:
  std::optional<std::string> find(const std::string& name, const std::string& beside) {
    std::vector<std::string> folders = {beside};
    folders.insert(folders.end(), folders_.begin(), folders_.end());
    for (const auto& folder : folders) {
      const std::string path = files::absolute(name, folder);
      add_once(looked, path);
      if (!files::is_file(path)) continue;
      found_ = path;
      return files::read_beginning(path, most_bytes);
    }
    return std::nullopt;
  }

  const std::vector<std::string> folders_;
  const bool fixed_;
  std::string found_;
  std::set<std::string> followed_;
};

// A name as make's rules have it (POSIX.1-2024, XCU make, "Makefile Syntax", and the escape of spaces in common use).
std::string escaped(const std::string& path) {
  std::string out;
  for (const char c : path) {
    if (c == ' ' || c == '#' || c == '\\') out += '\\';
    if (c == '$') out += '$';
    out += c;
  }
  return out;
}

std::vector<std::string> strings_in(const json& document, const char* key) {
  std::vector<std::string> out;
  if (!document.is_object() || !document.contains(key) || !document[key].is_array()) return out;
  for (const auto& entry : document[key]) {
    if (entry.is_string()) out.push_back(entry.get<std::string>());
  }
  return out;
}

json read_json(const std::string& path) { return json::parse(files::read(path).value_or(""), nullptr, false); }

// The file of a module: "NAME.mod"; what submodules need lies in files of another ending beside it.
std::string module_file(const std::string& folder, const std::string& module) {
  return folder + "/" + module + (module.find('@') == std::string::npos ? ".mod" : ".smod");
}

class ModuleOrder {
 public:
  ModuleOrder(std::string folder, bool alone) : folder_(std::move(folder)), alone_(alone) {}

  // Of a unit that is used: its modules are found behind those of this one.
  void add_used(const std::string& order_file) {
    const json document = read_json(order_file);
    if (!document.is_object() || !document.contains("modules") || !document["modules"].is_object()) return;
    for (const auto& [module, file] : document["modules"].items()) {
      if (file.is_string()) used_.emplace(module, file.get<std::string>());
    }
  }

  bool add_source(const std::string& object, const std::string& scanned, std::string& output) {
    const json document = read_json(scanned);
    if (document.is_discarded()) {
      output += scanned + " cannot be read\n";
      return false;
    }
    sources_.push_back({object, strings_in(document, "defines"), strings_in(document, "uses")});
    for (const auto& module : sources_.back().defines) {
      const auto [it, fresh] = own_.emplace(module, sources_.size() - 1);
      if (fresh) continue;
      output += "the module '" + module + "' is defined twice: by " + sources_[it->second].object + " and by " +
                object + "\n";
      return false;
    }
    return true;
  }

  // Says it when modules use each other in a circle: what is left when, again and again, sources that use none of the
  // rest are taken away, waits for ever; going from one to one that it uses comes upon the circle itself.
  bool has_circle(std::string& output) const {
    std::vector<std::vector<std::size_t>> users(sources_.size());
    std::vector<std::size_t> waits(sources_.size(), 0);
    for (std::size_t i = 0; i < sources_.size(); ++i) {
      for (const auto other : used_by(i)) {
        users[other].push_back(i);
        ++waits[i];
      }
    }
    std::vector<std::size_t> free;
    for (std::size_t i = 0; i < sources_.size(); ++i) {
      if (waits[i] == 0) free.push_back(i);
    }
    for (std::size_t k = 0; k < free.size(); ++k) {
      for (const auto user : users[free[k]]) {
        if (--waits[user] == 0) free.push_back(user);
      }
    }
    if (free.size() == sources_.size()) return false;
    std::size_t at = 0;
    while (waits[at] == 0) ++at;
    std::vector<std::size_t> way;
    while (std::find(way.begin(), way.end(), at) == way.end()) {
      way.push_back(at);
      for (const auto other : used_by(way.back())) {
        if (waits[other] > 0) at = other;
      }
    }
    way.erase(way.begin(), std::find(way.begin(), way.end(), at));
    way.push_back(at);
    output += "modules use each other in a circle: ";
    for (std::size_t k = 0; k < way.size(); ++k)
      output += (k == 0 ? "" : " uses ") + std::filesystem::path(sources_[way[k]].object).stem().string();
    output += "\n";
    return true;
  }

  [[nodiscard]] json document() const {
    json steps = json::array();
    json modules = json::object();
    for (const auto& source : sources_) {
      json needs = json::array();
      for (const auto& module : source.uses) {
        if (own_.contains(module))
          needs.push_back(module_file(folder_, module));
        else if (const auto it = used_.find(module); it != used_.end())
          needs.push_back(it->second);
      }
      json makes = json::array();
      json may_make = json::array();
      for (const auto& module : source.defines) {
        const bool sub = module.find('@') != std::string::npos;
        makes.push_back(module_file(folder_, module));
        modules[module] = module_file(folder_, module);
        if (!sub) may_make.push_back(folder_ + "/" + module + ".smod");
      }
      steps.push_back({{"step", source.object}, {"needs", needs}, {"makes", makes}, {"may_make", may_make}});
    }
    return {{"steps", steps}, {"modules", modules}};
  }

  // Modules that nothing defines any more would still be found.
  void prune(const std::string& order_file) const {
    std::set<std::string> before;
    const json old = read_json(order_file);
    if (old.is_object() && old.contains("steps") && old["steps"].is_array()) {
      for (const auto& step : old["steps"]) {
        for (const char* key : {"makes", "may_make"}) {
          for (auto& file : strings_in(step, key)) before.insert(std::move(file));
        }
      }
    }
    if (alone_) {
      for (const auto& name : files::names_in(folder_)) {
        if (name.ends_with(".mod") || name.ends_with(".smod")) before.insert(folder_ + "/" + name);
      }
    }
    for (const auto& source : sources_) {
      for (const auto& module : source.defines) {
        before.erase(module_file(folder_, module));
        before.erase(folder_ + "/" + module + ".smod");
      }
    }
    std::error_code error;
    for (const auto& file : before) {
      if (files::lies_below(file, folder_)) std::filesystem::remove(file, error);
    }
  }

 private:
  struct Source {
    std::string object;
    std::vector<std::string> defines;
    std::vector<std::string> uses;
  };

  // The other sources of the unit whose modules a source uses.
  [[nodiscard]] std::vector<std::size_t> used_by(std::size_t source) const {
    std::vector<std::size_t> out;
    for (const auto& module : sources_[source].uses) {
      const auto it = own_.find(module);
      if (it != own_.end() && it->second != source && std::find(out.begin(), out.end(), it->second) == out.end())
        out.push_back(it->second);
    }
    return out;
  }

  const std::string folder_;
  const bool alone_;  // nothing else writes modules there
  std::vector<Source> sources_;
  std::map<std::string, std::size_t> own_;
  std::map<std::string, std::string> used_;
};

}  // namespace

// TEXT SOURCE OUTPUT DEPENDENCIES fixed|free FOLDER...: `TEXT` is the source or what the preprocessor made of it.
int find_modules(const std::vector<std::string>& words, const std::string& root, std::string& output) {
  if (words.size() < 5) return 2;
  const std::string& source = words[1];
  const auto content = files::read_beginning(words[0], most_bytes);
  if (content.empty() && !files::is_file(words[0])) {
    output += words[0] + " cannot be read\n";
    return 1;
  }
  if (!may_write(words[2], root, output) || !may_write(words[3], root, output)) return 1;
  const bool fixed = words[4] == "fixed";
  survey::SourceModules modules = survey::scan_modules(content, fixed);
  Includes includes({words.begin() + 5, words.end()}, fixed);
  includes.follow(modules, source, 0);
  files::write_if_different(words[2], dump({{"defines", modules.defines}, {"uses", modules.uses}}));
  std::string rule = words[0] == source ? std::string{} : files::read(words[3]).value_or("");
  rule += escaped(words[2]) + ":";
  for (const auto& path : includes.looked) rule += " " + escaped(path);
  files::write(words[3], rule + "\n");
  return 0;
}

// OUTPUT FOLDER alone|shared [used ORDER]... [source OBJECT SCANNED]...
int order_modules(const std::vector<std::string>& words, const std::string& root, std::string& output) {
  if (words.size() < 3) return 2;
  ModuleOrder modules(words[1], words[2] == "alone");
  for (std::size_t i = 3; i < words.size();) {
    if (words[i] == "used" && i + 1 < words.size()) {
      modules.add_used(words[i + 1]);
      i += 2;
    } else if (words[i] == "source" && i + 2 < words.size()) {
      if (!modules.add_source(words[i + 1], words[i + 2], output)) return 1;
      i += 3;
    } else {
      return 2;
    }
  }
  if (modules.has_circle(output)) return 1;
  if (!may_write(words[0], root, output) || !may_write(words[1] + "/x.mod", root, output)) return 1;
  modules.prune(words[0]);
  // Compilers complain of folders that are not there.
  files::make_folder(words[1]);
  files::write_if_different(words[0], dump(modules.document()));
  return 0;
}

}  // namespace coctilis::plan
