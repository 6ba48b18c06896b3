// Does a program start? It is asked for its version, then for help. One that ends well, or tells how it is called, or
// complains of the word that it was given, has started; one that comes upon an error has not.
#include <nlohmann/json.hpp>
#include <optional>
#include <set>

#include "base/answers.h"
#include "base/files.h"
#include "base/hash.h"
#include "base/loader.h"
#include "base/own_program.h"
#include "base/sandbox.h"
#include "base/text.h"
#include "model/environment_variables.h"
#include "smoke/excuses.h"
#include "smoke/failing.h"
#include "smoke/kinds/kind.h"
#include "smoke/starting.h"
#include "smoke/window_run.h"
#include "smoke/workplace.h"

namespace coctilis::smoke {

using model::Check;
using model::CheckKind;
using model::Verdict;

namespace {

std::string name_of_start(const model::PlannedTarget& target) { return target.name + " starts"; }

// How a program that was started with one option is judged; nothing when the next option is to be tried.
struct Starting {
  Verdict verdict = Verdict::passed;
  std::string reason;
  bool helper_may_fail = false;  // one that is not installed may well not know what it is asked
  bool last = true;
};

constexpr const char* last_option = "--help";

Starting judge_start(const Observation& seen, const std::string& option) {
  const std::string& output = seen.ended.output;
  const std::string with = "with " + option + ": ";
  if (seen.ended.how == Ended::How::signalled) {
    if (std::string excuse = excuse_in(output); !excuse.empty()) return {Verdict::skipped, std::move(excuse)};
  }
  if (seen.waited) {
    if (seen.listening) return {Verdict::passed, "waits for connections"};
    if (!text::trim(output).empty())
      return {Verdict::passed,
              "ran until the limit of " + text::duration(seen.limit) + " and was stopped; it had printed something"};
    return {Verdict::failed,
            "no exit within " + text::duration(seen.limit) + ": started with " + option +
                " it printed nothing and waits for nobody",
            true};
  }
  // The C++ runtime says so when nobody catches an exception: the program has started, and does not like its words.
  if (seen.ended.how == Ended::How::signalled && output.find("terminate called after throwing") != std::string::npos)
    return {Verdict::passed, with + "it starts, and ends with an exception that it does not catch"};
  if (seen.ended.how == Ended::How::signalled) return {Verdict::failed, with + seen.ended.text(), true};
  if (seen.ended.how == Ended::How::not_started) return {Verdict::failed, with + seen.ended.text()};
  if (seen.ended.how == Ended::How::interrupted) return {Verdict::skipped, "interrupted"};
  // 126 and 127 are what loaders and shells answer when a program cannot run.
  if (seen.ended.code == 127 && output.find("error while loading shared libraries") != std::string::npos)
    return {Verdict::failed, std::string(text::trim(text::printable_line(output)))};
  if (seen.ended.code == 0) return {Verdict::passed, with + seen.ended.text()};
  const bool last = option == last_option;
  const Answer answer = answer_of(output, option);
  switch (answer.kind) {
    case Answer::Kind::usage: return {Verdict::passed, with + "it tells how it is called", false, last};
    case Answer::Kind::word:
      return {Verdict::passed, with + seen.ended.text() + ", and a word on what it was given", false, last};
    case Answer::Kind::other:
      return {Verdict::passed, with + seen.ended.text() + ", with output that tells of no error", false, last};
    case Answer::Kind::nothing:
      return {Verdict::skipped, with + seen.ended.text() + " and no output: whether it has started cannot be told",
              false, last};
    case Answer::Kind::error: break;
  }
  if (std::string excuse = excuse_in(output); !excuse.empty())
    return {Verdict::skipped, std::move(excuse), false, last};
  const std::string said = "ended with an error, " + seen.ended.text() + ": " + answer.line;
  // What comes to its place when the tree is installed is not there yet.
  if (const std::string file = absent_file_in(answer.line); !file.empty())
    return {Verdict::skipped, said + " (" + file + " is not there as long as it is not installed)", true, last};
  return {Verdict::failed, said, true, last};
}

// All that the answer hangs on besides files.
std::string question_of(const model::PlannedTarget& target, const Runner& runner, double limit) {
  std::string out = "starts\n" + target.output + "\n" + target.starter + "\n" + std::to_string(limit) +
                    (target.installed ? "\ninstalled" : "") +
                    text::join(runner.launched({Runner::started_by(target)}), " ");
  static const std::string environment = [] {
    // This program judges, and the sandbox gives what programs see.
    std::string all = own_identity() + "\n" + find_program("Xvfb") + "\n" + sandbox::why_not() +
                      (sandbox::allowed().network ? "\nnetwork" : "");
    for (const auto& device : sandbox::allowed().devices) all += "\n" + device;
    all += "\n" + sandbox::to_word(sandbox::allowed().limits);
    for (const auto& [name, value] : own_environment()) {
      if (!model::is_passing(name)) all += "\n" + name + "=" + value;
    }
    return hash_bytes(all).text();
  }();
  return out + "\n" + environment;
}

// What it has read, and looked for in vain.
std::vector<Watched> watched_of(const model::PlannedTarget& target, Runner& runner, const WatchedFiles& files,
                                const std::string& scratch) {
  std::set<std::string> names = {target.output};
  if (!target.starter.empty()) names.insert(target.starter);
  for (const auto& [library, path] : runner.libraries_of(target.output, runner.library_folders()).found)
    names.insert(path);
  for (const auto* list : {&files.read, &files.asked, &files.programs}) names.insert(list->begin(), list->end());
  std::vector<Watched> out;
  const auto counts = [&](const std::string& path) {
    const bool own = files::is_below(path, runner.plan().tree) || files::is_below(path, runner.plan().kiln);
    return (own || may_have_a_say(path)) && !files::is_below(path, scratch);
  };
  for (const auto& name : names) {
    if (counts(name)) out.push_back({name, false});
  }
  for (const auto& name : files.listed) {
    if (counts(name)) out.push_back({name, true});
  }
  return out;
}

class StartCheck {
 public:
  StartCheck(const model::PlannedTarget& target, Runner& runner, double limit)
      : target_(target), runner_(runner), limit_(limit) {
    check_.kind = CheckKind::starts;
    check_.name = name_of_start(target);
    check_.place = target.place;
  }

  Check run() {
    const double begin = now();
    if (!runner_.loads(target_.output)) {
      check_.verdict = Verdict::skipped;
      check_.reason = "its shared libraries are not found";
    } else if (const std::string why = runner_.cannot_start(target_.output); !why.empty()) {
      check_.verdict = Verdict::skipped;
      check_.reason = why;
    } else if (const std::string question = question_of(target_, runner_, limit_); !take(question)) {
      start();
      if ((check_.verdict == Verdict::passed || shown_) && check_.verdict != Verdict::failed && all_watched_)
        keep(question);
    }
    check_.seconds = now() - begin;
    return check_;
  }

 private:
  // What an earlier run came to, when all is as it was then. The same program is not started again.
  bool take(const std::string& question) {
    // Who asks for it again, or for where it fails, does not want to hear the same.
    if (runner_.starts_anew()) return false;
    const auto kept = runner_.kept().get(question);
    const auto read = nlohmann::json::parse(kept.value_or(""), nullptr, false);
    if (!read.is_array() || read.size() != 4 ||
        !std::all_of(read.begin(), read.end(), [](const auto& one) { return one.is_string(); }))
      return false;
    check_.verdict = read[0] == model::name_of(Verdict::passed) ? Verdict::passed : Verdict::skipped;
    check_.reason = read[1];
    check_.command = read[2];
    check_.output = read[3];
    return true;
  }
  void keep(const std::string& question) {
    const nlohmann::json kept = {model::name_of(check_.verdict), check_.reason, check_.command,
                                 check_.output.substr(0, 4096)};
    runner_.kept().put(question, kept.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace), watched_);
  }

  void start() {
    const auto& targets = runner_.plan().targets;
    const bool anything_installed =
        std::any_of(targets.begin(), targets.end(), [](const auto& other) { return other.installed; });
    std::optional<Starting> before;
    for (const char* option : {"--version", last_option}) {
      const files::ScratchFolder scratch("start");
      Command command;
      command.argv = runner_.launched({Runner::started_by(target_), option});
      command.folder = scratch.path().string();
      command.output_limit = 1U << 20U;
      command.writable = runner_.writable_with(command.folder);
      command.watch = WatchFor::all;
      check_.command = text::shell_join(command.argv);
      const Observation seen = runner_.observe(command, limit_, false, true);
      all_watched_ = all_watched_ && seen.ended.watched;
      for (auto& one : watched_of(target_, runner_, seen.ended.files, command.folder))
        watched_.push_back(std::move(one));
      Starting start = judge_start(seen, option);
      // What it showed by one word, another it does not like takes nothing from.
      if (before && before->verdict == Verdict::passed && start.verdict != Verdict::passed &&
          seen.ended.how == Ended::How::exited) {
        start = *before;
        start.last = true;
      }
      before = start;
      check_.output = seen.ended.output;
      check_.verdict = start.verdict;
      check_.reason = std::move(start.reason);
      // A helper that nobody gets may well not know what it is asked; that it starts is shown all the same.
      if (start.helper_may_fail && !target_.installed && anything_installed) {
        check_.verdict = Verdict::skipped;
        check_.reason += "; it is not one that is installed";
      }
      if (!start.last) continue;
      if (check_.verdict == Verdict::skipped && check_.reason == wants_display) show();
      if (check_.verdict == Verdict::failed) {
        Judgement judgement(check_.verdict, check_.reason);
        find_cause(judgement, runner_, command, Runner::started_by(target_), command.folder, seen, false);
        check_.cause = judgement.cause;
        check_.remedy = judgement.remedy;
        check_.evidence = judgement.evidence;
      }
      break;
    }
  }

  // A program with windows gets a display in memory, where that is to be had: it has started when its window is up.
  void show() {
    model::CheckStep step;
    step.run = {Runner::started_by(target_)};
    model::AskedWindow window;
    window.within = std::min(limit_, 5.0);
    const model::Surroundings surroundings;
    Workplace place(runner_, surroundings, step.run.front(), {}, true);
    const WindowSeen seen = run_window(window, step, place);
    shown_ = seen.watched;
    all_watched_ = all_watched_ && seen.watched;
    for (auto& one : watched_of(target_, runner_, seen.files, place.folder())) watched_.push_back(std::move(one));
    if (seen.judgement.verdict != Verdict::passed) {
      check_.reason += std::string("; under one in memory: ") + seen.judgement.reason;
      return;
    }
    check_.verdict = Verdict::passed;
    check_.reason = "it shows " + seen.judgement.reason;
    check_.command = seen.shown;
    check_.output = seen.output;
    check_.picture = seen.picture;
  }

  const model::PlannedTarget& target_;
  Runner& runner_;
  const double limit_;
  Check check_;
  bool all_watched_ = true;
  bool shown_ = false;  // it was run under a display in memory
  std::vector<Watched> watched_;
};

std::vector<PlannedCheck> expand_starts(const Context& context) {
  // A program that a declared test runs is shown to start there, with the arguments it expects.
  std::set<std::string> proven;
  for (const auto& test : context.plan.tests) {
    if (!test.program.empty() && !test.disabled) proven.insert(test.program);
  }
  std::vector<PlannedCheck> out;
  for (const auto* target : built_targets(context.plan)) {
    if (target->kind != model::TargetKind::program || proven.contains(target->name) ||
        !context.wanted(name_of_start(*target), target->name))
      continue;
    const double limit = context.request.start_limit_seconds;
    out.push_back({name_of_start(*target),
                   [target, limit](Runner& runner) { return StartCheck(*target, runner, limit).run(); },
                   files::below(target->output, context.plan.kiln) + " --version",
                   {},
                   target->place});
  }
  return out;
}

std::vector<std::string> starts_names(const Context& context) {
  std::vector<std::string> out;
  for (const auto& target : context.plan.targets) out.push_back(name_of_start(target));
  return out;
}

}  // namespace

Kind starts_kind() { return {CheckKind::starts, expand_starts, starts_names}; }

}  // namespace coctilis::smoke
