// Libraries for other languages whose glue is made by the SWIG program from interface files: a rule for each such file,
// and a library of what comes out.
#include <re2/re2.h>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

namespace {

// How a language wants its modules called: what stands before the name, and the files that are made besides the glue.
struct Language {
  const char* name;  // in small letters, as the program's option has it
  const char* prefix;
  const char* proxy;  // "{}" stands for the module's name; empty: none
};
const Language* known_language(const std::string& name) {
  static const std::vector<Language> table = {
      {"python", "_", "{}.py"}, {"perl", "", "{}.pm"}, {"perl5", "", "{}.pm"}, {"tcl", "", ""},
      {"tcl8", "", ""},         {"ruby", "", ""},      {"lua", "", ""},        {"java", "lib", "{}.java"},
      {"php", "", ""},          {"php5", "", ""},      {"php7", "", ""},       {"csharp", "lib", "{}.cs"},
      {"r", "", "{}.R"},        {"guile", "lib", ""},  {"octave", "", ""},     {"javascript", "", ""},
      {"go", "lib", "{}.go"},   {"scilab", "lib", ""}, {"mzscheme", "", ""},   {"ocaml", "lib", "{}.ml"},
      {"d", "lib", "{}.d"}};
  const auto it = std::find_if(table.begin(), table.end(), [&](const auto& row) { return name == row.name; });
  return it == table.end() ? nullptr : &*it;
}

// What the interface file calls its module: "%module NAME" or "%module(...) NAME"; else the file's own name.
std::string module_of(const Evaluator& e, const std::string& path) {
  if (const auto name = e.source_property(path, "SWIG_MODULE_NAME"); name && !name->empty()) return *name;
  static const RE2 module(R"((?m)^\s*%module\s*(?:\([^)]*\))?\s*([A-Za-z_][A-Za-z0-9_]*))");
  std::string name;
  if (RE2::PartialMatch(files::read(path).value_or(""), module, &name)) return name;
  return std::filesystem::path(path).stem().string();
}

// Options with one word in front of each element of a list that generator expressions give.
std::string each(const std::string& option, const std::string& list) {
  return "$<$<BOOL:" + list + ">:" + option + "$<JOIN:" + list + ",;" + option + ">>";
}

struct Library {
  std::string name;    // as the description calls it
  std::string target;  // the target's name
  const Language* language = nullptr;
  std::string proxies;  // folder of what is made besides
  std::string glue;     // folder of the glue
  bool no_proxy = false;
};

// One interface file: the rule; gives the glue's source.
std::string add_interface(Evaluator& e, const Invocation& i, const Library& library, const std::string& path) {
  const auto said = [&](const char* property) { return e.source_property(path, property).value_or(""); };
  const bool cxx = is_true(said("CPLUSPLUS"));
  const auto folder_of = [&](const char* property, const std::string& usual) {
    const std::string named = said(property);
    return named.empty() ? usual : e.binary_path(named);
  };
  const std::string proxies = folder_of("OUTPUT_DIR", library.proxies);
  const std::string glue = folder_of("OUTFILE_DIR", library.glue);
  const std::string output = glue + "/" + std::filesystem::path(path).stem().string() +
                             text::upper(library.language->name) + "_wrap" + (cxx ? ".cxx" : ".c");
  const std::string program = e.value("SWIG_EXECUTABLE");
  std::vector<std::string> command = {program.empty() ? "swig" : program, std::string("-") + library.language->name};
  const auto add = [&](const std::string& list) {
    for (const auto& word : list_elements(list)) command.push_back(word);
  };
  add(e.value("CMAKE_SWIG_FLAGS"));
  const std::string of_target = "$<TARGET_PROPERTY:" + library.target + ",";
  for (const char* property : {"SWIG_FLAGS", "COMPILE_OPTIONS"}) add(said(property));
  command.push_back(of_target + "SWIG_COMPILE_OPTIONS>");
  for (const auto& word : list_elements(said("COMPILE_DEFINITIONS"))) command.push_back("-D" + word);
  command.push_back(each("-D", of_target + "SWIG_COMPILE_DEFINITIONS>"));
  for (const auto& folder : list_elements(said("INCLUDE_DIRECTORIES"))) command.push_back("-I" + e.source_path(folder));
  // Interfaces include what the library's sources include.
  for (const char* property : {"SWIG_INCLUDE_DIRECTORIES>", "INCLUDE_DIRECTORIES>"})
    command.push_back(each("-I", of_target + property));
  if (library.no_proxy) command.emplace_back("-noproxy");
  if (cxx) command.emplace_back("-c++");
  const std::string dependency_file = output + ".d";
  for (const auto& word : {std::string("-outdir"), proxies, std::string("-MMD"), std::string("-MF"), dependency_file,
                           std::string("-o"), output, path})
    command.push_back(word);
  std::vector<std::string> depends = {path};
  for (const auto& word : list_elements(said("DEPENDS"))) depends.push_back(word);
  for (const auto& word : list_elements(e.value("SWIG_MODULE_" + library.name + "_EXTRA_DEPS")))
    depends.push_back(word);
  RuleExtras extras;
  extras.expand_lists = true;
  extras.dependency_file = dependency_file;
  const std::string proxy = library.language->proxy;
  if (!proxy.empty() && !library.no_proxy)
    extras.byproducts = {proxies + "/" + text::replace_all(proxy, "{}", module_of(e, path))};
  add_rule(e, i, {output}, command, depends, "", extras);
  return output;
}

void add_swig_library(Evaluator& e, const Invocation& i, const std::string& name, const std::string& type,
                      const std::string& language, const std::vector<std::string>& sources, const Keywords& words) {
  Library library;
  library.name = name;
  library.language = known_language(text::lower(language));
  if (library.language == nullptr)
    e.fail(i, "'" + language + "' is no language that " + i.name + "(...) knows", "python, perl, java, lua, ruby, ...");
  library.no_proxy = words.has("NO_PROXY");
  // Under the old rules, targets for Python have the name of the file (CMP0078).
  constexpr int policy_plain_names = 78;
  const std::string preferred = e.value("UseSWIG_TARGET_NAME_PREFERENCE");
  const bool plain = preferred.empty() ? e.policy_is_new(policy_plain_names) : preferred != "LEGACY";
  const bool python = text::lower(language) == "python";
  library.target = plain || !python ? name : "_" + name;
  const auto folder = [&](const char* word, const char* variable) {
    const std::string said = words.has(word) ? words.get(word) : e.value(variable);
    return said.empty() ? e.directory().binary : e.binary_path(said);
  };
  library.proxies = folder("OUTPUT_DIR", "CMAKE_SWIG_OUTDIR");
  library.glue =
      words.has("OUTFILE_DIR") || !e.value("SWIG_OUTFILE_DIR").empty()
          ? folder("OUTFILE_DIR", "SWIG_OUTFILE_DIR")
          : (words.has("OUTPUT_DIR") || !e.value("CMAKE_SWIG_OUTDIR").empty() ? library.proxies : e.directory().binary);
  std::vector<std::string> endings = list_elements(e.value("SWIG_SOURCE_FILE_EXTENSIONS"));
  if (endings.empty()) endings = {".i"};
  Invocation made{"add_library", {{library.target, true}}, i.place};
  if (!type.empty() && type != "USE_BUILD_SHARED_LIBS") made.words.push_back({type, false});
  std::vector<std::string> outputs;
  for (const auto& source : sources) {
    const bool is_interface = std::any_of(endings.begin(), endings.end(),
                                          [&](const std::string& ending) { return source.ends_with(ending); });
    if (is_interface) outputs.push_back(add_interface(e, i, library, e.source_path(source)));
    made.words.push_back({is_interface ? outputs.back() : source, true});
  }
  if (outputs.empty())
    e.fail(i, i.name + "(" + name + " ...) has no interface file", "their names end in " + text::join(endings, ", "));
  e.call(made);
  auto& target = e.need_target(library.target, i);
  // The file of a module is called as the language looks for it.
  std::string prefix = library.language->prefix;
  if (python && (!plain || library.no_proxy)) prefix.clear();
  target.properties["PREFIX"] = {e.word(prefix, i)};
  Invocation all{"add_custom_target", {{name + "_swig_compilation", true}, {"DEPENDS", false}}, i.place};
  for (const auto& output : outputs) all.words.push_back({output, true});
  if (e.target(name + "_swig_compilation") == nullptr) e.call(all);
  e.set("SWIG_MODULE_" + name + "_REAL_NAME", library.target);
  e.set("SWIG_MODULE_" + name + "_LANGUAGE", text::upper(language));
}

// swig_add_library(NAME [TYPE kind] LANGUAGE language [NO_PROXY] [OUTPUT_DIR folder] [OUTFILE_DIR folder] SOURCES ...)
void command_add_wrapped_library(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "swig_add_library(NAME LANGUAGE language SOURCES files...)");
  const auto words = keywords(i.texts(1), {"NO_PROXY"}, {"TYPE", "LANGUAGE", "OUTPUT_DIR", "OUTFILE_DIR"}, {"SOURCES"});
  if (!words.has("LANGUAGE"))
    e.fail(i, "swig_add_library(" + i[0] + " ...) has no LANGUAGE",
           "name the one that the library is for: LANGUAGE python, ...");
  add_swig_library(e, i, i[0], words.has("TYPE") ? words.get("TYPE") : "MODULE", words.get("LANGUAGE"),
                   words.list("SOURCES"), words);
}

// The older form: swig_add_module(NAME language files...).
void command_add_module(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "swig_add_module(NAME language files...)");
  add_swig_library(e, i, i[0], "MODULE", i[1], i.texts(2), {});
}

void command_link_wrapped_library(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "swig_link_libraries(NAME libraries...)");
  const std::string real = e.value("SWIG_MODULE_" + i[0] + "_REAL_NAME");
  Invocation link{"target_link_libraries", {{real.empty() ? i[0] : real, true}}, i.place};
  link.words.insert(link.words.end(), i.words.begin() + 1, i.words.end());
  e.call(link);
}

}  // namespace

void add_swig_commands(CommandTable& table) {
  table["swig_add_library"] = command_add_wrapped_library;
  table["swig_add_module"] = command_add_module;
  table["swig_link_libraries"] = command_link_wrapped_library;
}

}  // namespace coctilis::describe::listfile
