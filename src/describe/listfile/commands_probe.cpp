// Questions that descriptions put to the compiler: check_*(). Answers are kept in the cache.
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/probes.h"
#include "survey/fortran.h"

namespace coctilis::describe::listfile {

namespace {

std::string probe_language(Evaluator& e) {
  const auto languages = e.enabled_languages();
  return std::find(languages.begin(), languages.end(), "C") != languages.end() ? "C" : "C++";
}

// Words of a target's property that hold without working out an expression.
std::vector<std::string> plain_words(Evaluator& e, const Target& target, const std::string& property) {
  auto words = list_elements(e.target_property(target, property).value_or(""), false);
  std::erase_if(words, [](const std::string& word) { return word.find("$<") != std::string::npos; });
  return words;
}

void add_item(Evaluator& e, locate::Probe& probe, const std::string& item, int depth) {
  if (const auto* target = e.target(item); target != nullptr && depth < 8) {
    for (const auto& folder : plain_words(e, *target, "INTERFACE_INCLUDE_DIRECTORIES"))
      probe.compile_options.push_back("-I" + folder);
    for (const auto& definition : plain_words(e, *target, "INTERFACE_COMPILE_DEFINITIONS"))
      probe.compile_options.push_back(definition.starts_with("-D") ? definition : "-D" + definition);
    for (const auto& option : plain_words(e, *target, "INTERFACE_COMPILE_OPTIONS"))
      probe.compile_options.push_back(option);
    for (const auto& option : plain_words(e, *target, "INTERFACE_LINK_OPTIONS")) probe.link_options.push_back(option);
    if (const auto location = e.target_property(*target, "IMPORTED_LOCATION")) probe.link_options.push_back(*location);
    for (const auto& inner : list_elements(e.target_property(*target, "INTERFACE_LINK_LIBRARIES").value_or(""), false))
      add_item(e, probe, inner, depth + 1);
    return;
  }
  if (item.starts_with("$<LINK_ONLY:") && item.ends_with('>')) {
    if (depth < 8) add_item(e, probe, item.substr(12, item.size() - 13), depth + 1);
    return;
  }
  if (item.empty() || item.find("$<") != std::string::npos) return;
  probe.link_options.push_back(item.starts_with('-') || item.starts_with('/') ? item : "-l" + item);
}

// What CMAKE_REQUIRED_* variables add to every question.
void add_required(Evaluator& e, locate::Probe& probe) {
  lists::append(probe.compile_options,
                text::shell_words(e.value(probe.language == "C" ? "CMAKE_C_FLAGS" : "CMAKE_CXX_FLAGS")));
  lists::append(probe.compile_options, text::shell_words(e.value("CMAKE_REQUIRED_FLAGS")));
  // As add_definitions() takes them: an element may hold several, and other flags besides.
  for (const auto& element : list_elements(e.value("CMAKE_REQUIRED_DEFINITIONS"), false))
    lists::append(probe.compile_options, definition_words(e, element));
  for (const auto& folder : list_elements(e.value("CMAKE_REQUIRED_INCLUDES"), false))
    probe.compile_options.push_back("-I" + folder);
  const std::string lang = probe.language == "C" ? "C" : "CXX";
  if (const std::string standard = e.value("CMAKE_" + lang + "_STANDARD"); !standard.empty()) {
    const bool extensions = e.find("CMAKE_" + lang + "_EXTENSIONS") == nullptr || e.on("CMAKE_" + lang + "_EXTENSIONS");
    probe.compile_options.push_back(std::string("-std=") + (extensions ? "gnu" : "c") + (lang == "CXX" ? "++" : "") +
                                    standard);
  }
  lists::append(probe.link_options, list_elements(e.value("CMAKE_REQUIRED_LINK_OPTIONS"), false));
  for (const auto& folder : list_elements(e.value("CMAKE_REQUIRED_LINK_DIRECTORIES"), false))
    probe.link_options.push_back("-L" + folder);
  for (const auto& item : list_elements(e.value("CMAKE_REQUIRED_LIBRARIES"), false)) add_library(e, probe, item);
}

// A question that a command puts: where the answer goes, and how it is read off.
struct Asked {
  enum class Judge { compiles, runs, takes_option, size };
  std::string variable;
  locate::Probe probe;
  Judge judge = Judge::compiles;
  model::RequirementKind kind = model::RequirementKind::function;
  std::string subject;                     // what is asked for; empty: not kept among the wants
  std::vector<std::string> fail_patterns;  // words in the compiler's output that mean no
};
// Makes the question of a command, without the CMAKE_REQUIRED_* variables. Throws Fault for wrong use.
using Build = Asked (*)(Evaluator&, const Invocation&);

std::string includes(const std::string& headers) {
  std::string out;
  for (const auto& header : list_elements(headers, false)) out += "#include <" + header + ">\n";
  return out;
}

// The size of a type is read from the object, so that it is right for machines whose programs do not run here.
constexpr const char* size_mark = "coctSIZE";

std::string size_in(const locate::Answer& answer) {
  const auto at = answer.object.find(size_mark);
  if (!answer.compiled || at == std::string::npos) return {};
  return std::to_string(std::atoi(answer.object.substr(at + std::string_view(size_mark).size(), 3).c_str()));
}

bool complains(const locate::Answer& answer) {
  for (const char* words : {"unrecognized", "unknown", "not supported", "is valid for"}) {
    if (answer.output.find(words) != std::string::npos) return true;
  }
  return false;
}

void keep_finding(Evaluator& e, const Invocation& i, const Asked& asked, bool yes) {
  if (asked.subject.empty()) return;
  model::Finding finding;
  finding.requirement = {asked.kind, asked.subject, {}, false, i.name, i.place, {}};
  finding.found = yes;
  finding.how = "probe";
  if (!yes) finding.looked = {"asked the compiler"};
  e.keep(std::move(finding));
}

void store(Evaluator& e, const std::string& variable, const std::string& value) {
  // In the cache alone: when the description takes it from there, the question is open again.
  e.set_cache(variable, value, "INTERNAL", "", true, {});
}

// The line for a header that tells a size.
void set_code(Evaluator& e, const std::string& variable, const std::string& size) {
  e.set(variable + "_CODE", size.empty() ? "/* #undef " + variable + " */" : "#define " + variable + " " + size);
}

void look_ahead(Evaluator& e);

void put(Evaluator& e, const Invocation& i, Asked asked) {
  if (const std::string* known = e.find(asked.variable)) {
    if (asked.judge == Asked::Judge::size) set_code(e, asked.variable, *known);
    return;
  }
  add_required(e, asked.probe);
  if (!e.locator.knows(asked.probe)) look_ahead(e);
  const auto answer = e.locator.ask(asked.probe, {asked.variable, i.name, i.place, {}, {}, {}, {}, {}, {}, false});
  if (asked.judge == Asked::Judge::size) {
    const std::string size = size_in(answer);
    store(e, "HAVE_" + asked.variable, size.empty() ? "" : "TRUE");
    store(e, asked.variable, size);
    set_code(e, asked.variable, size);
    keep_finding(e, i, asked, !size.empty());
    e.locator.conclude(size);
    return;
  }
  bool yes = answer.compiled;
  if (asked.judge == Asked::Judge::runs) yes = answer.ran && answer.exit == 0;
  if (asked.judge == Asked::Judge::takes_option) yes = yes && !complains(answer);
  for (const auto& pattern : asked.fail_patterns) yes = yes && answer.output.find(pattern) == std::string::npos;
  store(e, asked.variable, yes ? "1" : "");
  keep_finding(e, i, asked, yes);
  e.locator.conclude(yes ? "1" : "");
}

// ---- headers -------------------------------------------------------------------------------------------------------

Asked header_question(Evaluator& e, const Invocation& i, const std::string& language) {
  e.need(i, 2, i.name + "(HEADER RESULT)");
  Asked out{i[1], {}, Asked::Judge::compiles, model::RequirementKind::header, text::join(list_elements(i[0]), ", "),
            {}};
  out.probe.language = language;
  out.probe.source = includes(i[0]) + "int main(void) { return 0; }\n";
  return out;
}
Asked check_include_file(Evaluator& e, const Invocation& i) {
  Asked out = header_question(e, i, "C");
  if (i.size() > 2) out.probe.compile_options = text::shell_words(i[2]);
  return out;
}
Asked check_include_file_cxx(Evaluator& e, const Invocation& i) {
  Asked out = header_question(e, i, "C++");
  if (i.size() > 2) out.probe.compile_options = text::shell_words(i[2]);
  return out;
}
Asked check_include_files(Evaluator& e, const Invocation& i) {
  e.need(i, 2, i.name + "(HEADERS RESULT)");
  const auto words = keywords(i.texts(2), {}, {"LANGUAGE"}, {});
  return header_question(e, i, words.get("LANGUAGE") == "CXX" ? "C++" : probe_language(e));
}

// ---- functions and symbols -----------------------------------------------------------------------------------------

Asked linked(const std::string& variable, const std::string& language, const std::string& source,
             const std::string& subject) {
  Asked out{variable, {}, Asked::Judge::compiles, model::RequirementKind::function, subject, {}};
  out.probe.how = locate::Probe::How::link;
  out.probe.language = language;
  out.probe.source = source;
  return out;
}

Asked check_function_exists(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_function_exists(FUNCTION RESULT)");
  Asked out = linked(i[1], "C", "char " + i[0] + "(void);\nint main(void) { return " + i[0] + "(); }\n", i[0]);
  out.probe.compile_options = {"-fno-builtin"};
  return out;
}

Asked symbol_question(Evaluator& e, const Invocation& i, const std::string& language) {
  e.need(i, 3, i.name + "(SYMBOL HEADERS RESULT)");
  // A macro does; else the name must have an address that the linker knows.
  return linked(i[2], language,
                includes(i[1]) + "int main(int argc, char** argv) {\n  (void)argv;\n#ifndef " + i[0] +
                    "\n  return ((int*)(&" + i[0] + "))[argc];\n#else\n  (void)argc;\n  return 0;\n#endif\n}\n",
                i[0]);
}
Asked check_symbol_exists(Evaluator& e, const Invocation& i) { return symbol_question(e, i, probe_language(e)); }
Asked check_cxx_symbol_exists(Evaluator& e, const Invocation& i) { return symbol_question(e, i, "C++"); }

Asked check_variable_exists(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_variable_exists(VARIABLE RESULT)");
  return linked(i[1], "C", "extern int " + i[0] + ";\nint main(void) { int* p = &" + i[0] + "; return p == 0; }\n",
                i[0]);
}

Asked check_prototype(Evaluator& e, const Invocation& i) {
  e.need(i, 5, "check_prototype_definition(FUNCTION PROTOTYPE RETURN HEADERS RESULT)");
  Asked out{i[4], {}, Asked::Judge::compiles, model::RequirementKind::function, i[0], {}};
  out.probe.language = "C";
  // Another prototype than the header's is an error; the same one again is not.
  out.probe.source = includes(i[3]) + i[1] + ";\nint main(void) { return " + i[0] + " == 0; }\n";
  return out;
}

Asked check_library_exists(Evaluator& e, const Invocation& i) {
  e.need(i, 4, "check_library_exists(LIBRARY FUNCTION FOLDER RESULT)");
  const std::string language = probe_language(e);
  const std::string declaration = language == "C" ? "char " : "extern \"C\" char ";
  Asked out = linked(i[3], language, declaration + i[1] + "(void);\nint main(void) { return " + i[1] + "(); }\n",
                     i[1] + " in " + i[0]);
  out.probe.compile_options = {"-fno-builtin"};
  if (!i[2].empty()) out.probe.link_options.push_back("-L" + i[2]);
  for (const auto& library : list_elements(i[0]))
    out.probe.link_options.push_back(library.starts_with('/') || library.starts_with('-') ? library : "-l" + library);
  return out;
}

// ---- sources and options -------------------------------------------------------------------------------------------

Asked source_question(Evaluator& e, const Invocation& i, const std::string& language, std::size_t at, bool run) {
  const auto words = keywords(i.texts(at + 2), {}, {"SRC_EXT"}, {"FAIL_REGEX"});
  Asked out = linked(i[at + 1], language, i[at] + "\n", i[at + 1]);
  if (run) {
    out.judge = Asked::Judge::runs;
    out.probe.how = locate::Probe::How::run;
  } else if (e.value("CMAKE_TRY_COMPILE_TARGET_TYPE") == "STATIC_LIBRARY") {
    out.probe.how = locate::Probe::How::compile;
  }
  out.fail_patterns = words.list("FAIL_REGEX");
  return out;
}
template <bool run>
Asked check_c_source(Evaluator& e, const Invocation& i) {
  e.need(i, 2, i.name + "(TEXT RESULT)");
  return source_question(e, i, "C", 0, run);
}
template <bool run>
Asked check_cxx_source(Evaluator& e, const Invocation& i) {
  e.need(i, 2, i.name + "(TEXT RESULT)");
  return source_question(e, i, "C++", 0, run);
}
template <bool run>
Asked check_fortran_source(Evaluator& e, const Invocation& i) {
  e.need(i, 2, i.name + "(TEXT RESULT)");
  Asked out = source_question(e, i, "Fortran", 0, run);
  // A text without an ending of its own is in fixed form there.
  const auto words = keywords(i.texts(2), {}, {"SRC_EXT"}, {"FAIL_REGEX"});
  std::string ending = words.get("SRC_EXT").empty() ? "F" : words.get("SRC_EXT");
  if (ending.starts_with('.')) ending = ending.substr(1);
  if (survey::has_fixed_ending("probe." + ending)) out.probe.compile_options.emplace_back("-ffixed-form");
  return out;
}
Asked check_fortran_function_exists(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_fortran_function_exists(FUNCTION RESULT)");
  return linked(i[1], "Fortran", "program probe\n  external " + i[0] + "\n  call " + i[0] + "()\nend program probe\n",
                i[0]);
}
std::string language_word(Evaluator& e, const Invocation& i, const std::string& word) {
  if (word == "Fortran") return word;
  if (word != "C" && word != "CXX") e.not_understood(i, "the language '" + word + "'");
  return word == "C" ? "C" : "C++";
}
template <bool run>
Asked check_source(Evaluator& e, const Invocation& i) {
  e.need(i, 3, i.name + "(LANGUAGE TEXT RESULT)");
  return source_question(e, i, language_word(e, i, i[0]), 1, run);
}

// An option counts as known when it is taken without complaint.
Asked option_question(const std::string& language, const std::string& option, const std::string& variable, bool link) {
  Asked out{variable, {}, Asked::Judge::takes_option, model::RequirementKind::function, {}, {}};
  out.probe.how = link ? locate::Probe::How::link : locate::Probe::How::compile;
  out.probe.language = language;
  out.probe.source = language == "Fortran" ? "program probe\nend program probe\n" : "int main(void) { return 0; }\n";
  auto options = list_elements(option, false);
  if (options.size() == 1) options = text::shell_words(options.front());
  // -Wno-something is always taken in silence: ask for the opposite.
  for (auto& word : options) {
    if (word.starts_with("-Wno-") && !word.starts_with("-Wno-error")) word = "-W" + word.substr(5);
  }
  (link ? out.probe.link_options : out.probe.compile_options) = options;
  out.probe.compile_options.emplace_back("-Werror");
  return out;
}
Asked check_c_compiler_flag(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_c_compiler_flag(OPTION RESULT)");
  return option_question("C", i[0], i[1], false);
}
Asked check_cxx_compiler_flag(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_cxx_compiler_flag(OPTION RESULT)");
  return option_question("C++", i[0], i[1], false);
}
Asked check_fortran_compiler_flag(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_fortran_compiler_flag(OPTION RESULT)");
  return option_question("Fortran", i[0], i[1], false);
}
template <bool link>
Asked check_flag(Evaluator& e, const Invocation& i) {
  e.need(i, 3, i.name + "(LANGUAGE OPTION RESULT)");
  return option_question(language_word(e, i, i[0]), i[1], i[2], link);
}

// ---- sizes and members ---------------------------------------------------------------------------------------------

Asked check_type_size(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_type_size(TYPE RESULT)");
  const auto words = keywords(i.texts(2), {"BUILTIN_TYPES_ONLY"}, {"LANGUAGE"}, {});
  Asked out{i[1], {}, Asked::Judge::size, model::RequirementKind::type, i[0], {}};
  out.probe.language = words.get("LANGUAGE") == "CXX" ? "C++" : probe_language(e);
  out.probe.source =
      (words.has("BUILTIN_TYPES_ONLY") ? std::string{}
                                       : "#include <sys/types.h>\n#include <stdint.h>\n#include <stddef.h>\n") +
      includes(e.value("CMAKE_EXTRA_INCLUDE_FILES")) +
      "extern const char coctilis_size[];\nconst char coctilis_size[] = { 'c', 'o', 'c', 't', 'S', 'I', 'Z', 'E',\n"
      "  (char)('0' + sizeof(" +
      i[0] + ") / 100 % 10), (char)('0' + sizeof(" + i[0] + ") / 10 % 10), (char)('0' + sizeof(" + i[0] +
      ") % 10), 0 };\n";
  return out;
}

Asked check_struct_has_member(Evaluator& e, const Invocation& i) {
  e.need(i, 4, "check_struct_has_member(STRUCT MEMBER HEADERS RESULT)");
  const auto words = keywords(i.texts(4), {}, {"LANGUAGE"}, {});
  Asked out{i[3], {}, Asked::Judge::compiles, model::RequirementKind::type, i[0] + "." + i[1], {}};
  out.probe.language = words.get("LANGUAGE") == "CXX" ? "C++" : probe_language(e);
  out.probe.source = includes(i[2]) + "int main(void) { (void)sizeof(((" + i[0] + "*)0)->" + i[1] + "); return 0; }\n";
  return out;
}

// ---- all questions, and those that come next -----------------------------------------------------------------------

const std::map<std::string, Build>& questions() {
  static const std::map<std::string, Build> table = {
      {"check_include_file", check_include_file},
      {"check_include_file_cxx", check_include_file_cxx},
      {"check_include_files", check_include_files},
      {"check_function_exists", check_function_exists},
      {"check_symbol_exists", check_symbol_exists},
      {"check_cxx_symbol_exists", check_cxx_symbol_exists},
      {"check_variable_exists", check_variable_exists},
      {"check_prototype_definition", check_prototype},
      {"check_library_exists", check_library_exists},
      {"check_c_source_compiles", check_c_source<false>},
      {"check_c_source_runs", check_c_source<true>},
      {"check_cxx_source_compiles", check_cxx_source<false>},
      {"check_cxx_source_runs", check_cxx_source<true>},
      {"check_source_compiles", check_source<false>},
      {"check_source_runs", check_source<true>},
      {"check_c_compiler_flag", check_c_compiler_flag},
      {"check_cxx_compiler_flag", check_cxx_compiler_flag},
      {"check_cxx_accepts_flag", check_cxx_compiler_flag},
      {"check_fortran_compiler_flag", check_fortran_compiler_flag},
      {"check_fortran_source_compiles", check_fortran_source<false>},
      {"check_fortran_source_runs", check_fortran_source<true>},
      {"check_fortran_function_exists", check_fortran_function_exists},
      {"check_compiler_flag", check_flag<false>},
      {"check_linker_flag", check_flag<true>},
      {"check_type_size", check_type_size},
      {"check_struct_has_member", check_struct_has_member},
  };
  return table;
}

void ask_question(Evaluator& e, const Invocation& i) {
  // A command that the tree redefines is reached by its name with an underscore as well.
  std::string name = text::lower(i.name);
  if (!questions().contains(name)) name.erase(0, 1);
  put(e, i, questions().at(name)(e, i));
}

// When one question costs a compiler run, those that follow most likely do, too: they are made up from how things stand
// now, and put side by side. A guess that proves wrong costs time only. Programs are not run on a guess.
void look_ahead(Evaluator& e) {
  constexpr std::size_t most = 64;
  std::vector<locate::Probe> probes;
  e.for_upcoming([&](const std::string& name, const Invocation& i) {
    // What follows stands under other conditions.
    if ((name == "set" || name == "list" || name == "unset" || name == "string") &&
        std::any_of(i.words.begin(), i.words.end(), [](const Word& w) { return w.text.starts_with("CMAKE_"); }))
      return false;
    const auto it = questions().find(name);
    if (it == questions().end()) return true;
    Asked asked = it->second(e, i);
    if (asked.probe.how != locate::Probe::How::run && e.find(asked.variable) == nullptr) {
      add_required(e, asked.probe);
      probes.push_back(std::move(asked.probe));
    }
    return probes.size() < most;
  });
  e.locator.ask_ahead(probes);
}

void command_check_language(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "check_language(LANGUAGE)");
  const auto& chain = e.locator.toolchain();
  if (i[0] == "ASM_NASM") {
    const auto finding = e.locator.program({model::RequirementKind::program, "nasm", {}, false, i.name, i.place, {}},
                                           {"nasm", "yasm"}, {});
    e.set("CMAKE_ASM_NASM_COMPILER", finding.found ? finding.where : "NOTFOUND");
    e.keep(finding);
    return;
  }
  const std::string name = language_named(i[0]);
  const std::string path = chain.compiler(name == assembler ? "C" : name).path;
  e.set("CMAKE_" + i[0] + "_COMPILER", path.empty() ? "NOTFOUND" : path);
}

void command_test_big_endian(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "test_big_endian(RESULT)");
  const auto& chain = e.locator.toolchain();
  const auto& macros = chain.any().macros;
  const auto it = macros.find("__BYTE_ORDER__");
  e.set(i[0], it != macros.end() && it->second == "__ORDER_BIG_ENDIAN__" ? "1" : "0");
}

void command_check_ipo_supported(Evaluator& e, const Invocation& i) {
  const auto words = keywords(i.texts(), {}, {"RESULT", "OUTPUT"}, {"LANGUAGES"});
  locate::Probe probe;
  probe.how = locate::Probe::How::link;
  probe.language = probe_language(e);
  probe.source = "int main(void) { return 0; }\n";
  probe.compile_options = {"-flto"};
  const auto answer = e.locator.ask(probe, {words.get("RESULT"), i.name, i.place, {}, {}, {}, {}, {}, {}, false});
  e.locator.conclude(answer.compiled ? "YES" : "NO");
  e.set(words.get("RESULT"), answer.compiled ? "YES" : "NO");
  if (words.has("OUTPUT")) e.set(words.get("OUTPUT"), answer.output);
}

void command_check_pie_supported(Evaluator&, const Invocation&) {}

}  // namespace

void add_library(Evaluator& e, locate::Probe& probe, const std::string& item) { add_item(e, probe, item, 0); }

void add_probe_commands(CommandTable& table) {
  for (const auto& [name, build] : questions()) table[name] = ask_question;
  table["check_language"] = command_check_language;
  table["test_big_endian"] = command_test_big_endian;
  table["check_ipo_supported"] = command_check_ipo_supported;
  table["check_pie_supported"] = command_check_pie_supported;
}

}  // namespace coctilis::describe::listfile
