// Packages that are programs, or parts of the tool chain and the system: what a description learns of them.
#include "base/files.h"
#include "base/lists.h"
#include "base/process.h"
#include "base/text.h"
#include "describe/listfile/packages.h"
#include "locate/known.h"

namespace coctilis::describe::listfile {

namespace {
void set_version(Evaluator& e, const std::string& prefix, const std::string& version) {
  e.set(prefix + "_VERSION", version);
  e.set(prefix + "_VERSION_STRING", version);
  const auto parts = text::split(version, '.');
  const char* const names[] = {"_VERSION_MAJOR", "_VERSION_MINOR", "_VERSION_PATCH"};
  for (std::size_t k = 0; k < 3; ++k) e.set(prefix + names[k], k < parts.size() ? parts[k] : "0");
}
}  // namespace

void set_found(Evaluator& e, const PackageWish& wish, bool found, const std::string& version) {
  e.set(wish.name + "_FOUND", found ? "TRUE" : "FALSE");
  e.set(text::upper(wish.name) + "_FOUND", found ? "TRUE" : "FALSE");
  if (found && !version.empty()) {
    set_version(e, wish.name, version);
    set_version(e, text::upper(wish.name), version);
  }
  for (const auto& component : wish.components) e.set(wish.name + "_" + component + "_FOUND", found ? "TRUE" : "FALSE");
}

model::Requirement requirement_of(const PackageWish& wish, model::RequirementKind kind, const Invocation& i) {
  return {kind, wish.name, wish.constraint(), wish.required, "find_package", i.place};
}

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

void imported_program(Evaluator& e, const std::string& name, const std::string& path, const Invocation& i) {
  if (path.empty() || e.target(name) != nullptr) return;
  auto& target = e.add_target(name, model::TargetKind::program, i);
  target.imported = true;
  target.in_default = false;
  target.properties["IMPORTED_LOCATION"] = {e.word(path, i)};
}

namespace {

bool asked(Evaluator& e, const locate::Probe& probe, const PackageWish& wish, const Invocation& i) {
  const bool yes =
      e.locator.ask(probe, {wish.name + "_FOUND", i.name, i.place, {}, {}, {}, {}, {}, {}, false}).compiled;
  e.locator.conclude(yes ? "TRUE" : "FALSE");
  return yes;
}

// The language in which a question is put.
std::string probe_language_of(const Evaluator& e) {
  const auto languages = e.enabled_languages();
  return std::find(languages.begin(), languages.end(), "C") != languages.end() ? "C" : "C++";
}

}  // namespace

bool find_threads(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  if (wish.name != "Threads") return false;
  locate::Probe probe;
  probe.how = locate::Probe::How::link;
  probe.language = probe_language_of(e);
  probe.source =
      "#include <pthread.h>\nstatic void* work(void* p) { return p; }\nint main() { pthread_t t; return "
      "pthread_create(&t, 0, work, 0) + pthread_join(t, 0); }\n";
  model::Finding finding;
  finding.requirement = requirement_of(wish, model::RequirementKind::library, i);
  finding.requirement.name = "threads";
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

// Packages that stand for a program.
namespace {

// Values behind a word at the beginning of lines, in order: other lines may be warnings.
std::vector<std::string> values_behind(const std::string& output, const std::string& word) {
  std::vector<std::string> out;
  for (const auto& line : text::split(output, '\n')) {
    if (line.starts_with(word + " ")) out.push_back(line.substr(word.size() + 1));
  }
  return out;
}

// What an interpreter tells of itself: where modules go, and what their files are called.
void set_python_places(Evaluator& e, const std::string& prefix, const std::string& interpreter) {
  static constexpr const char* ask =
      "import sysconfig as s\n"
      "k = {'scheme': 'deb_system'} if 'deb_system' in s.get_scheme_names() else {}\n"
      "for n in ('stdlib', 'platstdlib', 'purelib', 'platlib'): print('tells', s.get_path(n, **k))\n"
      "print('tells', s.get_config_var('SOABI') or '')\n";
  const auto told = values_behind(e.locator.told_by({interpreter, "-c", ask}), "tells");
  const char* const names[] = {"_STDLIB", "_STDARCH", "_SITELIB", "_SITEARCH", "_SOABI"};
  for (std::size_t k = 0; k < std::size(names) && k < told.size(); ++k) e.set(prefix + names[k], told[k]);
}

// The component NumPy: headers that come with a module of the interpreter. False when it is not there.
bool find_numpy(Evaluator& e, const PackageWish& wish, const std::string& interpreter, bool required,
                const Invocation& i) {
  static constexpr const char* ask =
      "import sys\n"
      "for f in sys.path:\n  if f: print('looks', f)\n"
      "try:\n  import numpy as n\n  print('tells', n.get_include())\n  print('tells', n.__version__)\n"
      "except ImportError: pass\n";
  std::vector<std::string> told;
  if (!interpreter.empty())
    told = values_behind(e.locator.told_by({interpreter, "-c", ask},
                                           [](const std::string& output) { return values_behind(output, "looks"); }),
                         "tells");
  model::Finding finding;
  finding.requirement = {model::RequirementKind::library, "numpy", {}, required, i.name, i.place, {}};
  finding.found = told.size() == 2;
  finding.looked = {"asked the interpreter"};
  finding.how = "interpreter";
  finding.package = "python3-numpy";
  if (finding.found) {
    finding.where = told[0];
    finding.version = told[1];
    finding.looked.clear();
    e.set(wish.name + "_NumPy_INCLUDE_DIRS", told[0]);
    e.set(wish.name + "_NumPy_VERSION", told[1]);
    model::Usage usage;
    usage.include_folders = {told[0]};
    imported_target(e, wish.name + "::NumPy", usage, i);
  }
  e.set(wish.name + "_NumPy_FOUND", finding.found ? "TRUE" : "FALSE");
  const bool found = finding.found;
  e.keep(std::move(finding));
  return found;
}

// True unless the component is asked for, and not there though it has to be.
bool numpy_does(Evaluator& e, const PackageWish& wish, const std::string& interpreter, const Invocation& i) {
  const auto asked_in = [](const std::vector<std::string>& components) {
    return std::find(components.begin(), components.end(), "NumPy") != components.end();
  };
  if (asked_in(wish.components)) return find_numpy(e, wish, interpreter, wish.required, i);
  if (asked_in(wish.optional_components)) (void)find_numpy(e, wish, interpreter, false, i);
  return true;
}

}  // namespace

bool find_program_package(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  const auto* package = locate::known_program(wish.name);
  if (package == nullptr) return false;
  // A library side of the same name (headers of an interpreter, say) is another matter.
  for (const auto& component : wish.components) {
    if (component != "Interpreter" && component != "dot" && component != "NumPy" && !package->parts)
      e.not_understood(i, "find_package(" + wish.name + " COMPONENTS " + component + ")");
  }
  auto want = requirement_of(wish, model::RequirementKind::program, i);
  want.name = package->programs.front();
  auto finding = e.locator.program(want, package->programs, {});
  if (finding.found) {
    finding.version = e.locator.version_of_program(finding.where);
    e.set(package->variable, finding.where);
    if (!package->target.empty()) imported_program(e, package->target, finding.where, i);
    for (const auto& [variable, program] : package->beside) {
      const std::string path = find_program(program);
      e.set(variable, path.empty() ? variable + "-NOTFOUND" : path);
    }
    for (const auto& [variable, word] : package->told)
      e.set(variable, std::string(text::trim(e.locator.told_by({finding.where, word}))));
    for (const auto& [variable, value] : package->values) e.set(variable, value);
    // What trees start their own settings from.
    if (wish.name == "Doxygen") files::write_if_different(e.binary_root + "/CMakeDoxyfile.in", "");
  }
  bool found = finding.found;
  if (wish.name.starts_with("Python")) {
    e.set(wish.name + "_Interpreter_FOUND", finding.found ? "TRUE" : "FALSE");
    if (finding.found && wish.name != "PythonInterp") set_python_places(e, wish.name, finding.where);
    found = numpy_does(e, wish, finding.where, i) && found;
  }
  set_found(e, wish, found, finding.version);
  // The older names of the interpreter's variables are not made from the package's.
  if (wish.name == "PythonInterp" && finding.found) set_version(e, "PYTHON", finding.version);
  e.keep(std::move(finding));
  return true;
}

// The parts of a library that descriptions ask for one by one; `base` is what its main library needs.
void set_parts(Evaluator& e, const locate::KnownLibrary& known, const model::Usage& base, const Invocation& i) {
  std::vector<std::string> all = base.link_items;
  for (const auto& part : known.parts) {
    const auto library = e.locator.link_name(
        {model::RequirementKind::library, part.library, {}, false, i.name, i.place, {}}, base.link_folders);
    model::Finding header;
    header.found = part.header.empty();
    if (!part.header.empty())
      header = e.locator.header({model::RequirementKind::header, part.header, {}, false, i.name, i.place, {}},
                                base.include_folders);
    const bool there = library.found && header.found;
    e.set(part.found_variable, there ? "TRUE" : "FALSE");
    e.set(part.file_variable, library.found ? library.where : part.file_variable + "-NOTFOUND");
    if (!part.header.empty())
      e.set(part.folder_variable, header.found ? header.where.substr(0, header.where.size() - part.header.size() - 1)
                                               : part.folder_variable + "-NOTFOUND");
    if (!there) continue;
    if (part.adds) all.push_back(library.where);
    model::Usage usage = base;
    usage.link_items = {library.where};
    imported_target(e, part.target, usage, i);
  }
  for (const auto& variable : known.parts_add_to) e.set(variable, list_join(all));
}

// Another library that comes with it, by a name of its own.
void set_beside(Evaluator& e, const locate::KnownLibrary& known, const std::vector<std::string>& items,
                const Invocation& i) {
  if (known.beside.library.empty()) return;
  const auto beside = e.locator.library(
      {model::RequirementKind::library, known.beside.library, {}, false, "find_package", i.place, {}});
  for (const auto& name : known.beside.targets) imported_target(e, name, beside.usage, i);
  e.set(known.beside.own_variable, list_join(beside.usage.link_items));
  e.set(known.beside.both_variable, list_join(items) + ";" + list_join(beside.usage.link_items));
}

// Parts that the C library has on this system; a probe tells.
bool find_in_c_library(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  const auto* part = locate::known_c_library_part(wish.name);
  if (part == nullptr) return false;
  locate::Probe probe;
  probe.how = locate::Probe::How::link;
  probe.language = probe_language_of(e);
  probe.source = part->source;
  model::Finding finding;
  finding.requirement = requirement_of(wish, model::RequirementKind::library, i);
  finding.how = "probe";
  finding.found = asked(e, probe, wish, i);
  finding.where = finding.found ? "in the C library" : "";
  if (!finding.found) finding.package = part->package;
  imported_target(e, part->target, {}, i);
  for (const auto& prefix : {wish.name, text::upper(wish.name)}) {
    e.set(prefix + "_LIBRARIES", "");
    e.set(prefix + "_INCLUDE_DIRS", "");
    e.set(prefix + "_INCLUDE_DIR", "");
  }
  e.set(wish.name + "_IS_BUILT_IN", finding.found ? "TRUE" : "FALSE");
  for (const auto& [variable, value] : part->found) e.set(variable, finding.found ? value : "");
  set_found(e, wish, finding.found, "");
  e.keep(std::move(finding));
  return true;
}

bool find_openmp(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  if (wish.name != "OpenMP") return false;
  model::Finding finding;
  finding.requirement = requirement_of(wish, model::RequirementKind::library, i);
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
    const std::string library = e.locator.toolchain().family == "clang" ? "omp" : "gomp";
    e.set("OpenMP_" + language + "_LIB_NAMES", yes ? library + ";pthread" : "");
    e.set("OpenMP_" + language + "_LIBRARIES", yes ? library + ";pthread" : "");
    if (yes) e.set("OpenMP_" + library + "_LIBRARY", library);
    if (yes) e.set("OpenMP_pthread_LIBRARY", "pthread");
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
  auto interpreter = e.locator.program(
      {model::RequirementKind::program, "python3", {}, wish.required, i.name, i.place, {}}, {"python3", "python"}, {});
  model::Requirement want{
      model::RequirementKind::library, "python3-embed", wish.constraint(), wish.required, i.name, i.place, {}};
  auto library = e.locator.module(want);
  if (library.package.empty() && !library.found) library.package = "libpython3-dev";
  const std::string version = interpreter.found ? e.locator.version_of_program(interpreter.where) : "";
  const bool found = library.found && (wish.name == "PythonLibs" || interpreter.found);
  std::vector<std::string> files;
  for (const auto& item : library.usage.link_items) {
    if (!item.starts_with("-l")) continue;
    const auto file = e.locator.link_name({model::RequirementKind::library, item.substr(2), {}, false, {}, {}, {}},
                                          library.usage.link_folders);
    files.push_back(file.found ? file.where : item);
  }
  // The older package has variables under another name, and leaves the interpreter to a package of its own.
  const bool older = wish.name == "PythonLibs";
  for (const std::string& prefix :
       older ? std::vector<std::string>{"PYTHON"} : std::vector<std::string>{wish.name, text::upper(wish.name)}) {
    if (!older) e.set(prefix + "_EXECUTABLE", interpreter.where);
    e.set(prefix + "_INCLUDE_DIRS", list_join(library.usage.include_folders));
    e.set(prefix + "_INCLUDE_DIR", list_join(library.usage.include_folders));
    e.set(prefix + "_INCLUDE_PATH", list_join(library.usage.include_folders));
    e.set(prefix + "_LIBRARIES", list_join(files));
    e.set(prefix + "_LIBRARY", files.empty() ? "" : files.front());
  }
  for (const char* component : {"Interpreter", "Development", "Development.Module", "Development.Embed"})
    e.set(wish.name + "_" + component + "_FOUND", found ? "TRUE" : "FALSE");
  model::Usage module = library.usage;
  module.link_items.clear();
  model::Usage embedded = library.usage;
  embedded.link_items = files;
  if (found) {
    imported_target(e, wish.name + "::Module", module, i);
    imported_target(e, wish.name + "::Python", embedded, i);
    imported_program(e, wish.name + "::Interpreter", interpreter.where, i);
  }
  if (interpreter.found && wish.name != "PythonLibs") set_python_places(e, wish.name, interpreter.where);
  const bool all = numpy_does(e, wish, interpreter.where, i) && found;
  set_found(e, wish, all, version.empty() || older ? library.version : version);
  if (interpreter.found || wish.name != "PythonLibs") e.keep(std::move(interpreter));
  e.keep(std::move(library));
  return true;
}

}  // namespace coctilis::describe::listfile
