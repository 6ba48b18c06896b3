// Modules that include(NAME) knows without a file in the tree, and the commands they bring.
#include <thread>

#include "base/elf.h"
#include "base/files.h"
#include "base/lists.h"
#include "base/loader.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"

namespace coctilis::describe::listfile {

namespace {

void module_nothing(Evaluator&, const Invocation&) {}

// The folders of the GNU coding standards, "Directory Variables".
void module_install_folders(Evaluator& e, const Invocation&) {
  const std::string machine = e.locator.toolchain().machine;
  const bool multiarch = e.value("CMAKE_INSTALL_PREFIX") == "/usr" && files::is_folder("/usr/lib/" + machine);
  const std::string prefix = e.value("CMAKE_INSTALL_PREFIX");
  const std::vector<std::pair<std::string, std::string>> folders = {
      {"BINDIR", "bin"},
      {"SBINDIR", "sbin"},
      {"LIBEXECDIR", "libexec"},
      {"SYSCONFDIR", prefix == "/usr" ? "/etc" : "etc"},
      {"SHAREDSTATEDIR", "com"},
      {"LOCALSTATEDIR", prefix == "/usr" ? "/var" : "var"},
      {"LIBDIR", multiarch ? "lib/" + machine : "lib"},
      {"INCLUDEDIR", "include"},
      {"OLDINCLUDEDIR", "/usr/include"},
      {"DATAROOTDIR", "share"}};
  const auto put = [&](const std::string& name, const std::string& text) {
    const std::string variable = "CMAKE_INSTALL_" + name;
    e.set_cache(variable, text, "PATH", "", false, {});
    if (e.value(variable).empty()) e.set(variable, text);
    const std::string value = e.value(variable);
    e.set("CMAKE_INSTALL_FULL_" + name, value.starts_with('/') ? value : files::absolute(value, prefix));
  };
  for (const auto& [name, text] : folders) put(name, text);
  const std::string data = e.value("CMAKE_INSTALL_DATAROOTDIR");
  put("RUNSTATEDIR", e.value("CMAKE_INSTALL_LOCALSTATEDIR") + "/run");
  put("DATADIR", data);
  put("INFODIR", data + "/info");
  put("LOCALEDIR", data + "/locale");
  put("MANDIR", data + "/man");
  put("DOCDIR", data + "/doc/" + e.value("PROJECT_NAME"));
}

void module_testing(Evaluator& e, const Invocation& i) {
  e.set_cache("BUILD_TESTING", "ON", "BOOL", "make and run the tests", false, i.place);
}

// generate_export_header(): a header that says what a shared library shows to the outside.
void command_generate_export_header(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "generate_export_header(TARGET)");
  const auto& target = e.need_target(i[0], i);
  const auto words = keywords(i.texts(1), {"DEFINE_NO_DEPRECATED"},
                              {"BASE_NAME", "EXPORT_MACRO_NAME", "EXPORT_FILE_NAME", "DEPRECATED_MACRO_NAME",
                               "NO_EXPORT_MACRO_NAME", "STATIC_DEFINE", "NO_DEPRECATED_MACRO_NAME", "PREFIX_NAME",
                               "INCLUDE_GUARD_NAME", "CUSTOM_CONTENT_FROM_VARIABLE"},
                              {});
  const auto identifier = [](const std::string& name) {
    std::string out;
    for (const char c : name) out += std::isalnum(static_cast<unsigned char>(c)) != 0 ? c : '_';
    return out;
  };
  const std::string base = words.has("BASE_NAME") ? words.get("BASE_NAME") : i[0];
  const std::string upper = words.get("PREFIX_NAME") + text::upper(identifier(base));
  const auto name = [&](const char* key, const std::string& initial) {
    return words.has(key) ? words.get(key) : initial;
  };
  const std::string export_macro = name("EXPORT_MACRO_NAME", upper + "_EXPORT");
  const std::string hidden = name("NO_EXPORT_MACRO_NAME", upper + "_NO_EXPORT");
  const std::string deprecated = name("DEPRECATED_MACRO_NAME", upper + "_DEPRECATED");
  const std::string static_define = name("STATIC_DEFINE", upper + "_STATIC_DEFINE");
  const std::string guard = name("INCLUDE_GUARD_NAME", export_macro + "_H");
  const std::string path =
      e.writable(e.binary_path(name("EXPORT_FILE_NAME", text::lower(base) + "_export.h")), i.place);
  std::string out = "#ifndef " + guard + "\n#define " + guard + "\n\n#ifdef " + static_define + "\n#  define " +
                    export_macro + "\n#  define " + hidden + "\n#else\n";
  const bool shared =
      target.kind == model::TargetKind::shared_library || target.kind == model::TargetKind::module_library;
  out += "#  ifndef " + export_macro + "\n#    define " + export_macro +
         (shared ? " __attribute__((visibility(\"default\")))" : "") + "\n#  endif\n";
  out += "#  ifndef " + hidden + "\n#    define " + hidden +
         (shared ? " __attribute__((visibility(\"hidden\")))" : "") + "\n#  endif\n#endif\n\n";
  out += "#ifndef " + deprecated + "\n#  define " + deprecated + " __attribute__((__deprecated__))\n#endif\n";
  out += "#ifndef " + deprecated + "_EXPORT\n#  define " + deprecated + "_EXPORT " + export_macro + " " + deprecated +
         "\n#endif\n";
  out += "#ifndef " + deprecated + "_NO_EXPORT\n#  define " + deprecated + "_NO_EXPORT " + hidden + " " + deprecated +
         "\n#endif\n";
  if (words.has("DEFINE_NO_DEPRECATED"))
    out += "#define " + name("NO_DEPRECATED_MACRO_NAME", upper + "_NO_DEPRECATED") + "\n";
  if (words.has("CUSTOM_CONTENT_FROM_VARIABLE")) out += e.value(words.get("CUSTOM_CONTENT_FROM_VARIABLE")) + "\n";
  out += "\n#endif\n";
  files::write_if_different(path, out);
}

// Who includes the search for a compiler by name gets what enabling its language gives.
void module_c_compiler(Evaluator& e, const Invocation& i) { e.enable_language("C", i); }
void module_cpp_compiler(Evaluator& e, const Invocation& i) { e.enable_language("CXX", i); }
void module_fortran_compiler(Evaluator& e, const Invocation& i) { e.enable_language("Fortran", i); }

// add_compiler_export_flags([RESULT]): the older way to hide what is not exported, for C++; into a variable, or into
// the options of the language.
void command_export_flags(Evaluator& e, const Invocation& i) {
  e.set_cache("USE_COMPILER_HIDDEN_VISIBILITY", "ON", "BOOL", "hide what is not exported", false, i.place);
  const std::string flags =
      e.on("USE_COMPILER_HIDDEN_VISIBILITY") ? "-fvisibility=hidden -fvisibility-inlines-hidden" : "";
  if (i.size() > 0)
    e.set(i[0], flags);
  else if (!flags.empty())
    e.set("CMAKE_CXX_FLAGS", e.value("CMAKE_CXX_FLAGS") + " " + flags);
}

// Files by which other trees find an installed package. What they hold is ours to choose; they speak the language.
void command_configure_package_config_file(Evaluator& e, const Invocation& i) {
  e.need(i, 2, "configure_package_config_file(INPUT OUTPUT INSTALL_DESTINATION folder)");
  const auto words = keywords(i.texts(2), {"NO_SET_AND_CHECK_MACRO", "NO_CHECK_REQUIRED_COMPONENTS_MACRO"},
                              {"INSTALL_DESTINATION", "INSTALL_PREFIX"}, {"PATH_VARS"});
  const std::string output = e.writable(e.binary_path(i[1]), i.place);
  const auto content = files::read(e.source_path(i[0]));
  if (!content) e.fail(i, "the file '" + i[0] + "' to configure is not there", "check the path");
  e.read_files.insert(e.source_path(i[0]));
  const std::string prefix = e.value("CMAKE_INSTALL_PREFIX");
  const std::string up = files::relative(prefix, files::absolute(words.get("INSTALL_DESTINATION"), prefix));
  std::string start = "get_filename_component(PACKAGE_PREFIX_DIR \"${CMAKE_CURRENT_LIST_DIR}/" + up + "\" ABSOLUTE)\n";
  if (!words.has("NO_SET_AND_CHECK_MACRO"))
    start +=
        "macro(set_and_check _name _file)\n  set(${_name} \"${_file}\")\n  if(NOT EXISTS \"${_file}\")\n    "
        "message(FATAL_ERROR \"${_file} is not there\")\n  endif()\nendmacro()\n";
  if (!words.has("NO_CHECK_REQUIRED_COMPONENTS_MACRO")) {
    start +=
        "macro(check_required_components _name)\n  foreach(_part ${${_name}_FIND_COMPONENTS})\n    if(NOT "
        "${_name}_${_part}_FOUND AND ${_name}_FIND_REQUIRED_${_part})\n      set(${_name}_FOUND FALSE)\n    endif()\n  "
        "endforeach()\nendmacro()\n";
  }
  auto scope = e.push_scope();
  e.set("PACKAGE_INIT", start);
  for (const auto& name : words.list("PATH_VARS")) {
    const std::string value = e.value(name);
    e.set("PACKAGE_" + name, value.starts_with('/') ? value : "${PACKAGE_PREFIX_DIR}/" + value);
  }
  const std::string text = configure_text(e, *content, true, false, i.place);
  e.pop_scope(std::move(scope));
  files::write_if_different(output, text);
}

void command_write_version_file(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "write_basic_package_version_file(FILE COMPATIBILITY kind)");
  const auto words = keywords(i.texts(1), {"ARCH_INDEPENDENT"}, {"VERSION", "COMPATIBILITY"}, {});
  const std::string path = e.writable(e.binary_path(i[0]), i.place);
  const std::string version = words.has("VERSION") ? words.get("VERSION") : e.value("PROJECT_VERSION");
  const std::string kind = words.get("COMPATIBILITY");
  const auto parts = text::split(version, '.');
  std::string out = "set(PACKAGE_VERSION \"" + version + "\")\nset(PACKAGE_VERSION_COMPATIBLE FALSE)\n";
  std::string condition = "NOT PACKAGE_FIND_VERSION VERSION_GREATER PACKAGE_VERSION";
  if (kind == "SameMajorVersion" || kind == "SameMinorVersion")
    condition += " AND PACKAGE_FIND_VERSION_MAJOR STREQUAL \"" + parts[0] + "\"";
  if (kind == "SameMinorVersion" && parts.size() > 1)
    condition += " AND PACKAGE_FIND_VERSION_MINOR STREQUAL \"" + parts[1] + "\"";
  if (kind == "ExactVersion") condition = "PACKAGE_FIND_VERSION VERSION_EQUAL PACKAGE_VERSION";
  out += "if(" + condition + ")\n  set(PACKAGE_VERSION_COMPATIBLE TRUE)\nendif()\n";
  out += "if(PACKAGE_FIND_VERSION VERSION_EQUAL PACKAGE_VERSION)\n  set(PACKAGE_VERSION_EXACT TRUE)\nendif()\n";
  files::write_if_different(path, out);
}

void command_dependent_option(Evaluator& e, const Invocation& i) {
  e.need(i, 5, "cmake_dependent_option(NAME \"help\" value conditions otherwise)");
  bool available = true;
  for (const auto& condition : list_elements(i[3])) {
    std::vector<Word> words;
    for (const auto& word : text::words(text::replace_all(text::replace_all(condition, "(", " ( "), ")", " ) ")))
      words.push_back({word, false});
    available = available && e.condition(words, i.place);
  }
  if (available) {
    e.set_cache(i[0], is_true(i[2]) || e.on(i[2]) ? "ON" : "OFF", "BOOL", i[1], false, i.place);
    e.set(i[0], e.cache[i[0]].value);
  } else {
    e.set(i[0], i[4]);
  }
}

const std::vector<const char*>& required_variables() {
  static const std::vector<const char*> names = {"CMAKE_REQUIRED_FLAGS",     "CMAKE_REQUIRED_DEFINITIONS",
                                                 "CMAKE_REQUIRED_INCLUDES",  "CMAKE_REQUIRED_LINK_OPTIONS",
                                                 "CMAKE_REQUIRED_LIBRARIES", "CMAKE_REQUIRED_QUIET",
                                                 "CMAKE_EXTRA_INCLUDE_FILES"};
  return names;
}
void command_push_check_state(Evaluator& e, const Invocation& i) {
  const std::string depth = std::to_string(std::atoi(e.value("__check_state_depth").c_str()) + 1);
  e.set("__check_state_depth", depth);
  for (const char* name : required_variables()) {
    e.set(std::string("__check_state_") + depth + name, e.value(name));
    if (i.size() > 0 && i[0] == "RESET") e.set(name, "");
  }
}
void command_reset_check_state(Evaluator& e, const Invocation&) {
  for (const char* name : required_variables()) e.set(name, "");
}
void command_pop_check_state(Evaluator& e, const Invocation&) {
  const int depth = std::atoi(e.value("__check_state_depth").c_str());
  if (depth <= 0) return;
  for (const char* name : required_variables()) e.set(name, e.value("__check_state_" + std::to_string(depth) + name));
  e.set("__check_state_depth", std::to_string(depth - 1));
}

void command_print_variables(Evaluator& e, const Invocation& i) {
  std::string line;
  for (const auto& name : i.texts()) line += (line.empty() ? "" : "; ") + name + "=\"" + e.value(name) + "\"";
  e.project.messages.push_back(text::printable(line));
}

void command_feature_summary(Evaluator&, const Invocation&) {}

void command_processor_count(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "ProcessorCount(RESULT)");
  e.set(i[0], std::to_string(std::max(1U, std::thread::hardware_concurrency())));
}

// The cases inside a test program come to light only when it runs: the program is one test.
void command_discover_tests(Evaluator& e, const Invocation& i) {
  e.need(i, 1, i.name + "(TARGET)");
  const auto words = keywords(i.texts(), {"NO_PRETTY_TYPES", "NO_PRETTY_VALUES", "SKIP_DEPENDENCY"},
                              {"WORKING_DIRECTORY", "TEST_PREFIX", "TEST_SUFFIX", "TEST_LIST", "DISCOVERY_TIMEOUT",
                               "XML_OUTPUT_DIR", "DISCOVERY_MODE", "TARGET", "TEST_FILTER", "REPORTER", "OUTPUT_DIR"},
                              {"EXTRA_ARGS", "PROPERTIES", "SOURCES", "TEST_SPEC"});
  const std::string target = words.has("TARGET") ? words.get("TARGET") : words.rest.empty() ? i[0] : words.rest.front();
  const std::string name = words.get("TEST_PREFIX") + target + words.get("TEST_SUFFIX");
  Invocation add{"add_test", {}, i.place};
  for (const auto& word : {std::string("NAME"), name, std::string("COMMAND"), target})
    add.words.push_back({word, false});
  for (const auto& word : words.list("EXTRA_ARGS")) add.words.push_back({word, false});
  if (words.has("WORKING_DIRECTORY")) {
    add.words.push_back({"WORKING_DIRECTORY", false});
    add.words.push_back({words.get("WORKING_DIRECTORY"), false});
  }
  e.call(add);
  if (words.has("TEST_LIST")) e.set(words.get("TEST_LIST"), name);
  if (!words.list("PROPERTIES").empty()) {
    Invocation properties{"set_tests_properties", {{name, false}, {"PROPERTIES", false}}, i.place};
    for (const auto& word : words.list("PROPERTIES")) properties.words.push_back({word, false});
    e.call(properties);
  }
}

// Documentation is not built: the target is there for those that name it, and does nothing.
void command_documentation(Evaluator& e, const Invocation& i) {
  e.need(i, 1, i.name + "(TARGET ...)");
  Invocation target{"add_custom_target", {{i[0], true}}, i.place};
  e.call(target);
  e.project.left_out.push_back({"documentation", i[0], i.place});
}

// Of a library's files for releases and for debugging, the one for releases counts where both are there.
void command_select_library(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "select_library_configurations(NAME)");
  const std::string release = e.value(i[0] + "_LIBRARY_RELEASE");
  const std::string debug = e.value(i[0] + "_LIBRARY_DEBUG");
  const auto there = [](const std::string& text) { return !text.empty() && !text.ends_with("-NOTFOUND"); };
  const std::string chosen = there(release) ? release : there(debug) ? debug : i[0] + "_LIBRARY-NOTFOUND";
  e.set(i[0] + "_LIBRARY", chosen);
  e.set(i[0] + "_LIBRARIES", chosen);
  e.set(i[0] + "_FOUND", there(chosen) ? "TRUE" : "FALSE");
}

void command_file_dependencies(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "add_file_dependencies(SOURCE files...)");
  auto& depends = e.project.sources[e.source_path(i[0])].properties["OBJECT_DEPENDS"];
  for (const auto& word : i.texts(1)) depends.push_back(e.word(e.source_path(word), i));
}

// get_prerequisites(FILE RESULT exclude_system recurse PROGRAM folders [run paths]): the shared libraries that a
// program or library needs, where they lie. Those of the system are such in its own library folders.
void command_get_prerequisites(Evaluator& e, const Invocation& i) {
  e.need(i, 6, "get_prerequisites(FILE RESULT exclude_system recurse PROGRAM folders)");
  const std::string file = e.source_path(i[0]);
  std::vector<std::string> folders = {std::filesystem::path(file).parent_path().string()};
  for (std::size_t k = 5; k < i.size(); ++k) {
    for (const auto& folder : list_elements(i[k], false)) folders.push_back(folder);
  }
  const auto facts = read_elf(file);
  const auto loaded = resolve_libraries(file, {}, folders);
  std::vector<std::string> out;
  const auto add = [&](const std::string& name, const std::string& path) {
    const bool direct = facts && std::find(facts->needed.begin(), facts->needed.end(), name) != facts->needed.end();
    const bool of_system = path.starts_with("/lib") || path.starts_with("/usr/lib");
    if ((direct || is_true(i[3])) && !(of_system && is_true(i[2]))) out.push_back(path);
  };
  for (const auto& [name, path] : loaded.found) add(name, path);
  for (const auto& [name, needed_by] : loaded.missing) add(name, name);
  e.set(i[1], list_join(out));
}

}  // namespace

Module built_in_module(const std::string& name) {
  static const std::map<std::string, Module> table = {
      {"GNUInstallDirs", module_install_folders},
      {"CTest", module_testing},
      {"CPack", module_nothing},  // makes packages, after all that is done here
      {"CMakeDetermineCompileFeatures", module_nothing},
      {"CMakeDetermineCCompiler", module_c_compiler},
      {"CMakeDetermineCXXCompiler", module_cpp_compiler},
      {"CMakeDetermineFortranCompiler", module_fortran_compiler},
      {"CheckIncludeFile", module_nothing},
      {"CheckIncludeFiles", module_nothing},
      {"CheckIncludeFileCXX", module_nothing},
      {"CheckFunctionExists", module_nothing},
      {"CheckSymbolExists", module_nothing},
      {"CheckCXXSymbolExists", module_nothing},
      {"CheckLibraryExists", module_nothing},
      {"CheckTypeSize", module_nothing},
      {"CheckStructHasMember", module_nothing},
      {"CheckCSourceCompiles", module_nothing},
      {"CheckCXXSourceCompiles", module_nothing},
      {"CheckCSourceRuns", module_nothing},
      {"CheckCXXSourceRuns", module_nothing},
      {"CheckSourceCompiles", module_nothing},
      {"CheckSourceRuns", module_nothing},
      {"CheckCCompilerFlag", module_nothing},
      {"CheckCXXCompilerFlag", module_nothing},
      {"CheckCompilerFlag", module_nothing},
      {"CheckFortranCompilerFlag", module_nothing},
      {"FortranCInterface", module_nothing},
      {"CheckFortranFunctionExists", module_nothing},
      {"CheckFortranSourceCompiles", module_nothing},
      {"CheckFortranSourceRuns", module_nothing},
      {"TestCXXAcceptsFlag", module_nothing},
      {"CheckLinkerFlag", module_nothing},
      {"CheckLanguage", module_nothing},
      {"CMakeCheckCompilerFlagCommonPatterns", module_nothing},
      {"CheckVariableExists", module_nothing},
      {"CheckPrototypeDefinition", module_nothing},
      {"CMakePrintSystemInformation", module_nothing},
      {"GoogleTest", module_nothing},
      {"CPackComponent", module_nothing},
      {"CTestUseLaunchers", module_nothing},
      {"Dart", module_testing},
      {"FindThreads", module_nothing},
      {"CMakeForceCompiler", module_nothing},
      {"CheckIPOSupported", module_nothing},
      {"CheckPIESupported", module_nothing},
      {"TestBigEndian", module_nothing},
      {"CMakePackageConfigHelpers", module_nothing},
      {"WriteBasicConfigVersionFile", module_nothing},
      {"CMakeDependentOption", module_nothing},
      {"CMakeParseArguments", module_nothing},
      {"CMakePushCheckState", module_nothing},
      {"CMakePrintHelpers", module_nothing},
      {"CMakeFindDependencyMacro", module_nothing},
      {"FindPackageHandleStandardArgs", module_nothing},
      {"FindPackageMessage", module_nothing},
      {"FindPkgConfig", module_nothing},
      {"FeatureSummary", module_nothing},
      {"GenerateExportHeader", module_nothing},
      {"ExternalProject", module_nothing},  // its commands fail when they are called
      {"FetchContent", module_nothing},
      {"ProcessorCount", module_nothing},
      {"InstallRequiredSystemLibraries", module_nothing},
  };
  // Those that only bring commands: what is not understood is told when it is called.
  static const std::set<std::string> only_commands = {"AddFileDependencies",
                                                      "BundleUtilities",
                                                      "CMakeAddFortranSubdirectory",
                                                      "CMakeDetermineVSServicePack",
                                                      "CMakeExpandImportedTargets",
                                                      "CMakeGraphVizOptions",
                                                      "CPackIFW",
                                                      "CPackIFWConfigureFile",
                                                      "CTestCoverageCollectGCOV",
                                                      "CheckOBJCCompilerFlag",
                                                      "CheckOBJCSourceCompiles",
                                                      "DeployQt4",
                                                      "ExternalData",
                                                      "GetPrerequisites",
                                                      "MacroAddFileDependencies",
                                                      "SelectLibraryConfigurations",
                                                      "TestCXXAcceptsFlag",
                                                      "TestForANSIForScope",
                                                      "TestForANSIStreamHeaders",
                                                      "TestForSSTREAM",
                                                      "TestForSTDNamespace",
                                                      "UseJava",
                                                      "UseJavaClasses",
                                                      "UseJavaSymlinks",
                                                      "UsePkgConfig",
                                                      "UseSWIG",
                                                      "CMakeBackwardCompatibilityC",
                                                      "CMakeBackwardCompatibilityCXX",
                                                      "CMakeFindFrameworks",
                                                      "CPackDeb",
                                                      "CPackRPM",
                                                      "CSharpUtilities",
                                                      "Documentation"};
  const auto it = table.find(name);
  if (it != table.end()) return it->second;
  return only_commands.contains(name) ? module_nothing : nullptr;
}

void add_module_commands(CommandTable& table) {
  table["generate_export_header"] = command_generate_export_header;
  table["add_compiler_export_flags"] = command_export_flags;
  table["configure_package_config_file"] = command_configure_package_config_file;
  table["write_basic_package_version_file"] = command_write_version_file;
  table["write_basic_config_version_file"] = command_write_version_file;
  table["cmake_dependent_option"] = command_dependent_option;
  table["cmake_push_check_state"] = command_push_check_state;
  table["cmake_reset_check_state"] = command_reset_check_state;
  table["cmake_pop_check_state"] = command_pop_check_state;
  table["cmake_print_variables"] = command_print_variables;
  // Say something to other tools, to packaging, or about looks: nothing of the build hangs on them.
  for (const char* name :
       {"cpack_add_component", "cpack_add_component_group", "cpack_add_install_type", "cpack_configure_downloads",
        "cpack_ifw_configure_component", "include_regular_expression", "cmake_print_properties",
        "ctest_read_custom_files", "include_external_msproject", "variable_watch", "cmake_file_api",
        "output_required_files", "cmake_determine_compile_features"})
    table[name] = command_feature_summary;
  table["check_compiler_flag_common_patterns"] = [](Evaluator& e, const Invocation& i) {
    // Options that are not known make these compilers fail: no pattern is needed to tell.
    if (i.size() > 0) e.set(i[0], "");
  };
  table["doxygen_add_docs"] = command_documentation;
  table["processorcount"] = command_processor_count;
  table["feature_summary"] = command_feature_summary;
  table["add_feature_info"] = command_feature_summary;
  table["set_package_properties"] = command_feature_summary;
  table["find_package_message"] = command_feature_summary;
  for (const char* name : {"gtest_discover_tests", "gtest_add_tests", "catch_discover_tests", "doctest_discover_tests"})
    table[name] = command_discover_tests;
  table["select_library_configurations"] = command_select_library;
  table["add_file_dependencies"] = command_file_dependencies;
  table["get_prerequisites"] = command_get_prerequisites;
}

const CommandTable& command_table() {
  static const CommandTable table = [] {
    CommandTable t;
    for (const auto add :
         {add_variable_commands,  add_list_commands,    add_string_commands,      add_file_commands,
          add_flow_commands,      add_target_commands,  add_requirement_commands, add_property_commands,
          add_find_commands,      add_package_commands, add_pc_module_commands,   add_probe_commands,
          add_trial_commands,     add_install_commands, add_process_commands,     add_module_commands,
          add_content_commands,   add_swig_commands,    add_gettext_commands,     add_external_commands,
          add_generator_commands, add_older_commands,   add_fortran_commands}) {
      add(t);
    }
    return t;
  }();
  return table;
}

}  // namespace coctilis::describe::listfile
