// What targets need and hand on: target_*() and the older commands that act on a whole folder.
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/probes.h"

namespace coctilis::describe::listfile {

namespace {

enum class Visibility { private_, public_, interface_ };

std::optional<Visibility> visibility(const std::string& word) {
  if (word == "PRIVATE") return Visibility::private_;
  if (word == "PUBLIC") return Visibility::public_;
  if (word == "INTERFACE") return Visibility::interface_;
  return std::nullopt;
}

using Change = std::function<std::string(const std::string&)>;

void add(Evaluator& e, const Invocation& i, Target& target, const std::string& property, Visibility scope,
         const std::vector<std::string>& words, bool before) {
  const auto into = [&](const std::string& name) {
    Values fresh;
    e.append_all(fresh, words, i);
    auto& values = target.properties[name];
    if (before)
      values.insert(values.begin(), fresh.begin(), fresh.end());
    else
      values.insert(values.end(), fresh.begin(), fresh.end());
  };
  if (scope != Visibility::interface_) into(property);
  if (scope != Visibility::private_) into("INTERFACE_" + property);
}

// target_NAME(TARGET [flags] PRIVATE|PUBLIC|INTERFACE words...).
void requirement(Evaluator& e, const Invocation& i, const std::string& property, const Change& change) {
  e.need(i, 1, i.name + "(TARGET PRIVATE|PUBLIC|INTERFACE ...)");
  auto& target = e.need_target(i[0], i);
  bool before = false;
  bool system = false;
  std::optional<Visibility> scope;
  std::vector<std::string> words;
  const auto flush = [&] {
    if (words.empty()) return;
    add(e, i, target, property, *scope, words, before);
    if (system) add(e, i, target, "SYSTEM_INCLUDE_DIRECTORIES", *scope, words, before);
    words.clear();
  };
  for (std::size_t k = 1; k < i.size(); ++k) {
    const std::string& word = i[k];
    if (const auto next = visibility(word)) {
      flush();
      scope = next;
    } else if (!scope && word == "BEFORE") {
      before = true;
    } else if (!scope && word == "SYSTEM") {
      system = true;
    } else if (!scope && (word == "AFTER")) {
      before = false;
    } else if (!scope) {
      e.fail(i, "'" + word + "' stands where PRIVATE, PUBLIC or INTERFACE was expected in " + i.name + "(...)",
             "say for whom it is meant");
    } else if (!word.empty()) {
      words.push_back(change(word));
    }
  }
  flush();
}

bool is_expression(const std::string& word) { return word.starts_with("$<"); }

void command_target_include_directories(Evaluator& e, const Invocation& i) {
  requirement(e, i, "INCLUDE_DIRECTORIES",
              [&](const std::string& word) { return is_expression(word) ? word : e.source_path(word); });
}
std::string definition(const std::string& word) { return word.starts_with("-D") ? word.substr(2) : word; }
void command_target_compile_definitions(Evaluator& e, const Invocation& i) {
  requirement(e, i, "COMPILE_DEFINITIONS", definition);
}
std::string same(const std::string& word) { return word; }
void command_target_compile_options(Evaluator& e, const Invocation& i) { requirement(e, i, "COMPILE_OPTIONS", same); }
void command_target_link_options(Evaluator& e, const Invocation& i) { requirement(e, i, "LINK_OPTIONS", same); }
void command_target_compile_features(Evaluator& e, const Invocation& i) { requirement(e, i, "COMPILE_FEATURES", same); }
void command_target_link_directories(Evaluator& e, const Invocation& i) {
  requirement(e, i, "LINK_DIRECTORIES",
              [&](const std::string& word) { return is_expression(word) ? word : e.source_path(word); });
}

void command_target_sources(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "target_sources(TARGET PRIVATE|PUBLIC|INTERFACE files...)");
  auto& target = e.need_target(i[0], i);
  std::optional<Visibility> scope;
  bool in_set = false;
  bool file_list = false;
  std::string set_name;
  for (std::size_t k = 1; k < i.size(); ++k) {
    const std::string& word = i[k];
    if (const auto next = visibility(word)) {
      scope = next;
      in_set = false;
    } else if (!scope) {
      e.fail(i, "'" + word + "' stands where PRIVATE, PUBLIC or INTERFACE was expected in target_sources(...)");
    } else if (word == "FILE_SET") {
      // Header sets: their base folders are include folders; the files themselves are not compiled.
      in_set = true;
      file_list = false;
      if (++k < i.size()) set_name = i[k] == "HEADERS" ? "" : "_" + i[k];
    } else if (in_set && (word == "TYPE" || word == "BASE_DIRS" || word == "FILES")) {
      file_list = word == "FILES";
      if (word == "TYPE" && k + 1 < i.size() && i[++k] != "HEADERS")
        e.not_understood(i, "a file set of type '" + i[k] + "'");
      if (word == "BASE_DIRS") {
        while (k + 1 < i.size() && i[k + 1] != "FILES" && i[k + 1] != "TYPE" && !visibility(i[k + 1])) {
          ++k;
          const std::string folder = is_expression(i[k]) ? i[k] : e.source_path(i[k]);
          // Once installed the headers lie elsewhere.
          add(e, i, target, "INCLUDE_DIRECTORIES", *scope, {"$<BUILD_INTERFACE:" + folder + ">"}, false);
          Evaluator::append(target.properties["HEADER_DIRS" + set_name], e.word(folder, i));
        }
      }
    } else if (in_set) {
      if (!file_list) e.not_understood(i, "'" + word + "' in a file set");
      Evaluator::append(target.properties["HEADER_SET" + set_name], e.word(word, i));
    } else {
      const std::string path =
          is_expression(word) || e.directory().source == target.folder ? word : e.source_path(word);
      if (*scope != Visibility::interface_) Evaluator::append(target.sources, e.word(path, i));
      if (*scope != Visibility::private_)
        Evaluator::append(target.properties["INTERFACE_SOURCES"],
                          e.word(is_expression(path) ? path : e.source_path(path), i));
    }
  }
}

// Words among libraries that say for which configuration the one behind them counts.
class OfConfiguration {
 public:
  // The library as it is to be linked; empty: the word is none.
  std::string item(const std::string& word) {
    if (word == "debug" || word == "optimized" || word == "general") {
      next_ = word == "debug" ? "$<$<CONFIG:Debug>:" : word == "optimized" ? "$<$<NOT:$<CONFIG:Debug>>:" : "";
      return {};
    }
    const std::string before = std::exchange(next_, {});
    return word.empty() || before.empty() ? word : before + word + ">";
  }

 private:
  std::string next_;
};

void command_target_link_libraries(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "target_link_libraries(TARGET libraries...)");
  auto& target = e.need_target(i[0], i);
  // Without a keyword what is linked is handed on as well.
  Visibility scope = Visibility::public_;
  OfConfiguration kinds;
  for (std::size_t k = 1; k < i.size(); ++k) {
    const std::string& word = i[k];
    if (const auto next = visibility(word)) {
      scope = *next;
    } else if (word == "LINK_PRIVATE") {
      scope = Visibility::private_;
    } else if (word == "LINK_PUBLIC") {
      scope = Visibility::public_;
    } else if (word == "LINK_INTERFACE_LIBRARIES") {
      scope = Visibility::interface_;
    } else if (const std::string item = kinds.item(word); !item.empty()) {
      if (scope != Visibility::interface_) Evaluator::append(target.properties["LINK_LIBRARIES"], e.word(item, i));
      if (scope != Visibility::private_) {
        Evaluator::append(target.properties["INTERFACE_LINK_LIBRARIES"], e.word(item, i));
      } else if (target.kind == model::TargetKind::static_library || target.kind == model::TargetKind::object_set) {
        // Who links an archive has to link what the archive needs, but does not get its other requirements.
        auto& values = target.properties["INTERFACE_LINK_LIBRARIES"];
        values.push_back(e.word("$<LINK_ONLY:" + item + ">", i));
      }
    }
  }
}

void command_target_precompile_headers(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "target_precompile_headers(TARGET PRIVATE headers...)");
  auto& target = e.need_target(i[0], i);
  if (i.size() > 1 && i[1] == "REUSE_FROM") e.not_understood(i, "target_precompile_headers(... REUSE_FROM)");
  std::optional<Visibility> scope;
  for (std::size_t k = 1; k < i.size(); ++k) {
    if (const auto next = visibility(i[k])) {
      scope = next;
      continue;
    }
    if (!scope) e.fail(i, "'" + i[k] + "' stands where PRIVATE, PUBLIC or INTERFACE was expected");
    // The headers are included first in every source, as they would be when compiled ahead.
    std::string header = i[k];
    if (header.starts_with('<') && header.ends_with('>'))
      header = header.substr(1, header.size() - 2);
    else if (!is_expression(header))
      header = e.source_path(header);
    add(e, i, target, "PRECOMPILE_HEADERS", *scope, {header}, false);
  }
}

// ---- commands for a whole folder -----------------------------------------------------------------------------------

void folder_property(Evaluator& e, const Invocation& i, const std::string& property,
                     const std::vector<std::string>& words, bool before, bool existing_targets) {
  Values fresh;
  e.append_all(fresh, words, i);
  const auto into = [&](Values& values) {
    if (before)
      values.insert(values.begin(), fresh.begin(), fresh.end());
    else
      values.insert(values.end(), fresh.begin(), fresh.end());
  };
  into(e.directory().properties[property]);
  if (!existing_targets) return;
  for (const auto index : e.directory().targets) into(e.project.targets[index].properties[property]);
}

// Folders among words that say where among the others they go.
struct PlacedFolders {
  bool before = false;
  bool system = false;
  std::vector<std::string> folders;
};
PlacedFolders placed_folders(Evaluator& e, const Invocation& i, bool before) {
  PlacedFolders out{before, false, {}};
  for (const auto& word : i.texts()) {
    if (word == "BEFORE" || word == "AFTER")
      out.before = word == "BEFORE";
    else if (word == "SYSTEM")
      out.system = true;
    else if (!word.empty())
      out.folders.push_back(is_expression(word) ? word : e.source_path(word));
  }
  return out;
}

void command_include_directories(Evaluator& e, const Invocation& i) {
  const auto placed = placed_folders(e, i, e.on("CMAKE_INCLUDE_DIRECTORIES_BEFORE"));
  folder_property(e, i, "INCLUDE_DIRECTORIES", placed.folders, placed.before, true);
  if (placed.system) folder_property(e, i, "SYSTEM_INCLUDE_DIRECTORIES", placed.folders, placed.before, true);
}

void command_link_directories(Evaluator& e, const Invocation& i) {
  const auto placed = placed_folders(e, i, false);
  folder_property(e, i, "LINK_DIRECTORIES", placed.folders, placed.before, false);
}

void command_link_libraries(Evaluator& e, const Invocation& i) {
  std::vector<std::string> items;
  OfConfiguration kinds;
  for (const auto& word : i.texts()) {
    if (const std::string item = kinds.item(word); !item.empty()) items.push_back(item);
  }
  folder_property(e, i, "LINK_LIBRARIES", items, false, false);
}
void command_add_compile_options(Evaluator& e, const Invocation& i) {
  folder_property(e, i, "COMPILE_OPTIONS", i.texts(), false, false);
}
void command_add_link_options(Evaluator& e, const Invocation& i) {
  folder_property(e, i, "LINK_OPTIONS", i.texts(), false, false);
}

void command_add_compile_definitions(Evaluator& e, const Invocation& i) {
  std::vector<std::string> words;
  for (const auto& word : i.texts()) words.push_back(definition(word));
  folder_property(e, i, "COMPILE_DEFINITIONS", words, false, false);
}

// Under its new behaviour the values of definitions are not read by a shell.
constexpr int policy_escapes_definitions = 5;

// Whether an argument defines one name, and not several or other flags besides: "-DNAME" or "-DNAME=any text".
bool is_one_definition(std::string_view argument) {
  if (!argument.starts_with("-D") && !argument.starts_with("/D")) return false;
  const std::string_view name = argument.substr(2, argument.substr(2).find('='));
  return !name.empty() && std::isdigit(static_cast<unsigned char>(name.front())) == 0 &&
         std::all_of(name.begin(), name.end(), [](unsigned char c) { return std::isalnum(c) != 0 || c == '_'; });
}

}  // namespace

std::vector<std::string> definition_words(Evaluator& e, const std::string& argument) {
  const bool whole = argument.find_first_of(" \t\n") == std::string::npos ||
                     (is_one_definition(argument) && e.policy_is_new(policy_escapes_definitions));
  if (whole) return {argument};
  return text::shell_words(argument);
}

namespace {

void command_add_definitions(Evaluator& e, const Invocation& i) {
  const auto arguments = i.texts();
  for (std::size_t k = 0; k < arguments.size(); ++k) {
    std::string argument = arguments[k];
    // "-D NAME" in two words.
    if (argument == "-D" && k + 1 < arguments.size()) argument += arguments[++k];
    for (const auto& word : definition_words(e, argument)) {
      if (word.starts_with("-D") || word.starts_with("/D"))
        folder_property(e, i, "COMPILE_DEFINITIONS", {word.substr(2)}, false, false);
      else
        folder_property(e, i, "COMPILE_OPTIONS", {word}, false, true);
    }
  }
}

void command_remove_definitions(Evaluator& e, const Invocation& i) {
  for (const auto& word : i.texts()) {
    for (const char* property : {"COMPILE_DEFINITIONS", "COMPILE_OPTIONS"}) {
      std::erase_if(e.directory().properties[property],
                    [&](const auto& value) { return value.text == word || "-D" + value.text == word; });
    }
  }
}

}  // namespace

void add_requirement_commands(CommandTable& table) {
  table["target_include_directories"] = command_target_include_directories;
  table["target_compile_definitions"] = command_target_compile_definitions;
  table["target_compile_options"] = command_target_compile_options;
  table["target_compile_features"] = command_target_compile_features;
  table["target_link_options"] = command_target_link_options;
  table["target_link_directories"] = command_target_link_directories;
  table["target_link_libraries"] = command_target_link_libraries;
  table["target_sources"] = command_target_sources;
  table["target_precompile_headers"] = command_target_precompile_headers;
  table["include_directories"] = command_include_directories;
  table["link_directories"] = command_link_directories;
  table["link_libraries"] = command_link_libraries;
  table["add_compile_options"] = command_add_compile_options;
  table["add_link_options"] = command_add_link_options;
  table["add_compile_definitions"] = command_add_compile_definitions;
  table["add_definitions"] = command_add_definitions;
  table["remove_definitions"] = command_remove_definitions;
}

namespace {

bool is_on(const Target& target, const char* property) {
  const auto* values = target.property(property);
  return values != nullptr && !values->empty() && is_true(values->front().text);
}

Values take(const Target& target, const std::string& property) {
  const auto* values = target.property(property);
  return values == nullptr ? Values{} : *values;
}

void gather(const Target& target, const std::string& prefix, Requirements& into) {
  into.include_folders = take(target, prefix + "INCLUDE_DIRECTORIES");
  into.system_include_folders = take(target, prefix + "SYSTEM_INCLUDE_DIRECTORIES");
  into.definitions = take(target, prefix + "COMPILE_DEFINITIONS");
  into.compile_options = take(target, prefix + "COMPILE_OPTIONS");
  into.first_headers = take(target, prefix + "PRECOMPILE_HEADERS");
  into.compile_features = take(target, prefix + "COMPILE_FEATURES");
  into.link_items = take(target, prefix + "LINK_LIBRARIES");
  into.link_options = take(target, prefix + "LINK_OPTIONS");
  into.link_folders = take(target, prefix + "LINK_DIRECTORIES");
  into.sources = take(target, prefix + "SOURCES");
}

// Libraries that are named and not declared are asked of the system now, so that a missing one is told before anything
// is compiled.
void locate_link_names(Evaluator& e) {
  std::set<std::string> made;
  for (const auto& target : e.project.targets) {
    if (target.imported || !target.alias_of.empty()) continue;
    made.insert(target.name);
    if (const auto* name = target.property("OUTPUT_NAME")) made.insert(Evaluator::joined(*name));
  }
  for (const auto& target : e.project.targets) {
    if (!target.in_default || target.imported) continue;
    std::vector<std::string> folders;
    for (const auto& folder : target.own.link_folders) folders.push_back(folder.text);
    for (const auto& value : target.own.link_items) {
      for (auto item : text::split(value.text, ';')) {
        item = std::string(text::trim(item));
        if (item.starts_with("-l") && item.size() > 2) item = item.substr(2);
        const bool name = !item.empty() && item.find_first_of("$<>/: ") == std::string::npos && item[0] != '-' &&
                          !item.ends_with(".a") && item.find(".so") == std::string::npos;
        if (!name || made.contains(item) || e.target(item) != nullptr) continue;
        // What a search did not find is wanted all the same, by what it was looked for.
        if (const auto vain = item.ends_with("-NOTFOUND") ? e.searched_in_vain.find(item.substr(0, item.size() - 9))
                                                          : e.searched_in_vain.end();
            vain != e.searched_in_vain.end()) {
          model::Finding finding = vain->second;
          finding.requirement.required = true;
          finding.requirement.required_by = "target '" + target.name + "', which links '" + item + "',";
          finding.requirement.place = value.place;
          e.keep(std::move(finding));
          continue;
        }
        model::Requirement want{model::RequirementKind::library, item,       {}, true,
                                "target '" + target.name + "'",  value.place};
        e.keep(e.locator.link_name(want, folders));
      }
    }
  }
}

}  // namespace

namespace {
// What is said of a source by a name that no file has counts for the one that is made by that name in the output
// folder, beside what is said of it by its place.
void join_source_properties(Evaluator& e) {
  std::map<std::string, std::string> output_of;  // folders
  for (const auto& directory : e.directories) output_of[directory->source] = directory->binary;
  auto& sources = e.project.sources;
  for (const auto& [path, said] : std::map(sources.begin(), sources.end())) {
    const auto folder = output_of.find(said.folder);
    if (folder == output_of.end() || folder->first == folder->second || !files::is_below(path, said.folder)) continue;
    const auto made = sources.find(folder->second + "/" + files::below(path, said.folder));
    if (made == sources.end() || made->first == path || files::is_file(path)) continue;
    for (const auto& [name, values] : said.properties) made->second.properties.try_emplace(name, values);
  }
}
}  // namespace

void finish_targets(Evaluator& e) {
  join_source_properties(e);
  for (auto& target : e.project.targets) {
    gather(target, "", target.own);
    gather(target, "INTERFACE_", target.handed_on);
    if (is_on(target, "INCLUDE_CURRENT_DIR")) {
      target.own.include_folders.insert(
          target.own.include_folders.begin(),
          {{target.folder, target.place, target.folder}, {target.binary_folder, target.place, target.folder}});
    }
    if (is_on(target, "INCLUDE_CURRENT_DIR_IN_INTERFACE")) {
      for (const auto& folder : {target.folder, target.binary_folder})
        target.handed_on.include_folders.push_back({"$<BUILD_INTERFACE:" + folder + ">", target.place, target.folder});
    }
    if (const auto* excluded = target.property("EXCLUDE_FROM_ALL"))
      target.in_default = target.in_default && !is_true(Evaluator::joined(*excluded));
  }
  locate_link_names(e);
}

}  // namespace coctilis::describe::listfile
