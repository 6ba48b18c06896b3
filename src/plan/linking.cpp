#include "plan/linking.h"

#include <algorithm>
#include <cassert>
#include <filesystem>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "plan/link_order.h"

namespace coctilis::plan {

using model::TargetKind;
using model::Unit;

// The words of a link line with what they mean.
struct Linking::Line {
  std::vector<std::string> items;
  std::vector<const Unit*> units;          // of the tree, whose files are linked; each once, in order
  std::vector<const Unit*> shared_behind;  // shared libraries that only other shared libraries need
};

namespace {
std::string folder_of(const std::string& path) { return std::filesystem::path(path).parent_path().string(); }
bool is_shared(const Unit& unit) {
  return unit.kind == TargetKind::shared_library || unit.kind == TargetKind::module_library;
}
}  // namespace

Linking::Line Linking::line_of(const Unit& unit) const {
  const auto& units = planning_.units;
  Line out;
  std::set<const Unit*> seen;
  for (const auto index : link_order(unit.link)) {
    const auto& item = unit.link.items[index];
    if (!item.unit.empty()) {
      assert(units.contains(item.unit));  // a lowering names units of its own build only
      const Unit* used = units.at(item.unit);
      out.items.push_back(used->result.linker_file);
      if (seen.insert(used).second) out.units.push_back(used);
    } else if (!item.text.empty()) {
      out.items.push_back(item.text);
    }
  }
  // Shared libraries behind shared libraries: the linker has to find them, but they are not on the line.
  std::vector<const Unit*> queue;
  for (const Unit* used : out.units) {
    if (used->kind == TargetKind::shared_library) queue.push_back(used);
  }
  std::set<const Unit*> walked;
  while (!queue.empty()) {
    const Unit* from = queue.back();
    queue.pop_back();
    if (!walked.insert(from).second) continue;
    for (const auto& use : from->uses) {
      const auto it = use.how == model::Use::How::link ? units.find(use.unit) : units.end();
      if (it == units.end() || it->second->external) continue;
      queue.push_back(it->second);
      if (it->second->kind == TargetKind::shared_library && seen.insert(it->second).second)
        out.shared_behind.push_back(it->second);
    }
  }
  return out;
}

model::Step Linking::step(const Unit& unit, const std::vector<std::string>& objects,
                          model::PlannedTarget& planned) const {
  const auto& result = unit.result;
  const Line line = line_of(unit);
  planned.output = result.file;
  planned.names = result.names;
  planned.shared_name = result.shared_name;
  planned.link_items = line.items;
  for (const Unit* used : line.units) planned.uses.push_back(used->name);
  if (objects.empty()) {
    throw Fault({Exit::description,
                 unit.place,
                 "'" + unit.name + "' has no source that can be compiled",
                 "its sources are of no language that the description switches on, or there are none",
                 "check its sources and the languages of the project",
                 {}});
  }
  model::Step step;
  step.target = unit.name;
  step.place = unit.place;
  step.outputs = {result.file};
  step.inputs = objects;
  step.subject = files::below(result.file, planning_.project.binary_root);
  const auto add = [&](const model::UnitCommands& commands) {
    step.actions.insert(step.actions.end(), commands.actions.begin(), commands.actions.end());
    step.inputs.insert(step.inputs.end(), commands.inputs.begin(), commands.inputs.end());
  };
  add(unit.before);
  if (unit.kind == TargetKind::static_library)
    archive(unit, objects, step);
  else
    link(unit, objects, line, planned, step);
  for (const auto& name : result.names) {
    // Each name points at the next longer one, all in the same folder.
    const std::string& to = &name == &result.names.front() ? result.file : result.names.front();
    step.actions.push_back({model::Action::How::builtin,
                            {"create_symlink", std::filesystem::path(to).filename().string(), name},
                            unit.work_folder,
                            {}});
    step.outputs.push_back(name);
  }
  add(unit.behind);
  return step;
}

void Linking::archive(const Unit& unit, const std::vector<std::string>& objects, model::Step& step) const {
  const auto& archiver = planning_.toolchain.archiver;
  step.kind = model::StepKind::archive;
  step.identity = archiver;
  step.tools = {archiver};
  // An archive that is there would keep members that are no longer wanted.
  step.actions.push_back({model::Action::How::builtin, {"rm", "-f", unit.result.file}, unit.work_folder, {}});
  model::Action action;
  action.folder = unit.work_folder;
  action.argv = {archiver, "rcsD", unit.result.file};
  action.argv.insert(action.argv.end(), objects.begin(), objects.end());
  step.actions.push_back(std::move(action));
}

void Linking::link(const Unit& unit, const std::vector<std::string>& objects, const Line& line,
                   model::PlannedTarget& planned, model::Step& step) const {
  const auto& toolchain = planning_.toolchain;
  const auto& with = unit.link;
  step.kind = model::StepKind::link;
  step.language = with.language;
  const auto& wanted = toolchain.compiler(with.language);
  const auto& compiler = wanted.present() ? wanted : toolchain.compiler("C");
  step.identity = compiler.identity;
  step.tools = compiler.programs;
  // Which libraries it takes, and where it looked for them before, only the linker knows.
  step.reads = model::Reads::opened;
  model::Action action;
  action.folder = unit.work_folder;
  auto& argv = action.argv;
  argv = {compiler.path};
  const auto add = [&](const std::vector<std::string>& words) { argv.insert(argv.end(), words.begin(), words.end()); };
  add(toolchain.options);
  add(toolchain.link_options);
  if (is_shared(unit)) add({"-fPIC"});
  add(with.first_options);
  add(planning_.variant.compile);
  if (with.link_time_optimisation) add({"-flto"});
  add(with.kind_options);
  add(planning_.variant.link);
  add(with.options);
  if (is_shared(unit)) add({"-shared"});
  if (!unit.result.shared_name.empty()) add({"-Wl,-soname," + unit.result.shared_name});
  if (with.exports_symbols) add({"-rdynamic"});
  add({"-o", unit.result.file});
  add(objects);
  for (const auto& folder : with.folders) add({"-L" + folder});
  planned.run_path = run_path(unit, line);
  if (!planned.run_path.empty()) add({"-Wl,-rpath," + text::join(planned.run_path, ":")});
  for (const Unit* behind : line.shared_behind) add({"-Wl,-rpath-link," + folder_of(behind->result.file)});
  add(line.items);
  add(with.libraries);
  for (const auto& name : with.languages) {
    if (name != with.language) add(language_of(name, unit.place).link_words(toolchain));
  }
  for (const auto& item : line.items) {
    if (item.starts_with('/')) step.inputs.push_back(item);
  }
  for (const Unit* behind : line.shared_behind) step.after.push_back(behind->result.file);
  step.actions.push_back(std::move(action));
}

std::vector<std::string> Linking::run_path(const Unit& unit, const Line& line) const {
  std::vector<std::string> out;
  if (!unit.link.run_path) return out;
  const std::string& root = planning_.project.binary_root;
  const std::string from = folder_of(unit.result.file);
  const auto add = [&](const std::string& folder) {
    // Relative to the file itself, so that a kiln may be moved.
    std::string entry = folder;
    if (files::is_below(folder, root)) {
      const std::string relative = files::relative(folder, from);
      entry = relative == "." ? "$ORIGIN" : "$ORIGIN/" + relative;
    }
    if (std::find(out.begin(), out.end(), entry) == out.end()) out.push_back(entry);
  };
  for (const auto& folder : unit.link.run_folders) add(folder);
  for (const auto* list : {&line.units, &line.shared_behind}) {
    for (const Unit* used : *list) {
      if (used->kind == TargetKind::shared_library) add(folder_of(used->result.file));
    }
  }
  // Libraries outside of the loader's own folders.
  const auto& built_in = planning_.toolchain.any().link_folders;
  const auto is_built_in = [&](const std::string& folder) {
    return std::find(built_in.begin(), built_in.end(), folder) != built_in.end();
  };
  for (const auto& item : line.items) {
    if (!item.starts_with('/') || item.find(".so") == std::string::npos || files::is_below(item, root)) continue;
    if (const std::string folder = folder_of(item); !is_built_in(folder)) add(folder);
  }
  for (const auto& folder : unit.link.folders) {
    if (!is_built_in(folder)) add(folder);
  }
  return out;
}

namespace {

void finish_run_path(const model::Build& build, const model::Plan& plan, model::InstallItem& item) {
  auto& out = item.run_path;
  const auto add_once = [&](const std::string& entry) {
    if (!entry.empty() && std::find(out.begin(), out.end(), entry) == out.end()) out.push_back(entry);
  };
  const auto* planned = plan.target(item.target);
  if (planned == nullptr) return;
  const auto add_absolute = [&] {
    for (const auto& entry : planned->run_path) {
      if (entry.starts_with('/')) add_once(entry);
    }
  };
  if (item.link_folders_too) add_absolute();
  if (!out.empty()) return;
  const std::string from = "/" + folder_of(item.to);
  for (const auto& name : planned->uses) {
    const auto it = build.installed.find(name);
    if (it == build.installed.end() || it->second.starts_with('/') || item.to.starts_with('/')) continue;
    const std::string relative = files::relative("/" + folder_of(it->second), from);
    add_once(relative == "." ? "$ORIGIN" : "$ORIGIN/" + relative);
  }
  // Libraries from prefixes that the user pointed at stay where they are.
  add_absolute();
}

}  // namespace

void finish_install_run_paths(const model::Build& build, model::Plan& plan) {
  for (auto& item : plan.install) {
    if (item.relink) finish_run_path(build, plan, item);
  }
}

}  // namespace coctilis::plan
