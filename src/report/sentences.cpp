#include "report/sentences.h"

#include <re2/re2.h>

#include <algorithm>
#include <map>

#include "base/files.h"
#include "base/lists.h"
#include "base/text.h"
#include "locate/known.h"

namespace coctilis::report {

std::string survey_sentence(const model::Survey& survey) {
  std::size_t lines = 0;
  std::vector<std::string> names;
  for (const auto& l : survey.languages) {
    lines += l.code;
    if (names.size() < 3 && l.code > 0) names.push_back(l.language);
  }
  std::string out = text::count(survey.files, "file");
  if (lines > 0) out += ", " + text::count(lines, "line") + " of " + text::join(names, ", ");
  if (survey.members > 0)
    out += "; " + text::count(survey.members, "member");
  else if (const auto* followed = survey.followed())
    out += "; follows " + followed->path;
  if (!survey.submodules.empty()) {
    std::size_t whole = 0;
    for (const auto& m : survey.submodules) whole += m.state == model::SubmoduleState::pinned ? 1 : 0;
    out += whole == survey.submodules.size()
               ? "; " + text::count(whole, "submodule") + " in place"
               : "; " + std::to_string(survey.submodules.size() - whole) + " of " +
                     text::count(survey.submodules.size(), "submodule") + " not as pinned";
  }
  if (!survey.hazards.empty()) out += "; " + text::count(survey.hazards.size(), "hazard");
  return out;
}

std::string locate_sentence(const model::Run& run) {
  std::string out = run.toolchain.family + " " + run.toolchain.version + " for " + run.toolchain.machine;
  // A name is said once, however often it was asked for; what was found in one form (a library in the C library, say)
  // is not called absent for being looked for in another.
  std::map<std::string, std::string> found;
  std::vector<std::string> order;
  std::size_t answers = 0;
  for (const auto& f : run.findings) {
    if (f.requirement.kind == model::RequirementKind::toolchain) continue;
    // Answers of the compiler to the description's questions are counted, not listed.
    if (f.requirement.kind == model::RequirementKind::header ||
        f.requirement.kind == model::RequirementKind::function || f.requirement.kind == model::RequirementKind::type) {
      ++answers;
      continue;
    }
    if (!f.found && f.requirement.required) continue;
    if (f.found) {
      auto& version = found[f.requirement.name];
      if (version.empty()) version = f.version;
    }
    if (std::find(order.begin(), order.end(), f.requirement.name) == order.end()) order.push_back(f.requirement.name);
  }
  std::vector<std::string> there;
  std::vector<std::string> missing;
  for (const auto& name : order) {
    if (const auto it = found.find(name); it != found.end())
      there.push_back(name + (it->second.empty() ? "" : " " + it->second));
    else
      missing.push_back(name);
  }
  if (!there.empty()) out += "; " + text::join(there, ", ");
  if (!missing.empty()) out += "; optional, not found: " + text::join(missing, ", ");
  if (answers > 0) out += "; " + text::count(answers, "compiler check");
  return out;
}

std::string plan_sentence(const model::Run& run) {
  std::size_t targets = 0;
  std::size_t steps = 0;
  const auto count = [&](const model::Run& whom) {
    for (const auto& t : whom.plan.targets) targets += t.in_default ? 1 : 0;
    for (const auto& s : whom.plan.steps) steps += s.in_default ? 1 : 0;
  };
  count(run);
  for (const auto& member : run.members) count(member);
  if (run.repeats) steps = run.repeats->steps;
  // Makefiles that only call others make no target themselves.
  std::string out = (targets == 0 ? "" : text::count(targets, "target") + ", ") + text::count(steps, "step");
  if (!run.plan.tests.empty()) out += ", " + text::count(run.plan.tests.size(), "declared test");
  return out + "; " + run.settings.variant + (run.plan_kept ? "; as before" : "");
}

std::vector<std::pair<std::string, std::size_t>> grouped_warnings(const model::Outcome& outcome) {
  std::map<std::string, std::size_t> counts;
  for (const auto& w : outcome.warnings) ++counts[w.option.empty() ? "without an option" : w.option];
  std::vector<std::pair<std::string, std::size_t>> out(counts.begin(), counts.end());
  std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.second > b.second; });
  return out;
}

std::string due_sentence(const model::Run& run) {
  const auto perhaps = static_cast<std::size_t>(
      std::count_if(run.due->steps.begin(), run.due->steps.end(), [](const auto& one) { return one.perhaps; }));
  const std::size_t sure = run.due->steps.size() - perhaps;
  std::string out = sure == 0 && perhaps == 0 ? "no step would run" : text::count(sure, "step") + " would run";
  if (perhaps > 0) out += ", " + std::to_string(perhaps) + " more perhaps";
  if (run.due->up_to_date > 0) out += ", " + std::to_string(run.due->up_to_date) + " up to date";
  return out;
}

std::string build_sentence(const model::Run& run) {
  const auto& o = run.outcome;
  std::string out;
  if (o.ran == 0 && o.failed == 0 && o.not_run == 0) {
    out = "all " + text::count(o.up_to_date, "step") + " up to date";
  } else {
    out = text::count(o.ran, "step") + " in " + text::duration(o.seconds);
    if (o.up_to_date > 0) out += ", " + text::grouped(o.up_to_date) + " up to date";
    if (o.failed > 0) out += ", " + text::grouped(o.failed) + " failed";
    if (o.not_run > 0) out += ", " + text::grouped(o.not_run) + " not run";
  }
  // Nothing else hangs on them.
  if (o.left_out > 0) out += ", " + text::count(o.left_out, "document") + " left out";
  const auto warnings = grouped_warnings(o);
  if (!warnings.empty()) {
    out += "; " + text::count(o.warnings.size(), "warning") + " (";
    for (std::size_t i = 0; i < warnings.size() && i < 3; ++i)
      out += (i > 0 ? ", " : "") + std::to_string(warnings[i].second) + " " + warnings[i].first;
    out += warnings.size() > 3 ? ", ...)" : ")";
  }
  return out;
}

std::string options_sentence(const model::Run& run) {
  std::string given;
  std::string kept;
  for (const auto& option : run.options_in_force) {
    auto& into = option.kept ? kept : given;
    into += (into.empty() ? "" : ", ") + option.name + "=" + option.value;
  }
  if (kept.empty()) return given;
  return given + (given.empty() ? "" : "; ") + kept + " (given in an earlier run; --unset NAME drops one)";
}

std::string ignored_sentence(const model::Run& run) {
  std::string out =
      text::count(run.outcome.ignored, "command") + " failed, which does not matter by the description's word";
  for (const auto& result : run.outcome.steps) {
    if (result.ignored.empty()) continue;
    const auto& first = result.ignored.front();
    return out + "; the first: '" + text::clip(text::printable_line(first.command), 120) + "', " + first.end;
  }
  return out;
}

std::vector<std::pair<std::string, std::vector<std::string>>> sources_left_out(const model::Run& run) {
  std::vector<std::pair<std::string, std::vector<std::string>>> out;
  for (const auto& one : run.project.left_out) {
    if (one.reason.empty()) continue;
    auto it = std::find_if(out.begin(), out.end(), [&](const auto& group) { return group.first == one.reason; });
    if (it == out.end()) it = out.insert(out.end(), {one.reason, {}});
    it->second.push_back(one.name);
  }
  return out;
}

std::vector<std::string> left_out_sentences(const model::Run& run) {
  std::map<std::string, std::vector<std::string>> by_tool;
  std::vector<std::string> failed;
  for (std::size_t i = 0; i < run.outcome.steps.size() && i < run.plan.steps.size(); ++i) {
    const auto& result = run.outcome.steps[i];
    if (result.state != model::StepState::left_out) continue;
    if (result.reason.empty())
      failed.push_back(run.plan.steps[i].subject + ": its command failed, " + result.end + " (the log has its words)");
    else
      by_tool[result.reason].push_back(run.plan.steps[i].subject);
  }
  std::vector<std::string> out;
  for (const auto& [tool, documents] : by_tool) {
    const std::string package = locate::package_of_program(tool);
    out.push_back(documents.front() +
                  (documents.size() > 1 ? " and " + text::count(documents.size() - 1, "other") : std::string{}) +
                  ": '" + tool + "', which makes " + (documents.size() > 1 ? "them" : "it") + ", is not here" +
                  (package.empty() ? "" : "; apt-get install " + package));
  }
  out.insert(out.end(), failed.begin(), failed.end());
  return out;
}

std::vector<std::string> telling_lines(const std::string& output) {
  constexpr std::size_t most = 20;
  constexpr std::size_t of_first = 8;
  static const RE2 error(R"((?i)\b(?:fail(?:s|ed|ures?)?|fatal|panic|assert(?:ion)?)\b|(?:error|exception)s?\b)");
  static const RE2 none(R"((?i)\b(?:0|no) (?:\w+ )?(?:fail|error)|(?:fail\w*|errors?)\s*[:=]\s*0\b)");
  auto lines = text::split(text::printable(output), '\n');
  while (!lines.empty() && text::trim(lines.back()).empty()) lines.pop_back();
  if (lines.size() <= most) return lines;
  const auto last = lines.end() - static_cast<std::ptrdiff_t>(most);
  const auto first = std::find_if(lines.begin(), last, [](const auto& line) {
    return RE2::PartialMatch(line, error) && !RE2::PartialMatch(line, none);
  });
  if (first == last) return {last, lines.end()};
  const auto end = std::min(first + of_first, lines.end());
  std::vector<std::string> out(first, end);
  const auto rest = std::max(end, lines.end() - static_cast<std::ptrdiff_t>(most - of_first - 1));
  if (rest > end) out.push_back("(" + text::count(static_cast<std::size_t>(rest - end), "line") + " between)");
  out.insert(out.end(), rest, lines.end());
  return out;
}

std::vector<std::string> finish_sentences(const model::Run& run) {
  std::vector<std::string> out;
  const auto size_of = [](const std::string& path) {
    std::error_code error;
    const auto size = std::filesystem::file_size(path, error);
    return error ? std::uintmax_t{0} : size;
  };
  for (std::size_t i = 0; i < run.plan.steps.size() && i < run.outcome.steps.size(); ++i) {
    const auto& step = run.plan.steps[i];
    const auto state = run.outcome.steps[i].state;
    if (step.kind != model::StepKind::finish ||
        (state != model::StepState::done && state != model::StepState::unchanged))
      continue;
    const std::string& made = step.outputs.front();
    std::string line = step.target + ": " + files::below(made, run.kiln);
    if (step.outputs.size() > 1) line += " and " + text::count(step.outputs.size() - 1, "other file");
    if (!step.output_folders.empty()) line = step.target + ": " + files::below(step.output_folders.front(), run.kiln);
    if (step.output_folders.empty()) line += ", " + text::grouped(size_of(made)) + " bytes";
    const auto asked = std::find_if(run.settings.finishes.begin(), run.settings.finishes.end(),
                                    [&](const auto& finish) { return finish.name == step.target; });
    if (asked != run.settings.finishes.end() && asked->kind == model::Finish::Kind::strip)
      line += ", before " + text::grouped(size_of(step.inputs.front()));
    out.push_back(std::move(line));
  }
  return out;
}

std::string smoke_sentence(const model::Run& run) {
  const auto passed = run.count_checks(model::Verdict::passed);
  const auto failed = run.count_checks(model::Verdict::failed);
  const auto skipped = run.count_checks(model::Verdict::skipped);
  if (run.checks.empty()) return run.options.failed_checks ? "no check failed the last time" : "nothing to check";
  std::string out = failed == 0 ? text::count(passed, "check") + " passed"
                                : text::grouped(failed) + " of " + text::count(run.checks.size(), "check") + " failed";
  if (skipped > 0) out += ", " + text::grouped(skipped) + " skipped";
  return out;
}

std::string stage_sentence(const model::Run& run) {
  const auto& staged = run.staged;
  std::string out = text::count(staged.files.size(), "file") + " in " + staged.prefix;
  if (staged.written < staged.files.size())
    out +=
        staged.written == 0 ? ", all there already" : ", " + std::to_string(staged.written) + " of them new or changed";
  return out;
}

std::string member_sentence(const model::Run& member) {
  std::string out = member.as_member.name + ": ";
  if (member.problem)
    out += (member.outcome.failed > 0 ? "failed: " : "not built: ") + member.problem->what;
  else
    out += member.checked ? "passed" : member.built ? "built" : "read";
  const auto* followed = member.survey.followed();
  if (followed != nullptr) out += ", by " + followed->path;
  if (member.built) out += ", " + text::count(member.count_steps(), "step");
  if (!member.staged.files.empty()) out += ", installed " + text::count(member.staged.files.size(), "file");
  return member.as_member.not_begun ? out : out + ", " + text::duration(member.seconds);
}

std::vector<std::string> output_sentences(const model::Run& run) {
  // What several say alike is told once.
  std::vector<std::pair<std::string, std::vector<std::string>>> all;
  for (const auto& check : run.checks) {
    for (const auto& line : check.error_lines) {
      const std::string said =
          (check.kind == model::CheckKind::library ? " passed, but: " : " passed, and prints: ") + line;
      const auto it = std::find_if(all.begin(), all.end(), [&](const auto& one) { return one.first == said; });
      if (it == all.end())
        all.push_back({said, {check.name}});
      else if (!lists::contains(it->second, check.name))
        it->second.push_back(check.name);
    }
  }
  std::vector<std::string> out;
  for (const auto& [said, names] : all) out.push_back(text::join(names, ", ") + said);
  return out;
}

}  // namespace coctilis::report
