#include "engine/freshness.h"

#include <algorithm>
#include <cstdlib>
#include <set>

#include "base/files.h"
#include "base/text.h"
#include "model/environment_variables.h"

namespace coctilis::engine {

using model::Step;

namespace {

// Says nothing of what is made: how makes call each other, and where one stands.
bool says_nothing(const std::string& name) {
  return name == "MAKELEVEL" || name == "PWD" || name == "OLDPWD" || name == "SHLVL" || name == "_" ||
         name.starts_with("COCTILIS_");
}

// Where results will be installed: makes hand that on to all that they start. It counts where a command names it.
bool is_where_to_install(const std::string& name) { return name == "DESTDIR" || name == "PREFIX" || name == "prefix"; }

// Only makes look at these.
bool is_for_makes(const std::string& name) { return name == "MAKEFLAGS" || name == "MFLAGS"; }

}  // namespace

CommandHashes command_hashes(const model::Plan& plan, const Step& step) {
  static thread_local std::string all;
  all.clear();
  const auto add = [&](std::string_view text) { all.append(text).push_back('\0'); };
  bool by_shell = false;
  for (const auto& action : step.actions) {
    all += static_cast<char>('0' + static_cast<int>(action.how));
    all += '\0';
    add(action.folder);
    for (const auto& word : action.argv) add(word);
    all += '\1';
    by_shell = by_shell || action.how == model::Action::How::shell || step.by_time;
  }
  for (const auto& output : step.outputs) add(output);
  for (const auto* folders : {&step.output_folders, &step.input_folders}) {
    for (const auto& folder : *folders) add(folder);
    if (!folders->empty()) all += '\1';
  }
  if (step.reads == model::Reads::told) add(step.dependency_file);  // else it is where this program is told something
  add(step.identity);
  // What a makefile says a target needs may be told by earlier runs of its recipe: it is compared one by one.
  if (!step.by_time) {
    for (const auto& input : step.inputs) add(input);
    for (const auto& tool : step.tools) add(tool);
  }
  CommandHashes out;
  out.words = hash_bytes(all);

  const auto add_variable = [&](const std::string& name, const char* value) {
    all.append(name).append("=").append(value) += '\0';
  };
  std::set<std::string> named;
  if (by_shell) {
    for (const auto& action : step.actions) {
      for (const auto& word : action.argv) named.merge(text::variables_in(word));
    }
  }
  for (const auto& action : step.actions) {
    for (const auto& [name, value] : action.environment) {
      if (says_nothing(name) || (step.calls.empty() && is_for_makes(name)) ||
          (is_where_to_install(name) && !named.contains(name)))
        continue;
      if (value)
        add_variable(name, value->c_str());
      else
        all.append(name) += '\0';
    }
    all += '\1';
  }
  // What the environment of this program hands on to it.
  const auto add_own = [&](const char* name) {
    if (plan.environment.contains(name)) return;
    if (const char* value = std::getenv(name); value != nullptr) add_variable(name, value);
  };
  const unsigned roles = model::for_compilers | (step.language.empty() ? model::for_programs : 0U);
  for (const auto& variable : model::environment_variables) {
    if ((variable.roles & roles) != 0) add_own(variable.name);
  }
  const auto is_place = [](const std::string& name) { return name == "PATH" || name == "TMPDIR"; };
  for (const auto& [name, value] : plan.environment) {
    if (!says_nothing(name) && !is_for_makes(name) && !is_place(name)) add_variable(name, value.c_str());
  }
  for (const auto& name : named) {
    if (!says_nothing(name) && !is_place(name)) add_own(name.c_str());
  }
  out.command = hash_bytes(all);
  return out;
}

Freshness::Freshness(const model::Plan& plan, Journal& journal, Contents& contents, Lookups& lookups,
                     Questions questions, const Learned* learned)
    : plan_(plan),
      journal_(journal),
      contents_(contents),
      lookups_(lookups),
      questions_(std::move(questions)),
      learned_(learned),
      known_(plan.steps.size()) {}

std::string Freshness::shown(std::string_view path) const { return plan_.short_path(std::string(path)); }

PathId Freshness::key(std::size_t step) {
  auto& known = known_[step];
  if (known.key == Journal::none) known.key = journal_.id(plan_.steps[step].outputs.front());
  return known.key;
}

const CommandHashes& Freshness::command(std::size_t step) {
  auto& known = known_[step];
  if (known.command.command.empty()) known.command = command_hashes(plan_, plan_.steps[step]);
  return known.command;
}

bool Freshness::is(ContentId id) {
  if (id >= state_.size()) state_.resize(std::max<std::size_t>(id + 1, journal_.content_count()), 0);
  if (state_[id] == 0) state_[id] = contents_.is(journal_.content(id)) ? 1 : 2;
  return state_[id] == 1;
}

void Freshness::forget_tree(PathId path) {
  contents_.each_below(path, [&](PathId one) {
    if (one != path) forget(one);
  });
  contents_.forget_tree(path);
  forget(path);
}

void Freshness::forget(PathId path) {
  contents_.forget(path);
  journal_.each_content_of(path, [&](ContentId id) {
    if (id < state_.size()) state_[id] = 0;
  });
}

std::string Freshness::difference(const Content& content, bool output) {
  const auto& now = contents_.now(content.path);
  const std::string name = shown(journal_.path(content.path));
  using State = Contents::Now::State;
  if (now.state == State::unreadable) return name + " cannot be read";
  const bool there = now.state == State::there || !now.link.empty();
  if (there && form_of(content.form) == Form::tree)
    return "what lies in " + name + (output ? " was changed by something else" : " has changed");
  if (output) {
    if (!there) return name + " is missing";
    const Hash was = content.hash;
    Content other = content;
    other.form = contents_.take(content.path, Form::output).form;
    if (other.form != content.form && contents_.is({content.path, other.form, was}))
      return "the mode of " + name + " was changed by something else";
    return name + " was changed by something else";
  }
  if (content.hash.empty()) return name + " is there now";
  if (now.state == State::absent) return name + " is gone";
  if (content.hash == unknown_hash) return name + " was changed while it was read";
  return (form_of(content.form) == Form::names ? "what lies in " : "") + name + " has changed";
}

std::string Freshness::what_changed(const Journal::Entry& entry, std::size_t index) {
  const Step& step = plan_.steps[index];
  for (const auto id : journal_.outputs(entry)) {
    // What it did not make the last time is tried anew each time.
    if (journal_.content(id).hash.empty() && matters(entry, journal_.content(id), index))
      return shown(journal_.path(journal_.content(id).path)) + " is missing";
    if (!is(id) && matters(entry, journal_.content(id), index)) return difference(journal_.content(id), true);
  }
  std::size_t number = 0;
  for (const auto id : journal_.inputs(entry)) {
    const auto& content = journal_.content(id);
    if (!is(id)) return difference(content, false);
    // What is said to be needed and is not there may be made by another name; nobody knows what became of that.
    if (content.hash.empty() && !step.by_time && number < step.inputs.size())
      return shown(journal_.path(content.path)) + " is not there";
    ++number;
  }
  if (entry.searched != 0) {
    const auto list = journal_.list(entry.searched);
    if (!std::all_of(list.begin(), list.end(), [&](ContentId id) { return is(id); })) {
      if (const std::string found = lookups_.found_since(entry, step.search, step.source); !found.empty())
        return shown(found) + (entry.any_name ? " has other files in it" : " is found first now");
    }
  }
  return {};
}

// What a step makes by its declaration counts. What it wrote besides does when another step reads it, or when it is a
// result itself: tests and users may well go on writing into other files.
bool Freshness::matters(const Journal::Entry& entry, const Content& output, std::size_t index) {
  const Step& step = plan_.steps[index];
  const auto path = journal_.path(output.path);
  if (output.path == entry.key || form_of(output.form) == Form::tree || step.reads == model::Reads::noted ||
      std::any_of(step.outputs.begin(), step.outputs.end(),
                  [&](const auto& made) { return files::is_below(path, made); }) ||
      (learned_ != nullptr && learned_->of(index).has(path)))
    return true;
  const bool may_be_run = ((output.form >> 8U) & 0111U) != 0;
  if (may_be_run || path.ends_with(".a") || path.ends_with(".o") || path.find(".so") != std::string_view::npos)
    return true;
  if (read_.empty()) {
    read_.resize(journal_.path_count(), false);
    journal_.each([&](const Journal::Entry& other) {
      for (const ContentId id : journal_.inputs(other)) read_[journal_.content(id).path] = true;
    });
  }
  return output.path < read_.size() && read_[output.path];
}

// A record that knows nothing of something that the step is said to need was made when that was not said.
bool Freshness::covers(const Journal::Entry& entry, const Step& step, std::string* missing) {
  if (!step.by_time) return true;  // what it needs is part of its command
  if (marks_.size() < journal_.path_count()) marks_.resize(journal_.path_count(), 0);
  ++mark_;
  for (const ContentId id : journal_.inputs(entry)) marks_[journal_.content(id).path] = mark_;
  for (const auto* list : {&step.inputs, &step.tools}) {
    for (const auto& input : *list) {
      const PathId id = journal_.find_id(input);
      if (id != Journal::none && marks_[id] == mark_) continue;
      if (missing != nullptr) *missing = shown(input) + " is needed now, too";
      return false;
    }
  }
  return true;
}

std::string Freshness::reason_to_run(std::size_t index, bool keep) {
  const Step& step = plan_.steps[index];
  const PathId place = key(index);
  const auto* own = journal_.step(place, plan_.maker);
  // Makes that are started as they were the last time are asked whether they would do anything.
  if (step.again && own != nullptr && own->command == command(index).command && questions_.settled &&
      questions_.settled(step))
    return {};
  if (step.always) return "it runs every time";
  std::string reason;
  if (own != nullptr && own->command == command(index).command) {
    reason = what_changed(*own, index);
    if (reason.empty() && covers(*own, step, &reason)) {
      if (keep && own->searched != 0) {
        if (const ListId now = lookups_.as_they_are(own->searched); now != own->searched)
          journal_.put_searched(place, plan_.maker, now);
      }
      return {};
    }
  } else if (own != nullptr) {
    reason =
        own->words != command(index).words ? "its command has changed" : "a variable of its environment has changed";
  } else if (journal_.was_cut_off(place, plan_.maker)) {
    reason = "it did not come to its end the last time";
  }
  // Another call may have made the same from what is there now: makes that follow the same description do.
  const Journal::Entry* other = nullptr;
  journal_.each(place, [&](const Journal::Entry& entry) {
    if (other != nullptr || entry.maker == plan_.maker) return;
    // This call itself has never seen the step, or knows it with the command that it has now; or the other has made it
    // by the same words since.
    const bool comparable = own == nullptr || own->command == command(index).command ||
                            (entry.words == command(index).words && entry.recorded > own->recorded);
    if (comparable && what_changed(entry, index).empty() && covers(entry, step, nullptr)) other = &entry;
  });
  if (other != nullptr && reason != "it did not come to its end the last time") {
    if (keep) adopt(index, *other);
    return {};
  }
  // What came anew with the tree, or with configuring it, is what the tree says it is.
  if (step.by_time && (reason.empty() || (own != nullptr && was_given_anew(*own, step))))
    return older_than_inputs(index, keep);
  return reason.empty() ? "first build" : reason;
}

// Results are others than the record says, and all of them are as they came.
bool Freshness::was_given_anew(const Journal::Entry& entry, const Step& step) {
  const auto outputs = journal_.outputs(entry);
  return questions_.given && !std::all_of(outputs.begin(), outputs.end(), [&](ContentId id) { return is(id); }) &&
         std::all_of(step.outputs.begin(), step.outputs.end(), questions_.given);
}

std::vector<std::string> Freshness::spoilt_outputs(std::size_t index) {
  const Step& step = plan_.steps[index];
  std::vector<std::string> out;
  const PathId place = key(index);
  const auto* own = journal_.step(place, plan_.maker);
  if (own == nullptr) {
    if (journal_.was_cut_off(place, plan_.maker)) out = step.outputs;
    return out;
  }
  for (const ContentId id : journal_.outputs(*own)) {
    const auto& content = journal_.content(id);
    const std::string path(journal_.path(content.path));
    if (!is(id) && contents_.now(content.path).state != Contents::Now::State::absent &&
        !(questions_.given && questions_.given(path)))
      out.push_back(path);
  }
  if (step.kind == model::StepKind::archive && step.by_time) {
    // Members stay in their places, and those that are none any more stay too.
    std::set<std::string_view> before;
    std::set<std::string_view> now;
    for (const ContentId id : journal_.inputs(*own)) before.insert(journal_.path(journal_.content(id).path));
    now.insert(step.inputs.begin(), step.inputs.end());
    const auto is_member = [](std::string_view path) { return path.ends_with(".o"); };
    std::erase_if(before, [&](std::string_view path) { return !is_member(path); });
    std::erase_if(now, [&](std::string_view path) { return !is_member(path); });
    if (before != now) return step.outputs;
  }
  return out;
}

void Freshness::adopt(std::size_t index, const Journal::Entry& from) {
  StepRecord record = journal_.record(from);
  record.command = command(index).command;
  record.words = command(index).words;
  record.maker = plan_.maker;
  journal_.put_step(key(index), record);
}

// The time rule of makefiles, for results that are seen for the first time: they came with the tree, or a script that
// configures it made them.
std::string Freshness::older_than_inputs(std::size_t index, bool keep) {
  const Step& step = plan_.steps[index];
  std::int64_t oldest = INT64_MAX;
  for (const auto& output : step.outputs) {
    const auto time = contents_.modified(journal_.id(output));
    if (time < 0) return "first build";
    if (!questions_.given || !questions_.given(output)) return "nobody knows what " + shown(output) + " was made from";
    oldest = std::min(oldest, time);
  }
  for (const auto& input : step.inputs) {
    const auto time = contents_.modified(journal_.id(input));
    if (time < 0) return shown(input) + " is not there";
    if (time > oldest) return shown(input) + " is newer";
  }
  if (keep) {
    // From now on its content counts.
    StepRecord record;
    record.command = command(index).command;
    record.words = command(index).words;
    record.maker = plan_.maker;
    record.recorded = wall_clock();
    for (const auto& output : step.outputs)
      record.outputs.push_back(journal_.content(contents_.take(journal_.id(output), Form::output)));
    for (const auto& input : step.inputs)
      record.inputs.push_back(journal_.content(contents_.take(journal_.id(input), Form::content)));
    for (const auto& tool : step.tools)
      record.inputs.push_back(journal_.content(contents_.take(journal_.id(tool), Form::program)));
    journal_.put_step(key(index), record);
  }
  return {};
}

}  // namespace coctilis::engine
