#include "pipeline/members.h"

#include <algorithm>
#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>
#include <numeric>
#include <set>

#include "base/files.h"
#include "base/hash.h"
#include "base/text.h"
#include "describe/readers.h"
#include "pipeline/checking.h"
#include "pipeline/member_schedule.h"
#include "survey/descriptions.h"
#include "survey/relations.h"
#include "survey/settings.h"

namespace coctilis::pipeline {

namespace {

// What a component is: a folder of the tree, or a description in one.
struct Component {
  std::string name;         // as coctilis.toml has it
  std::string folder;       // relative to the tree
  std::string description;  // file in the folder; empty: the one that a survey finds
  bool sees_all = false;    // it is brought up within the whole tree: what it runs may look at what lies beside it
  std::string package;      // what it is called by others
  survey::Placed place;
};

// The description that a survey of the folder alone would follow, or the one that is wanted; nothing when there is
// none.
std::optional<model::Description> description_in(const std::string& folder, std::string wanted) {
  const auto& formats = describe::description_formats();
  if (wanted.empty()) {
    const auto own = survey::settings_of(folder, {}, model::Settings{});
    if (own) wanted = own->description;
  }
  std::vector<model::Description> found;
  for (const auto& name : files::names_in(folder)) {
    const survey::DescriptionFormat* format = nullptr;
    if (survey::description_name(formats, name, &format) == nullptr || !files::is_file(folder + "/" + name)) continue;
    if (format->counts != nullptr && !format->counts(folder + "/" + name)) continue;
    found.push_back({name, std::string(format->format), false, false, {}});
  }
  const auto chosen = survey::choose_description(found, wanted, formats, folder);
  if (!chosen || found.empty() || !found.front().followed) return std::nullopt;
  return found.front();
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
  if (files::is_folder(path)) {
    if (files::names_in(path).empty())
      throw Fault(bad_component(run, name, "is empty: it has no description and no sources"));
    Component out;
    out.name = name;
    out.folder = files::below(path, run.tree);
    return out;
  }
  if (!files::is_file(path)) throw Fault(bad_component(run, name, "is not there"));
  const std::filesystem::path file(path);
  Component out;
  out.name = name;
  out.folder = files::below(file.parent_path().string(), run.tree);
  out.description = file.filename().string();
  return out;
}

std::vector<Component> listed(const model::Run& run) {
  std::vector<Component> out;
  std::set<std::string> seen;
  for (const auto& name : run.settings.components) {
    out.push_back(component_of(run, name));
    auto& component = out.back();
    if (!seen.insert(component.folder).second) throw Fault(bad_component(run, name, "is there already"));
    const auto description = description_in(files::absolute(component.folder, run.tree), component.description);
    const auto* reader = description ? describe::reader_of(&*description) : nullptr;
    component.sees_all = reader != nullptr && reader->runs_recipes;
    if (component.sees_all)
      component.description = component.folder == "." ? description->path : component.folder + "/" + description->path;
  }
  return out;
}

// The members of the tree, each behind all that it needs. `notes` gets what had to be decided.
std::vector<Component> components_of(const model::Run& run, std::vector<std::string>& notes) {
  const auto in_list = listed(run);
  std::vector<std::string> folders;
  for (const auto& component : in_list) folders.push_back(component.folder);
  // Who lists members says in which order they come, unless they say it themselves.
  const bool listed_by_user = run.survey.parts.empty();
  auto relations = survey::relations_between(run.tree, folders, describe::description_formats(), listed_by_user);
  if (!relations) throw Fault(relations.problem());
  notes = std::move(relations->notes);
  std::vector<Component> out;
  for (auto& place : relations->order) {
    Component component = in_list[place.package];
    component.package = relations->packages[place.package].name;
    component.place = std::move(place);
    out.push_back(std::move(component));
  }
  return out;
}

// A name for the member's kiln: that of its folder; further down in the tree, so that no two are alike, with a hash.
std::string name_of_kiln(const std::string& folder) {
  if (folder == ".") return "here";
  if (folder.find('/') == std::string::npos) return folder;
  return text::replace_all(folder, "/", "-") + "-" + hash_bytes(folder).text().substr(0, 6);
}

// A kiln is that of one tree: brought up within the whole, a member has another one than by itself.
std::string kiln_of(const model::Run& run, const Component& component) {
  return run.kiln + "/members/" + name_of_kiln(component.folder) + (component.sees_all ? "-within" : "");
}

// `installed`: the prefixes of those before it.
model::Run member_of(const model::Run& run, const Component& component, const std::vector<std::string>& installed) {
  const std::string folder = component.folder == "." ? run.tree : run.tree + "/" + component.folder;
  auto member = part_of(run, component.name, component.sees_all ? run.tree : folder, kiln_of(run, component));
  // Its own coctilis.toml comes on top; that of the whole is known already.
  if (component.folder != ".") member.as_member.settings_folder = folder;
  // What a description writes about its place has to name the place it goes to.
  member.options.prefix = run.options.prefix;
  if (member.options.prefix.empty()) member.options.prefix = run.kiln + "/installed/" + name_of_kiln(component.folder);
  auto& settings = *member.as_member.inherited;
  const auto& whole = run.settings;
  settings.options = whole.options;
  settings.option_places = whole.option_places;
  settings.needs = whole.needs;
  settings.description = component.description;
  if (component.sees_all) settings.leave_out = whole.leave_out;  // its patterns count from the whole tree
  // What members before this one have installed is found before anything else.
  settings.prefixes.assign(installed.rbegin(), installed.rend());
  settings.prefixes.insert(settings.prefixes.end(), whole.prefixes.begin(), whole.prefixes.end());
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

// Two members that install a file of one name, with other contents, and where: of the first such.
std::optional<Problem> same_file_twice(const model::Run& run) {
  std::map<std::string, const model::Run*> owners;
  for (const auto& member : run.members) {
    for (const auto& file : member.staged.files) {
      const auto [it, fresh] = owners.emplace(file, &member);
      if (fresh || it->second == &member) continue;
      const auto& other = *it->second;
      if (other.staged.prefix != member.staged.prefix &&
          files::read(other.staged.prefix + "/" + file) == files::read(member.staged.prefix + "/" + file))
        continue;
      return Problem{Exit::description,
                     {},
                     "the members " + other.as_member.name + " and " + member.as_member.name + " both install '" +
                         text::printable_line(file) + "'",
                     "in one prefix the one of " + member.as_member.name + " takes the place of the other",
                     "stage one of them alone, or into another prefix",
                     {}};
    }
  }
  return std::nullopt;
}

class Members {
 public:
  Members(model::Run& run, const Wish& wish, Watcher& watcher) : run_(run), wish_(wish), watcher_(watcher) {}

  void bring_up_all() {
    std::vector<std::string> notes;
    components_ = components_of(run_, notes);
    // Into one prefix one installs after the other.
    for (std::size_t i = 0; wish_.goal == Goal::stage && i < components_.size(); ++i) {
      auto& waits = components_[i].place.waits;
      waits.resize(i);
      std::iota(waits.begin(), waits.end(), std::size_t{0});
    }
    for (const auto& note : notes) watcher_.noted(note);
    choose();
    std::vector<ScheduledMember> members;
    for (std::size_t i = 0; i < components_.size(); ++i) {
      members.push_back({components_[i].name, components_[i].place, wanted_[i],
                         [this, i](const auto& installed) { return task_of(i, installed); }});
    }
    // Whoever installs packages is alone.
    const unsigned jobs = run_.options.install ? 1 : run_.settings.jobs;
    for (auto& member : bring_up_in_order(members, jobs, run_.kiln + "/members", watcher_)) {
      if (member) take(std::move(*member));
    }
    run_.built = wish_.goal >= Goal::build;
    run_.reached = run_.problem ? model::Stage::locate : model::Stage::build;
    if (!run_.members.empty() && wish_.goal >= Goal::plan) write_database_of_members(run_);
    if (run_.built) show_results_of_members(run_);
    say_what_clashes();
    if (!run_.problem && wish_.goal == Goal::smoke) check_whole();
  }

 private:
  // Those that are asked for by name with all that they need; all when none is.
  void choose() {
    wanted_.assign(components_.size(), run_.options.targets.empty());
    needed_.assign(components_.size(), false);
    for (const auto& name : run_.options.targets) {
      const auto it = std::find_if(components_.begin(), components_.end(), [&](const auto& component) {
        return component.name == name || component.folder == name || component.package == name;
      });
      if (it == components_.end()) throw Fault(no_member(name));
      wanted_[static_cast<std::size_t>(it - components_.begin())] = true;
      for (const auto i : it->place.sees) wanted_[i] = true;
    }
    for (std::size_t i = 0; i < components_.size(); ++i) {
      if (!wanted_[i]) continue;
      for (const auto other : components_[i].place.sees) needed_[other] = true;
    }
  }

  [[nodiscard]] Problem no_member(const std::string& name) const {
    std::vector<std::string> names;
    for (const auto& component : components_) names.push_back(component.name);
    return {Exit::usage,
            {},
            "there is no member '" + text::printable_line(name) + "'",
            "a tree with components is built by its members: " + text::join(names, ", "),
            "name one of them: it is built with those that it needs",
            {}};
  }

  [[nodiscard]] MemberTask task_of(std::size_t i, const std::vector<std::string>& installed) const {
    MemberTask task;
    task.member = member_of(run_, components_[i], installed);
    task.wish = wish_;
    task.wish.fill = false;
    task.wish.on_terminal = false;
    // Those that others need have to be there, whatever is asked of the whole.
    if (needed_[i]) task.wish.goal = std::max(wish_.goal, Goal::build);
    task.for_others = needed_[i];
    task.whole_tree = run_.tree;
    task.whole_kiln = run_.options.kiln;
    return task;
  }

  // What the whole has of a member.
  void take(model::Run member) {
    for (auto check : member.checks) {
      check.name = member.as_member.name + ": " + check.name;
      run_.checks.push_back(std::move(check));
    }
    run_.checked = run_.checked || member.checked;
    if (member.outcome.interrupted_by != 0) run_.outcome.interrupted_by = member.outcome.interrupted_by;
    // Its places count from its own folder.
    if (member.problem && member.tree != run_.tree && files::is_below(member.tree, run_.tree)) {
      auto& file = member.problem->place.file;
      if (!file.empty() && !file.starts_with('/') && files::is_file(member.tree + "/" + file))
        file = files::below(member.tree, run_.tree) + "/" + file;
    }
    if (member.problem && !member.as_member.not_begun && !run_.problem) {
      run_.problem = member.problem;
      run_.problem->what = member.as_member.name + ": " + run_.problem->what;
    }
    run_.members.push_back(std::move(member));
  }

  // In prefixes of their own members do not get into each other's way; in one they do.
  void say_what_clashes() {
    const auto clash = same_file_twice(run_);
    if (!clash) return;
    if (wish_.goal == Goal::stage && !run_.problem)
      run_.problem = clash;
    else
      watcher_.noted(clash->what + ": " + clash->cause);
  }

  // The checks of the whole, which may run the programs of all members.
  void check_whole() {
    if (run_.settings.smoke.empty() && run_.settings.services.empty()) return;
    const bool good = smoke_whole(run_, {[&](const model::Check& check) { watcher_.check_ended(check); },
                                         [&](const std::string& what) { watcher_.doing("check " + what); }});
    watcher_.doing("");
    watcher_.checked(run_, good);
  }

  model::Run& run_;
  const Wish& wish_;
  Watcher& watcher_;
  std::vector<Component> components_;
  // Of each component:
  std::vector<bool> wanted_;
  std::vector<bool> needed_;  // by others that are wanted
};

}  // namespace

bool read_members(model::Run& run) {
  const auto done = guarded("reading the members", [&] {
    std::vector<std::string> notes;
    const auto components = components_of(run, notes);
    run.members.reserve(components.size());
    for (const auto& component : components) {
      std::vector<std::string> installed;
      for (const auto other : component.place.sees) {
        if (const auto& prefix = run.members[other].options.prefix; files::is_folder(prefix))
          installed.push_back(prefix);
      }
      auto& member = run.members.emplace_back(member_of(run, component, installed));
      static_cast<void>(read_only(member));
    }
    return true;
  });
  if (!done) run.problem = done.problem();
  return !run.problem;
}

namespace {
// What is made of one tree's results stands in its own coctilis.toml: the whole has none.
void refuse_what_members_say(const model::Settings& settings) {
  const auto refuse = [](const Place& place, const char* what) {
    throw Fault({Exit::usage,
                 place,
                 std::string(what) + " is of one member: this tree has several",
                 {},
                 "write it into the coctilis.toml of the member",
                 {}});
  };
  if (!settings.finishes.empty()) refuse(settings.finishes.front().place, "a [[finish]]");
  if (!settings.desktop_entries.empty()) refuse(settings.desktop_entries.front().place, "a [[desktop]]");
  for (const auto& source : settings.sources) {
    if (!source.archive.empty()) refuse(source.place, "an archive beside a program");
  }
}
}  // namespace

bool bring_up_members(model::Run& run, const Wish& wish, Watcher& watcher) {
  const auto done = guarded("bringing up the members", [&] {
    refuse_what_members_say(run.settings);
    Members(run, wish, watcher).bring_up_all();
    return true;
  });
  if (!done) run.problem = done.problem();
  return !run.problem;
}

}  // namespace coctilis::pipeline
