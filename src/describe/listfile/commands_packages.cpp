// find_package and the commands around .pc modules: what a description calls a package is found in the tree's own
// search files, among the well-known libraries and programs, or by the description that the package itself installs.
#include <dirent.h>

#include "base/files.h"
#include "base/lists.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/listfile/evaluator.h"
#include "locate/known.h"
#include "model/build_programs.h"

namespace coctilis::describe::listfile {

namespace {

struct PackageWish {
  std::string name;
  std::string version;
  bool exact = false;
  bool quiet = false;
  bool required = false;
  bool config_only = false;
  bool module_only = false;
  std::vector<std::string> components;
  std::vector<std::string> optional_components;
  std::vector<std::string> names;
  std::vector<std::string> hints;
  [[nodiscard]] std::string constraint() const { return version.empty() ? "" : (exact ? "= " : ">= ") + version; }
};

PackageWish read_wish(Evaluator& e, const Invocation& i) {
  PackageWish wish;
  wish.name = i[0];
  std::string list;
  for (std::size_t k = 1; k < i.size(); ++k) {
    const std::string& word = i[k];
    if (word == "EXACT")
      wish.exact = true;
    else if (word == "QUIET")
      wish.quiet = true;
    else if (word == "REQUIRED") {
      wish.required = true;
      list = "components";
    } else if (word == "CONFIG" || word == "NO_MODULE")
      wish.config_only = true;
    else if (word == "MODULE")
      wish.module_only = true;
    else if (word == "COMPONENTS")
      list = "components";
    else if (word == "OPTIONAL_COMPONENTS")
      list = "optional";
    else if (word == "NAMES" || word == "CONFIGS")
      list = "names";
    else if (word == "HINTS" || word == "PATHS")
      list = "hints";
    else if (word == "PATH_SUFFIXES")
      list = "suffixes";
    else if (word.starts_with("NO_") || word == "GLOBAL" || word == "BYPASS_PROVIDER" || word == "NO_POLICY_SCOPE")
      list.clear();
    else if (k == 1 && !word.empty() && std::isdigit(static_cast<unsigned char>(word[0])) != 0)
      wish.version = word.substr(0, word.find("..."));
    else if (list == "components")
      wish.components.push_back(word);
    else if (list == "optional")
      wish.optional_components.push_back(word);
    else if (list == "names")
      wish.names.push_back(word);
    else if (list == "hints")
      wish.hints.push_back(e.source_path(word));
    else if (list != "suffixes")
      e.not_understood(i, "'" + word + "' in find_package(...)");
  }
  // QUIET and the like may stand behind REQUIRED: they are no components.
  if (wish.names.empty()) wish.names = {wish.name};
  return wish;
}

void set_found(Evaluator& e, const PackageWish& wish, bool found, const std::string& version) {
  e.set(wish.name + "_FOUND", found ? "TRUE" : "FALSE");
  e.set(text::upper(wish.name) + "_FOUND", found ? "TRUE" : "FALSE");
  if (found && !version.empty()) {
    for (const std::string& prefix : {wish.name, text::upper(wish.name)}) {
      e.set(prefix + "_VERSION", version);
      e.set(prefix + "_VERSION_STRING", version);
      const auto parts = text::split(version, '.');
      const char* const names[] = {"_VERSION_MAJOR", "_VERSION_MINOR", "_VERSION_PATCH"};
      for (std::size_t k = 0; k < 3; ++k) e.set(prefix + names[k], k < parts.size() ? parts[k] : "0");
    }
  }
  for (const auto& component : wish.components) e.set(wish.name + "_" + component + "_FOUND", found ? "TRUE" : "FALSE");
}

model::Want want_of(const PackageWish& wish, model::WantKind kind, const Invocation& i) {
  return {kind, wish.name, wish.constraint(), wish.required, "find_package", i.place};
}

// An imported target with what its users need; absent libraries get one too, so that reading can go on.
void imported_target(Evaluator& e, const std::string& name, const model::Usage& usage, const Invocation& i) {
  if (e.target(name) != nullptr) return;
  auto& target = e.add_target(name, model::TargetKind::interface_library, i);
  target.imported = true;
  target.in_default = false;
  const auto put = [&](const std::string& property, const std::vector<std::string>& texts) {
    if (texts.empty()) return;
    for (const auto& text : texts) target.properties[property].push_back(e.word(text, i));
  };
  put("INTERFACE_INCLUDE_DIRECTORIES", usage.include_folders);
  put("INTERFACE_SYSTEM_INCLUDE_DIRECTORIES", usage.include_folders);
  put("INTERFACE_COMPILE_DEFINITIONS", usage.definitions);
  put("INTERFACE_COMPILE_OPTIONS", usage.compile_options);
  put("INTERFACE_LINK_DIRECTORIES", usage.link_folders);
  put("INTERFACE_LINK_LIBRARIES", usage.link_items);
}

bool asked(Evaluator& e, const locate::Probe& probe, const PackageWish& wish, const Invocation& i) {
  const bool yes =
      e.locator.ask(probe, {wish.name + "_FOUND", i.name, i.place, {}, {}, {}, {}, {}, {}, false}).compiled;
  e.locator.conclude(yes ? "TRUE" : "FALSE");
  return yes;
}

// ---- packages that are programs or parts of the system -----------------------------------------------------------

bool find_threads(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  if (wish.name != "Threads") return false;
  const auto languages = e.enabled_languages();
  locate::Probe probe;
  probe.how = locate::Probe::How::link;
  probe.language = std::find(languages.begin(), languages.end(), "C") != languages.end() ? "C" : "C++";
  probe.source =
      "#include <pthread.h>\nstatic void* work(void* p) { return p; }\nint main() { pthread_t t; return "
      "pthread_create(&t, 0, work, 0) + pthread_join(t, 0); }\n";
  model::Finding finding;
  finding.want = want_of(wish, model::WantKind::library, i);
  finding.want.name = "threads";
  std::string item;
  for (const char* option : {"", "-lpthread", "-pthread"}) {
    probe.link_options = *option != '\0' ? std::vector<std::string>{option} : std::vector<std::string>{};
    if (!asked(e, probe, wish, i)) continue;
    finding.found = true;
    item = option;
    break;
  }
  finding.how = "probe";
  finding.where = finding.found ? (item.empty() ? "in the C library" : item) : "";
  if (!finding.found) finding.package = "libc6-dev";
  if (e.on("THREADS_PREFER_PTHREAD_FLAG") && finding.found) item = "-pthread";
  model::Usage usage;
  if (!item.empty()) usage.link_items.push_back(item);
  if (item == "-pthread") usage.compile_options.push_back(item);
  imported_target(e, "Threads::Threads", usage, i);
  e.set("CMAKE_THREAD_LIBS_INIT", item);
  e.set("CMAKE_HAVE_THREADS_LIBRARY", "1");
  e.set("CMAKE_USE_PTHREADS_INIT", "1");
  e.set("CMAKE_HAVE_LIBC_PTHREAD", item.empty() ? "1" : "");
  set_found(e, wish, finding.found, "");
  e.keep(std::move(finding));
  return true;
}

// Packages that stand for a program: the variable that gets its path.
struct ProgramPackage {
  const char* name;
  const char* variable;
  std::vector<std::string> programs;
};

bool find_program_package(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  static const std::vector<ProgramPackage> table = {
      {"Git", "GIT_EXECUTABLE", {"git"}},
      {"Perl", "PERL_EXECUTABLE", {"perl"}},
      {"Python3", "Python3_EXECUTABLE", {"python3", "python"}},
      {"Python", "Python_EXECUTABLE", {"python3", "python"}},
      {"PythonInterp", "PYTHON_EXECUTABLE", {"python3", "python"}},
      {"Doxygen", "DOXYGEN_EXECUTABLE", {"doxygen"}},
      {"BISON", "BISON_EXECUTABLE", {"bison"}},
      {"FLEX", "FLEX_EXECUTABLE", {"flex"}},
      {"UnixCommands", "BASH", {"bash"}},
      {"SWIG", "SWIG_EXECUTABLE", {"swig"}},
      {"Gettext", "GETTEXT_MSGFMT_EXECUTABLE", {"msgfmt"}},
  };
  for (const auto& package : table) {
    if (wish.name != package.name) continue;
    // A library side of the same name (headers of an interpreter, say) is another matter.
    for (const auto& component : wish.components) {
      if (component != "Interpreter" && component != "dot")
        e.not_understood(i, "find_package(" + wish.name + " COMPONENTS " + component + ")");
    }
    auto want = want_of(wish, model::WantKind::program, i);
    want.name = package.programs.front();
    auto finding = e.locator.program(want, package.programs, {});
    if (finding.found) {
      finding.version = e.locator.version_of_program(finding.where);
      e.set(package.variable, finding.where);
      // What trees start their own settings from.
      if (std::string(package.name) == "Doxygen") files::write_if_different(e.binary_root + "/CMakeDoxyfile.in", "");
    }
    set_found(e, wish, finding.found, finding.version);
    if (std::string(package.name) == "PythonInterp") e.set("PYTHONINTERP_FOUND", finding.found ? "TRUE" : "FALSE");
    if (std::string(package.name).starts_with("Python"))
      e.set(wish.name + "_Interpreter_FOUND", finding.found ? "TRUE" : "FALSE");
    e.keep(std::move(finding));
    return true;
  }
  return false;
}

// ---- the tree's own search files -----------------------------------------------------------------------------------

bool find_by_module_file(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  for (const auto& folder : list_elements(e.value("CMAKE_MODULE_PATH"))) {
    const std::string path = files::absolute(folder, e.directory().source) + "/Find" + wish.name + ".cmake";
    if (!files::is_file(path)) continue;
    e.set(wish.name + "_FIND_REQUIRED", wish.required ? "1" : "0");
    e.set(wish.name + "_FIND_QUIETLY", wish.quiet ? "1" : "0");
    e.set(wish.name + "_FIND_VERSION", wish.version);
    e.set(wish.name + "_FIND_VERSION_EXACT", wish.exact ? "1" : "0");
    e.set(wish.name + "_FIND_COMPONENTS", list_join(wish.components));
    for (const auto& component : wish.components)
      e.set(wish.name + "_FIND_REQUIRED_" + component, wish.required ? "1" : "0");
    e.set("CMAKE_FIND_PACKAGE_NAME", wish.name);
    e.run_file(path, i);
    const bool found = e.on(wish.name + "_FOUND") || e.on(text::upper(wish.name) + "_FOUND");
    model::Finding finding;
    finding.want = want_of(wish, model::WantKind::package, i);
    finding.found = found;
    finding.how = "by " + e.shown(path);
    finding.where = found ? e.value(wish.name + "_LIBRARY").empty() ? e.value(wish.name + "_LIBRARIES")
                                                                    : e.value(wish.name + "_LIBRARY")
                          : "";
    finding.version = found ? e.value(wish.name + "_VERSION") : "";
    if (!found) {
      finding.looked = {"what " + e.shown(path) + " looks for"};
      if (const auto* known = locate::known_library(wish.name)) finding.package = known->package;
    }
    e.keep(std::move(finding));
    return true;
  }
  return false;
}

// ---- well-known libraries ------------------------------------------------------------------------------------------

// The components that are asked for, each a library beside the others. Gives their files; those that are not there make
// the whole thing missing when they are required.
std::vector<std::string> find_components(Evaluator& e, const PackageWish& wish, const locate::KnownLibrary& known,
                                         model::Finding& finding, const Invocation& i) {
  std::vector<std::string> files;
  const auto one = [&](const std::string& component, bool required) {
    const std::string name = text::replace_all(known.component_library, "{}", component);
    const auto library = e.locator.link_name({model::WantKind::library, name, {}, required, i.name, i.place, {}},
                                             finding.usage.link_folders);
    e.set(wish.name + "_" + component + "_FOUND", library.found ? "TRUE" : "FALSE");
    if (library.found) {
      files.push_back(library.where);
      for (const auto& prefix : {wish.name, text::upper(wish.name)})
        e.set(prefix + "_" + text::upper(component) + "_LIBRARY", library.where);
      model::Usage usage = finding.usage;
      usage.link_items = {library.where};
      imported_target(e, text::replace_all(known.component_target, "{}", component), usage, i);
    } else if (required) {
      finding.found = false;
      finding.reason = "the component '" + component + "' is not there (" + name + ")";
      finding.looked = library.looked;
      if (finding.package.empty()) finding.package = known.package;
    }
  };
  for (const auto& component : wish.components) one(component, true);
  for (const auto& component : wish.optional_components) one(component, false);
  return files;
}

// The parts of the window system that descriptions ask for one by one.
void set_x11_parts(Evaluator& e, const model::Usage& base, const Invocation& i) {
  struct Part {
    const char* name;
    const char* header;
    const char* library;
  };
  static const std::vector<Part> parts = {{"Xext", "X11/extensions/Xext.h", "Xext"},
                                          {"Xrandr", "X11/extensions/Xrandr.h", "Xrandr"},
                                          {"Xinerama", "X11/extensions/Xinerama.h", "Xinerama"},
                                          {"Xcursor", "X11/Xcursor/Xcursor.h", "Xcursor"},
                                          {"Xi", "X11/extensions/XInput.h", "Xi"},
                                          {"Xrender", "X11/extensions/Xrender.h", "Xrender"},
                                          {"Xfixes", "X11/extensions/Xfixes.h", "Xfixes"},
                                          {"Xft", "X11/Xft/Xft.h", "Xft"},
                                          {"Xss", "X11/extensions/scrnsaver.h", "Xss"},
                                          {"Xtst", "X11/extensions/XTest.h", "Xtst"},
                                          {"Xkb", "X11/extensions/XKB.h", "X11"},
                                          {"xf86vmode", "X11/extensions/xf86vmode.h", "Xxf86vm"},
                                          {"Xxf86vm", "X11/extensions/xf86vmode.h", "Xxf86vm"},
                                          {"Xdamage", "X11/extensions/Xdamage.h", "Xdamage"},
                                          {"Xcomposite", "X11/extensions/Xcomposite.h", "Xcomposite"},
                                          {"Xpm", "X11/xpm.h", "Xpm"},
                                          {"Xt", "X11/Intrinsic.h", "Xt"},
                                          {"Xmu", "X11/Xmu/Xmu.h", "Xmu"},
                                          {"ICE", "X11/ICE/ICE.h", "ICE"},
                                          {"SM", "X11/SM/SM.h", "SM"},
                                          {"Xau", "X11/Xauth.h", "Xau"},
                                          {"Xdmcp", "X11/Xdmcp.h", "Xdmcp"},
                                          {"xcb", "xcb/xcb.h", "xcb"},
                                          {"X11_xcb", "X11/Xlib-xcb.h", "X11-xcb"},
                                          {"Xshape", "X11/extensions/shape.h", "Xext"},
                                          {"XShm", "X11/extensions/XShm.h", "Xext"}};
  for (const auto& part : parts) {
    const auto header =
        e.locator.header({model::WantKind::header, part.header, {}, false, i.name, i.place, {}}, base.include_folders);
    const auto library = e.locator.link_name({model::WantKind::library, part.library, {}, false, i.name, i.place, {}},
                                             base.link_folders);
    const std::string folder =
        header.found ? header.where.substr(0, header.where.size() - std::string_view(part.header).size() - 1) : "";
    const std::string prefix = std::string("X11_") + part.name;
    const bool there = header.found && library.found;
    e.set(prefix + "_FOUND", there ? "TRUE" : "FALSE");
    e.set(prefix + "_INCLUDE_PATH", header.found ? folder : prefix + "_INCLUDE_PATH-NOTFOUND");
    e.set(prefix + "_LIB", library.found ? library.where : prefix + "_LIB-NOTFOUND");
    if (!there) continue;
    model::Usage usage = base;
    usage.link_items = {library.where};
    imported_target(e, std::string("X11::") + part.name, usage, i);
  }
}

bool find_known(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  const auto* known = locate::known_library(wish.name);
  if (known == nullptr) return false;
  auto finding = e.locator.library(want_of(wish, model::WantKind::library, i));
  finding.want.name = known->name;
  std::vector<std::string> components;
  if (!known->component_library.empty() && finding.found) components = find_components(e, wish, *known, finding, i);
  set_found(e, wish, finding.found, finding.version);
  if (finding.found || wish.required) {
    std::vector<std::string> includes = finding.usage.include_folders;
    if (includes.empty() && !known->headers.empty()) {
      // The plain folder that holds the header, for those who use the variable.
      const auto header = e.locator.header({model::WantKind::header, known->headers.front(), {}, false, {}, {}}, {});
      if (header.found) includes = {header.where.substr(0, header.where.size() - known->headers.front().size() - 1)};
    }
    // Link by file where it can be told: names after -l may mean another library to the linker.
    std::vector<std::string> items;
    for (const auto& item : finding.usage.link_items) {
      std::string resolved = item;
      if (item.starts_with("-l")) {
        const auto file = e.locator.link_name({model::WantKind::library, item.substr(2), {}, false, {}, {}},
                                              finding.usage.link_folders);
        if (file.found) resolved = file.where;
      }
      items.push_back(resolved);
    }
    items.insert(items.end(), components.begin(), components.end());
    for (const std::string& prefix : {wish.name, text::upper(wish.name)}) {
      e.set(prefix + "_INCLUDE_DIRS", list_join(includes));
      e.set(prefix + "_INCLUDE_DIR", includes.empty() ? "" : includes.front());
      e.set(prefix + "_LIBRARIES", list_join(items));
      e.set(prefix + "_LIBRARY", items.empty() ? "" : items.front());
      e.set(prefix + "_DEFINITIONS", "");
    }
    model::Usage usage = finding.usage;
    usage.link_items = items;
    for (const auto& name : known->targets) imported_target(e, name, usage, i);
    if (wish.name == "X11") set_x11_parts(e, usage, i);
    if (known->name == "gtest") {
      const auto main = e.locator.library({model::WantKind::library, "gtest_main", {}, false, "find_package", i.place});
      for (const char* name : {"GTest::Main", "GTest::gtest_main"}) imported_target(e, name, main.usage, i);
      e.set("GTEST_BOTH_LIBRARIES", list_join(items) + ";" + list_join(main.usage.link_items));
      e.set("GTEST_MAIN_LIBRARIES", list_join(main.usage.link_items));
    }
  }
  e.keep(std::move(finding));
  return true;
}

// ---- descriptions that packages install ----------------------------------------------------------------------------

std::vector<std::string> folder_names(const std::string& folder) {
  std::vector<std::string> out;
  if (DIR* stream = ::opendir(folder.c_str())) {
    while (const dirent* entry = ::readdir(stream)) out.emplace_back(entry->d_name);
    ::closedir(stream);
  }
  std::sort(out.begin(), out.end());
  return out;
}

bool same_package(const std::string& folder_name, const std::string& package) {
  const std::string lower = text::lower(folder_name);
  const std::string wanted = text::lower(package);
  return lower == wanted || (lower.starts_with(wanted) &&
                             std::string_view("-_0123456789.").find(lower[wanted.size()]) != std::string_view::npos);
}

// All places where the package's own description may lie.
std::vector<std::string> config_files(Evaluator& e, const PackageWish& wish) {
  std::vector<std::string> folders;
  for (const auto& name : {wish.name + "_DIR", wish.name + "_ROOT"}) {
    if (!e.value(name).empty() && !e.value(name).ends_with("NOTFOUND")) folders.push_back(e.source_path(e.value(name)));
  }
  std::vector<std::string> prefixes = wish.hints;
  for (const auto& prefix : list_elements(e.value("CMAKE_PREFIX_PATH"))) prefixes.push_back(e.source_path(prefix));
  for (const auto& prefix : text::split(e.environment_value("CMAKE_PREFIX_PATH"), ':')) {
    if (!prefix.empty()) prefixes.push_back(prefix);
  }
  for (const auto& prefix : e.locator.prefixes()) prefixes.push_back(prefix);
  const std::string machine = e.locator.toolchain().machine;
  for (const auto& prefix : prefixes) {
    folders.push_back(prefix);
    folders.push_back(prefix + "/cmake");
    for (const auto& middle : {"/lib/" + machine, std::string("/lib64"), std::string("/lib"), std::string("/share")}) {
      for (const std::string& base : {prefix + middle + "/cmake", prefix + middle}) {
        for (const auto& folder : folder_names(base)) {
          for (const auto& name : wish.names) {
            if (!same_package(folder, name)) continue;
            folders.push_back(base + "/" + folder);
            folders.push_back(base + "/" + folder + "/cmake");
          }
        }
      }
    }
  }
  std::vector<std::string> out;
  for (const auto& folder : folders) {
    for (const auto& name : wish.names) {
      for (const auto& file : {name + "Config.cmake", text::lower(name) + "-config.cmake"})
        out.push_back(folder + "/" + file);
    }
  }
  return out;
}

// Asks the version file beside a package's description. True when the wish is met.
bool version_does(Evaluator& e, const PackageWish& wish, const std::string& config, std::string& version,
                  const Invocation& i) {
  const std::string base = config.ends_with("-config.cmake") ? config.substr(0, config.size() - 6) + "-version.cmake"
                                                             : config.substr(0, config.size() - 6) + "Version.cmake";
  if (!files::is_file(base)) return wish.version.empty();
  auto scope = e.push_scope();
  const auto parts = text::split(wish.version, '.');
  e.set("PACKAGE_FIND_NAME", wish.name);
  e.set("PACKAGE_FIND_VERSION", wish.version);
  e.set("PACKAGE_FIND_VERSION_COUNT", wish.version.empty() ? "0" : std::to_string(parts.size()));
  const char* const names[] = {"MAJOR", "MINOR", "PATCH", "TWEAK"};
  for (std::size_t k = 0; k < 4; ++k)
    e.set(std::string("PACKAGE_FIND_VERSION_") + names[k], k < parts.size() && !wish.version.empty() ? parts[k] : "0");
  e.run_file(base, i);
  version = e.value("PACKAGE_VERSION");
  const bool does = wish.version.empty() ? !e.on("PACKAGE_VERSION_UNSUITABLE")
                                         : e.on(wish.exact ? "PACKAGE_VERSION_EXACT" : "PACKAGE_VERSION_COMPATIBLE");
  e.pop_scope(std::move(scope));
  return does;
}

void find_by_config(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  model::Finding finding;
  finding.want = want_of(wish, model::WantKind::package, i);
  finding.how = "by its own description";
  for (const auto& path : config_files(e, wish)) {
    finding.looked.push_back(path);
    if (!files::is_file(path)) continue;
    std::string version;
    if (!version_does(e, wish, path, version, i)) {
      finding.reason = "version " + version + " at " + path + " does not do; asked for is " + wish.constraint();
      continue;
    }
    finding.found = true;
    finding.where = path;
    finding.version = version;
    break;
  }
  if (finding.found) {
    const std::string folder = std::filesystem::path(finding.where).parent_path().string();
    e.set(wish.name + "_DIR", folder);
    e.set(wish.name + "_CONFIG", finding.where);
    e.set(wish.name + "_CONSIDERED_CONFIGS", finding.where);
    e.set(wish.name + "_FIND_COMPONENTS", list_join(wish.components));
    e.set(wish.name + "_FIND_REQUIRED", wish.required ? "1" : "0");
    e.set(wish.name + "_FIND_QUIETLY", wish.quiet ? "1" : "0");
    for (const auto& component : wish.components)
      e.set(wish.name + "_FIND_REQUIRED_" + component, wish.required ? "1" : "0");
    e.set("CMAKE_FIND_PACKAGE_NAME", wish.name);
    set_found(e, wish, true, finding.version);
    e.run_file(finding.where, i);
    if (e.find(wish.name + "_FOUND") != nullptr && !e.on(wish.name + "_FOUND")) {
      finding.found = false;
      finding.reason = e.value(wish.name + "_NOT_FOUND_MESSAGE");
    }
  }
  set_found(e, wish, finding.found, finding.version);
  if (!finding.found) {
    e.set(wish.name + "_DIR", wish.name + "_DIR-NOTFOUND");
    if (const auto* known = locate::known_library(wish.name)) finding.package = known->package;
  }
  e.keep(std::move(finding));
}

bool has_config(Evaluator& e, const PackageWish& wish) {
  const auto all = config_files(e, wish);
  return std::any_of(all.begin(), all.end(), files::is_file);
}

// Parts that the C library has on this system; a probe tells.
bool find_in_c_library(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  struct Row {
    const char* name;
    const char* source;
    const char* target;
    const char* item;
    const char* package;
  };
  static const std::vector<Row> table = {
      {"Iconv", "#include <iconv.h>\nint main() { iconv_t c = iconv_open(\"\", \"\"); return c == (iconv_t)-1; }\n",
       "Iconv::Iconv", "", "libc6-dev"},
      {"Intl", "#include <libintl.h>\nint main() { return *gettext(\"\") != 0; }\n", "Intl::Intl", "", "libc6-dev"},
      {"Backtrace", "#include <execinfo.h>\nint main() { void* p[2]; return backtrace(p, 2) < 0; }\n",
       "Backtrace::Backtrace", "", "libc6-dev"},
  };
  for (const auto& row : table) {
    if (wish.name != row.name) continue;
    const auto languages = e.enabled_languages();
    locate::Probe probe;
    probe.how = locate::Probe::How::link;
    probe.language = std::find(languages.begin(), languages.end(), "C") != languages.end() ? "C" : "C++";
    probe.source = row.source;
    model::Finding finding;
    finding.want = want_of(wish, model::WantKind::library, i);
    finding.how = "probe";
    finding.found = asked(e, probe, wish, i);
    finding.where = finding.found ? "in the C library" : "";
    if (!finding.found) finding.package = row.package;
    imported_target(e, row.target, {}, i);
    for (const auto& prefix : {wish.name, text::upper(wish.name)}) {
      e.set(prefix + "_LIBRARIES", "");
      e.set(prefix + "_INCLUDE_DIRS", "");
      e.set(prefix + "_INCLUDE_DIR", "");
    }
    e.set(wish.name + "_IS_BUILT_IN", finding.found ? "TRUE" : "FALSE");
    set_found(e, wish, finding.found, "");
    e.keep(std::move(finding));
    return true;
  }
  return false;
}

bool find_openmp(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  if (wish.name != "OpenMP") return false;
  model::Finding finding;
  finding.want = want_of(wish, model::WantKind::library, i);
  finding.how = "probe";
  finding.found = true;
  bool any = false;
  for (const auto& language : e.enabled_languages()) {
    if (language != "C" && language != "CXX") continue;
    locate::Probe probe;
    probe.how = locate::Probe::How::link;
    probe.language = language == "C" ? "C" : "C++";
    probe.source = "#include <omp.h>\nint main() { return omp_get_max_threads() < 1; }\n";
    probe.compile_options = {"-fopenmp"};
    const bool yes = asked(e, probe, wish, i);
    any = any || yes;
    finding.found = finding.found && yes;
    e.set("OpenMP_" + language + "_FOUND", yes ? "TRUE" : "FALSE");
    e.set("OpenMP_" + language + "_FLAGS", yes ? "-fopenmp" : "");
    e.set("OpenMP_" + language + "_LIBRARIES", "");
    model::Usage usage;
    if (yes) usage = {{}, {}, {"-fopenmp"}, {}, {"-fopenmp"}};
    if (yes) imported_target(e, "OpenMP::OpenMP_" + language, usage, i);
  }
  finding.found = finding.found && any;
  finding.where = finding.found ? "-fopenmp" : "";
  if (!finding.found) finding.package = e.locator.toolchain().family == "clang" ? "libomp-dev" : "libgomp1";
  e.set("OPENMP_FOUND", finding.found ? "TRUE" : "FALSE");
  set_found(e, wish, finding.found, "");
  e.keep(std::move(finding));
  return true;
}

// The interpreter, and what programs that hold it, or modules for it, are compiled with.
bool find_python(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  static const std::set<std::string> names = {"Python3", "Python", "PythonLibs"};
  if (!names.contains(wish.name)) return false;
  bool headers = wish.name == "PythonLibs";
  for (const auto* list : {&wish.components, &wish.optional_components}) {
    for (const auto& component : *list) headers = headers || component.starts_with("Development");
  }
  if (!headers) return false;
  auto interpreter = e.locator.program({model::WantKind::program, "python3", {}, wish.required, i.name, i.place, {}},
                                       {"python3", "python"}, {});
  model::Want want{model::WantKind::library, "python3-embed", wish.constraint(), wish.required, i.name, i.place, {}};
  auto library = e.locator.module(want);
  if (library.package.empty() && !library.found) library.package = "libpython3-dev";
  const std::string version = interpreter.found ? e.locator.version_of_program(interpreter.where) : "";
  const bool found = library.found && (wish.name == "PythonLibs" || interpreter.found);
  std::vector<std::string> files;
  for (const auto& item : library.usage.link_items) {
    if (!item.starts_with("-l")) continue;
    const auto file = e.locator.link_name({model::WantKind::library, item.substr(2), {}, false, {}, {}, {}},
                                          library.usage.link_folders);
    files.push_back(file.found ? file.where : item);
  }
  for (const auto& prefix : {wish.name, text::upper(wish.name)}) {
    e.set(prefix + "_EXECUTABLE", interpreter.where);
    e.set(prefix + "_INCLUDE_DIRS", list_join(library.usage.include_folders));
    e.set(prefix + "_INCLUDE_DIR", list_join(library.usage.include_folders));
    e.set(prefix + "_INCLUDE_PATH", list_join(library.usage.include_folders));
    e.set(prefix + "_LIBRARIES", list_join(files));
    e.set(prefix + "_LIBRARY", files.empty() ? "" : files.front());
  }
  e.set("PYTHONLIBS_VERSION_STRING", library.version);
  for (const char* component : {"Interpreter", "Development", "Development.Module", "Development.Embed"})
    e.set(wish.name + "_" + component + "_FOUND", found ? "TRUE" : "FALSE");
  model::Usage module = library.usage;
  module.link_items.clear();
  model::Usage embedded = library.usage;
  embedded.link_items = files;
  if (found) {
    imported_target(e, wish.name + "::Module", module, i);
    imported_target(e, wish.name + "::Python", embedded, i);
    imported_target(e, wish.name + "::Interpreter", {}, i);
  }
  set_found(e, wish, found, version.empty() ? library.version : version);
  if (interpreter.found || wish.name != "PythonLibs") e.keep(std::move(interpreter));
  e.keep(std::move(library));
  return true;
}

void command_find_package(Evaluator& e, const Invocation& i) {
  e.need(i, 1, "find_package(NAME)");
  const PackageWish wish = read_wish(e, i);
  if (e.on("CMAKE_DISABLE_FIND_PACKAGE_" + wish.name)) {
    set_found(e, wish, false, "");
    return;
  }
  if (!wish.config_only) {
    if (find_by_module_file(e, wish, i)) return;
    if (wish.name == "PkgConfig") {
      // .pc files are read by us: nothing has to be there for it.
      set_found(e, wish, true, "1.8");
      e.set("PKG_CONFIG_FOUND", "TRUE");
      e.set("PKG_CONFIG_EXECUTABLE", model::tool_word);
      return;
    }
    if (find_in_c_library(e, wish, i) || find_openmp(e, wish, i) || find_python(e, wish, i)) return;
    // A package's own description knows its components best.
    const auto* known = locate::known_library(wish.name);
    if (known != nullptr && !known->component_library.empty() && has_config(e, wish)) {
      find_by_config(e, wish, i);
      return;
    }
    if (find_threads(e, wish, i) || find_program_package(e, wish, i) || find_known(e, wish, i)) return;
  }
  find_by_config(e, wish, i);
}

// ---- .pc modules ---------------------------------------------------------------------------------------------------

void set_module_variables(Evaluator& e, const std::string& prefix, const model::Usage& usage,
                          const model::Finding& finding, bool cached) {
  const auto put = [&](const std::string& name, const std::string& text) {
    if (cached)
      e.set_cache(prefix + "_" + name, text, "INTERNAL", "", true, {});
    else
      e.set(prefix + "_" + name, text);
    e.set(prefix + "_" + name, text);
  };
  std::vector<std::string> libraries;
  std::vector<std::string> files;
  std::vector<std::string> link_flags;
  std::vector<std::string> other;
  for (const auto& folder : usage.link_folders) link_flags.push_back("-L" + folder);
  for (const auto& item : usage.link_items) {
    link_flags.push_back(item);
    if (!item.starts_with("-l")) {
      other.push_back(item);
      continue;
    }
    libraries.push_back(item.substr(2));
    const auto file =
        e.locator.link_name({model::WantKind::library, item.substr(2), {}, false, {}, {}}, usage.link_folders);
    files.push_back(file.found ? file.where : item);
  }
  std::vector<std::string> compile_flags = usage.compile_options;
  for (const auto& folder : usage.include_folders) compile_flags.push_back("-I" + folder);
  for (const auto& definition : usage.definitions) compile_flags.push_back("-D" + definition);
  std::vector<std::string> compile_other = usage.compile_options;
  for (const auto& definition : usage.definitions) compile_other.push_back("-D" + definition);
  put("FOUND", finding.found ? "1" : "");
  put("VERSION", finding.version);
  put("LIBRARIES", list_join(libraries));
  put("LINK_LIBRARIES", list_join(files));
  put("LIBRARY_DIRS", list_join(usage.link_folders));
  put("LDFLAGS", list_join(link_flags));
  put("LDFLAGS_OTHER", list_join(other));
  put("INCLUDE_DIRS", list_join(usage.include_folders));
  put("CFLAGS", list_join(compile_flags));
  put("CFLAGS_OTHER", list_join(compile_other));
}

void pkg_modules(Evaluator& e, const Invocation& i, bool first_only) {
  e.need(i, 2, i.name + "(PREFIX modules...)");
  bool required = false;
  bool imported = false;
  std::vector<std::string> modules;
  for (const auto& word : i.texts(1)) {
    if (word == "REQUIRED")
      required = true;
    else if (word == "IMPORTED_TARGET")
      imported = true;
    else if (word != "QUIET" && word != "GLOBAL" && word != "NO_CMAKE_PATH" && word != "NO_CMAKE_ENVIRONMENT_PATH")
      modules.push_back(word);
  }
  model::Usage all;
  model::Finding last;
  bool found = !first_only;
  for (const auto& module : modules) {
    const auto requirements = locate::pc_requirements(module);
    if (requirements.empty()) continue;
    const auto& requirement = requirements.front();
    model::Want want{model::WantKind::library,
                     requirement.name,
                     requirement.operation.empty() ? "" : requirement.operation + " " + requirement.version,
                     required,
                     i.name,
                     i.place};
    auto finding = e.locator.module(want);
    if (first_only && !finding.found) {
      last = finding;
      continue;
    }
    if (finding.found) {
      const auto more = [](auto& into, const auto& from) { into.insert(into.end(), from.begin(), from.end()); };
      more(all.include_folders, finding.usage.include_folders);
      more(all.definitions, finding.usage.definitions);
      more(all.compile_options, finding.usage.compile_options);
      more(all.link_folders, finding.usage.link_folders);
      more(all.link_items, finding.usage.link_items);
    }
    found = first_only ? finding.found : found && finding.found;
    last = finding;
    e.keep(std::move(finding));
    if (first_only) break;
  }
  if (first_only && !found) e.keep(last);
  last.found = found;
  if (modules.size() > 1 && !first_only) last.version.clear();
  set_module_variables(e, i[0], all, last, true);
  if (imported && (found || required)) imported_target(e, "PkgConfig::" + i[0], all, i);
}
void command_pkg_check_modules(Evaluator& e, const Invocation& i) { pkg_modules(e, i, false); }
void command_pkg_search_module(Evaluator& e, const Invocation& i) { pkg_modules(e, i, true); }

void command_pkg_get_variable(Evaluator& e, const Invocation& i) {
  e.need(i, 3, "pkg_get_variable(RESULT MODULE NAME)");
  const auto search = locate::pc_search(e.locator.settings().prefixes, e.locator.toolchain().machine, "");
  const auto module = locate::find_pc({i[1], "", ""}, search);
  const auto it = module.file.variables.find(i[2]);
  e.set(i[0], it == module.file.variables.end() ? "" : it->second);
}

// What find files call at their end: are all the variables set?
void command_handle_standard_args(Evaluator& e, const Invocation& i) {
  e.need(i, 2, i.name + "(NAME ...)");
  const auto words =
      keywords(i.texts(1), {"CONFIG_MODE", "HANDLE_COMPONENTS", "HANDLE_VERSION_RANGE", "NAME_MISMATCHED"},
               {"FOUND_VAR", "VERSION_VAR", "REASON_FAILURE_MESSAGE", "FAIL_MESSAGE"}, {"REQUIRED_VARS"});
  auto variables = words.list("REQUIRED_VARS");
  if (!words.has("REQUIRED_VARS")) {
    variables = words.rest;
    if (!variables.empty()) variables.erase(variables.begin());  // the old form begins with a message
  }
  bool found = true;
  for (const auto& variable : variables) found = found && e.on(variable);
  const std::string wanted = e.value(i[0] + "_FIND_VERSION");
  if (found && words.has("VERSION_VAR") && !wanted.empty()) {
    const std::string have = e.value(words.get("VERSION_VAR"));
    found = text::version_meets(have, (e.on(i[0] + "_FIND_VERSION_EXACT") ? "= " : ">= ") + wanted);
  }
  if (words.has("HANDLE_COMPONENTS")) {
    for (const auto& component : list_elements(e.value(i[0] + "_FIND_COMPONENTS"))) {
      if (e.on(i[0] + "_FIND_REQUIRED_" + component)) found = found && e.on(i[0] + "_" + component + "_FOUND");
    }
  }
  e.set(i[0] + "_FOUND", found ? "TRUE" : "FALSE");
  e.set(text::upper(i[0]) + "_FOUND", found ? "TRUE" : "FALSE");
}

void command_find_dependency(Evaluator& e, const Invocation& i) {
  // Within a package's own description: required exactly when the package is.
  Invocation inner = i;
  const std::string outer = e.value("CMAKE_FIND_PACKAGE_NAME");
  if (e.on(outer + "_FIND_REQUIRED")) inner.words.push_back({"REQUIRED", false});
  command_find_package(e, inner);
  e.set("CMAKE_FIND_PACKAGE_NAME", outer);
  if (!e.on(i[0] + "_FOUND")) {
    e.set(outer + "_FOUND", "FALSE");
    e.set(outer + "_NOT_FOUND_MESSAGE", outer + " needs " + i[0] + ", which is not there");
    e.set_flow(Flow::leave_function);
  }
}

}  // namespace

void add_package_commands(CommandTable& table) {
  table["find_package"] = command_find_package;
  table["find_dependency"] = command_find_dependency;
  table["pkg_check_modules"] = command_pkg_check_modules;
  table["pkg_search_module"] = command_pkg_search_module;
  table["pkg_get_variable"] = command_pkg_get_variable;
  table["find_package_handle_standard_args"] = command_handle_standard_args;
}

}  // namespace coctilis::describe::listfile
