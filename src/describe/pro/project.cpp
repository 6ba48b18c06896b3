#include "describe/pro/project.h"

#include <re2/re2.h>

#include <algorithm>

#include "base/files.h"
#include "base/text.h"
#include "describe/pro/words.h"
#include "survey/languages.h"

namespace coctilis::describe::pro {

using model::TargetKind;
using model::Unit;

namespace {

// "c++17", "c++1z", "gnu++20": the short year; empty for others.
std::string year_of(const std::string& config) {
  static const RE2 pattern(R"((?:c|gnu)\+\+([0-9][0-9a-z]))");
  std::string year;
  if (!RE2::FullMatch(config, pattern, &year)) return config == "c++latest" ? "20" : "";
  if (year == "0x") return "11";
  if (year == "1y") return "14";
  if (year == "1z") return "17";
  if (year == "2a") return "20";
  if (year == "2b") return "23";
  return year;
}

}  // namespace

std::map<std::string, Values> initial_values(const Toolkit& toolkit, const model::Toolchain& toolchain,
                                             const model::Variant& variant) {
  std::map<std::string, Values> out;
  const auto numbers = text::split(toolkit.version(), '.');
  const auto number = [&](std::size_t which) { return which < numbers.size() ? Values{numbers[which]} : Values{"0"}; };
  const std::string which = variant.debug() ? "debug" : "release";
  out["TEMPLATE"] = {"app"};
  out["QT"] = {"core", "gui"};
  out["CONFIG"] = {"lex",
                   "yacc",
                   "exceptions",
                   "depend_includepath",
                   "testcase_targets",
                   "import_plugins",
                   "warn_on",
                   which,
                   "link_prl",
                   "incremental",
                   "shared",
                   "thread",
                   "qt",
                   "unix",
                   "posix",
                   "linux",
                   "gcc"};
  if (toolkit.found()) {
    out["QT_VERSION"] = {toolkit.version()};
    out["QT_MAJOR_VERSION"] = number(0);
    out["QT_MINOR_VERSION"] = number(1);
    out["QT_PATCH_VERSION"] = number(2);
  }
  out["QT_CONFIG"] = {"shared", "release", "c++11", "c++14",   "c++17",
                      "dbus",   "opengl",  "ssl",   "openssl", "accessibility"};
  out["QT_ARCH"] = out["QMAKE_HOST.arch"] = {toolchain.machine.substr(0, toolchain.machine.find('-'))};
  out["QMAKE_TARGET.arch"] = out["QT_ARCH"];
  out["QMAKE_HOST.os"] = {"Linux"};
  out["QMAKE_PLATFORM"] = {"linux"};
  out["QMAKE_COMPILER"] = {toolchain.family};
  out["QMAKESPEC"] = out["QMAKE_SPEC"] = {"linux-g++"};
  out["QMAKE_CC"] = out["make:CC"] = {toolchain.compiler_or_any("C").path};
  out["QMAKE_CXX"] = out["make:CXX"] = out["QMAKE_LINK"] = {toolchain.compiler_or_any("C++").path};
  out["QMAKE_AR"] = {toolchain.archiver, "cqs"};
  out["QMAKE_STRIP"] = {toolchain.symbol_stripper};
  out["QMAKE_CXXFLAGS_RELEASE"] = out["QMAKE_CFLAGS_RELEASE"] = {"-O2"};
  out["QMAKE_CXXFLAGS_DEBUG"] = out["QMAKE_CFLAGS_DEBUG"] = {"-g"};
  out["QMAKE_COPY"] = {"cp", "-f"};
  out["QMAKE_COPY_FILE"] = {"cp", "-f"};
  out["QMAKE_COPY_DIR"] = {"cp", "-f", "-R"};
  out["QMAKE_MOVE"] = {"mv", "-f"};
  out["QMAKE_DEL_FILE"] = {"rm", "-f"};
  out["QMAKE_DEL_DIR"] = {"rmdir"};
  out["QMAKE_DEL_TREE"] = {"rm", "-rf"};
  out["QMAKE_MKDIR"] = {"mkdir", "-p"};
  out["QMAKE_CHK_EXISTS"] = {"test", "-e"};
  out["QMAKE_INSTALL_FILE"] = {"install", "-m", "644", "-p"};
  out["QMAKE_INSTALL_PROGRAM"] = {"install", "-m", "755", "-p"};
  out["QMAKE_EXT_CPP"] = {".cpp", ".cc", ".cxx"};
  out["QMAKE_EXT_H"] = {".h", ".hpp", ".hh", ".hxx"};
  out["QMAKE_EXT_OBJ"] = {".o"};
  out["QMAKE_EXTENSION_SHLIB"] = {"so"};
  out["QMAKE_EXTENSION_STATICLIB"] = {"a"};
  out["QMAKE_PREFIX_SHLIB"] = out["QMAKE_PREFIX_STATICLIB"] = {"lib"};
  out["QMAKE_DIR_SEP"] = out["DIR_SEPARATOR"] = {"/"};
  out["QMAKE_DIRLIST_SEP"] = out["DIRLIST_SEPARATOR"] = {":"};
  out["LITERAL_HASH"] = {"#"};
  out["LITERAL_DOLLAR"] = {"$"};
  out["LITERAL_WHITESPACE"] = {"\t"};
  out["MAKEFILE_GENERATOR"] = {"UNIX"};
  out["make:MKDIR"] = out["QMAKE_MKDIR"];
  out["make:COPY"] = out["make:COPY_FILE"] = out["QMAKE_COPY"];
  out["make:COPY_DIR"] = out["QMAKE_COPY_DIR"];
  out["make:MOVE"] = out["QMAKE_MOVE"];
  out["make:DEL_FILE"] = out["QMAKE_DEL_FILE"];
  out["make:INSTALL_FILE"] = out["QMAKE_INSTALL_FILE"];
  out["make:CHK_DIR_EXISTS"] = {"test", "-d"};
  return out;
}

Lowering::Lowering(const std::vector<Part>& parts, const Toolkit* toolkit, locate::Locator& locator,
                   model::Project& project, const model::Variant& variant, std::string tree, std::string work)
    : parts_(parts),
      toolkit_(toolkit),
      locator_(locator),
      project_(project),
      variant_(variant),
      tree_(std::move(tree)),
      work_(std::move(work)) {}

Lowering::~Lowering() = default;

void Lowering::warn(const Made& made, const std::string& variable, const std::string& what) {
  project_.warnings.push_back({Exit::done, made.values->place_of(variable), what, {}, {}, {}});
}

model::Build Lowering::run() {
  for (std::size_t i = 0; i < parts_.size(); ++i) {
    made_.push_back(std::make_unique<Made>());
    made_.back()->values = parts_[i].values.get();
    made_.back()->index = i;
    plan_results(*made_.back());
  }
  for (auto& made : made_) lower(*made);
  for (auto& made : made_) made->archive_items = made->unit.link.items;
  for (auto& made : made_) finish_links(*made);
  for (auto& made : made_) {
    if (made->makes_something) build_.units.push_back(std::move(made->unit));
  }
  return std::move(build_);
}

// Where each puts what it makes: others link it before it has been looked at.
void Lowering::plan_results(Made& made) {
  const auto& v = *made.values;
  const std::string kind = v.value("TEMPLATE");
  const auto& config = v.values("CONFIG");
  auto& unit = made.unit;
  unit.folder = v.folder();
  unit.work_folder = v.work_folder();
  made.generated = v.work_folder() + "/.made-" + stem_of(v.value("_PRO_FILE_"));
  unit.place = {files::below(v.value("_PRO_FILE_"), tree_), 0, 0};
  std::string target = text::join(v.values("TARGET"), " ");
  std::string folder = v.work_folder();
  if (const std::string given = v.value("DESTDIR"); !given.empty()) folder = v.result_path(given);
  if (target.find('/') != std::string::npos) {
    const std::string full = v.result_path(target.starts_with('/') ? target : folder + "/" + target);
    folder = folder_of(full);
    target = full.substr(full.rfind('/') + 1);
  }
  if (!files::is_below(folder, work_)) {
    // A place of the system is where it is installed, not where it is made.
    folder = v.work_folder();
  }
  if (kind == "lib" || kind == "vclib") {
    const bool plugin = is_word(config, "plugin");
    made.is_static = is_word(config, "staticlib") || is_word(config, "static");
    std::string prefix = is_word(config, "no_plugin_name_prefix") && plugin ? "" : "lib";
    if (made.is_static) {
      unit.kind = TargetKind::static_library;
      unit.result.file = folder + "/" + prefix + target + ".a";
      unit.result.linker_file = unit.result.file;
    } else if (plugin) {
      unit.kind = TargetKind::module_library;
      unit.result.file = folder + "/" + prefix + target + ".so";
    } else {
      unit.kind = TargetKind::shared_library;
      const std::string plain = folder + "/" + prefix + target + ".so";
      std::string version = v.value("VERSION");
      if (version.empty()) version = "1.0.0";
      auto numbers = text::split(version, '.');
      while (numbers.size() < 3) numbers.emplace_back("0");
      numbers.resize(3);
      if (is_word(config, "unversioned_libname")) {
        unit.result.file = plain;
        unit.result.shared_name = prefix + target + ".so";
      } else {
        unit.result.file = plain + "." + text::join(numbers, ".");
        unit.result.shared_name = prefix + target + ".so." + numbers[0];
        unit.result.names = {plain + "." + numbers[0] + "." + numbers[1], plain + "." + numbers[0], plain};
        if (is_word(config, "unversioned_soname")) unit.result.shared_name = prefix + target + ".so";
      }
      unit.result.linker_file = plain;
    }
  } else if (kind == "app" || kind == "vcapp") {
    unit.kind = TargetKind::program;
    unit.result.file = folder + "/" + target;
    unit.result.linker_file = unit.result.file;
  } else {
    made.makes_something = false;
    unit.kind = TargetKind::custom;
  }
  std::string name = target;
  for (int n = 2; !names_.insert(name).second; ++n) name = target + "-" + std::to_string(n);
  unit.name = name;
  unit.installed = made.makes_something;
  if (!unit.result.linker_file.empty()) by_file_[unit.result.linker_file] = made.index;
  if (!unit.result.file.empty()) by_file_[unit.result.file] = made.index;
}

void Lowering::lower(Made& made) {
  add_settings(made);
  add_substitutes(made);
  if (made.makes_something) {
    add_sources(made);
    add_generated(made);
    add_extra_compilers(made);
    // What is generated is there before anything is compiled.
    made.unit.generated.assign(made.rules.begin(), made.rules.end());
    std::set<std::string> languages;
    std::map<std::string, std::size_t> index;
    for (std::size_t p = 0; p < made.unit.parts.size(); ++p) index[made.unit.parts[p].language] = p;
    std::set<std::string> seen;
    for (const auto& path : made.sources) {
      if (!seen.insert(path).second) continue;
      const std::string language = survey::compiled_language(path);
      model::UnitSource source;
      source.path = path;
      source.place = {files::below(path, tree_), 0, 0};
      if (language.empty()) continue;
      if (!index.contains(language)) {
        index[language] = made.unit.parts.size();
        made.unit.parts.push_back({language, made.unit.parts.front().settings});
      }
      source.part = index.at(language);
      if (language != "Assembler") languages.insert(language);
      made.unit.sources.push_back(std::move(source));
    }
    for (const auto& language : languages) {
      if (!is_word(project_.languages, language)) project_.languages.push_back(language);
    }
    made.unit.link.languages.assign(languages.begin(), languages.end());
    made.unit.link.language = "C++";
    if (languages == std::set<std::string>{"C"} && (toolkit_ == nullptr || !made.values->has_config("qt")))
      made.unit.link.language = "C";
    add_links(made);
    add_test(made);
  }
  add_extra_targets(made);
  add_install(made);
  for (const auto index : parts_[made.index].after) {
    if (made_[index]->makes_something) made.unit.uses.push_back({made_[index]->unit.name, model::Use::How::first});
  }
  model::Outline outline;
  outline.name = made.unit.name;
  outline.folder = made.unit.folder;
  outline.sources = made.sources;
  outline.include_folders = made.include_folders;
  if (made.makes_something) project_.outlines.push_back(std::move(outline));
}

// ---- settings
// ----------------------------------------------------------------------------------------------------------
void Lowering::add_settings(Made& made) {
  const auto& v = *made.values;
  const auto& config = v.values("CONFIG");
  model::CompileSettings settings;
  for (const auto& one : v.values("DEFINES")) made.definitions.push_back(unquoted(one));
  const bool plugin = is_word(config, "plugin");
  if (toolkit_ != nullptr && v.has_config("qt")) {
    if (!variant_.debug()) made.definitions.emplace_back("QT_NO_DEBUG");
    if (plugin) made.definitions.emplace_back("QT_PLUGIN");
    std::vector<std::string> modules = v.values("QT");
    for (const auto& one : v.values("QT_PRIVATE")) modules.push_back(one);
    if (is_word(config, "qtestlib") || is_word(config, "testcase") || is_word(config, "qttest"))
      modules.emplace_back("testlib");
    if (is_word(config, "uitools")) modules.emplace_back("uitools");
    if (!is_word(modules, "core") && !modules.empty()) modules.emplace_back("core");
    std::set<std::string> seen;
    for (const auto& module : modules) {
      if (!seen.insert(module).second) continue;
      auto finding = toolkit_->module(module, "'" + made.unit.name + "'", v.place_of("QT"), true);
      for (const auto& folder : finding.usage.include_folders)
        settings.include_folders.push_back({model::IncludeFolder::Kind::system, folder});
      for (const auto& one : finding.usage.definitions) made.definitions.push_back(one);
      const std::string macro = Toolkit::macro_of(module);
      if (!is_word(made.definitions, macro)) made.definitions.push_back(macro);
      locator_.keep(std::move(finding));
    }
  }
  // The project's own folders come first.
  std::vector<std::string> folders = {made.generated, v.work_folder(), v.folder()};
  for (const auto& one : v.values("INCLUDEPATH")) {
    if (one.find("$(") != std::string::npos) continue;
    const std::string source = v.source_path(one);
    folders.push_back(source);
    // Results of others may lie at the same place among the results.
    if (files::is_below(source, tree_) && !files::is_below(source, work_)) folders.push_back(v.result_path(source));
  }
  std::vector<model::IncludeFolder> own;
  for (const auto& folder : folders) {
    if (is_word(made.include_folders, folder)) continue;
    made.include_folders.push_back(folder);
    own.push_back({model::IncludeFolder::Kind::plain, folder});
  }
  settings.include_folders.insert(settings.include_folders.begin(), own.begin(), own.end());
  std::vector<std::string> packages = v.values("PKGCONFIG");
  for (const auto& one : v.values("PKGCONFIG_PRIVATE")) packages.push_back(one);
  for (std::size_t i = 0; i < packages.size(); ++i) {
    model::Requirement want;
    want.kind = model::RequirementKind::package;
    want.name = packages[i];
    want.required_by = "'" + made.unit.name + "'";
    want.place = v.place_of("PKGCONFIG");
    if (i + 2 < packages.size() && packages[i + 1].find_first_of("<>=") != std::string::npos) {
      want.constraint = packages[i + 1] + " " + packages[i + 2];
      i += 2;
    }
    auto finding = locator_.module(want);
    for (const auto& folder : finding.usage.include_folders)
      settings.include_folders.push_back({model::IncludeFolder::Kind::system, folder});
    for (const auto& one : finding.usage.definitions) made.definitions.push_back(one);
    for (const auto& one : finding.usage.compile_options) settings.options.push_back(one);
    locator_.keep(std::move(finding));
  }
  settings.definitions = made.definitions;
  settings.first_options = variant_.debug() ? std::vector<std::string>{"-g"} : std::vector<std::string>{"-O2"};
  if (v.has_config("thread")) settings.first_options.emplace_back("-pthread");
  const bool library = made.unit.kind == TargetKind::shared_library || made.unit.kind == TargetKind::module_library;
  // The toolkit's headers ask for it, also in programs.
  settings.position_independence =
      library || (toolkit_ != nullptr && v.has_config("qt")) || made.unit.kind == TargetKind::static_library
          ? model::PositionIndependence::library
          : model::PositionIndependence::none;
  if (is_word(config, "hide_symbols")) {
    settings.visibility = "hidden";
    settings.inlines_hidden = true;
  }
  if (is_word(config, "ltcg")) settings.link_time_optimisation = true;
  std::string year;
  for (const auto& one : config) {
    if (const std::string found = year_of(one); found > year) year = found;
  }
  if (year.empty() && toolkit_ != nullptr && v.has_config("qt")) year = toolkit_->major() == "6" ? "17" : "11";
  if (const std::string header = v.value("PRECOMPILED_HEADER"); !header.empty() && is_word(config, "precompile_header"))
    settings.first_headers.push_back(v.source_path(header));
  const auto options = [&](const char* variable, std::vector<std::string>& into) {
    for (const auto& one : v.values(variable)) {
      if (one.find("$(") == std::string::npos) into.push_back(unquoted(one));
    }
  };
  model::CompileSettings c = settings;
  options("QMAKE_CFLAGS", c.options);
  if (is_word(config, "c99")) c.options.insert(c.options.begin(), "-std=gnu99");
  if (is_word(config, "c11")) c.options.insert(c.options.begin(), "-std=gnu11");
  model::CompileSettings cpp = settings;
  if (is_word(config, "exceptions_off")) cpp.options.emplace_back("-fno-exceptions");
  if (is_word(config, "rtti_off")) cpp.options.emplace_back("-fno-rtti");
  if (!year.empty())
    cpp.options.insert(cpp.options.begin(),
                       std::string("-std=") + (is_word(config, "strict_c++") ? "c++" : "gnu++") + year);
  options("QMAKE_CXXFLAGS", cpp.options);
  const std::string which = variant_.debug() ? "DEBUG" : "RELEASE";
  const auto of_variant = [&](const std::string& variable, std::vector<std::string>& into) {
    for (const auto& one : v.values(variable)) {
      if (one != "-O2" && one != "-g") into.push_back(unquoted(one));
    }
  };
  of_variant("QMAKE_CFLAGS_" + which, c.options);
  of_variant("QMAKE_CXXFLAGS_" + which, cpp.options);
  made.unit.parts.push_back({"C++", std::move(cpp)});
  made.unit.parts.push_back({"C", std::move(c)});
}

// ---- sources
// -----------------------------------------------------------------------------------------------------------
void Lowering::add_compiled(Made& made, const std::string& path) { made.sources.push_back(path); }

void Lowering::add_sources(Made& made) {
  const auto& v = *made.values;
  std::vector<std::string> search = {v.folder(), v.work_folder()};
  for (const char* variable : {"VPATH", "DEPENDPATH", "INCLUDEPATH"}) {
    for (const auto& one : v.values(variable)) search.push_back(v.source_path(one));
  }
  for (const char* variable : {"SOURCES", "GENERATED_SOURCES"}) {
    for (const auto& one : v.values(variable)) {
      std::string found;
      for (const auto& folder : search) {
        const std::string path = files::absolute(one, folder);
        if (!files::is_file(path)) continue;
        found = path;
        break;
      }
      const bool pattern = one.find_first_of("*?") != std::string::npos;
      if (found.empty() && pattern) {
        const std::string full = v.source_path(one);
        for (const auto& name : files::names_in(folder_of(full))) {
          if (files::matches(full.substr(full.rfind('/') + 1), name)) add_compiled(made, folder_of(full) + "/" + name);
        }
        continue;
      }
      if (found.empty()) {
        // A rule may make it.
        found = v.result_path(one);
        if (std::string(variable) == "SOURCES" && v.values("QMAKE_EXTRA_COMPILERS").empty() &&
            v.values("QMAKE_EXTRA_TARGETS").empty())
          throw Fault({Exit::description,
                       v.place_of(variable),
                       "the source '" + text::printable_line(one) + "' is not there",
                       "it is looked for at " + v.source_path(one),
                       "check the path, or take it out of " + std::string(variable),
                       {}});
      }
      add_compiled(made, found);
    }
  }
}

// ---- tests and installing
// ----------------------------------------------------------------------------------------------
void Lowering::add_test(Made& made) {
  const auto& v = *made.values;
  if (!is_word(v.values("CONFIG"), "testcase") || made.unit.kind != TargetKind::program) return;
  model::TestCase test;
  test.name = made.unit.name;
  test.command = {made.unit.result.file};
  test.folder = made.unit.work_folder;
  test.program = made.unit.name;
  test.environment["QT_QPA_PLATFORM"] = "offscreen";
  test.place = made.unit.place;
  build_.tests.push_back(std::move(test));
  made.unit.installed = false;
}

void Lowering::add_install(Made& made) {
  const auto& v = *made.values;
  const auto place_for = [&](std::string path) {
    // Below the usual prefixes a path counts from the prefix that is asked for.
    for (const char* prefix : {"/usr/local/", "/usr/"}) {
      if (path.starts_with(prefix)) return path.substr(std::string(prefix).size());
    }
    return path;
  };
  for (const auto& name : v.values("INSTALLS")) {
    const std::string given = v.value(name + ".path");
    const Place place = v.place_of(name + ".path");
    if (given.empty()) continue;
    if (!v.value(name + ".extra").empty() || !v.value(name + ".commands").empty())
      build_.not_installed.push_back({"command", name, place, {}});
    std::string to = place_for(given);
    if (!given.starts_with('/')) to = files::below(v.source_path(given), v.folder());
    if (name == "target") {
      if (!made.makes_something) continue;
      const auto& result = made.unit.result;
      model::InstallItem item;
      item.from = result.file;
      item.to = to + "/" + result.file.substr(result.file.rfind('/') + 1);
      item.mode = made.unit.kind == TargetKind::static_library ? 0644 : 0755;
      item.target = made.unit.name;
      item.relink = made.unit.kind != TargetKind::static_library;
      item.place = place;
      build_.install.push_back(item);
      build_.installed[made.unit.name] = to;
      for (const auto& link : result.names) {
        model::InstallItem other;
        other.kind = model::InstallItem::Kind::link;
        other.from = result.file.substr(result.file.rfind('/') + 1);
        other.to = to + "/" + link.substr(link.rfind('/') + 1);
        other.place = place;
        build_.install.push_back(std::move(other));
      }
      continue;
    }
    for (const auto& one : v.values(name + ".files")) {
      std::vector<std::string> found;
      const std::string full = v.source_path(one);
      const std::string last = full.substr(full.rfind('/') + 1);
      if (last.find_first_of("*?[") != std::string::npos) {
        for (const auto& file : files::names_in(folder_of(full))) {
          if (files::matches(last, file)) found.push_back(folder_of(full) + "/" + file);
        }
      } else if (files::exists(full)) {
        found = {full};
      } else if (made.rules.contains(v.result_path(one)) || made.written.contains(v.result_path(one))) {
        found = {v.result_path(one)};
      } else {
        warn(made, name + ".files", "'" + text::printable_line(one) + "', which is to be installed, is not there");
      }
      for (const auto& path : found) {
        model::InstallItem item;
        item.kind = files::is_folder(path) ? model::InstallItem::Kind::folder : model::InstallItem::Kind::file;
        item.from = path;
        item.to = to + "/" + path.substr(path.rfind('/') + 1);
        item.keep_mode = item.kind == model::InstallItem::Kind::folder;
        item.optional = !files::exists(path);
        item.place = place;
        if (installed_.insert(item.to).second) build_.install.push_back(std::move(item));
      }
    }
  }
}

}  // namespace coctilis::describe::pro
