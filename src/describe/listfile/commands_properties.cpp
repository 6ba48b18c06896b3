// Properties of targets, sources, folders, tests, and of all.
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

namespace {

std::optional<std::string> cache_property(const CacheEntry& entry, const std::string& property) {
  if (property == "VALUE") return entry.value;
  if (property == "TYPE") return entry.type;
  if (property == "HELPSTRING") return entry.help;
  const auto it = entry.properties.find(property);
  return it == entry.properties.end() ? std::nullopt : std::optional(it->second);
}

using Properties = std::map<std::string, Values>;

void put(Properties& properties, const std::string& name, Values values, bool append, bool append_string) {
  auto& slot = properties[name];
  if (append_string) {
    const std::string more = Evaluator::joined(values);
    if (slot.empty())
      slot = values;
    else
      slot.back().text += more;
  } else if (append) {
    slot.insert(slot.end(), values.begin(), values.end());
  } else {
    slot = std::move(values);
  }
}

// A target's property by name; some are kept in places of their own.
void put_target(Evaluator& e, Target& target, const std::string& name, Values values, bool append, bool append_string) {
  if (name == "SOURCES") {
    if (!append) target.sources.clear();
    target.sources.insert(target.sources.end(), values.begin(), values.end());
    return;
  }
  if ((name == "INCLUDE_DIRECTORIES" || name == "LINK_DIRECTORIES")) {
    for (auto& value : values) {
      if (!value.text.empty() && !value.text.starts_with("$<")) value.text = e.source_path(value.text);
    }
  }
  put(target.properties, name, std::move(values), append, append_string);
}

Values elements(Evaluator& e, const std::vector<std::string>& words, const Invocation& i) {
  Values out;
  for (const auto& word : words) {
    for (const auto& element : list_elements(word)) Evaluator::append(out, e.word(element, i));
  }
  return out;
}

void set_source(Evaluator& e, const Invocation& i, const std::string& source, const std::string& name, Values values,
                bool append, bool append_string) {
  const std::string absolute = e.source_path(source);
  const std::string path = files::is_file(absolute) || source.starts_with('/')
                               ? absolute
                               : (files::is_file(e.binary_path(source)) ? e.binary_path(source) : absolute);
  auto& entry = e.project.sources[path];
  entry.folder = e.directory().source;
  (void)i;
  put(entry.properties, name, std::move(values), append, append_string);
}

Test& need_test(Evaluator& e, const std::string& name, const Invocation& i) {
  for (const auto index : e.directory().tests) {
    if (e.project.tests[index].name == name) return e.project.tests[index];
  }
  e.fail(i, "'" + i.name + "' names a test '" + name + "' that is not declared in this folder");
}

void set_directory(Evaluator& e, Directory& folder, const std::string& name, Values values, bool append,
                   bool append_string) {
  if (name == "EXCLUDE_FROM_ALL") folder.in_default = !is_true(Evaluator::joined(values));
  if (name == "INCLUDE_DIRECTORIES" || name == "LINK_DIRECTORIES") {
    for (auto& value : values) {
      if (!value.text.starts_with("$<")) value.text = e.source_path(value.text);
    }
    if (name == "INCLUDE_DIRECTORIES") {
      for (const auto index : folder.targets)
        put(e.project.targets[index].properties, name, values, append, append_string);
    }
  }
  put(folder.properties, name, std::move(values), append, append_string);
}

// The names between the scope and APPEND/PROPERTY.
void command_set_property(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "set_property(GLOBAL|DIRECTORY|TARGET|SOURCE|TEST ... PROPERTY name values...)");
  const std::string& scope = i[0];
  std::vector<std::string> names;
  bool append = false;
  bool append_string = false;
  std::size_t at = 1;
  for (; at < i.size() && i[at] != "PROPERTY"; ++at) {
    if (i[at] == "APPEND")
      append = true;
    else if (i[at] == "APPEND_STRING")
      append_string = true;
    else
      names.push_back(i[at]);
  }
  if (at + 1 >= i.size()) e.fail(i, "set_property(...) without PROPERTY and a name");
  const std::string& property = i[at + 1];
  const auto values = elements(e, i.texts(at + 2), i);
  if (scope == "GLOBAL") {
    put(e.global_properties, property, values, append, append_string);
  } else if (scope == "DIRECTORY") {
    Directory* folder = names.empty() ? &e.directory() : e.directory_of(names[0]);
    if (folder == nullptr) e.fail(i, "the folder '" + names[0] + "' is not one that has been read");
    set_directory(e, *folder, property, values, append, append_string);
  } else if (scope == "TARGET") {
    for (const auto& name : names) put_target(e, e.need_target(name, i), property, values, append, append_string);
  } else if (scope == "SOURCE") {
    for (const auto& name : names) set_source(e, i, name, property, values, append, append_string);
  } else if (scope == "TEST") {
    for (const auto& name : names) put(need_test(e, name, i).properties, property, values, append, append_string);
  } else if (scope == "CACHE") {
    for (const auto& name : names) {
      const auto it = e.cache.find(name);
      if (it == e.cache.end()) e.fail(i, "there is no cache entry '" + name + "'");
      std::string text = Evaluator::joined(values);
      if (append || append_string) {
        const std::string before = cache_property(it->second, property).value_or("");
        text = before + (append && !before.empty() && !text.empty() ? ";" : "") + text;
      }
      if (property == "VALUE")
        it->second.value = text;
      else if (property == "TYPE")
        it->second.type = text;
      else if (property == "HELPSTRING")
        it->second.help = text;
      else
        it->second.properties[property] = text;
    }
  } else if (scope == "INSTALL") {
    return;
  } else {
    e.not_understood(i, "set_property(" + scope + ")");
  }
}

// Calls `set(property, values)` for each pair behind PROPERTIES.
template <class F>
void pairs(Evaluator& e, const Invocation& i, std::size_t& at, F&& set) {
  if (at >= i.size())
    e.fail(i, "'" + i.name + "' without PROPERTIES", "write " + i.name + "(names... PROPERTIES name value ...)");
  const auto count = i.size() - at - 1;
  if (count % 2 != 0)
    e.fail(i, "'" + i.name + "' has a property without a value",
           "properties come in pairs; put an empty value in quotes");
  for (std::size_t k = at + 1; k + 1 < i.size(); k += 2) set(i[k], elements(e, {i[k + 1]}, i));
}

std::size_t find_word(const Invocation& i, const char* word) {
  std::size_t at = 0;
  while (at < i.size() && i[at] != word) ++at;
  return at;
}

void command_set_target_properties(Evaluator& e, const Invocation& i) {
  auto at = find_word(i, "PROPERTIES");
  for (std::size_t k = 0; k < at && k < i.size(); ++k) {
    auto& target = e.need_target(i[k], i);
    auto begin = at;
    pairs(e, i, begin, [&](const std::string& name, Values values) {
      put_target(e, target, name, std::move(values), false, false);
    });
  }
  if (at >= i.size()) e.fail(i, "'" + i.name + "' without PROPERTIES");
}

void command_set_source_files_properties(Evaluator& e, const Invocation& i) {
  static const std::set<std::string> ends = {"PROPERTIES", "DIRECTORY",    "TARGET_DIRECTORY", "GENERATED",
                                             "ABSTRACT",   "WRAP_EXCLUDE", "COMPILE_FLAGS",    "OBJECT_DEPENDS"};
  std::size_t names = 0;
  while (names < i.size() && !ends.contains(i[names])) ++names;
  const auto set_all = [&](const std::string& property, const Values& values) {
    for (std::size_t k = 0; k < names; ++k) set_source(e, i, i[k], property, values, false, false);
  };
  std::size_t at = names;
  // An old form names some properties without PROPERTIES before them.
  while (at < i.size() && i[at] != "PROPERTIES") {
    const std::string& word = i[at++];
    if (word == "GENERATED" || word == "ABSTRACT" || word == "WRAP_EXCLUDE") {
      set_all(word, {e.word("1", i)});
    } else if (word == "COMPILE_FLAGS" || word == "OBJECT_DEPENDS") {
      if (at < i.size()) set_all(word, {e.word(i[at++], i)});
    } else {
      // DIRECTORY, TARGET_DIRECTORY: in which folders the properties show. Sources are known by their paths here, so
      // they show in all.
      while (at < i.size() && !ends.contains(i[at])) ++at;
    }
  }
  if (at < i.size()) pairs(e, i, at, [&](const std::string& name, const Values& values) { set_all(name, values); });
}

void command_set_tests_properties(Evaluator& e, const Invocation& i) {
  auto at = find_word(i, "PROPERTIES");
  for (std::size_t k = 0; k < at && k < i.size(); ++k) {
    auto& test = need_test(e, i[k], i);
    auto begin = at;
    pairs(e, i, begin, [&](const std::string& name, Values values) { test.properties[name] = std::move(values); });
  }
}

void command_set_directory_properties(Evaluator& e, const Invocation& i) {
  std::size_t at = 0;
  pairs(e, i, at, [&](const std::string& name, Values values) {
    set_directory(e, e.directory(), name, std::move(values), false, false);
  });
}

std::optional<std::string> directory_property(Evaluator& e, const Directory& folder, const std::string& name) {
  if (name == "PARENT_DIRECTORY") return folder.parent == nullptr ? "" : folder.parent->source;
  if (name == "SOURCE_DIR") return folder.source;
  if (name == "BINARY_DIR") return folder.binary;
  if (name == "VARIABLES") return list_join(e.variable_names());
  if (name == "BUILDSYSTEM_TARGETS" || name == "TESTS" || name == "SUBDIRECTORIES") {
    std::vector<std::string> names;
    if (name == "BUILDSYSTEM_TARGETS") {
      for (const auto index : folder.targets) {
        if (!e.project.targets[index].imported && e.project.targets[index].alias_of.empty())
          names.push_back(e.project.targets[index].name);
      }
    } else if (name == "TESTS") {
      for (const auto index : folder.tests) names.push_back(e.project.tests[index].name);
    } else {
      for (const auto& other : e.directories) {
        if (other->parent == &folder) names.push_back(other->source);
      }
    }
    return list_join(names);
  }
  const auto it = folder.properties.find(name);
  if (it == folder.properties.end()) return std::nullopt;
  return Evaluator::joined(it->second);
}

void command_get_directory_property(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "get_directory_property(RESULT [DIRECTORY folder] NAME)");
  Directory* folder = &e.directory();
  std::size_t at = 1;
  if (i[at] == "DIRECTORY") {
    e.need(i, 4, "get_directory_property(RESULT DIRECTORY folder NAME)");
    folder = e.directory_of(i[at + 1]);
    if (folder == nullptr) e.fail(i, "the folder '" + i[at + 1] + "' is not one that has been read");
    at += 2;
  }
  if (i[at] == "DEFINITION") {
    e.need(i, at + 2, "get_directory_property(RESULT DEFINITION NAME)");
    const auto it = folder->scope->variables.find(i[at + 1]);
    e.set(i[0], it == folder->scope->variables.end() ? e.value(i[at + 1]) : it->second.value_or(""));
    return;
  }
  e.set(i[0], directory_property(e, *folder, i[at]).value_or(""));
}

void command_get_target_property(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "get_target_property(RESULT TARGET PROPERTY)");
  if (i[2] == "ALIASED_TARGET") {
    const auto it = e.project.target_index.find(i[1]);
    const bool is_alias = it != e.project.target_index.end() && !e.project.targets[it->second].alias_of.empty();
    e.set(i[0], is_alias ? e.project.targets[it->second].alias_of : i[0] + "-NOTFOUND");
    return;
  }
  const auto found = e.target_property(e.need_target(i[1], i), i[2]);
  e.set(i[0], found.value_or(i[0] + "-NOTFOUND"));
}

void command_get_source_file_property(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "get_source_file_property(RESULT FILE PROPERTY)");
  if (i[2] == "LOCATION") {
    e.set(i[0], e.source_path(i[1]));
    return;
  }
  e.set(i[0], e.source_property(e.source_path(i[1]), i[2]).value_or("NOTFOUND"));
}

void command_get_test_property(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "get_test_property(TEST PROPERTY RESULT)");
  const auto& test = need_test(e, i[0], i);
  const auto it = test.properties.find(i[1]);
  e.set(i[2], it == test.properties.end() ? "NOTFOUND" : Evaluator::joined(it->second));
}

void command_get_property(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "get_property(RESULT SCOPE name PROPERTY property)");
  const auto at = find_word(i, "PROPERTY");
  if (at + 1 >= i.size()) e.fail(i, "get_property(...) without PROPERTY and a name");
  const std::string& scope = i[1];
  const std::string& property = i[at + 1];
  const std::string mode = at + 2 < i.size() ? i[at + 2] : "";
  const std::string name = at > 2 ? i[2] : "";
  std::optional<std::string> found;
  if (scope == "GLOBAL") {
    if (const auto it = e.global_properties.find(property); it != e.global_properties.end())
      found = Evaluator::joined(it->second);
    else if (property == "GENERATOR_IS_MULTI_CONFIG")
      found = "0";
    else if (property == "TARGET_SUPPORTS_SHARED_LIBS")
      found = "TRUE";
    else if (property == "FIND_LIBRARY_USE_LIB64_PATHS")
      found = "FALSE";
    else if (property == "IN_TRY_COMPILE")
      found = "0";
  } else if (scope == "DIRECTORY") {
    const Directory* folder = name.empty() ? &e.directory() : e.directory_of(name);
    if (folder == nullptr) e.fail(i, "the folder '" + name + "' is not one that has been read");
    found = directory_property(e, *folder, property);
  } else if (scope == "TARGET") {
    found = e.target_property(e.need_target(name, i), property);
  } else if (scope == "SOURCE") {
    found = e.source_property(e.source_path(name), property);
  } else if (scope == "TEST") {
    const auto& test = need_test(e, name, i);
    if (test.properties.contains(property)) found = Evaluator::joined(test.properties.at(property));
  } else if (scope == "VARIABLE") {
    if (const std::string* value = e.find(property)) found = *value;
  } else if (scope == "CACHE") {
    if (const auto it = e.cache.find(name); it != e.cache.end()) found = cache_property(it->second, property);
  } else {
    e.not_understood(i, "get_property(" + scope + ")");
  }
  if (mode == "SET")
    e.set(i[0], found ? "1" : "0");
  else if (mode == "DEFINED")
    e.set(i[0], e.global_properties.contains("__defined_" + property) ? "1" : "0");
  else if (found)
    e.set(i[0], *found);
  else
    e.unset(i[0]);
}

void command_define_property(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "define_property(SCOPE PROPERTY name)");
  e.global_properties["__defined_" + i[2]] = {e.word("1", i)};
}

}  // namespace

void add_property_commands(CommandTable& table) {
  table["set_property"] = command_set_property;
  table["get_property"] = command_get_property;
  table["set_target_properties"] = command_set_target_properties;
  table["get_target_property"] = command_get_target_property;
  table["set_source_files_properties"] = command_set_source_files_properties;
  table["get_source_file_property"] = command_get_source_file_property;
  table["set_tests_properties"] = command_set_tests_properties;
  table["get_test_property"] = command_get_test_property;
  table["set_directory_properties"] = command_set_directory_properties;
  table["get_directory_property"] = command_get_directory_property;
  table["define_property"] = command_define_property;
}

}  // namespace coctilis::describe::listfile
