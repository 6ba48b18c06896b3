#include "pipeline/member_process.h"

#include <filesystem>

#include "base/files.h"
#include "base/folder_stamps.h"
#include "base/own_program.h"
#include "base/packing.h"
#include "base/sandbox.h"
#include "base/text.h"
#include "pipeline/in_kiln.h"

namespace coctilis::pipeline {

namespace {

// Of a process whose own screen nobody sees.
class Recorder : public Watcher, public engine::Observer, public survey::FillObserver {
 public:
  std::vector<MemberEvent> events;

  void doing(const std::string&) override {}
  void noted(const std::string& text) override { add(MemberEvent::Kind::noted, true, text); }
  void unpacked(const model::Run&) override {}
  void surveyed(const model::Run&) override { add(MemberEvent::Kind::surveyed, true); }
  void located(const model::Run&, bool good) override { add(MemberEvent::Kind::located, good); }
  void planned(const model::Run&, bool good) override { add(MemberEvent::Kind::planned, good); }
  void looked(const model::Run&) override { add(MemberEvent::Kind::looked, true); }
  void built(const model::Run&, bool good) override { add(MemberEvent::Kind::built, good); }
  void checked(const model::Run&, bool good) override { add(MemberEvent::Kind::checked, good); }
  void entered(const smoke::Entered&) override {}  // of the whole alone
  void staged(const model::Run&) override { add(MemberEvent::Kind::staged, true); }
  void check_ended(const model::Check&) override {}
  void member_begun(const model::Run& member) override { noted("its member " + member.as_member.name); }
  void member_ended(const model::Run&) override {}
  // What only a person knows was asked before members were begun.
  bool asks_to_fill(const model::Run&) override { return false; }
  bool asks_to_allow(const std::string&) override { return false; }
  survey::FillObserver& filling() override { return *this; }
  engine::Observer& building(const model::Run&) override { return *this; }
  void step_ended(std::size_t, const model::StepResult&) override {}
  void progress(const engine::Progress&) override {}
  void ended(const survey::Filled&) override {}
  void progress(std::size_t, std::size_t, const std::vector<survey::Transfer>&) override {}

 private:
  void add(MemberEvent::Kind kind, bool good, const std::string& text = {}) { events.push_back({kind, good, text}); }
};

// What a member has installed for others, as long as it lies there as it was left: then a run with nothing to do has
// nothing to install. Noted beside its kiln.
class InstalledForOthers {
 public:
  InstalledForOthers(const std::string& file, std::string prefix)
      : note_(file + ".installed"), prefix_(std::move(prefix)) {}
  [[nodiscard]] bool lies_there() const { return files::read(note_).value_or("") == state(); }
  void note() const { files::write_if_different(note_, state()); }

 private:
  [[nodiscard]] std::string state() const { return prefix_ + "\n" + listing_of(prefix_); }
  const std::string note_;
  const std::string prefix_;
};

// For those that need it. What cannot be installed is no failure of the member: who needs it will say so.
void install_for_others(model::Run& member, const InstalledForOthers& installed, Watcher& watcher) {
  if (member.repeats) {
    member.staged.prefix = member.options.prefix;
    for (const auto& [name, stamp] : stamps_below(member.options.prefix)) member.staged.files.push_back(name);
    if (!member.staged.files.empty()) watcher.staged(member);
  } else if (!member.installs()) {
    installed.note();  // nothing, which nobody can miss
  } else if (stage(member)) {
    installed.note();
    watcher.staged(member);
  } else {
    watcher.noted("what " + member.as_member.name +
                  " installs is not there for those that need it: " + member.problem->what);
    member.problem.reset();
  }
}

}  // namespace

model::Run part_of(const model::Run& whole, const std::string& name, const std::string& tree, const std::string& kiln) {
  model::Run out;
  out.as_member.name = name;
  out.command = whole.command;
  out.started = whole.started;
  out.allowed = whole.allowed;
  out.options = whole.options;
  out.options.tree = tree;
  // Of an edited copy it is a part of that, and its user's is the same part of the tree.
  if (!whole.original_tree.empty() && files::is_below(tree, whole.tree))
    out.original_tree = whole.original_tree + tree.substr(whole.tree.size());
  out.options.kiln = kiln;
  out.options.config.clear();
  out.options.prefixes.clear();
  out.options.targets.clear();
  out.options.checks.clear();
  auto& settings = out.as_member.inherited.emplace();
  settings.warnings_as_errors = whole.settings.warnings_as_errors;
  settings.network = whole.settings.network;
  settings.devices = whole.settings.devices;
  settings.limits = whole.settings.limits;
  settings.toolchain = whole.settings.toolchain;
  settings.toolchain_place = whole.settings.toolchain_place;
  settings.machine = whole.settings.machine;
  settings.java = whole.settings.java;
  settings.java_place = whole.settings.java_place;
  settings.linker = whole.settings.linker;
  settings.sysroot = whole.settings.sysroot;
  settings.variants = whole.settings.variants;
  return out;
}

Command member_command(const MemberTask& task, const std::string& file) {
  files::make_folder(std::filesystem::path(file).parent_path().string());
  std::error_code error;
  std::filesystem::remove(file + ".answer", error);
  files::write(file + ".task", packed(task));
  Command out;
  out.argv = {own_program(), "bring-up-member", "--", file};
  out.output_limit = 64U << 10U;
  return out;
}

MemberAnswer member_answer(const MemberTask& task, const std::string& file, const Ended& ended) {
  MemberAnswer out;
  std::error_code error;
  std::string why = ended.text();
  try {
    if (const auto content = files::read(file + ".answer")) {
      unpack(*content, out);
      std::filesystem::remove(file + ".answer", error);
      std::filesystem::remove(file + ".task", error);
      return out;
    }
  } catch (const std::exception& wrong) {
    why = std::string("its answer cannot be read: ") + wrong.what();
  }
  out = {task.member, {}};
  if (ended.how == Ended::How::signalled && interrupted_by == 0) {
    out.member.problem = {Exit::step,
                          {},
                          "the process that brought it up was " + ended.text(),
                          "somebody ended it, or the system for want of memory",
                          "run it again, with fewer jobs (-j) where memory is short: what was finished stays finished",
                          {}};
  } else if (ended.how == Ended::How::interrupted || interrupted_by != 0) {
    out.member.outcome.interrupted_by = interrupted_by;
    out.member.problem = {Exit::step, {}, "interrupted", {}, "run it again: what was finished stays finished", {}};
  } else {
    out.member.problem = defect("bringing up a member", why.c_str());
    if (!ended.output.empty()) out.member.problem->cause = text::printable(ended.output);
  }
  return out;
}

void tell_of_member(const MemberAnswer& answer, Watcher& watcher) {
  const auto& member = answer.member;
  for (const auto& event : answer.events) {
    switch (event.kind) {
      case MemberEvent::Kind::noted: watcher.noted(event.text); break;
      case MemberEvent::Kind::surveyed: watcher.surveyed(member); break;
      case MemberEvent::Kind::located: watcher.located(member, event.good); break;
      case MemberEvent::Kind::planned: watcher.planned(member, event.good); break;
      case MemberEvent::Kind::looked: watcher.looked(member); break;
      case MemberEvent::Kind::built: watcher.built(member, event.good); break;
      case MemberEvent::Kind::checked:
        for (const auto& check : member.checks) watcher.check_ended(check);
        watcher.doing("");
        watcher.checked(member, event.good);
        break;
      case MemberEvent::Kind::staged: watcher.staged(member); break;
    }
  }
}

int bring_up_member(const std::string& file) {
  MemberTask task;
  const auto content = files::read(file + ".task");
  try {
    if (content) unpack(*content, task);
  } catch (const std::exception&) {
    task = {};
  }
  if (task.whole_tree.empty()) return static_cast<int>(Exit::usage);
  MemberAnswer answer;
  answer.member = std::move(task.member);
  auto& member = answer.member;
  sandbox::allow({member.allowed.network, member.allowed.devices, member.allowed.limits});
  model::Run whole;
  whole.tree = task.whole_tree;
  whole.options.kiln = task.whole_kiln;
  Recorder recorder;
  const bool opened = in_kiln(whole, [&] {
    const bool installs = task.for_others && task.wish.goal != Goal::stage;
    const InstalledForOthers installed(file, member.options.prefix);
    if (installs) task.wish.may_repeat = task.wish.may_repeat && installed.lies_there();
    const bool good = bring_up(member, task.wish, recorder);
    if (good && installs) install_for_others(member, installed, recorder);
  });
  if (!opened && !member.problem) member.problem = whole.problem;
  answer.events = std::move(recorder.events);
  files::write(file + ".answer", packed(answer));
  return 0;
}

}  // namespace coctilis::pipeline
