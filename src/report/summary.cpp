// The short account in plain text.
#include <fmt/format.h>

#include "base/text.h"
#include "report/report.h"
#include "report/sentences.h"

namespace coctilis::report {

std::string summary(const model::Run& run) {
  std::string out;
  const auto line = [&](const char* stage, const std::string& text) {
    out += fmt::format("{:<9} {}\n", stage, text::printable_line(text));
  };
  line("tree", run.own_tree());
  line("label", run.label);
  line("started", run.started);
  line("survey", survey_sentence(run.survey));
  if (!run.toolchain.name.empty()) line("locate", locate_sentence(run));
  for (const auto& f : run.findings) {
    if (!f.found && f.requirement.required)
      line("missing", f.requirement.name + (f.package.empty() ? "" : " (package " + f.package + ")"));
  }
  if (run.reached >= model::Stage::plan || !run.plan.steps.empty()) line("plan", plan_sentence(run));
  if (!run.options_in_force.empty()) line("options", options_sentence(run));
  if (run.built && run.members.empty()) line("build", build_sentence(run));
  for (const auto& text : finish_sentences(run)) line("finish", text);
  if (run.outcome.ignored > 0) line("ignored", ignored_sentence(run));
  for (const auto& note : run.outcome.notes) line("note", note);
  for (const auto& text : left_out_sentences(run)) line("left out", text);
  if (run.checked) line("smoke", smoke_sentence(run));
  for (const auto& check : run.checks) {
    line(model::name_of(check.verdict), check.name + ": " + check.reason);
    if (!check.cause.empty()) line("cause", check.cause);
    if (!check.remedy.empty()) line("fix", check.remedy);
  }
  for (const auto& member : run.members) line("member", member_sentence(member));
  if (run.problem) {
    line("error", (run.problem->place.file.empty() ? "" : run.problem->place.text() + ": ") + run.problem->what);
    if (!run.problem->cause.empty()) line("cause", run.problem->cause);
    if (!run.problem->remedy.empty()) line("fix", run.problem->remedy);
  }
  line("exit", std::to_string(run.exit_code()));
  line("took", text::duration(run.seconds));
  return out;
}

}  // namespace coctilis::report
