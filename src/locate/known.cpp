#include "locate/known.h"

#include <algorithm>

#include "base/embedded.h"
#include "base/files.h"
#include "base/text.h"
#include "base/toml.h"

namespace coctilis::locate {

namespace {

struct Table {
  std::vector<KnownLibrary> libraries;
  std::map<std::string, KnownProgram> programs;
  std::map<std::string, KnownCompilerPart> compiler_parts;
  std::vector<KnownInterpreter> interpreters;
  std::map<std::string, KnownOwnWork> own_work;
  std::map<std::string, KnownToolkitModule> toolkit_modules;
  std::map<std::string, std::string> fortran_modules;
  std::set<std::string> everyday_words;
  std::set<std::string> headers_elsewhere;
  std::vector<std::pair<std::string, std::vector<std::string>>> compiler_caches;  // variable and usual folders
  std::map<std::string, std::size_t> by_name;
  std::map<std::string, std::size_t> by_link_name;
  std::map<std::string, std::size_t> by_word;
  std::map<std::string, std::string> header_package;
  std::map<std::string, std::string> program_package;
  std::map<std::string, std::string> module_package;
};

std::vector<std::string> list(const toml::table& entry, const char* key) {
  std::vector<std::string> out;
  if (const auto* array = entry[key].as_array()) {
    for (const auto& item : *array) out.push_back(item.value_or(std::string{}));
  }
  return out;
}

std::vector<std::pair<std::string, std::string>> pairs(const toml::table& entry, const char* key) {
  std::vector<std::pair<std::string, std::string>> out;
  if (const auto* inner = entry[key].as_table()) {
    for (const auto& [name, value] : *inner) out.emplace_back(std::string(name.str()), value.value_or(std::string{}));
  }
  return out;
}

std::map<std::string, std::string> map_of(const toml::table& entry, const char* key) {
  const auto all = pairs(entry, key);
  return {all.begin(), all.end()};
}

KnownProgram read_program(const toml::table& entry) {
  KnownProgram program;
  program.name = entry["name"].value_or(std::string{});
  program.variable = entry["variable"].value_or(std::string{});
  program.programs = list(entry, "programs");
  program.target = entry["target"].value_or(std::string{});
  program.parts = entry["parts"].value_or(false);
  program.components = map_of(entry, "components");
  program.beside = pairs(entry, "beside");
  program.told = pairs(entry, "told");
  program.values = pairs(entry, "values");
  program.files = pairs(entry, "files");
  return program;
}

template <class Use>
void each_of(const toml::table& root, const char* key, const Use& use) {
  if (const auto* array = root[key].as_array()) {
    for (const auto& node : *array) use(*node.as_table());
  }
}

KnownCompilerPart read_compiler_part(const toml::table& entry) {
  KnownCompilerPart part;
  part.name = entry["name"].value_or(std::string{});
  part.shown = entry["shown"].value_or(part.name);
  part.source = entry["source"].value_or(std::string{});
  part.options = list(entry, "options");
  if (part.options.empty()) part.options = {""};
  part.compiled_with = list(entry, "compiled-with");
  if (const auto* preferred = entry["preferred"].as_table())
    part.preferred = {(*preferred)["variable"].value_or(std::string{}), (*preferred)["option"].value_or(std::string{})};
  part.languages = list(entry, "languages");
  part.library = map_of(entry, "library");
  part.package = map_of(entry, "package");
  part.target = entry["target"].value_or(std::string{});
  part.variables = pairs(entry, "variables");
  return part;
}

KnownInterpreter read_interpreter(const toml::table& entry) {
  const auto word = [](const toml::table& in, const char* key) { return in[key].value_or(std::string{}); };
  KnownInterpreter out;
  out.name = word(entry, "name");
  out.programs = list(entry, "programs");
  out.module = word(entry, "module");
  out.package = word(entry, "package");
  out.development = word(entry, "development");
  out.components = list(entry, "components");
  if (const auto* targets = entry["targets"].as_table()) {
    out.interpreter_target = word(*targets, "interpreter");
    out.module_target = word(*targets, "module");
    out.embedded_target = word(*targets, "embedded");
  }
  out.prefixes = map_of(entry, "prefixes");
  out.library_only = list(entry, "library-only");
  out.program_only = list(entry, "program-only");
  out.library_commands = map_of(entry, "library-commands");
  out.ask = word(entry, "ask");
  out.places = list(entry, "places");
  each_of(entry, "add-on", [&](const toml::table& one) {
    out.add_ons.push_back({word(one, "component"), word(one, "name"), word(one, "package"), word(one, "ask")});
  });
  return out;
}

std::vector<KnownLibrary::Part> read_parts(const toml::table& entry) {
  std::vector<KnownLibrary::Part> out;
  const auto adding = list(entry, "parts-that-add");
  if (const auto* array = entry["parts"].as_array()) {
    for (const auto& node : *array) {
      const auto& row = *node.as_array();
      const auto word = [&](std::size_t k) { return row.get(k)->value_or(std::string{}); };
      KnownLibrary::Part part{word(0), word(1), word(2), word(3), word(4), word(5), false};
      part.adds = std::find(adding.begin(), adding.end(), part.target) != adding.end();
      out.push_back(std::move(part));
    }
  }
  return out;
}

KnownLibrary read_library(const toml::table& entry) {
  KnownLibrary library;
  library.name = entry["name"].value_or(std::string{});
  library.asked_as = list(entry, "asked-as");
  library.modules = list(entry, "modules");
  library.headers = list(entry, "headers");
  library.libraries = list(entry, "libraries");
  library.targets = list(entry, "targets");
  library.package = entry["package"].value_or(std::string{});
  library.component_library = entry["component-library"].value_or(std::string{});
  library.component_target = entry["component-target"].value_or(std::string{});
  library.header_folders = list(entry, "header-folders");
  library.component_entries = pairs(entry, "component-entries");
  library.fortran_modules = list(entry, "fortran-modules");
  library.variables = pairs(entry, "variables");
  library.library_targets = pairs(entry, "library-targets");
  library.program_targets = pairs(entry, "program-targets");
  if (const auto* told = entry["told"].as_table()) {
    const auto word = [&](const char* key) { return (*told)[key].value_or(std::string{}); };
    library.told = {word("program"), word("compile"), word("link"), word("version"), word("part"), word("use-file")};
  }
  library.version_header = entry["version-header"].value_or(std::string{});
  library.version_macro = entry["version-macro"].value_or(std::string{});
  library.parts = read_parts(entry);
  library.parts_add_to = list(entry, "parts-add-to");
  if (const auto* beside = entry["beside"].as_table()) {
    const auto word = [&](const char* key) { return (*beside)[key].value_or(std::string{}); };
    library.beside = {word("library"), list(*beside, "targets"), word("own-variable"), word("both-variable")};
  }
  return library;
}

void add_library(Table& t, KnownLibrary library) {
  const std::size_t index = t.libraries.size();
  t.by_name.emplace(library.name, index);
  for (const auto& name : library.asked_as) t.by_name.emplace(name, index);
  for (const auto& name : library.asked_as) t.by_word.emplace(text::lower(name), index);
  for (const auto& name : library.modules) t.by_word.emplace(text::lower(name), index);
  t.by_word.emplace(text::lower(library.name), index);
  for (const auto& name : library.libraries) t.by_link_name.emplace(name, index);
  for (const auto& name : library.headers) t.header_package.emplace(name, library.package);
  for (const auto& name : library.modules) t.module_package.emplace(name, library.package);
  t.libraries.push_back(std::move(library));
}

const Table& table() {
  static const Table built = [] {
    Table t;
    for (const auto& file : embedded::data_tables) {
      if (file.path != "libraries.toml") continue;
      const auto root = toml::parse(file.content);
      each_of(root, "program-package", [&](const toml::table& entry) {
        auto program = read_program(entry);
        t.programs.emplace(program.name, program);
      });
      each_of(root, "library", [&](const toml::table& entry) { add_library(t, read_library(entry)); });
      each_of(root, "compiler-part", [&](const toml::table& entry) {
        auto part = read_compiler_part(entry);
        t.compiler_parts.emplace(part.name, part);
      });
      each_of(root, "interpreter",
              [&](const toml::table& entry) { t.interpreters.push_back(read_interpreter(entry)); });
      each_of(root, "own-work", [&](const toml::table& entry) {
        const std::string name = entry["name"].value_or(std::string{});
        t.own_work[name] = {name, entry["version"].value_or(std::string{}), pairs(entry, "variables")};
      });
      each_of(root, "compiler-cache", [&](const toml::table& entry) {
        t.compiler_caches.emplace_back(entry["variable"].value_or(std::string{}), list(entry, "folders"));
      });
      for (auto& word : list(root, "everyday-words")) t.everyday_words.insert(std::move(word));
      for (auto& name : list(root, "headers-of-other-systems")) t.headers_elsewhere.insert(std::move(name));
      for (const auto& [module, package] : pairs(root, "fortran-modules")) t.fortran_modules[module] = package;
      if (const auto* modules = root["toolkit-modules"].as_table()) {
        for (const auto& [name, value] : *modules) {
          const auto words = list(*modules, std::string(name.str()).c_str());
          if (words.size() == 3) t.toolkit_modules[std::string(name.str())] = {words[0], words[1], words[2]};
        }
      }
      for (const auto& [section, map] :
           {std::pair{"header", &t.header_package}, std::pair{"program", &t.program_package},
            std::pair{"module", &t.module_package}}) {
        if (const auto* entries = root[section].as_table()) {
          for (const auto& [key, value] : *entries) map->emplace(std::string(key.str()), value.value_or(std::string{}));
        }
      }
    }
    return t;
  }();
  return built;
}

template <class Map>
std::string get(const Map& map, const std::string& key) {
  const auto it = map.find(key);
  return it == map.end() ? std::string{} : it->second;
}

}  // namespace

const KnownProgram* known_program(const std::string& package) {
  const auto it = table().programs.find(package);
  return it == table().programs.end() ? nullptr : &it->second;
}

std::string KnownCompilerPart::for_family(const std::map<std::string, std::string>& by_family,
                                          const std::string& family) {
  const auto it = by_family.find(family);
  return it != by_family.end() ? it->second : get(by_family, "any");
}

std::vector<std::string> compiler_cache_folders() {
  const auto variable = [](const char* name) {
    const char* text = std::getenv(name);
    return std::string(text != nullptr && *text == '/' ? text : "");
  };
  const std::string home = variable("HOME");
  std::string cache = variable("XDG_CACHE_HOME");
  if (cache.empty() && !home.empty()) cache = home + "/.cache";
  std::vector<std::string> out;
  for (const auto& [named_by, usual] : table().compiler_caches) {
    std::vector<std::string> folders = usual;
    if (const std::string named = variable(named_by.c_str()); !named.empty()) folders = {named};
    for (const auto& pattern : folders) {
      const std::string folder = text::replace_all(text::replace_all(pattern, "{cache}", cache), "{home}", home);
      if (folder.starts_with('/') && files::is_folder(folder)) out.push_back(folder);
    }
  }
  return out;
}

const KnownCompilerPart* known_compiler_part(const std::string& name) {
  const auto it = table().compiler_parts.find(name);
  return it == table().compiler_parts.end() ? nullptr : &it->second;
}

const KnownCompilerPart* known_compiler_part_by_word(const std::string& word) {
  const std::string name = text::lower(word);
  for (const auto& [one, part] : table().compiler_parts) {
    if (text::lower(one) == name) return &part;
  }
  return nullptr;
}

const std::vector<KnownInterpreter>& known_interpreters() { return table().interpreters; }
const KnownInterpreter* known_interpreter(const std::string& package) {
  for (const auto& one : table().interpreters) {
    if (one.prefixes.contains(package)) return &one;
  }
  return nullptr;
}
const KnownOwnWork* known_own_work(const std::string& package) {
  const auto it = table().own_work.find(package);
  return it == table().own_work.end() ? nullptr : &it->second;
}

const KnownLibrary* known_by_fortran_module(const std::string& module) {
  for (const auto& library : table().libraries) {
    const auto& modules = library.fortran_modules;
    if (std::find(modules.begin(), modules.end(), module) != modules.end()) return &library;
  }
  return nullptr;
}

std::string package_of_fortran_module(const std::string& module) {
  if (const auto* known = known_by_fortran_module(module); known != nullptr) return known->package;
  const auto it = table().fortran_modules.find(module);
  return it == table().fortran_modules.end() ? std::string{} : it->second;
}

const KnownToolkitModule* known_toolkit_module(const std::string& module) {
  const auto it = table().toolkit_modules.find(module);
  return it == table().toolkit_modules.end() ? nullptr : &it->second;
}

const KnownLibrary* known_library(const std::string& name) {
  const auto& t = table();
  const auto it = t.by_name.find(name);
  return it == t.by_name.end() ? nullptr : &t.libraries[it->second];
}
const KnownLibrary* known_by_word(const std::string& word) {
  const auto& t = table();
  const std::string key = text::lower(word);
  const auto it = t.by_word.find(key);
  return it == t.by_word.end() || key.size() < 3 || t.everyday_words.contains(key) ? nullptr : &t.libraries[it->second];
}
const KnownLibrary* known_by_link_name(const std::string& link_name) {
  const auto& t = table();
  const auto it = t.by_link_name.find(link_name);
  return it == t.by_link_name.end() ? nullptr : &t.libraries[it->second];
}
const KnownLibrary* known_by_header(const std::string& header) {
  for (const auto& library : table().libraries) {
    if (std::find(library.headers.begin(), library.headers.end(), header) != library.headers.end()) return &library;
  }
  return nullptr;
}
bool is_header_of_other_system(const std::string& header) {
  const std::string name = text::lower(header);
  return table().headers_elsewhere.contains(name) ||
         table().headers_elsewhere.contains(name.substr(0, name.find('/') + 1));
}
std::string package_of_header(const std::string& header) { return get(table().header_package, header); }
std::string package_of_program(const std::string& program) { return get(table().program_package, program); }
std::string package_of_module(const std::string& module) { return get(table().module_package, module); }

}  // namespace coctilis::locate
