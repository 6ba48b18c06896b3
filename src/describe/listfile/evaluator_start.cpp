// What a description finds set when it starts, and what switching a language on adds.
#include <sys/utsname.h>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "describe/listfile/tool.h"
#include "locate/toolchain.h"

namespace coctilis::describe::listfile {

std::vector<std::string> Evaluator::enabled_languages() const {
  std::vector<std::string> out;
  if (const auto it = global_properties.find("ENABLED_LANGUAGES"); it != global_properties.end()) {
    for (const auto& value : it->second) out.push_back(value.text);
  }
  return out;
}

void Evaluator::enable_language(const std::string& language, const Invocation& i) {
  const auto known = enabled_languages();
  if (language == "NONE" || std::find(known.begin(), known.end(), language) != known.end()) return;
  if (language == "ASM_NASM") return enable_assembler(i);
  const std::string name = language_named(language);
  if (name.empty()) not_understood(i, "the language '" + language + "'");
  const std::string compiled_as = name == assembler ? "C" : name;
  const auto& chain = locator.toolchain();
  if (!chain.compiler(compiled_as).present()) {
    model::Finding finding;
    finding.requirement = {
        model::RequirementKind::toolchain, compiled_as + " compiler", {}, true, "'" + i.name + "'", i.place};
    finding.looked = text::split(environment_value("PATH"), ':');
    finding.package = locate::package_of_compiler(chain, compiled_as);
    keep(std::move(finding));
  }
  global_properties["ENABLED_LANGUAGES"].push_back(word(language, i));
  if (name != assembler) project.languages.push_back(name);
  set_compiler_variables(language);
}

// The assembler with a language of its own.
void Evaluator::enable_assembler(const Invocation& i) {
  model::Requirement want{model::RequirementKind::program, "nasm", {}, true, "'" + i.name + "'", i.place, {}};
  const std::string named = value("CMAKE_ASM_NASM_COMPILER");
  auto finding = locator.program(
      want,
      named.empty() || named == "NOTFOUND" ? std::vector<std::string>{"nasm", "yasm"} : std::vector<std::string>{named},
      {});
  const bool wide = locator.toolchain().machine.starts_with("x86_64");
  auto& variables = root_.variables;
  variables["CMAKE_ASM_NASM_COMPILER"] = finding.where;
  variables["CMAKE_ASM_NASM_COMPILER_LOADED"] = "1";
  variables["CMAKE_ASM_NASM_COMPILER_ID"] = finding.where.ends_with("yasm") ? "YASM" : "NASM";
  if (value("CMAKE_ASM_NASM_OBJECT_FORMAT").empty()) variables["CMAKE_ASM_NASM_OBJECT_FORMAT"] = wide ? "elf64" : "elf";
  for (const char* name : {"CMAKE_ASM_NASM_FLAGS", "CMAKE_ASM_NASM_FLAGS_RELEASE", "CMAKE_ASM_NASM_FLAGS_DEBUG"})
    set_cache(name, "", "STRING", "options of the assembler", false, {});
  global_properties["ENABLED_LANGUAGES"].push_back(word("ASM_NASM", i));
  if (finding.found)
    project.other_compilers[plain_assembler] = {finding.where, "-f", value("CMAKE_ASM_NASM_OBJECT_FORMAT")};
  keep(std::move(finding));
}

void Evaluator::set_compiler_variables(const std::string& language) {
  const auto& chain = locator.toolchain();
  const std::string named = language_named(language);
  const auto& compiler = chain.compiler(named == assembler ? "C" : named);
  const std::string prefix = "CMAKE_" + language + "_";
  auto& variables = root_.variables;
  const auto put = [&](const std::string& name, const std::string& text) { variables[name] = text; };
  put(prefix + "COMPILER", compiler.path);
  put(prefix + "COMPILER_ID", chain.family == "clang" ? "Clang" : "GNU");
  put(prefix + "COMPILER_VERSION", chain.version);
  put(prefix + "COMPILER_LOADED", "1");
  put(prefix + "COMPILER_WORKS", "TRUE");
  put(prefix + "COMPILER_TARGET", "");
  put(prefix + "COMPILER_FRONTEND_VARIANT", "GNU");
  put(prefix + "PLATFORM_ID", "Linux");
  put(prefix + "SIZEOF_DATA_PTR",
      compiler.macros.contains("__SIZEOF_POINTER__") ? compiler.macros.at("__SIZEOF_POINTER__") : "8");
  put(prefix + "BYTE_ORDER",
      compiler.macros.contains("__BYTE_ORDER__") && compiler.macros.at("__BYTE_ORDER__") == "__ORDER_BIG_ENDIAN__"
          ? "BIG_ENDIAN"
          : "LITTLE_ENDIAN");
  put(prefix + "COMPILER_ABI", "ELF");
  put(prefix + "COMPILER_AR", chain.archiver);
  put(prefix + "COMPILER_RANLIB", chain.archive_indexer);
  put(prefix + "LIBRARY_ARCHITECTURE", chain.machine);
  put(prefix + "IMPLICIT_INCLUDE_DIRECTORIES", list_join(compiler.include_folders));
  put(prefix + "IMPLICIT_LINK_DIRECTORIES", list_join(compiler.link_folders));
  put(prefix + "OUTPUT_EXTENSION", ".o");
  put(prefix + "SOURCE_FILE_EXTENSIONS", language == "CXX" ? "C;M;c++;cc;cpp;cxx;mm;mpp;CPP;ixx;cppm" : "c;m");
  put("CMAKE_COMPILER_IS_GNU" + std::string(language == "C" ? "CC" : language), chain.family == "gcc" ? "1" : "");
  put("CMAKE_SIZEOF_VOID_P", variables[prefix + "SIZEOF_DATA_PTR"].value_or("8"));
  put("CMAKE_LIBRARY_ARCHITECTURE", chain.machine);
  if (language == "C") {
    put("CMAKE_C_STANDARD_DEFAULT", "17");
    put("CMAKE_C_COMPILE_FEATURES",
        "c_std_90;c_std_99;c_std_11;c_std_17;c_std_23;c_function_prototypes;c_restrict;c_static_assert;c_variadic_"
        "macros");
  } else if (language == "CXX") {
    put("CMAKE_CXX_STANDARD_DEFAULT", "17");
    put("CMAKE_CXX_COMPILE_FEATURES",
        "cxx_std_98;cxx_std_11;cxx_std_14;cxx_std_17;cxx_std_20;cxx_std_23;cxx_template_template_parameters;cxx_alias_"
        "templates;cxx_alignas;cxx_alignof;"
        "cxx_attributes;cxx_auto_type;cxx_constexpr;cxx_decltype;cxx_default_function_template_args;cxx_defaulted_"
        "functions;cxx_defaulted_move_initializers;"
        "cxx_delegating_constructors;cxx_deleted_functions;cxx_enum_forward_declarations;cxx_explicit_conversions;cxx_"
        "extended_friend_declarations;"
        "cxx_extern_templates;cxx_final;cxx_func_identifier;cxx_generalized_initializers;cxx_inheriting_constructors;"
        "cxx_inline_namespaces;cxx_lambdas;"
        "cxx_local_type_template_args;cxx_long_long_type;cxx_noexcept;cxx_nonstatic_member_init;cxx_nullptr;cxx_"
        "override;cxx_range_for;cxx_raw_string_literals;"
        "cxx_reference_qualified_functions;cxx_right_angle_brackets;cxx_rvalue_references;cxx_sizeof_member;cxx_static_"
        "assert;cxx_strong_enums;cxx_thread_local;"
        "cxx_trailing_return_types;cxx_unicode_literals;cxx_uniform_initialization;cxx_unrestricted_unions;cxx_user_"
        "literals;cxx_variadic_macros;cxx_variadic_templates;"
        "cxx_aggregate_default_initializers;cxx_attribute_deprecated;cxx_binary_literals;cxx_contextual_conversions;"
        "cxx_decltype_auto;cxx_digit_separators;"
        "cxx_generic_lambdas;cxx_lambda_init_captures;cxx_relaxed_constexpr;cxx_return_type_deduction;cxx_variable_"
        "templates");
  }
  const auto cached = [&](const std::string& name, const std::string& text, const char* help) {
    set_cache(name, text, "STRING", help, false, {});
    cache[name].declared = true;
  };
  const std::string environment_name = language == "CXX"       ? "CXXFLAGS"
                                       : language == "C"       ? "CFLAGS"
                                       : language == "Fortran" ? "FFLAGS"
                                                               : "ASMFLAGS";
  std::string start = environment_value(environment_name);
  if (language != "ASM" && language != "Fortran" && !environment_value("CPPFLAGS").empty())
    start += (start.empty() ? "" : " ") + environment_value("CPPFLAGS");
  cached(prefix + "FLAGS", start, "options for all compilations of the language");
  cached(prefix + "FLAGS_RELEASE", "-O2 -DNDEBUG", "options of a release");
  cached(prefix + "FLAGS_DEBUG", "-g", "options for finding faults");
  cached(prefix + "FLAGS_RELWITHDEBINFO", "-O2 -g -DNDEBUG", "options of a release with facts for finding faults");
  cached(prefix + "FLAGS_MINSIZEREL", "-Os -DNDEBUG", "options of a small release");
}

void Evaluator::start_variables() {
  const auto put = [&](const std::string& name, const std::string& text) { root_.variables[name] = text; };
  const auto level = text::split(language_level, '.');
  put("CMAKE_VERSION", language_level);
  put("CMAKE_MAJOR_VERSION", level[0]);
  put("CMAKE_MINOR_VERSION", level[1]);
  put("CMAKE_PATCH_VERSION", level[2]);
  put("CMAKE_SOURCE_DIR", tree);
  put("CMAKE_HOME_DIRECTORY", tree);
  put("CMAKE_BINARY_DIR", binary_root);
  put("CMAKE_CURRENT_SOURCE_DIR", tree);
  put("CMAKE_CURRENT_BINARY_DIR", binary_root);
  // Stands for the tool whose operations descriptions use in commands; the engine does them itself.
  // Whoever would start the make program is told that this is not done, by the commands that see the word.
  for (const char* name : {"CMAKE_COMMAND", "CMAKE_MAKE_PROGRAM"}) put(name, tool_word);
  put("CMAKE_FILES_DIRECTORY", "/.files");
  put("CMAKE_GENERATOR", "Coctilis");
  put("CMAKE_ROOT", binary_root + "/.modules");
  utsname system{};
  ::uname(&system);
  const std::string& machine = locator.toolchain().machine;
  const std::string processor = machine.empty() ? system.machine : machine.substr(0, machine.find('-'));
  put("CMAKE_SYSTEM_NAME", "Linux");
  put("CMAKE_SYSTEM", std::string("Linux-") + system.release);
  put("CMAKE_SYSTEM_VERSION", system.release);
  put("CMAKE_SYSTEM_PROCESSOR", processor);
  put("CMAKE_HOST_SYSTEM_NAME", "Linux");
  put("CMAKE_HOST_SYSTEM", std::string("Linux-") + system.release);
  put("CMAKE_HOST_SYSTEM_VERSION", system.release);
  put("CMAKE_HOST_SYSTEM_PROCESSOR", system.machine);
  put("CMAKE_CROSSCOMPILING", locator.toolchain().foreign ? "TRUE" : "FALSE");
  if (!locator.toolchain().launcher.empty())
    put("CMAKE_CROSSCOMPILING_EMULATOR", list_join(locator.toolchain().launcher));
  if (!locator.settings().sysroot.empty()) put("CMAKE_SYSROOT", locator.settings().sysroot);
  put("UNIX", "1");
  put("LINUX", "1");
  put("CMAKE_HOST_UNIX", "1");
  put("CMAKE_EXECUTABLE_SUFFIX", "");
  put("CMAKE_STATIC_LIBRARY_PREFIX", "lib");
  put("CMAKE_STATIC_LIBRARY_SUFFIX", ".a");
  put("CMAKE_SHARED_LIBRARY_PREFIX", "lib");
  put("CMAKE_SHARED_LIBRARY_SUFFIX", ".so");
  put("CMAKE_SHARED_MODULE_PREFIX", "lib");
  put("CMAKE_SHARED_MODULE_SUFFIX", ".so");
  put("CMAKE_IMPORT_LIBRARY_PREFIX", "");
  put("CMAKE_IMPORT_LIBRARY_SUFFIX", "");
  put("CMAKE_FIND_LIBRARY_PREFIXES", "lib");
  put("CMAKE_FIND_LIBRARY_SUFFIXES", ".so;.a");
  put("CMAKE_DL_LIBS", "dl");
  put("CMAKE_CFG_INTDIR", ".");
  put("CMAKE_AR", locator.toolchain().archiver);
  put("CMAKE_RANLIB", locator.toolchain().archive_indexer);
  put("CMAKE_NM", locator.toolchain().symbol_lister);
  put("CMAKE_STRIP", locator.toolchain().symbol_stripper);
  put("CMAKE_OBJCOPY", locator.toolchain().object_copier);
  put("CMAKE_LINKER", locator.toolchain().linker);
  // The rest of the family has the symbol lister's folder and prefix.
  const std::string lister = locator.toolchain().symbol_lister;
  for (const auto& [variable, name] : {std::pair{"CMAKE_OBJDUMP", "objdump"},
                                       {"CMAKE_READELF", "readelf"},
                                       {"CMAKE_ADDR2LINE", "addr2line"},
                                       {"CMAKE_DLLTOOL", "dlltool"}}) {
    const std::string path = lister.ends_with("nm") ? lister.substr(0, lister.size() - 2) + name : "";
    put(variable, files::is_program(path) ? path : std::string(variable) + "-NOTFOUND");
  }
  for (const char* language : {"C", "CXX"}) {
    put(std::string("CMAKE_") + language + "_COMPILER_AR", locator.toolchain().archiver);
    put(std::string("CMAKE_") + language + "_COMPILER_RANLIB", locator.toolchain().archive_indexer);
  }
  put("CMAKE_PROJECT_NAME", "");
  for (const char* language : {"C", "CXX"}) {
    const std::string prefix = std::string("CMAKE_") + language + "_";
    put(prefix + "COMPILE_OPTIONS_PIC", "-fPIC");
    put(prefix + "COMPILE_OPTIONS_PIE", "-fPIE");
    put(prefix + "COMPILE_OPTIONS_VISIBILITY", "-fvisibility=");
    put("CMAKE_SHARED_LIBRARY_" + std::string(language) + "_FLAGS", "-fPIC");
  }
  put("CMAKE_INCLUDE_FLAG_C", "-I");
  put("CMAKE_INCLUDE_FLAG_CXX", "-I");
  std::vector<std::string> system_prefixes = {"/usr/local", "/usr", "/"};
  put("CMAKE_SYSTEM_PREFIX_PATH", list_join(system_prefixes));
  // Values that the user gives come first; the description's own declarations leave them alone.
  for (const auto& [name, text] : locator.settings().options) {
    CacheEntry entry;
    entry.value = text;
    entry.from_user = true;
    if (const auto it = locator.settings().option_places.find(name); it != locator.settings().option_places.end())
      entry.place = it->second;
    cache[name] = entry;
  }
  if (!locator.settings().prefixes.empty()) put("CMAKE_PREFIX_PATH", list_join(locator.settings().prefixes));
  const auto variant = locator.settings().variants.find(locator.settings().variant);
  const bool debug = variant != locator.settings().variants.end() && variant->second.debug();
  set_cache("CMAKE_BUILD_TYPE", debug ? "Debug" : "Release", "STRING",
            "which of the description's settings is followed", false, {});
  set_cache("CMAKE_INSTALL_PREFIX", "/usr/local", "PATH", "where results are installed", false, {});
  root_.variables["CMAKE_INSTALL_PREFIX_INITIALIZED_TO_DEFAULT"] = cache["CMAKE_INSTALL_PREFIX"].from_user ? "0" : "1";
  const std::string link_flags = environment_value("LDFLAGS");
  for (const char* kind : {"EXE", "SHARED", "MODULE"})
    set_cache(std::string("CMAKE_") + kind + "_LINKER_FLAGS", link_flags, "STRING", "options for linking", false, {});
}

}  // namespace coctilis::describe::listfile
