// why: everything that is known of one subject.
#include "base/files.h"
#include "base/text.h"
#include "commands.h"
#include "pipeline/pipeline.h"
#include "record/record.h"
#include "report/explain.h"

namespace coctilis::app {

namespace {

int explain_subject(Common& common, const std::string& subject) {
  Screen screen(common.plain, common.quiet, common.verbosity, common.json);
  model::Run run = start_run(common);
  {
    pipeline::Session session;
    screen.live("why       reading the description");
    // As far as it goes: what stops it may be what is asked about.
    const bool started = pipeline::open_tree(run, [](std::uint64_t) {}) && pipeline::settings(run) &&
                         pipeline::survey(run, session) && pipeline::toolchain(run, session);
    // The description that a build would follow: the first that can be.
    const auto plan = [&] { return pipeline::locate(run, session) && pipeline::plan(run, session); };
    bool planned = started && plan();
    for (std::string note; started && !planned && pipeline::follow_another(run, session, note);) planned = plan();
    screen.live("");
    if (!started) {
      screen.problem(*run.problem);
      return run.exit_code();
    }
  }
  const std::string record = record::newest(run.kiln);
  const auto explanations = report::explain(run, subject, files::absolute("."), record);
  if (common.json) screen.text(report::explanations_json(run, subject, explanations));
  if (explanations.empty()) {
    if (run.problem) screen.problem(*run.problem);
    const std::string nearest = report::nearest_subject(run, subject);
    screen.problem({Exit::usage,
                    {},
                    "nothing is known of '" + text::printable_line(subject) + "'",
                    {},
                    nearest.empty() ? "'coctilis locate' lists requirements, 'coctilis plan' targets and steps"
                                    : "did you mean '" + nearest + "'?",
                    {}});
    return static_cast<int>(Exit::usage);
  }
  if (common.json) return 0;
  for (const auto& e : explanations) {
    // Names of kinds that do not fit before the text go into it.
    const bool fits = e.kind.size() < 10;
    screen.line(fits ? e.kind : "about", (fits ? "" : e.kind + " ") + e.headline);
    for (const auto& line : e.lines) screen.under(line, Tone::plain);
    if (!e.text.empty()) screen.text(text::printable(e.text));
  }
  return 0;
}

}  // namespace

void add_why(CLI::App& app, Common& common) {
  auto* command = app.add_subcommand(
      "why", "Explains a requirement, a compiler check, an option, target, step, file, symbol or check");
  auto subject = std::make_shared<std::string>();
  command->add_option("SUBJECT", *subject, "A name or a path; 'failure' for the last failure")->required();
  add_tree(*command, common);
  add_common(*command, common);
  command->callback(
      [&common, subject] { common.chosen = [&common, subject] { return explain_subject(common, *subject); }; });
}

}  // namespace coctilis::app
