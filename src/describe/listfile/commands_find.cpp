// find_program, find_library, find_path, find_file: a search whose result is kept in the cache.
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

namespace {

struct Search {
  std::vector<std::string> names;
  std::vector<std::string> prefixes;  // whose usual folders are searched before all others
  std::vector<std::string> first;     // HINTS
  std::vector<std::string> last;      // PATHS
  std::vector<std::string> suffixes;
  bool required = false;
  bool defaults = true;
};

// Prefixes that the description, or who runs it, names for what is searched: those of the package that is being
// looked for, then those of CMAKE_PREFIX_PATH.
std::vector<std::string> named_prefixes(Evaluator& e) {
  std::vector<std::string> out;
  const auto add = [&](const std::vector<std::string>& list) {
    for (const auto& prefix : list) {
      if (!prefix.empty()) out.push_back(e.source_path(prefix));
    }
  };
  if (const std::string package = e.value("CMAKE_FIND_PACKAGE_NAME"); !package.empty() && e.policy_is_new(74)) {
    add(list_elements(e.value(package + "_ROOT")));
    add(text::split(e.environment_value(package + "_ROOT"), ':'));
  }
  add(list_elements(e.value("CMAKE_PREFIX_PATH")));
  add(text::split(e.environment_value("CMAKE_PREFIX_PATH"), ':'));
  return out;
}

// The folders that a variable names for one kind of search, and the usual one of every prefix. `kind`: "INCLUDE",
// "LIBRARY" or "PROGRAM".
std::vector<std::string> named_folders(Evaluator& e, const Search& search, const std::string& kind,
                                       const std::vector<std::string>& below) {
  std::vector<std::string> out;
  if (!search.defaults) return out;
  for (const auto& prefix : search.prefixes) {
    for (const auto& folder : below) out.push_back(prefix + folder);
  }
  for (const auto& folder : list_elements(e.value("CMAKE_" + kind + "_PATH"))) out.push_back(e.source_path(folder));
  for (const auto& folder : text::split(e.environment_value("CMAKE_" + kind + "_PATH"), ':')) {
    if (!folder.empty()) out.push_back(e.source_path(folder));
  }
  return out;
}

Search read_search(Evaluator& e, const Invocation& i) {
  Search search;
  search.prefixes = named_prefixes(e);
  // name1 path1 path2... is the short form; with the keyword of a list it is the long one, and what stands before the
  // keywords are names.
  const auto words = keywords(
      i.texts(1),
      {"REQUIRED", "NO_CACHE", "NO_DEFAULT_PATH", "NO_PACKAGE_ROOT_PATH", "NO_CMAKE_PATH", "NO_CMAKE_ENVIRONMENT_PATH",
       "NO_SYSTEM_ENVIRONMENT_PATH", "NO_CMAKE_SYSTEM_PATH", "NO_CMAKE_INSTALL_PREFIX", "CMAKE_FIND_ROOT_PATH_BOTH",
       "ONLY_CMAKE_FIND_ROOT_PATH", "NO_CMAKE_FIND_ROOT_PATH", "NAMES_PER_DIR"},
      {"DOC", "VALIDATOR"}, {"NAMES", "HINTS", "PATHS", "PATH_SUFFIXES"});
  const bool long_form = words.has("HINTS") || words.has("PATHS") || words.has("PATH_SUFFIXES") || words.has("NAMES") ||
                         words.has("REQUIRED") || words.has("NO_CACHE");
  search.names = words.rest;
  if (long_form) {
    for (const auto& name : words.list("NAMES")) search.names.push_back(name);
  } else if (search.names.size() > 1) {
    search.last.assign(search.names.begin() + 1, search.names.end());
    search.names.resize(1);
  }
  const auto folders = [&](const std::vector<std::string>& list) {
    std::vector<std::string> out;
    bool environment = false;
    for (const auto& word : list) {
      if (word == "ENV") {
        environment = true;
      } else if (environment) {
        for (const auto& folder : text::split(e.environment_value(word), ':')) {
          if (!folder.empty()) out.push_back(folder);
        }
        environment = false;
      } else if (!word.empty()) {
        out.push_back(e.source_path(word));
      }
    }
    return out;
  };
  search.first = folders(words.list("HINTS"));
  for (const auto& folder : folders(words.list("PATHS"))) search.last.push_back(folder);
  search.suffixes = words.list("PATH_SUFFIXES");
  search.required = words.has("REQUIRED");
  search.defaults = !words.has("NO_DEFAULT_PATH");
  return search;
}

bool found_before(Evaluator& e, const std::string& name) {
  const std::string* known = e.find(name);
  return known != nullptr && !known->ends_with("NOTFOUND") && !known->empty();
}

void keep_result(Evaluator& e, const Invocation& i, const char* type, const model::Finding& finding,
                 const std::string& value, bool is_want) {
  e.unset(i[0]);
  e.set_cache(i[0], finding.found ? value : i[0] + "-NOTFOUND", type, "", true, {});
  e.set(i[0], e.cache[i[0]].value);
  if (!finding.found) e.searched_in_vain[i[0]] = finding;
  if (is_want) e.keep(finding);
}

// Every folder with every suffix, the folder itself last.
std::vector<std::string> with_suffixes(const std::vector<std::string>& folders,
                                       const std::vector<std::string>& suffixes) {
  std::vector<std::string> out;
  for (const auto& folder : folders) {
    for (const auto& suffix : suffixes) out.push_back(folder + "/" + suffix);
    out.push_back(folder);
  }
  return out;
}

// Prefixes that variables name and hints come before the usual places, other paths behind them.
locate::SearchFolders folders_of(const Search& search, std::vector<std::string> named) {
  named.insert(named.end(), search.first.begin(), search.first.end());
  locate::SearchFolders out = with_suffixes(named, search.suffixes);
  out.last = with_suffixes(search.last, search.suffixes);
  out.usual = search.defaults;
  return out;
}

void command_find_program(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "find_program(RESULT names...)");
  if (found_before(e, i[0])) return;
  auto search = read_search(e, i);
  const auto folders = folders_of(search, named_folders(e, search, "PROGRAM", {"/bin", "/sbin"}));
  model::Requirement want{model::RequirementKind::program,
                          search.names.empty() ? i[0] : search.names.front(),
                          {},
                          search.required,
                          "find_program",
                          i.place};
  const auto finding = e.locator.program(want, search.names, folders);
  keep_result(e, i, "FILEPATH", finding, finding.where, true);
}

void command_find_library(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "find_library(RESULT names...)");
  if (found_before(e, i[0])) return;
  auto search = read_search(e, i);
  const std::string machine = e.locator.toolchain().machine;
  const auto folders = folders_of(search, named_folders(e, search, "LIBRARY", {"/lib/" + machine, "/lib", "/lib64"}));
  // What names end with, where the description has an opinion of its own: often that archives come first.
  const auto endings = list_elements(e.value("CMAKE_FIND_LIBRARY_SUFFIXES"), false);
  const bool usual = endings.empty() || endings == std::vector<std::string>{".so", ".a"};
  std::vector<std::string> names;
  for (const auto& name : search.names) {
    // A whole file name is looked for as it is.
    if (name.ends_with(".a") || name.ends_with(".so")) {
      names.push_back(":" + name);
    } else if (usual) {
      names.push_back(name);
    } else {
      for (const auto& ending : endings) names.push_back(":lib" + name + ending);
    }
  }
  model::Finding finding;
  for (const auto& name : names) {
    model::Requirement want{model::RequirementKind::library, name, {}, search.required, "find_library", i.place};
    const auto one = e.locator.link_name(want, folders);
    if (finding.requirement.name.empty())
      finding = one;
    else
      finding.looked.insert(finding.looked.end(), one.looked.begin(), one.looked.end());
    if (one.found) {
      finding = one;
      break;
    }
  }
  if (finding.requirement.name.starts_with(':')) finding.requirement.name.erase(0, 1);
  keep_result(e, i, "FILEPATH", finding, finding.where, true);
}

void find_header(Evaluator& e, const Invocation& i, bool folder_wanted) {
  e.need(i, 2, i.name + "(RESULT names...)");
  if (found_before(e, i[0])) return;
  auto search = read_search(e, i);
  // A prefix counts itself, behind its folder for headers: suffixes may begin with "include", and names with "share".
  std::vector<std::string> usual;
  for (const auto& folder : e.locator.include_folders()) {
    usual.push_back(folder);
    if (folder.ends_with("/include")) usual.push_back(std::filesystem::path(folder).parent_path().string());
  }
  const auto folders = folders_of(search, named_folders(e, search, "INCLUDE", {"/include", ""}))
                           .with(with_suffixes(usual, search.suffixes));
  model::Finding finding;
  std::string value;
  for (const auto& name : search.names) {
    model::Requirement want{folder_wanted ? model::RequirementKind::header : model::RequirementKind::file,
                            name,
                            {},
                            search.required,
                            i.name,
                            i.place};
    const auto one = e.locator.file_in(want, folders);
    if (finding.requirement.name.empty())
      finding = one;
    else
      finding.looked.insert(finding.looked.end(), one.looked.begin(), one.looked.end());
    if (!one.found) continue;
    finding = one;
    value = folder_wanted ? one.where.substr(0, one.where.size() - name.size() - 1) : one.where;
    break;
  }
  keep_result(e, i, folder_wanted ? "PATH" : "FILEPATH", finding, value, folder_wanted);
}
void command_find_path(Evaluator& e, const Invocation& i) { find_header(e, i, true); }
void command_find_file(Evaluator& e, const Invocation& i) { find_header(e, i, false); }

}  // namespace

void add_find_commands(CommandTable& table) {
  table["find_program"] = command_find_program;
  table["find_library"] = command_find_library;
  table["find_path"] = command_find_path;
  table["find_file"] = command_find_file;
}

}  // namespace coctilis::describe::listfile
