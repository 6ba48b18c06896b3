// A [[smoke]] check of coctilis.toml: a program is run with arguments, and its exit code and output are looked at.
#include "base/files.h"
#include "base/text.h"
#include "smoke/expectations.h"
#include "smoke/kinds/kind.h"

namespace coctilis::smoke {

using model::Check;
using model::CheckKind;
using model::Verdict;

namespace {

Check run_program(const model::SmokeCheck& asked, const Runner& runner) {
  Check check;
  check.kind = CheckKind::smoke;
  check.name = asked.name;
  check.place = asked.place;
  const auto end = [&](Verdict verdict, std::string reason) {
    check.verdict = verdict;
    check.reason = std::move(reason);
    return check;
  };
  const files::ScratchFolder scratch("check");
  Command command;
  command.argv = asked.run;
  for (auto& word : command.argv) word = runner.with_folders(word);
  command.argv.front() = runner.program_path(command.argv.front());
  command.folder = asked.folder.empty() ? scratch.path().string() : files::absolute(asked.folder, runner.plan().tree);
  for (const auto& [name, value] : asked.environment) command.environment[name] = runner.with_folders(value);
  command.writable = runner.writable_with(scratch.path().string());
  const std::string program = command.argv.front();
  if (!program.empty()) command.argv = runner.launched(std::move(command.argv));
  check.command = text::shell_join(command.argv);
  if (program.empty() || !files::is_program(program))
    return end(Verdict::failed, "'" + asked.run.front() + "' is no program of the tree and none on PATH");
  if (const std::string why = runner.cannot_start(program); !why.empty()) return end(Verdict::skipped, why);
  const double begin = now();
  const Observation seen = runner.observe(command, asked.limit_seconds);
  check.seconds = now() - begin;
  check.output = seen.ended.output;
  Expectations expected;
  expected.exit = asked.exit;
  expected.tells_exit = true;
  expected.output = asked.output;
  const auto judgement = judge(seen, expected, runner.is_emulated(command.argv));
  return end(judgement.verdict, judgement.reason);
}

std::vector<PlannedCheck> expand_programs(const Context& context) {
  std::vector<PlannedCheck> out;
  for (const auto& check : context.settings.smoke) {
    if (context.wanted(check.name, check.run.front()))
      out.push_back({check.name, [&check](Runner& runner) { return run_program(check, runner); }});
  }
  return out;
}

std::vector<std::string> program_names(const Context& context) {
  std::vector<std::string> out;
  for (const auto& check : context.settings.smoke) out.push_back(check.name);
  return out;
}

}  // namespace

Kind program_kind() { return {CheckKind::smoke, expand_programs, program_names}; }

}  // namespace coctilis::smoke
