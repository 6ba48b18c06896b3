#include "pipeline/members.h"

#include <algorithm>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <set>

#include "base/files.h"
#include "base/hash.h"
#include "base/text.h"
#include "describe/readers.h"
#include "smoke/smoke.h"
#include "survey/descriptions.h"
#include "survey/settings.h"

namespace coctilis::pipeline {

namespace {

// What a component is: a folder of the tree, or a description in one.
struct Component {
  std::string name;         // as coctilis.toml has it
  std::string folder;       // relative to the tree
  std::string description;  // file in the folder; empty: the one that a survey finds
  bool sees_all = false;    // it is brought up within the whole tree: what it runs may look at what lies beside it
};

// The description that a survey of the folder alone would follow; empty when there is none.
std::string description_in(const std::string& folder, const model::Settings& whole) {
  const auto own = survey::settings_of(folder, {}, whole);
  if (own && !own->description.empty()) return own->description;
  std::vector<model::Description> found;
  for (const auto& name : files::names_in(folder)) {
    const survey::DescriptionFormat* format = nullptr;
    if (survey::description_name(describe::description_formats(), name, &format) == nullptr) continue;
    if (!files::is_file(folder + "/" + name)) continue;
    if (format->counts != nullptr && !format->counts(folder + "/" + name)) continue;
    found.push_back({name, std::string(format->format), false, false, {}});
  }
  const auto chosen = survey::choose_description(found, {}, describe::description_formats(), folder);
  return chosen && !found.empty() && found.front().followed ? found.front().path : "";
}

bool runs_recipes(const std::string& description, const std::string& folder) {
  std::vector<model::Description> found;
  const auto chosen = survey::choose_description(found, description, describe::description_formats(), folder);
  if (!chosen || found.empty()) return false;
  const auto* reader = describe::reader_of(&found.front());
  return reader != nullptr && reader->runs_recipes;
}

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
  std::error_code error;
  const std::string real = std::filesystem::weakly_canonical(path, error).string();
  // By its name, and by where a link leads.
  if (!files::is_below(path, run.tree) || (!error && !files::is_below(real, run.tree)))
    throw Fault(bad_component(run, name, "lies outside of the tree"));
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
    auto& component = out.back();
    if (!seen.insert(component.folder).second) throw Fault(bad_component(run, name, "is there already"));
    const std::string folder = files::absolute(component.folder, run.tree);
    const std::string description =
        component.description.empty() ? description_in(folder, model::Settings{}) : component.description;
    component.sees_all = !description.empty() && runs_recipes(description, folder);
    if (component.sees_all)
      component.description = component.folder == "." ? description : component.folder + "/" + description;
  }
  return out;
}

// What the settings of the whole tree mean for a member; its own coctilis.toml comes on top.
model::Settings settings_for_member(const model::Settings& whole, const std::vector<std::string>& installed) {
  model::Settings out;
  out.warnings_as_errors = whole.warnings_as_errors;
  out.network = whole.network;
  out.devices = whole.devices;
  out.toolchain = whole.toolchain;
  out.toolchain_place = whole.toolchain_place;
  out.machine = whole.machine;
  out.linker = whole.linker;
  out.sysroot = whole.sysroot;
  out.options = whole.options;
  out.option_places = whole.option_places;
  out.needs = whole.needs;
  out.variants = whole.variants;
  out.leave_out = whole.leave_out;
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
  const std::string folder = component.folder == "." ? run.tree : run.tree + "/" + component.folder;
  member.options.tree = component.sees_all ? run.tree : folder;
  // That of the whole is known already.
  if (component.folder != ".") member.settings_folder = folder;
  member.options.kiln = run.kiln + "/members/" + name_of_kiln(component.folder);
  member.options.config.clear();
  member.options.prefixes.clear();
  member.options.targets.clear();
  member.options.checks.clear();
  // What a description writes about its place has to name the place it goes to.
  if (member.options.prefix.empty()) member.options.prefix = run.kiln + "/installed/" + name_of_kiln(component.folder);
  member.inherited = settings_for_member(run.settings, installed);
  member.inherited->description = component.description;
  if (!component.sees_all) member.inherited->leave_out.clear();  // its patterns count from the whole tree
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

// The compile databases of the members in one.
void write_database_of_members(const model::Run& run) {
  auto all = nlohmann::ordered_json::array();
  for (const auto& member : run.members) {
    const auto one = nlohmann::ordered_json::parse(files::read(member.kiln + "/compile_commands.json").value_or("[]"),
                                                   nullptr, false);
    if (one.is_array()) all.insert(all.end(), one.begin(), one.end());
  }
  files::write_if_different(run.kiln + "/compile_commands.json",
                            all.dump(1, ' ', false, nlohmann::json::error_handler_t::replace) + "\n");
}

class Members {
 public:
  Members(model::Run& run, const Wish& wish, Watcher& watcher) : run_(run), wish_(wish), watcher_(watcher) {}

  void bring_up_all() {
    const auto components = components_of(run_);
    const std::size_t count = how_many(components);
    run_.members.reserve(count);
    for (std::size_t i = 0; i < count; ++i) {
      if (!one(components[i], i + 1 == count, count) && !goes_on()) break;
    }
    run_.built = wish_.goal >= Goal::build;
    run_.reached = run_.problem ? model::Stage::locate : model::Stage::build;
    if (!run_.members.empty() && wish_.goal >= Goal::plan) write_database_of_members(run_);
    if (run_.built) show_results_of_members(run_);
    if (!run_.problem && wish_.goal == Goal::smoke && !run_.settings.smoke.empty()) check_whole();
  }

 private:
  // Those up to the last that is asked for by name; all when none is.
  [[nodiscard]] std::size_t how_many(const std::vector<Component>& components) const {
    std::size_t count = 0;
    for (const auto& name : run_.options.targets) {
      const auto it = std::find_if(components.begin(), components.end(), [&](const auto& component) {
        return component.name == name || component.folder == name;
      });
      if (it == components.end()) throw Fault(no_member(name, components));
      count = std::max(count, static_cast<std::size_t>(it - components.begin()) + 1);
    }
    return count == 0 ? components.size() : count;
  }

  static Problem no_member(const std::string& name, const std::vector<Component>& components) {
    std::vector<std::string> names;
    for (const auto& component : components) names.push_back(component.name);
    return {Exit::usage,
            {},
            "there is no member '" + text::printable_line(name) + "'",
            "a tree with components is built by its members: " + text::join(names, ", "),
            "name one of them: it is built with those before it",
            {}};
  }

  bool goes_on() const { return run_.options.keep_going && run_.members.back().outcome.interrupted_by == 0; }

  bool one(const Component& component, bool last, std::size_t count) {
    run_.members.push_back(member_of(run_, component, installed_));
    auto& member = run_.members.back();
    watcher_.member_begun(run_, run_.members.size(), count);
    Wish own = wish_;
    own.fill = false;
    own.may_repeat = false;  // what it installs is looked at in any case
    // Those that others come behind have to be there, whatever is asked of the whole.
    if (!last) own.goal = std::max(wish_.goal, Goal::build);
    const bool good = bring_up(member, own, watcher_);
    if (good && !last && member.installs()) install(member);
    for (auto check : member.checks) {
      check.name = member.member_name + ": " + check.name;
      run_.checks.push_back(std::move(check));
    }
    run_.checked = run_.checked || member.checked;
    if (!run_.problem && member.problem) {
      run_.problem = member.problem;
      run_.problem->what = member.member_name + ": " + run_.problem->what;
      run_.outcome.interrupted_by = member.outcome.interrupted_by;
    }
    return good;
  }

  // For those behind. What cannot be installed is no failure of the member: who needs it will say so.
  void install(model::Run& member) {
    if (wish_.goal != Goal::stage) {
      if (stage(member)) {
        watcher_.staged(member);
      } else {
        watcher_.noted("what " + member.member_name +
                       " installs is not there for those behind it: " + member.problem->what);
        member.problem.reset();
        return;
      }
    }
    const auto& prefix = member.options.prefix;
    if (files::is_folder(prefix) && std::find(installed_.begin(), installed_.end(), prefix) == installed_.end())
      installed_.push_back(prefix);
  }

  // The [[smoke]] checks of the whole, which may run the programs of all members.
  void check_whole() {
    model::Plan all;
    all.tree = run_.tree;
    all.kiln = run_.kiln;
    all.work = run_.kiln + "/work";
    for (const auto& member : run_.members)
      all.targets.insert(all.targets.end(), member.plan.targets.begin(), member.plan.targets.end());
    smoke::Request request;
    request.toolchain = &run_.toolchain;
    for (const auto& check : run_.settings.smoke) {
      const auto& only = run_.options.checks;
      if (only.empty() || std::find(only.begin(), only.end(), check.name) != only.end())
        request.only.push_back(check.name);
    }
    if (request.only.empty()) return;
    const auto checks =
        smoke::run_checks(all, run_.settings, request, [&](const model::Check& check) { watcher_.check_ended(check); });
    if (!checks) throw Fault(checks.problem());
    watcher_.doing("");
    run_.checks.insert(run_.checks.end(), checks->begin(), checks->end());
    run_.checked = true;
    const auto failed = static_cast<std::size_t>(std::count_if(
        checks->begin(), checks->end(), [](const auto& check) { return check.verdict == model::Verdict::failed; }));
    if (failed > 0) run_.problem = {Exit::check, {}, text::count(failed, "check") + " failed", {}, {}, {}};
    watcher_.checked(run_, failed == 0);
  }

  model::Run& run_;
  const Wish& wish_;
  Watcher& watcher_;
  std::vector<std::string> installed_;  // prefixes of those that are done
};

}  // namespace

bool read_members(model::Run& run) {
  const auto done = guarded("reading the members", [&] {
    const auto components = components_of(run);
    std::vector<std::string> installed;
    run.members.reserve(components.size());
    for (const auto& component : components) {
      auto& member = run.members.emplace_back(member_of(run, component, installed));
      static_cast<void>(read_only(member));
      const auto& prefix = member.options.prefix;
      if (files::is_folder(prefix) && std::find(installed.begin(), installed.end(), prefix) == installed.end())
        installed.push_back(prefix);
    }
    return true;
  });
  if (!done) run.problem = done.problem();
  return !run.problem;
}

bool bring_up_members(model::Run& run, const Wish& wish, Watcher& watcher) {
  const auto done = guarded("bringing up the members", [&] {
    Members(run, wish, watcher).bring_up_all();
    return true;
  });
  if (!done) run.problem = done.problem();
  return !run.problem;
}

}  // namespace coctilis::pipeline
