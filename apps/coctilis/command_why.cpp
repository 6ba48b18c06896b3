// why: everything that is known of one subject.
#include "base/files.h"
#include "base/text.h"
#include "commands.h"
#include "pipeline/bringup.h"
#include "record/record.h"
#include "report/explain.h"

namespace coctilis::app {

namespace {

int explain_subject(Common& common, const std::string& subject) {
  Screen screen(common.plain, common.quiet, common.verbosity, common.json);
  model::Run run = start_run(common);
  screen.live("why       reading the description");
  const bool read = pipeline::read_only(run);
  screen.live("");
  if (!read) {
    screen.problem(*run.problem);
    return run.exit_code();
  }
  // A tree of several members knows what they know.
  std::vector<report::Explanation> explanations;
  const auto ask = [&](const model::Run& whom) {
    for (auto& one : report::explain(whom, subject, files::absolute("."), record::newest(whom.kiln))) {
      if (!whom.as_member.name.empty()) one.headline = whom.as_member.name + ": " + one.headline;
      explanations.push_back(std::move(one));
    }
  };
  if (run.members.empty()) ask(run);
  for (const auto& member : run.members) ask(member);
  if (common.json) screen.text(report::explanations_json(run, subject, explanations));
  if (explanations.empty()) {
    if (run.problem) screen.problem(*run.problem);
    std::string nearest = report::nearest_subject(run, subject);
    for (const auto& member : run.members) {
      if (member.problem) screen.problem(*member.problem);
      if (nearest.empty()) nearest = report::nearest_subject(member, subject);
    }
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
  auto* command = app.add_subcommand("why",
                                     "Explains what a run knows: a requirement, option, target, step, file, header, "
                                     "library, check ...");
  auto subject = std::make_shared<std::string>();
  command->add_option("SUBJECT", *subject, "A name or a path, or a step's number; 'failure' for the last failure");
  add_tree(*command, common);
  add_common(*command, common);
  // An option of a compiler ("-Wall") looks like one of this command line, and is none.
  command->allow_extras();
  command->callback([&common, command, subject] {
    const auto others = command->remaining();
    const bool about_option = !others.empty() && others.front().starts_with("-") && !others.front().starts_with("--");
    if (others.size() > 1 || (!others.empty() && !about_option)) throw CLI::ExtrasError("why", {others.front()});
    if (about_option) {
      // What stood before it as the subject is the tree then.
      if (!subject->empty() && !common.tree_given) {
        common.run.tree = *subject;
        common.tree_given = true;
      }
      *subject = others.front();
    }
    if (subject->empty()) throw CLI::RequiredError("SUBJECT");
    common.chosen = [&common, subject] { return explain_subject(common, *subject); };
  });
}

}  // namespace coctilis::app
