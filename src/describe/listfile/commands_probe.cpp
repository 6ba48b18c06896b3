// Questions that descriptions put to the compiler: check_*(), try_compile, try_run. Answers are kept in the cache.
#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

namespace {

std::string probe_language(Evaluator& e) {
  const auto languages = e.enabled_languages();
  return std::find(languages.begin(), languages.end(), "C") != languages.end() ? "C" : "C++";
}

// What CMAKE_REQUIRED_* variables add to every question.
void add_required(Evaluator& e, locate::Probe& probe) {
  const auto add = [](std::vector<std::string>& into, const std::vector<std::string>& from) {
    into.insert(into.end(), from.begin(), from.end());
  };
  add(probe.compile_options, text::shell_words(e.value(probe.language == "C" ? "CMAKE_C_FLAGS" : "CMAKE_CXX_FLAGS")));
  add(probe.compile_options, text::shell_words(e.value("CMAKE_REQUIRED_FLAGS")));
  add(probe.compile_options, list_elements(e.value("CMAKE_REQUIRED_DEFINITIONS"), false));
  for (const auto& folder : list_elements(e.value("CMAKE_REQUIRED_INCLUDES"), false))
    probe.compile_options.push_back("-I" + folder);
  const std::string lang = probe.language == "C" ? "C" : "CXX";
  if (const std::string standard = e.value("CMAKE_" + lang + "_STANDARD"); !standard.empty()) {
    const bool extensions = e.find("CMAKE_" + lang + "_EXTENSIONS") == nullptr || e.on("CMAKE_" + lang + "_EXTENSIONS");
    probe.compile_options.push_back(std::string("-std=") + (extensions ? "gnu" : "c") + (lang == "CXX" ? "++" : "") +
                                    standard);
  }
  add(probe.link_options, list_elements(e.value("CMAKE_REQUIRED_LINK_OPTIONS"), false));
  for (const auto& folder : list_elements(e.value("CMAKE_REQUIRED_LINK_DIRECTORIES"), false))
    probe.link_options.push_back("-L" + folder);
  std::function<void(const std::string&, int)> add_item = [&](const std::string& item, int depth) {
    if (const auto* target = e.target(item); target != nullptr && depth < 8) {
      for (const auto& value : target->properties.contains("INTERFACE_INCLUDE_DIRECTORIES")
                                   ? target->properties.at("INTERFACE_INCLUDE_DIRECTORIES")
                                   : model::Values{}) {
        if (value.text.find("$<") == std::string::npos) probe.compile_options.push_back("-I" + value.text);
      }
      if (const auto location = e.target_property(*target, "IMPORTED_LOCATION"))
        probe.link_options.push_back(*location);
      for (const auto& inner :
           list_elements(e.target_property(*target, "INTERFACE_LINK_LIBRARIES").value_or(""), false))
        add_item(inner, depth + 1);
      return;
    }
    if (item.find("$<") != std::string::npos) return;
    probe.link_options.push_back(item.starts_with('-') || item.starts_with('/') ? item : "-l" + item);
  };
  for (const auto& item : list_elements(e.value("CMAKE_REQUIRED_LIBRARIES"), false)) add_item(item, 0);
}

// Keeps the answer, and as an optional want what was asked for.
void keep_answer(Evaluator& e, const Invocation& i, const std::string& variable, bool yes, model::WantKind kind,
                 const std::string& subject) {
  e.set_cache(variable, yes ? "1" : "", "INTERNAL", "", true, {});
  e.unset(variable);
  e.set(variable, yes ? "1" : "");
  model::Finding finding;
  finding.want = {kind, subject, {}, false, i.name, i.place};
  finding.found = yes;
  finding.how = "probe";
  if (!yes) finding.looked = {"asked the compiler"};
  e.keep(std::move(finding));
}

bool answered(Evaluator& e, const std::string& variable) { return e.find(variable) != nullptr; }

locate::Answer put(Evaluator& e, locate::Probe& probe) {
  add_required(e, probe);
  return e.locator.ask(probe);
}

// ---- headers -------------------------------------------------------------------------------------------------------

void check_header(Evaluator& e, const Invocation& i, const std::string& language) {
  e.need(i, 2, i.name + "(HEADER RESULT)");
  if (answered(e, i[1])) return;
  locate::Probe probe;
  probe.language = language;
  for (const auto& header : list_elements(i[0])) probe.source += "#include <" + header + ">\n";
  probe.source += "int main(void) { return 0; }\n";
  if (i.size() > 2) probe.compile_options = text::shell_words(i[2]);
  keep_answer(e, i, i[1], put(e, probe).compiled, model::WantKind::header, text::join(list_elements(i[0]), ", "));
}
void command_check_include_file(Evaluator& e, const Invocation& i) { check_header(e, i, "C"); }
void command_check_include_file_cxx(Evaluator& e, const Invocation& i) { check_header(e, i, "C++"); }
void command_check_include_files(Evaluator& e, const Invocation& i) {
  const auto words = keywords(i.texts(2), {}, {"LANGUAGE"}, {});
  check_header(e,
               {i.name,
                {i.words.begin(), i.words.begin() + std::min<std::ptrdiff_t>(2, static_cast<std::ptrdiff_t>(i.size()))},
                i.place},
               words.get("LANGUAGE") == "CXX" ? "C++" : probe_language(e));
}

// ---- functions and symbols -----------------------------------------------------------------------------------------

void command_check_function_exists(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_function_exists(FUNCTION RESULT)");
  if (answered(e, i[1])) return;
  locate::Probe probe;
  probe.how = locate::Probe::How::link;
  probe.language = "C";
  probe.compile_options = {"-fno-builtin"};
  probe.source = "char " + i[0] + "(void);\nint main(void) { return " + i[0] + "(); }\n";
  keep_answer(e, i, i[1], put(e, probe).compiled, model::WantKind::function, i[0]);
}

void check_symbol(Evaluator& e, const Invocation& i, const std::string& language) {
  e.need(i, 3, i.name + "(SYMBOL HEADERS RESULT)");
  if (answered(e, i[2])) return;
  locate::Probe probe;
  probe.how = locate::Probe::How::link;
  probe.language = language;
  for (const auto& header : list_elements(i[1])) probe.source += "#include <" + header + ">\n";
  // A macro does; else the name must have an address that the linker knows.
  probe.source += "int main(int argc, char** argv) {\n  (void)argv;\n#ifndef " + i[0] + "\n  return ((int*)(&" + i[0] +
                  "))[argc];\n#else\n  (void)argc;\n  return 0;\n#endif\n}\n";
  keep_answer(e, i, i[2], put(e, probe).compiled, model::WantKind::function, i[0]);
}
void command_check_symbol_exists(Evaluator& e, const Invocation& i) { check_symbol(e, i, probe_language(e)); }
void command_check_cxx_symbol_exists(Evaluator& e, const Invocation& i) { check_symbol(e, i, "C++"); }

void command_check_variable_exists(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_variable_exists(VARIABLE RESULT)");
  if (answered(e, i[1])) return;
  locate::Probe probe;
  probe.how = locate::Probe::How::link;
  probe.language = "C";
  probe.source = "extern int " + i[0] + ";\nint main(void) { int* p = &" + i[0] + "; return p == 0; }\n";
  keep_answer(e, i, i[1], put(e, probe).compiled, model::WantKind::function, i[0]);
}

void command_check_prototype(Evaluator& e, const Invocation& i) {
  e.need(i, 5, "check_prototype_definition(FUNCTION PROTOTYPE RETURN HEADERS RESULT)");
  if (answered(e, i[4])) return;
  locate::Probe probe;
  probe.language = "C";
  for (const auto& header : list_elements(i[3])) probe.source += "#include <" + header + ">\n";
  // Another prototype than the header's is an error; the same one again is not.
  probe.source += i[1] + ";\nint main(void) { return " + i[0] + " == 0; }\n";
  keep_answer(e, i, i[4], put(e, probe).compiled, model::WantKind::function, i[0]);
}

void command_check_library_exists(Evaluator& e, const Invocation& i) {
  e.need(i, 4, "check_library_exists(LIBRARY FUNCTION FOLDER RESULT)");
  if (answered(e, i[3])) return;
  locate::Probe probe;
  probe.how = locate::Probe::How::link;
  probe.language = probe_language(e);
  const std::string declaration = probe.language == "C" ? "char " : "extern \"C\" char ";
  probe.compile_options = {"-fno-builtin"};
  probe.source = declaration + i[1] + "(void);\nint main(void) { return " + i[1] + "(); }\n";
  if (!i[2].empty()) probe.link_options.push_back("-L" + i[2]);
  for (const auto& library : list_elements(i[0]))
    probe.link_options.push_back(library.starts_with('/') || library.starts_with('-') ? library : "-l" + library);
  keep_answer(e, i, i[3], put(e, probe).compiled, model::WantKind::function, i[1] + " in " + i[0]);
}

// ---- sources and options -------------------------------------------------------------------------------------------

void check_source(Evaluator& e, const Invocation& i, const std::string& language, const std::string& source,
                  const std::string& variable, std::size_t rest, bool run) {
  if (answered(e, variable)) return;
  const auto words = keywords(i.texts(rest), {}, {"SRC_EXT"}, {"FAIL_REGEX"});
  locate::Probe probe;
  probe.how = run ? locate::Probe::How::run : locate::Probe::How::link;
  if (e.value("CMAKE_TRY_COMPILE_TARGET_TYPE") == "STATIC_LIBRARY" && !run) probe.how = locate::Probe::How::compile;
  probe.language = language;
  probe.source = source + "\n";
  const auto answer = put(e, probe);
  bool yes = run ? answer.ran && answer.exit == 0 : answer.compiled;
  for (const auto& pattern : words.list("FAIL_REGEX")) yes = yes && answer.output.find(pattern) == std::string::npos;
  keep_answer(e, i, variable, yes, model::WantKind::function, variable);
}
void command_check_c_source_compiles(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_c_source_compiles(TEXT RESULT)");
  check_source(e, i, "C", i[0], i[1], 2, false);
}
void command_check_cxx_source_compiles(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_cxx_source_compiles(TEXT RESULT)");
  check_source(e, i, "C++", i[0], i[1], 2, false);
}
void command_check_c_source_runs(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_c_source_runs(TEXT RESULT)");
  check_source(e, i, "C", i[0], i[1], 2, true);
}
void command_check_cxx_source_runs(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_cxx_source_runs(TEXT RESULT)");
  check_source(e, i, "C++", i[0], i[1], 2, true);
}
std::string language_word(Evaluator& e, const Invocation& i, const std::string& word) {
  if (word != "C" && word != "CXX") e.not_understood(i, "the language '" + word + "'");
  return word == "C" ? "C" : "C++";
}
void command_check_source_compiles(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "check_source_compiles(LANGUAGE TEXT RESULT)");
  check_source(e, i, language_word(e, i, i[0]), i[1], i[2], 3, false);
}
void command_check_source_runs(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "check_source_runs(LANGUAGE TEXT RESULT)");
  check_source(e, i, language_word(e, i, i[0]), i[1], i[2], 3, true);
}

// An option counts as known when it is taken without complaint.
void check_option(Evaluator& e, const Invocation&, const std::string& language, const std::string& option,
                  const std::string& variable, bool link) {
  if (answered(e, variable)) return;
  locate::Probe probe;
  probe.how = link ? locate::Probe::How::link : locate::Probe::How::compile;
  probe.language = language;
  probe.source = "int main(void) { return 0; }\n";
  auto options = list_elements(option, false);
  if (options.size() == 1) options = text::shell_words(options.front());
  // -Wno-something is always taken in silence: ask for the opposite.
  for (auto& word : options) {
    if (word.starts_with("-Wno-") && !word.starts_with("-Wno-error")) word = "-W" + word.substr(5);
  }
  (link ? probe.link_options : probe.compile_options) = options;
  probe.compile_options.emplace_back("-Werror");
  const auto answer = put(e, probe);
  const bool complaint = answer.output.find("unrecognized") != std::string::npos ||
                         answer.output.find("unknown") != std::string::npos ||
                         answer.output.find("not supported") != std::string::npos ||
                         answer.output.find("is valid for") != std::string::npos;
  e.set_cache(variable, answer.compiled && !complaint ? "1" : "", "INTERNAL", "", true, {});
  e.unset(variable);
  e.set(variable, answer.compiled && !complaint ? "1" : "");
}
void command_check_c_compiler_flag(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_c_compiler_flag(OPTION RESULT)");
  check_option(e, i, "C", i[0], i[1], false);
}
void command_check_cxx_compiler_flag(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_cxx_compiler_flag(OPTION RESULT)");
  check_option(e, i, "C++", i[0], i[1], false);
}
void command_check_compiler_flag(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "check_compiler_flag(LANGUAGE OPTION RESULT)");
  check_option(e, i, language_word(e, i, i[0]), i[1], i[2], false);
}
void command_check_linker_flag(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "check_linker_flag(LANGUAGE OPTION RESULT)");
  check_option(e, i, language_word(e, i, i[0]), i[1], i[2], true);
}

void command_check_language(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "check_language(LANGUAGE)");
  const auto& chain = e.locator.toolchain();
  if (i[0] == "ASM_NASM") {
    const auto finding =
        e.locator.program({model::WantKind::program, "nasm", {}, false, i.name, i.place, {}}, {"nasm", "yasm"}, {});
    e.set("CMAKE_ASM_NASM_COMPILER", finding.found ? finding.where : "NOTFOUND");
    e.keep(finding);
    return;
  }
  const std::string path = i[0] == "C"     ? chain.c.path
                           : i[0] == "CXX" ? chain.cxx.path
                           : i[0] == "ASM" ? chain.c.path
                                           : "";
  e.set("CMAKE_" + i[0] + "_COMPILER", path.empty() ? "NOTFOUND" : path);
}

// ---- sizes ---------------------------------------------------------------------------------------------------------

void command_check_type_size(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "check_type_size(TYPE RESULT)");
  const std::string& variable = i[1];
  if (answered(e, variable)) return;
  const auto words = keywords(i.texts(2), {"BUILTIN_TYPES_ONLY"}, {"LANGUAGE"}, {});
  locate::Probe probe;
  probe.language = words.get("LANGUAGE") == "CXX" ? "C++" : probe_language(e);
  std::string headers = "#include <sys/types.h>\n#include <stdint.h>\n#include <stddef.h>\n";
  for (const auto& header : list_elements(e.value("CMAKE_EXTRA_INCLUDE_FILES")))
    headers += "#include <" + header + ">\n";
  // The size is read from the object, so that it is right for machines whose programs do not run here.
  probe.source =
      headers +
      "extern const char coctilis_size[];\nconst char coctilis_size[] = { 'c', 'o', 'c', 't', 'S', 'I', 'Z', 'E',\n"
      "  (char)('0' + sizeof(" +
      i[0] + ") / 100 % 10), (char)('0' + sizeof(" + i[0] + ") / 10 % 10), (char)('0' + sizeof(" + i[0] +
      ") % 10), 0 };\n";
  const auto answer = put(e, probe);
  const auto at = answer.object.find("coctSIZE");
  std::string size;
  if (answer.compiled && at != std::string::npos)
    size = std::to_string(std::atoi(answer.object.substr(at + 8, 3).c_str()));
  e.set_cache("HAVE_" + variable, size.empty() ? "" : "TRUE", "INTERNAL", "", true, {});
  e.set("HAVE_" + variable, size.empty() ? "" : "TRUE");
  e.set_cache(variable, size, "INTERNAL", "", true, {});
  e.set(variable, size);
  e.set(variable + "_CODE", size.empty() ? "/* #undef " + variable + " */" : "#define " + variable + " " + size);
  model::Finding finding;
  finding.want = {model::WantKind::type, i[0], {}, false, i.name, i.place};
  finding.found = !size.empty();
  finding.how = "probe";
  if (!finding.found) finding.looked = {"asked the compiler"};
  e.keep(std::move(finding));
}

void command_check_struct_has_member(Evaluator& e, const Invocation& i) {
  e.need(i, 4, "check_struct_has_member(STRUCT MEMBER HEADERS RESULT)");
  if (answered(e, i[3])) return;
  const auto words = keywords(i.texts(4), {}, {"LANGUAGE"}, {});
  locate::Probe probe;
  probe.language = words.get("LANGUAGE") == "CXX" ? "C++" : probe_language(e);
  for (const auto& header : list_elements(i[2])) probe.source += "#include <" + header + ">\n";
  probe.source += "int main(void) { (void)sizeof(((" + i[0] + "*)0)->" + i[1] + "); return 0; }\n";
  keep_answer(e, i, i[3], put(e, probe).compiled, model::WantKind::type, i[0] + "." + i[1]);
}

void command_test_big_endian(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "test_big_endian(RESULT)");
  const auto& chain = e.locator.toolchain();
  const auto& macros = chain.c.present() ? chain.c.macros : chain.cxx.macros;
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
  const auto answer = e.locator.ask(probe);
  e.set(words.get("RESULT"), answer.compiled ? "YES" : "NO");
  if (words.has("OUTPUT")) e.set(words.get("OUTPUT"), answer.output);
}

void command_check_pie_supported(Evaluator&, const Invocation&) {}

// ---- try_compile, try_run ------------------------------------------------------------------------------------------

void try_source(Evaluator& e, const Invocation& i, bool run) {
  e.need(i, 3, i.name + "(RESULT FOLDER SOURCE)");
  const std::size_t first = run ? 2 : 1;
  const auto words = keywords(
      i.texts(first), {"NO_CACHE", "NO_LOG"},
      {"COPY_FILE", "OUTPUT_VARIABLE", "COMPILE_OUTPUT_VARIABLE", "RUN_OUTPUT_VARIABLE", "RUN_OUTPUT_STDOUT_VARIABLE",
       "LOG_DESCRIPTION", "C_STANDARD", "CXX_STANDARD", "C_STANDARD_REQUIRED", "CXX_STANDARD_REQUIRED", "C_EXTENSIONS",
       "CXX_EXTENSIONS", "WORKING_DIRECTORY", "COPY_FILE_ERROR", "PROJECT", "SOURCE_DIR"},
      {"SOURCES", "CMAKE_FLAGS", "COMPILE_DEFINITIONS", "LINK_OPTIONS", "LINK_LIBRARIES", "ARGS"});
  if (words.has("PROJECT")) e.not_understood(i, i.name + "(... PROJECT), which builds a whole tree");
  std::vector<std::string> sources = words.list("SOURCES");
  if (sources.empty() && words.rest.size() >= 2) sources = {words.rest[1]};
  if (sources.size() != 1 || files::is_folder(e.source_path(sources.front())))
    e.not_understood(i, i.name + " with " + std::to_string(sources.size()) + " sources or a whole folder");
  const std::string path = e.source_path(sources.front());
  const auto content = files::read(path);
  if (!content) e.fail(i, "the source '" + e.shown(path) + "' is not there", "check the path");
  locate::Probe probe;
  probe.how = run                                                            ? locate::Probe::How::run
              : e.value("CMAKE_TRY_COMPILE_TARGET_TYPE") == "STATIC_LIBRARY" ? locate::Probe::How::compile
                                                                             : locate::Probe::How::link;
  probe.language = path.ends_with(".c") ? "C" : "C++";
  probe.source = *content;
  probe.compile_options = text::shell_words(e.value(probe.language == "C" ? "CMAKE_C_FLAGS" : "CMAKE_CXX_FLAGS"));
  probe.compile_options.push_back("-I" + std::filesystem::path(path).parent_path().string());
  for (const auto& definition : words.list("COMPILE_DEFINITIONS")) {
    for (const auto& word : text::shell_words(definition))
      probe.compile_options.push_back(word.starts_with('-') ? word : "-D" + word);
  }
  const std::string standard = words.get(probe.language == "C" ? "C_STANDARD" : "CXX_STANDARD");
  if (!standard.empty())
    probe.compile_options.push_back(probe.language == "C" ? "-std=gnu" + standard : "-std=gnu++" + standard);
  for (const auto& flag : words.list("CMAKE_FLAGS")) {
    if (flag.starts_with("-DINCLUDE_DIRECTORIES")) {
      for (const auto& folder : list_elements(flag.substr(flag.find('=') + 1)))
        probe.compile_options.push_back("-I" + folder);
    } else if (flag.starts_with("-DLINK_LIBRARIES")) {
      for (const auto& library : list_elements(flag.substr(flag.find('=') + 1)))
        probe.link_options.push_back(library.starts_with('-') || library.starts_with('/') ? library : "-l" + library);
    } else if (flag.starts_with("-DCOMPILE_DEFINITIONS")) {
      for (const auto& word : text::shell_words(text::replace_all(flag.substr(flag.find('=') + 1), ";", " ")))
        probe.compile_options.push_back(word);
    }
  }
  for (const auto& option : words.list("LINK_OPTIONS")) probe.link_options.push_back(option);
  for (const auto& library : words.list("LINK_LIBRARIES")) {
    if (e.target(library) == nullptr)
      probe.link_options.push_back(library.starts_with('-') || library.starts_with('/') ? library : "-l" + library);
  }
  const auto answer = e.locator.ask(probe);
  const std::string& compiled = run ? i[1] : i[0];
  e.set_cache(compiled, answer.compiled ? "TRUE" : "FALSE", "INTERNAL", "", true, {});
  e.set(compiled, answer.compiled ? "TRUE" : "FALSE");
  if (words.has("OUTPUT_VARIABLE")) e.set(words.get("OUTPUT_VARIABLE"), answer.output + answer.run_output);
  if (words.has("COMPILE_OUTPUT_VARIABLE")) e.set(words.get("COMPILE_OUTPUT_VARIABLE"), answer.output);
  if (!run) return;
  const std::string result = answer.ran ? std::to_string(answer.exit) : "FAILED_TO_RUN";
  e.set_cache(i[0], result, "INTERNAL", "", true, {});
  e.set(i[0], result);
  for (const char* name : {"RUN_OUTPUT_VARIABLE", "RUN_OUTPUT_STDOUT_VARIABLE"}) {
    if (words.has(name)) e.set(words.get(name), answer.run_output);
  }
}
void command_try_compile(Evaluator& e, const Invocation& i) { try_source(e, i, false); }
void command_try_run(Evaluator& e, const Invocation& i) { try_source(e, i, true); }

}  // namespace

void add_probe_commands(CommandTable& table) {
  table["check_include_file"] = command_check_include_file;
  table["check_include_file_cxx"] = command_check_include_file_cxx;
  table["check_include_files"] = command_check_include_files;
  table["check_function_exists"] = command_check_function_exists;
  table["check_symbol_exists"] = command_check_symbol_exists;
  table["check_cxx_symbol_exists"] = command_check_cxx_symbol_exists;
  table["check_library_exists"] = command_check_library_exists;
  table["check_c_source_compiles"] = command_check_c_source_compiles;
  table["check_cxx_source_compiles"] = command_check_cxx_source_compiles;
  table["check_c_source_runs"] = command_check_c_source_runs;
  table["check_cxx_source_runs"] = command_check_cxx_source_runs;
  table["check_source_compiles"] = command_check_source_compiles;
  table["check_source_runs"] = command_check_source_runs;
  table["check_c_compiler_flag"] = command_check_c_compiler_flag;
  table["check_cxx_compiler_flag"] = command_check_cxx_compiler_flag;
  table["check_compiler_flag"] = command_check_compiler_flag;
  table["check_variable_exists"] = command_check_variable_exists;
  table["check_prototype_definition"] = command_check_prototype;
  table["check_linker_flag"] = command_check_linker_flag;
  table["check_language"] = command_check_language;
  table["check_type_size"] = command_check_type_size;
  table["check_struct_has_member"] = command_check_struct_has_member;
  table["test_big_endian"] = command_test_big_endian;
  table["check_ipo_supported"] = command_check_ipo_supported;
  table["check_pie_supported"] = command_check_pie_supported;
  table["try_compile"] = command_try_compile;
  table["try_run"] = command_try_run;
}

}  // namespace coctilis::describe::listfile
