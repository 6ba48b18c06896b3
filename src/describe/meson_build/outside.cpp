// What a description asks for from outside: dependencies, programs, subprojects, what commands say.
#include <re2/re2.h>

#include <algorithm>

#include "base/files.h"
#include "base/lists.h"
#include "base/machine.h"
#include "base/observed.h"
#include "base/text.h"
#include "describe/meson_build/evaluator.h"
#include "describe/meson_build/options.h"
#include "describe/readers.h"
#include "describe/toolkit.h"
#include "locate/compiler_parts.h"
#include "locate/known.h"

namespace coctilis::describe::meson_build {

namespace {

std::string constraint_of(const std::vector<std::string>& words) {
  std::string out;
  for (const auto& word : words) {
    std::string one(text::trim(word));
    if (one.starts_with("==")) one = one.substr(1);
    if (!one.empty() && std::string_view("<>=!").find(one.front()) == std::string_view::npos) one = "= " + one;
    out += (out.empty() ? "" : ", ") + one;
  }
  return out;
}

void take(Dependency& out, const model::Finding& finding) {
  if (!finding.found) return;
  out.found = true;
  out.version = finding.version;
  if (finding.where.ends_with(".pc")) out.module_file = finding.where;
  const auto& from = finding.usage;
  auto& to = out.usage;
  lists::append(to.include_folders, from.include_folders);
  lists::append(to.definitions, from.definitions);
  lists::append(to.compile_options, from.compile_options);
  lists::append(to.link_folders, from.link_folders);
  lists::append(to.link_items, from.link_items);
}

model::Requirement requirement(const std::string& name, const Arguments& a, const Evaluator& e, bool required) {
  model::Requirement want;
  want.kind = model::RequirementKind::package;
  want.name = name;
  want.constraint = constraint_of(e.texts(a, "version"));
  want.required = required;
  want.required_by = "dependency()";
  want.place = a.place;
  if (e.truth_or(a, "static", false)) want.form = "static";
  return want;
}

// A part of the tool chain or of the C library.
bool look_for_part(Evaluator& e, const locate::KnownCompilerPart& part, const Arguments& a, bool required,
                   Dependency& out) {
  const auto& languages = e.scope().languages;
  const bool in_c = languages.empty() || lists::contains(languages, "C");
  model::Question asked;
  asked.name = part.shown;
  asked.required_by = "dependency()";
  asked.place = a.place;
  auto found = locate::look_for(e.locator, part, in_c ? "C" : languages.front(), asked);
  if (found.found && !part.preferred.second.empty()) {
    found.option = part.preferred.second;
    found.compiled_with = lists::contains(part.compiled_with, found.option);
  }
  model::Finding finding;
  finding.requirement = requirement(part.shown, a, e, required);
  finding.requirement.kind = model::RequirementKind::library;
  finding.found = found.found;
  finding.how = "probe";
  finding.where = found.option.empty() ? "in the C library" : found.option;
  if (!found.found) finding.package = part.package_for(e.locator.toolchain().family);
  finding.usage = found.usage();
  take(out, finding);
  out.by = "system";
  e.locator.keep(std::move(finding));
  return out.found;
}

// All of several findings, which are kept.
bool take_all(Evaluator& e, std::vector<model::Finding> findings, Dependency& out) {
  bool all = !findings.empty();
  for (auto& finding : findings) {
    const bool found = finding.found;
    take(out, finding);
    all = all && found;
    e.locator.keep(std::move(finding));
  }
  out.found = all;
  return all;
}

// Modules of the toolkit.
bool look_for_modules(Evaluator& e, const std::string& major, const Arguments& a, bool required, Dependency& out) {
  const Toolkit toolkit(e.locator, major);
  const std::string ending = e.truth_or(a, "private_headers", false) ? "-private" : "";
  std::vector<model::Finding> findings;
  for (const auto& part : e.texts(a, "modules"))
    findings.push_back(toolkit.module(text::lower(part) + ending, "dependency()", a.place, required));
  out.by = "pkgconfig";
  const bool found = take_all(e, std::move(findings), out);
  out.version = toolkit.version();
  // Its headers ask for it, also in programs.
  out.usage.compile_options.emplace_back("-fPIC");
  return found;
}

// A collection whose components are libraries of their own.
bool look_for_components(Evaluator& e, const locate::KnownLibrary& known, const Arguments& a, bool required,
                         Dependency& out) {
  std::vector<model::Finding> findings = {e.locator.library(requirement(known.name, a, e, required))};
  const std::string folder =
      known.headers.empty() ? "" : known.headers.front().substr(0, known.headers.front().find('/'));
  for (const auto& part : e.texts(a, "modules")) {
    auto want = requirement(text::replace_all(known.component_library, "{}", part), a, e, required);
    want.kind = model::RequirementKind::library;
    want.constraint.clear();
    auto library = e.locator.link_name(want, {});
    if (!library.found) {
      // Some are headers alone.
      auto header = want;
      header.kind = model::RequirementKind::header;
      header.name = folder + "/" + part + ".hpp";
      if (auto found = e.locator.header(header, {}); found.found) library = std::move(found);
    }
    if (library.package.empty()) library.package = known.package;
    findings.push_back(std::move(library));
  }
  return take_all(e, std::move(findings), out);
}

// One of the names; what was found is kept, and so is what is missing.
bool look_for(Evaluator& e, const std::string& name, const Arguments& a, bool required, Dependency& out) {
  static const RE2 toolkit("(?i)qt([0-9])");
  if (const auto* part = locate::known_compiler_part_by_word(name)) return look_for_part(e, *part, a, required, out);
  std::string major;
  if (RE2::FullMatch(name, toolkit, &major)) return look_for_modules(e, major, a, required, out);
  const auto* known =
      locate::known_library(name) != nullptr ? locate::known_library(name) : locate::known_by_word(name);
  if (known != nullptr && !known->component_library.empty()) return look_for_components(e, *known, a, required, out);
  auto want = requirement(name, a, e, required);
  // The library that begins programs lies beside the other, which it needs.
  if (known != nullptr && !known->beside.library.empty() && e.truth_or(a, "main", false))
    want.name = known->beside.library;
  for (const auto& interpreter : locate::known_interpreters()) {
    if (!lists::contains(interpreter.programs, name)) continue;
    want.name = e.truth_or(a, "embed", false) ? interpreter.module : interpreter.name;
  }
  auto finding = e.locator.module(want, want.form == "static");
  if (!finding.found && !finding.refused && e.text_or(a, "method", "auto") != "pkg-config") {
    // By the names that libraries are known by.
    if (known != nullptr && want.name == name) want.name = known->name;
    if (auto library = e.locator.library(want); library.found || known != nullptr) finding = std::move(library);
  }
  finding.requirement.name = name;
  if (finding.where.ends_with(".pc")) out.by = "pkgconfig";
  take(out, finding);
  e.locator.keep(std::move(finding));
  return out.found;
}

}  // namespace

void use_system_folders(Dependency& of) {
  for (auto& folders : of.include) {
    auto copy = std::make_shared<IncludeFolders>(*folders);
    copy->system = true;
    folders = std::move(copy);
  }
}

std::shared_ptr<Dependency> Evaluator::copied(const Dependency& of, const Arguments& a,
                                              const std::function<void(Dependency&)>& change) {
  std::map<const Dependency*, std::shared_ptr<Dependency>> known;
  const std::function<std::shared_ptr<Dependency>(const Dependency&)> copy = [&](const Dependency& one) {
    auto& out = known[&one];
    if (out) return out;
    // Copies of copies get more and more: each takes as much room as many steps.
    count(a.place, 50);
    out = std::make_shared<Dependency>(one);
    change(*out);
    const auto made = out;
    for (auto& need : made->needs) need = copy(*need);
    return made;
  };
  return copy(of);
}

namespace {

std::shared_ptr<Dependency> from_subproject(Evaluator& e, const std::string& subproject, std::string variable,
                                            const std::string& name, bool required, const Arguments& a) {
  std::vector<std::string> defaults = e.texts(a, "default_options");
  const auto sub = e.subproject(subproject, required, a, defaults);
  if (!sub->scope) return nullptr;
  if (const auto it = e.own_dependencies.find(name); it != e.own_dependencies.end()) return it->second;
  if (variable.empty()) {
    if (const auto it = e.provided_name.find(name); it != e.provided_name.end()) variable = it->second;
  }
  if (variable.empty()) return nullptr;
  const auto it = sub->scope->variables.find(variable);
  return it == sub->scope->variables.end() ? nullptr : it->second.as<Dependency>();
}

Value dependency(Evaluator& e, Arguments& a) {
  e.check_names(a, {"required", "version", "fallback", "method", "modules", "static", "include_type", "default_options",
                    "disabler", "not_found_message", "allow_fallback", "native", "private_headers", "embed", "main"});
  auto out = e.find_dependency(e.texts(flattened(a.positional), a), a);
  if (!out->found && e.truth_or(a, "disabler", false)) return object(std::make_shared<Disabler>());
  if (!out->found) {
    if (const std::string told = e.text_or(a, "not_found_message"); !told.empty())
      e.project.messages.push_back(text::printable(told));
  }
  if (e.text_or(a, "include_type") == "system") return object(e.copied(*out, a, use_system_folders));
  return object(std::move(out));
}

Value find_program(Evaluator& e, Arguments& a) {
  e.check_names(a, {"required", "native", "disabler", "dirs", "version", "version_argument", "default_options"});
  std::vector<Value> names = flattened(a.positional);
  auto out = e.find_program(names, e.wanted(a), a);
  if (!out->found && e.truth_or(a, "disabler", false)) return object(std::make_shared<Disabler>());
  return object(std::move(out));
}

// How a script that cannot be run by itself is started: by what its first line names.
std::vector<std::string> command_for(const std::string& path) {
  if (files::is_program(path)) return {path};
  const std::string first = files::read_beginning(path, 256);
  if (first.starts_with("#!")) {
    auto words =
        text::words(first.substr(2, first.find('\n') == std::string::npos ? std::string::npos : first.find('\n') - 2));
    if (words.size() > 1 && words[0].ends_with("/env")) words.erase(words.begin());
    if (!words.empty()) {
      const std::string program = coctilis::find_program(words[0]);
      if (!program.empty()) {
        words[0] = program;
        words.push_back(path);
        return words;
      }
    }
  }
  if (path.ends_with(".py")) {
    for (const auto& name : locate::known_interpreters().front().programs) {
      if (const std::string python = coctilis::find_program(name); !python.empty()) return {python, path};
    }
  }
  return {path};
}

Value run_command(Evaluator& e, Arguments& a) {
  e.check_names(a, {"check", "env", "capture"});
  std::vector<std::string> command;
  std::vector<std::string> inputs;
  const auto values = flattened(a.positional);
  if (values.empty()) e.fail(a, "run_command() needs a command");
  const auto* first = values.front().text();
  if (first != nullptr || values.front().as<File>()) {
    // By name: a file of the tree, or on PATH.
    auto program = e.find_program({values.front()}, {false, false}, a);
    if (program->command.empty()) {
      auto out = std::make_shared<RunResult>();
      out->code = 127;
      if (e.truth_or(a, "check", false))
        e.fail(a, "'" + text::printable_line(shown(values.front())) + "' cannot be run: it is not there");
      return object(std::move(out));
    }
    auto all = values;
    all.front() = object(program);
    command = e.command_words(all, a, inputs);
  } else {
    command = e.command_words(values, a, inputs);
  }
  const auto ended = e.run_command(command, e.source_folder(), e.environment_of(a.find("env"), a), a);
  auto out = std::make_shared<RunResult>();
  out->code = ended.how == Ended::How::exited ? ended.code : 1;
  out->output = ended.output;
  out->errors = ended.errors;
  if (e.truth_or(a, "check", false) && out->code != 0)
    throw Fault(
        {Exit::description,
         a.place,
         "the command '" + text::clip(text::printable_line(text::shell_join(command)), 120) +
             "' failed: " + ended.text(),
         text::clip(text::printable_line(std::string(text::trim(ended.errors.empty() ? ended.output : ended.errors))),
                    400),
         {},
         {}});
  return object(std::move(out));
}

}  // namespace

std::shared_ptr<Dependency> Evaluator::find_dependency(const std::vector<std::string>& names, const Arguments& a) {
  auto out = std::make_shared<Dependency>();
  const auto wish = wanted(a);
  if (names.empty() || (names.size() == 1 && names[0].empty())) {
    // Without a name only what stands in for it counts.
    if (a.find("fallback") == nullptr) return out;
  } else {
    out->name = names.front();
  }
  if (wish.off) return out;
  // What the tree gives itself counts as anything else does: one of another version is none.
  const auto constraints = texts(a, "version");
  const auto if_it_fits = [&](const std::shared_ptr<Dependency>& found) {
    if (!found->found || version_holds(found->version, constraints)) return found;
    if (wish.required)
      fail(a, "the dependency '" + text::printable_line(out->name) + "' is of version " +
                  text::printable_line(found->version.empty() ? "unknown" : found->version) + ", and " +
                  text::join(constraints, ", ") + " is wanted");
    return out;
  };
  for (const auto& name : names) {
    if (const auto it = own_dependencies.find(name); it != own_dependencies.end()) return if_it_fits(it->second);
  }
  const auto fallback = texts(a, "fallback");
  const auto* allowed = a.find("allow_fallback");
  const bool may_fall_back = allowed == nullptr || (allowed->boolean() == nullptr ? true : *allowed->boolean());
  std::string subproject_name = fallback.empty() ? "" : fallback.front();
  std::string provided_as;
  if (subproject_name.empty() && may_fall_back) {
    for (const auto& name : names) {
      const auto it = provided.find(name);
      if (it == provided.end()) continue;
      subproject_name = it->second;
      provided_as = name;
      break;
    }
    // One of that name lies there.
    for (const auto& name : names) {
      if (subproject_name.empty() && wish.required && !name.empty() &&
          files::is_file(top->folder + "/subprojects/" + name + "/meson.build"))
        subproject_name = name;
    }
  }
  const bool can_fall_back =
      !subproject_name.empty() && files::is_file(top->folder + "/subprojects/" + subproject_name + "/meson.build");
  const std::string forced = built_in("wrap_mode");
  if (!(can_fall_back && forced == "forcefallback")) {
    for (std::size_t i = 0; i < names.size(); ++i) {
      if (names[i].empty()) continue;
      const bool last = i + 1 == names.size();
      Dependency found;
      found.name = names[i];
      if (look_for(*this, names[i], a, wish.required && last && !can_fall_back, found)) {
        if (names.size() > 1) found.name = names[i];
        return std::make_shared<Dependency>(std::move(found));
      }
    }
  }
  if (can_fall_back) {
    for (const auto& name : names.empty() ? std::vector<std::string>{""} : names) {
      auto found = from_subproject(*this, subproject_name, fallback.size() > 1 ? fallback[1] : "",
                                   provided_as.empty() ? name : provided_as, wish.required, a);
      if (found && found->found) return if_it_fits(found);
    }
    if (wish.required)
      fail(a, "the subproject '" + text::printable_line(subproject_name) + "' does not give the dependency '" +
                  text::printable_line(out->name) + "'");
  }
  return out;
}

std::shared_ptr<Program> Evaluator::find_program(const std::vector<Value>& names, Wanted wish, const Arguments& a) {
  auto out = std::make_shared<Program>();
  if (names.empty()) fail(a, a.name + "() needs a name");
  out->name = names.front().text() != nullptr ? *names.front().text() : shown(names.front());
  if (wish.off) return out;
  std::vector<std::string> plain;
  for (const auto& one : names) {
    if (const auto program = one.as<Program>()) return program;
    std::string name;
    if (const auto file = one.as<File>())
      name = file->path;
    else if (one.text() != nullptr)
      name = *one.text();
    else
      fail(a, std::string(one.kind()) + " is no name of a program");
    if (const auto it = own_programs.find(name); it != own_programs.end()) return it->second;
    plain.push_back(name);
  }
  std::vector<std::string> search = texts(a, "dirs");
  const auto take_file = [&](const std::string& path) {
    out->found = true;
    out->name = path;
    out->command = command_for(path);
  };
  for (const auto& name : plain) {
    // Files of the tree come first.
    const std::string path = source_path(name);
    if (files::is_file(path)) {
      take_file(path);
      return out;
    }
  }
  for (const auto& name : plain) {
    for (const auto& folder : search) {
      const std::string path = files::absolute(folder + "/" + name, source_folder());
      if (!files::is_file(path)) continue;
      take_file(path);
      return out;
    }
  }
  for (const auto& interpreter : locate::known_interpreters()) {
    if (plain.size() == 1 && lists::contains(interpreter.programs, plain[0])) plain = interpreter.programs;
  }
  model::Requirement want;
  want.kind = model::RequirementKind::program;
  want.name = plain.front();
  want.constraint = constraint_of(texts(a, "version"));
  want.required = wish.required;
  want.required_by = a.name + "()";
  want.place = a.place;
  auto finding = locator.program(want, plain, {});
  out->found = finding.found;
  if (finding.found) {
    out->name = finding.where;
    out->command = {finding.where};
    out->version = finding.version;
  } else if (wish.required) {
    // Whether it is missed turns out once it is known what it is for.
    for (const auto& before : missing_programs) {
      if (before->name == plain.front()) return before;
    }
    out->found = true;
    out->missing = std::move(finding);
    missing_programs.push_back(out);
    return out;
  }
  locator.keep(std::move(finding));
  return out;
}

std::string Evaluator::tool(const std::string& name, const Arguments& a) {
  if (const auto it = own_programs.find(name); it != own_programs.end() && it->second->command.size() == 1)
    return it->second->command[0];
  model::Requirement want;
  want.kind = model::RequirementKind::program;
  want.name = name;
  want.required_by = a.name + "()";
  want.place = a.place;
  auto finding = locator.program(want, {name}, {});
  const std::string where = finding.found ? finding.where : "";
  locator.keep(std::move(finding));
  return where;
}

Ended Evaluator::run_command(const std::vector<std::string>& command, const std::string& folder,
                             const std::map<std::string, std::string>& environment, const Arguments& a) {
  if (command.empty()) fail(a, "a command without a word");
  if (is_build_program(command.front()))
    fail(a, "'" + text::printable_line(command.front()) +
                "' builds by a description of its own, and is never started here");
  for (const auto& program : missing_programs) {
    if (program->name != command.front()) continue;
    const auto& finding = *program->missing;
    throw Fault({Exit::missing,
                 finding.requirement.place,
                 "the program '" + text::printable_line(program->name) + "' is required, and not there",
                 "it is run while the description is read, at " + a.place.text(),
                 finding.package.empty() ? "install it" : "apt-get install " + finding.package,
                 {}});
  }
  Command run;
  run.argv = command;
  run.folder = folder;
  run.merge_errors = false;
  run.limit_seconds = 300;
  run.writable = {work};
  run.output_limit = 16U << 20U;
  run.environment["LC_ALL"] = "C.UTF-8";
  run.environment["MESON_SOURCE_ROOT"] = tree;
  run.environment["MESON_BUILD_ROOT"] = work;
  run.environment["MESON_SUBDIR"] = files::below(source_folder(), tree);
  for (const auto& [name, value] : environment) run.environment[name] = value;
  files::make_folder(work);
  return observe::run(run);
}

// ---- subprojects
// -------------------------------------------------------------------------------------------------------

// Files beside subprojects tell which dependencies these are for, and in which folder they lie.
void Evaluator::look_for_provided(const std::string& folder) {
  for (const auto& name : files::names_in(folder)) {
    if (!name.ends_with(".wrap")) continue;
    std::string subproject = name.substr(0, name.size() - 5);
    std::vector<std::pair<std::string, std::string>> entries;
    bool provides = false;
    for (const auto& raw : text::split(files::read(folder + "/" + name).value_or(""), '\n')) {
      const std::string line(text::trim(raw));
      if (line.starts_with('[')) provides = line == "[provide]";
      const auto equals = line.find('=');
      if (equals == std::string::npos || line.starts_with('#')) continue;
      const std::string key(text::trim(line.substr(0, equals)));
      const std::string value(text::trim(line.substr(equals + 1)));
      if (!provides && key == "directory") subproject = value;
      if (provides) entries.emplace_back(key, value);
    }
    provided[subproject] = subproject;
    for (const auto& [key, value] : entries) {
      if (key == "program_names") continue;
      if (key == "dependency_names") {
        for (const auto& one : text::split(value, ',')) provided[std::string(text::trim(one))] = subproject;
      } else {
        provided[key] = subproject;
        provided_name[key] = value;
      }
    }
  }
}

std::shared_ptr<SubprojectObject> Evaluator::subproject(const std::string& name, bool required, const Arguments& a,
                                                        const std::vector<std::string>& defaults) {
  if (const auto it = subprojects.find(name); it != subprojects.end()) return it->second;
  auto out = std::make_shared<SubprojectObject>();
  const std::string folder = files::absolute("subprojects/" + name, top->folder);
  const std::string file = folder + "/meson.build";
  if (!files::is_below(folder, top->folder + "/subprojects"))
    fail(a, "'" + text::printable_line(name) + "' is no folder below subprojects");
  if (!files::is_file(file)) {
    model::Finding finding;
    finding.requirement.kind = model::RequirementKind::submodule;
    finding.requirement.name = "subprojects/" + text::printable_line(name);
    finding.requirement.required = required;
    finding.requirement.required_by = "subproject()";
    finding.requirement.place = a.place;
    finding.looked = {folder};
    finding.reason = files::is_folder(folder) ? "the folder has no meson.build" : "the folder is not there";
    locator.keep(std::move(finding));
    if (required)
      fail(a, "the subproject '" + text::printable_line(name) + "' is not there",
           "bring it in at " + shown_path(folder));
    subprojects[name] = out;
    return out;
  }
  if (!open_subprojects_.insert(name).second)
    fail(a, "the subproject '" + text::printable_line(name) + "' needs itself");
  for (const auto& word : defaults) {
    const auto equals = word.find('=');
    if (equals != std::string::npos)
      for_subprojects.try_emplace(name + ":" + word.substr(0, equals), word.substr(equals + 1));
  }
  auto inner = std::make_shared<ProjectScope>();
  inner->folder = inner->at_folder = folder;
  inner->result_folder = result_folder_of(folder);
  inner->is_subproject = true;
  for (const char* one : {"meson", "host_machine", "build_machine", "target_machine"}) {
    if (const auto it = top->variables.find(one); it != top->variables.end()) inner->variables[one] = it->second;
  }
  look_for_provided(folder + "/subprojects");
  const auto outer = std::exchange(scope_, inner);
  read_file(file);
  scope_ = outer;
  open_subprojects_.erase(name);
  out->scope = inner;
  subprojects[name] = out;
  return out;
}

Evaluator::Evaluator(const ReadRequest& request_, model::Project& project_, const model::Variant& variant_)
    : request(request_),
      locator(request_.locator),
      project(project_),
      variant(variant_),
      tree(request_.survey.tree),
      work(request_.work) {}

void Evaluator::run() {
  top = std::make_shared<ProjectScope>();
  scope_ = top;
  top->folder = top->at_folder = request.file.substr(0, request.file.rfind('/'));
  top->result_folder = result_folder_of(top->folder);
  top->variables["meson"] = object(std::make_shared<Surroundings>());
  const auto machine_of = [](const std::string& triplet) {
    auto out = std::make_shared<Machine>();
    const std::string processor = triplet.substr(0, triplet.find('-'));
    out->processor = processor;
    if (processor.size() == 4 && processor[0] == 'i' && processor.ends_with("86")) out->processor = "x86";
    if (processor.starts_with("arm")) out->processor = "arm";
    if (processor.starts_with("powerpc64") || processor.starts_with("ppc64")) out->processor = "ppc64";
    for (const char* big : {"s390", "powerpc-", "powerpc64-", "mips-", "mips64-", "sparc", "hppa", "m68k"}) {
      if ((triplet + "-").starts_with(big)) out->byte_order = "big";
    }
    return out;
  };
  const auto host = object(machine_of(locator.toolchain().machine));
  top->variables["host_machine"] = host;
  top->variables["target_machine"] = host;
  top->variables["build_machine"] = locator.toolchain().foreign ? object(machine_of(host_processor())) : host;
  look_for_provided(top->folder + "/subprojects");
  read_file(request.file);
  for (const auto& [name, value] : locator.settings().options) {
    if (options_heeded.contains(name)) continue;
    const auto it = locator.settings().option_places.find(name);
    warn(it == locator.settings().option_places.end() ? Place{} : it->second,
         "the description has no option '" + text::clip(text::printable_line(name), 60) + "': its value has no say");
  }
  for (const auto& program : missing_programs) {
    program->missing->requirement.required = program->needed || !program->used;
    locator.keep(*program->missing);
  }
}

std::optional<std::string> variable_of_module(const std::string& file, const std::string& name,
                                              const std::map<std::string, std::string>& defines) {
  if (file.empty()) return std::nullopt;
  auto lines = text::split(files::read(file).value_or(""), '\n');
  for (auto& line : lines) {
    const auto equals = line.find('=');
    if (equals == std::string::npos) continue;
    const auto it = defines.find(std::string(text::trim(line.substr(0, equals))));
    if (it != defines.end()) line = it->first + "=" + it->second;
  }
  const auto module = locate::parse_pc(text::join(lines, "\n"), file);
  if (!module) return std::nullopt;
  const auto it = module->variables.find(name);
  return it == module->variables.end() ? std::nullopt : std::optional<std::string>(it->second);
}

void add_outside_functions(FunctionTable& table) {
  table["dependency"] = dependency;
  table["find_program"] = find_program;
  table["run_command"] = run_command;
}

}  // namespace coctilis::describe::meson_build
