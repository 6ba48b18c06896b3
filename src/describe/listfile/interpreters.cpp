// Packages that are an interpreter: the program, where its modules go, and what programs that hold it, or modules for
// it, are compiled and linked with.
#include "base/lists.h"
#include "base/text.h"
#include "describe/listfile/packages.h"
#include "locate/known.h"

namespace coctilis::describe::listfile {

namespace {

using locate::KnownInterpreter;

// Values behind a word at the beginning of lines, in order: other lines may be warnings.
std::vector<std::string> values_behind(const std::string& output, const std::string& word) {
  std::vector<std::string> out;
  for (const auto& line : text::split(output, '\n')) {
    if (line.starts_with(word + " ")) out.push_back(line.substr(word.size() + 1));
  }
  return out;
}

// What an interpreter tells of itself: where modules go, and what their files are called.
void set_places(Evaluator& e, const KnownInterpreter& known, const std::string& prefix, const std::string& program) {
  const auto told = values_behind(e.locator.told_by({program, "-c", known.ask}), "tells");
  for (std::size_t k = 0; k < known.places.size() && k < told.size(); ++k) e.set(prefix + known.places[k], told[k]);
}

// Headers that come with a module of the interpreter. False when they are not there.
bool find_add_on(Evaluator& e, const PackageWish& wish, const KnownInterpreter::AddOn& known,
                 const std::string& interpreter, bool required, const Invocation& i) {
  std::vector<std::string> told;
  if (!interpreter.empty())
    told = values_behind(e.locator.told_by({interpreter, "-c", known.ask},
                                           [](const std::string& output) { return values_behind(output, "looks"); }),
                         "tells");
  model::Finding finding;
  finding.requirement = {model::RequirementKind::library, known.name, {}, required, i.name, i.place, {}};
  finding.found = told.size() == 2;
  finding.looked = {"asked the interpreter"};
  finding.how = "interpreter";
  finding.package = known.package;
  const std::string prefix = wish.name + "_" + known.component;
  if (finding.found) {
    finding.where = told[0];
    finding.version = told[1];
    finding.looked.clear();
    e.set(prefix + "_INCLUDE_DIRS", told[0]);
    e.set(prefix + "_VERSION", told[1]);
    model::Usage usage;
    usage.include_folders = {told[0]};
    imported_target(e, wish.name + "::" + known.component, usage, i);
  }
  e.set(prefix + "_FOUND", finding.found ? "TRUE" : "FALSE");
  const bool found = finding.found;
  e.keep(std::move(finding));
  return found;
}

// True unless one of its add-ons is asked for, and not there though it has to be.
bool add_ons_do(Evaluator& e, const PackageWish& wish, const KnownInterpreter& known, const std::string& interpreter,
                const Invocation& i) {
  bool all = true;
  for (const auto& add_on : known.add_ons) {
    if (lists::contains(wish.components, add_on.component))
      all = find_add_on(e, wish, add_on, interpreter, wish.required, i) && all;
    else if (lists::contains(wish.optional_components, add_on.component))
      (void)find_add_on(e, wish, add_on, interpreter, false, i);
  }
  return all;
}

// The program alone.
void find_program_alone(Evaluator& e, const PackageWish& wish, const KnownInterpreter& known, const Invocation& i) {
  const bool older = lists::contains(known.program_only, wish.name);
  const std::string prefix = older ? known.prefixes.at(wish.name) : wish.name;
  for (const auto& component : wish.components) {
    const bool add_on = std::any_of(known.add_ons.begin(), known.add_ons.end(),
                                    [&](const auto& one) { return one.component == component; });
    if (component != known.interpreter_target && !add_on)
      e.not_understood(i, "find_package(" + wish.name + " COMPONENTS " + component + ")");
  }
  auto want = requirement_of(wish, model::RequirementKind::program, i);
  want.name = known.programs.front();
  auto finding = e.locator.program(want, known.programs, {});
  if (finding.found) {
    finding.version = e.locator.version_of_program(finding.where);
    e.set(prefix + "_EXECUTABLE", finding.where);
    if (!older) imported_program(e, wish.name + "::" + known.interpreter_target, finding.where, i);
    if (!older) set_places(e, known, wish.name, finding.where);
  }
  e.set(wish.name + "_" + known.interpreter_target + "_FOUND", finding.found ? "TRUE" : "FALSE");
  const bool found = add_ons_do(e, wish, known, finding.where, i) && finding.found;
  set_found(e, wish, found, finding.version);
  // The older names of the interpreter's variables are not made from the package's.
  if (older && finding.found) set_version(e, prefix, finding.version);
  e.keep(std::move(finding));
}

void find_with_library(Evaluator& e, const PackageWish& wish, const KnownInterpreter& known, const Invocation& i) {
  // The older package has variables under another name, and leaves the interpreter to a package of its own.
  const bool older = lists::contains(known.library_only, wish.name);
  auto interpreter = e.locator.program(
      {model::RequirementKind::program, known.programs.front(), {}, wish.required, i.name, i.place, {}}, known.programs,
      {});
  auto library = e.locator.module(
      {model::RequirementKind::library, known.module, wish.constraint(), wish.required, i.name, i.place, {}});
  if (library.package.empty() && !library.found) library.package = known.package;
  const std::string version = interpreter.found ? e.locator.version_of_program(interpreter.where) : "";
  const bool found = library.found && (older || interpreter.found);
  std::vector<std::string> files;
  for (const auto& item : library.usage.link_items) {
    if (!item.starts_with("-l")) continue;
    const auto file = e.locator.link_name({model::RequirementKind::library, item.substr(2), {}, false, {}, {}, {}},
                                          library.usage.link_folders);
    files.push_back(file.found ? file.where : item);
  }
  std::vector<std::string> prefixes = {known.prefixes.at(wish.name)};
  if (!older) prefixes.push_back(wish.name);
  for (const std::string& prefix : prefixes) {
    if (!older) e.set(prefix + "_EXECUTABLE", interpreter.where);
    for (const char* ending : {"_INCLUDE_DIRS", "_INCLUDE_DIR", "_INCLUDE_PATH"})
      e.set(prefix + ending, list_join(library.usage.include_folders));
    e.set(prefix + "_LIBRARIES", list_join(files));
    e.set(prefix + "_LIBRARY", files.empty() ? "" : files.front());
  }
  for (const auto& component : known.components)
    e.set(wish.name + "_" + component + "_FOUND", found ? "TRUE" : "FALSE");
  if (found) {
    model::Usage module = library.usage;
    module.link_items.clear();
    model::Usage embedded = library.usage;
    embedded.link_items = files;
    imported_target(e, wish.name + "::" + known.module_target, module, i);
    imported_target(e, wish.name + "::" + known.embedded_target, embedded, i);
    imported_program(e, wish.name + "::" + known.interpreter_target, interpreter.where, i);
  }
  if (interpreter.found && !older) set_places(e, known, wish.name, interpreter.where);
  const bool all = add_ons_do(e, wish, known, interpreter.where, i) && found;
  set_found(e, wish, all, version.empty() || older ? library.version : version);
  if (interpreter.found || !older) e.keep(std::move(interpreter));
  e.keep(std::move(library));
}

}  // namespace

bool find_interpreter(Evaluator& e, const PackageWish& wish, const Invocation& i) {
  const auto* known = locate::known_interpreter(wish.name);
  if (known == nullptr) return false;
  bool library = lists::contains(known->library_only, wish.name);
  for (const auto* list : {&wish.components, &wish.optional_components}) {
    for (const auto& component : *list) library = library || component.starts_with(known->development);
  }
  if (library && !lists::contains(known->program_only, wish.name))
    find_with_library(e, wish, *known, i);
  else
    find_program_alone(e, wish, *known, i);
  return true;
}

}  // namespace coctilis::describe::listfile
