// Does a program or library load: are all shared libraries that it needs found, as the system's loader looks for them?
#include "base/files.h"
#include "base/loader.h"
#include "base/text.h"
#include "doctor/checks.h"
#include "smoke/kinds/kind.h"

namespace coctilis::smoke {

using model::Check;
using model::CheckKind;
using model::Verdict;

namespace {

std::string name_of_loading(const model::PlannedTarget& target) { return target.name + " loads"; }

Check loads(const model::PlannedTarget& target, Runner& runner) {
  const std::string& kiln = runner.plan().kiln;
  Check check;
  check.kind = CheckKind::loads;
  check.name = name_of_loading(target);
  check.place = target.place;
  const double begin = now();
  LoadResult result = runner.libraries_of(target.output);
  std::string how;
  if (!target.starter.empty()) {
    result = runner.libraries_of(target.output, runner.library_folders());
    how = "; it is started by " + files::below(target.starter, kiln) + ", which says where";
  } else if (target.kind == model::TargetKind::shared_library && !result.missing.empty()) {
    // Who loads a library may say where others are.
    const LoadResult with_own = runner.libraries_of(target.output, runner.library_folders());
    if (with_own.missing.empty()) {
      how = "; not by itself: whoever loads it has to say where " + result.missing.front().first + " is";
      result = with_own;
    }
  }
  check.seconds = now() - begin;
  if (!result.is_elf) {
    check.verdict = Verdict::failed;
    check.reason = "what was made is no program or library of this system";
  } else if (!result.missing.empty()) {
    check.verdict = Verdict::failed;
    std::vector<std::string> missing;
    for (const auto& [name, user] : result.missing)
      missing.push_back(name + " (needed by " + files::below(user, kiln) + ")");
    check.reason = "not found by the loader: " + text::join(missing, ", ");
    for (const auto& program : {target.output, target.starter}) {
      if (!program.empty()) runner.cannot_load(program);
    }
    const doctor::CheckCase failed{
        runner.plan(),
        target.output,
        {},
        {},
        "error while loading shared libraries: " + result.missing.front().first + ": cannot open shared object file",
        Ended::How::exited,
        127,
        false,
        {},
        {},
        {},
        {},
        runner.library_folders(),
        {},
        false};
    if (const auto diagnosis = doctor::library_not_found(failed)) {
      check.cause = diagnosis->cause;
      check.remedy = diagnosis->remedy;
    }
  } else {
    check.reason =
        result.found.empty()
            ? "needs no shared library"
            : "all " + text::count(result.found.size(), "shared library", "shared libraries") + " resolve" + how;
  }
  return check;
}

std::vector<PlannedCheck> expand_loads(const Context& context) {
  std::vector<PlannedCheck> out;
  for (const auto* target : built_targets(context.plan)) {
    // A runtime has its own way to find what it loads.
    if (!target->is_started_by_runtime && context.wanted(name_of_loading(*target), target->name))
      out.push_back({name_of_loading(*target),
                     [target](Runner& runner) { return loads(*target, runner); },
                     "shared libraries of " + files::below(target->output, context.plan.kiln),
                     {},
                     target->place});
  }
  return out;
}

std::vector<std::string> loads_names(const Context& context) {
  std::vector<std::string> out;
  for (const auto& target : context.plan.targets) out.push_back(name_of_loading(target));
  return out;
}

}  // namespace

Kind loads_kind() { return {CheckKind::loads, expand_loads, loads_names}; }

}  // namespace coctilis::smoke
