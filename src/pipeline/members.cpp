#include "pipeline/members.h"

#include <algorithm>
#include <filesystem>
#include <set>

#include "base/files.h"
#include "base/hash.h"
#include "base/text.h"

namespace coctilis::pipeline {

namespace {

// What a component is: a folder of the tree, or a description in one.
struct Component {
  std::string name;         // as coctilis.toml has it
  std::string folder;       // relative to the tree
  std::string description;  // file in the folder; empty: the one that a survey finds
};

Problem bad_component(const model::Run& run, const std::string& name, const std::string& why) {
  return {Exit::usage,
          run.settings.components_place,
          "the component '" + text::printable_line(name) + "' " + why,
          {},
          "name folders of the tree, or descriptions in them, each once",
          {}};
}

Component component_of(const model::Run& run, const std::string& name) {
  const std::string path = files::absolute(name, run.tree);
  if (!files::is_below(path, run.tree)) throw Fault(bad_component(run, name, "lies outside of the tree"));
  if (files::is_folder(path)) return {name, files::below(path, run.tree), {}};
  if (!files::is_file(path)) throw Fault(bad_component(run, name, "is not there"));
  const std::filesystem::path file(path);
  return {name, files::below(file.parent_path().string(), run.tree), file.filename().string()};
}

std::vector<Component> components_of(const model::Run& run) {
  std::vector<Component> out;
  std::set<std::string> seen;
  for (const auto& name : run.settings.components) {
    out.push_back(component_of(run, name));
    if (!seen.insert(out.back().folder).second) throw Fault(bad_component(run, name, "is there already"));
  }
  return out;
}

// What the settings of the whole tree mean for a member; its own coctilis.toml comes on top.
model::Settings settings_for_member(const model::Settings& whole, const std::vector<std::string>& installed) {
  model::Settings out;
  out.warnings_as_errors = whole.warnings_as_errors;
  out.toolchain = whole.toolchain;
  out.toolchain_place = whole.toolchain_place;
  out.machine = whole.machine;
  out.linker = whole.linker;
  out.sysroot = whole.sysroot;
  out.options = whole.options;
  out.option_places = whole.option_places;
  out.needs = whole.needs;
  out.variants = whole.variants;
  out.prefixes = whole.prefixes;
  // What members before this one have installed is found before anything else.
  out.prefixes.insert(out.prefixes.begin(), installed.rbegin(), installed.rend());
  return out;
}

// A name for the member's kiln: that of its folder; further down in the tree, so that no two are alike, with a hash.
std::string name_of_kiln(const std::string& folder) {
  if (folder == ".") return "here";
  if (folder.find('/') == std::string::npos) return folder;
  return text::replace_all(folder, "/", "-") + "-" + hash_bytes(folder).text().substr(0, 6);
}

// `installed`: the prefixes of those before it.
model::Run member_of(const model::Run& run, const Component& component, const std::vector<std::string>& installed) {
  model::Run member;
  member.member_name = component.name;
  member.command = run.command;
  member.started = run.started;
  member.options = run.options;
  member.options.tree = component.folder == "." ? run.tree : run.tree + "/" + component.folder;
  member.options.kiln = run.kiln + "/members/" + name_of_kiln(component.folder);
  member.options.config.clear();
  member.options.prefixes.clear();
  member.options.targets.clear();
  member.options.checks.clear();
  member.options.prefix = run.kiln + "/installed/" + name_of_kiln(component.folder);
  member.inherited = settings_for_member(run.settings, installed);
  member.inherited->description = component.description;
  return member;
}

// Links in bin/ and lib/ of the whole kiln to what members have made. A name that two of them have is that of the
// first; that of the other lies in a folder of the member's name.
void show_results_of_members(const model::Run& run) {
  for (const char* group : {"bin", "lib"}) {
    const std::string folder = run.kiln + "/" + group;
    std::error_code error;
    std::filesystem::remove_all(folder, error);
    files::make_folder(folder);
    for (const auto& member : run.members) {
      if (!member.built) continue;
      const std::string from = member.kiln + "/" + group;
      for (const auto& name : files::names_in(from)) {
        std::string to = folder + "/" + name;
        if (files::exists(to) || files::is_link(to)) {
          const std::string own = folder + "/" + std::filesystem::path(member.options.kiln).filename().string();
          files::make_folder(own);
          to = own + "/" + name;
        }
        std::filesystem::create_symlink(
            files::relative(from + "/" + name, std::filesystem::path(to).parent_path().string()), to, error);
      }
    }
  }
}

// Takes over how a member ended.
void take_problem(model::Run& run, const model::Run& member) {
  if (run.problem || !member.problem) return;
  run.problem = member.problem;
  run.problem->what = member.member_name + ": " + run.problem->what;
  run.outcome.interrupted_by = member.outcome.interrupted_by;
}

}  // namespace

bool bring_up_members(model::Run& run, const Wish& wish, Watcher& watcher) {
  const auto all = guarded("looking at the components", [&] { return components_of(run); });
  if (!all) {
    run.problem = all.problem();
    return false;
  }
  std::vector<std::string> installed;
  run.members.reserve(all->size());
  for (const auto& component : *all) {
    const bool last = &component == &all->back();
    run.members.push_back(member_of(run, component, installed));
    auto& member = run.members.back();
    watcher.member_begun(run, run.members.size(), all->size());
    Wish own = wish;
    own.fill = false;
    own.may_repeat = false;
    // Those that others come behind have to be there, whatever is asked of the whole.
    if (!last) own.goal = std::max(wish.goal, Goal::build);
    bool good = bring_up(member, own, watcher);
    if (good && member.built && !last && wish.goal != Goal::stage && member.installs()) {
      good = stage(member);
      if (good) {
        watcher.staged(member);
        installed.push_back(member.options.prefix);
      }
    }
    watcher.member_ended(run, member);
    for (auto check : member.checks) {
      check.name = member.member_name + ": " + check.name;
      run.checks.push_back(std::move(check));
    }
    run.checked = run.checked || member.checked;
    take_problem(run, member);
    if (!good && (!run.options.keep_going || member.outcome.interrupted_by != 0)) break;
  }
  run.built = wish.goal >= Goal::build;
  run.reached = run.problem ? model::Stage::locate : model::Stage::build;
  const auto shown = guarded("showing the results", [&] {
    if (run.built) show_results_of_members(run);
    return true;
  });
  if (!shown && !run.problem) run.problem = shown.problem();
  return !run.problem;
}

}  // namespace coctilis::pipeline
