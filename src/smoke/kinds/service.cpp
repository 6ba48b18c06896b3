// A [[service]] of coctilis.toml: it gets ready, answers what it is asked, and ends when it is asked to.
#include "base/text.h"
#include "smoke/kinds/kind.h"
#include "smoke/service_run.h"

namespace coctilis::smoke {

using model::AskedService;
using model::Check;
using model::CheckKind;
using model::Verdict;

namespace {

Check run_service(const AskedService& asked, const Context& context, Runner& runner) {
  Check check;
  check.kind = CheckKind::service;
  check.name = asked.name;
  check.place = asked.place;
  const double begin = now();
  std::vector<std::string> said;
  const auto good = [&](const Judgement& judgement) {
    check.verdict = judgement.verdict;
    if (judgement.verdict == Verdict::passed) {
      if (!judgement.reason.empty()) said.push_back(judgement.reason);
      return true;
    }
    check.reason = judgement.reason;
    check.cause = judgement.cause;
    check.remedy = judgement.remedy;
    check.evidence = judgement.evidence;
    return false;
  };
  Services others(runner, context.settings.services);
  if (good(others.start(asked.needs))) {
    RunningService service(runner, asked);
    const auto tell = [&](const char* what) {
      if (context.request.begun) context.request.begun(asked.name + ", " + what);
    };
    tell("until it is ready");
    bool well = good(service.start());
    check.command = service.command();
    tell("its probes");
    well = well && good(service.probe());
    const Judgement stopped = service.stop();
    if (well) well = good(stopped);
    check.output = service.output();
    if (well) check.error_lines = lines_like_errors(check.output, asked.surroundings.benign);
  }
  if (const Judgement stopped = others.stop(); check.verdict == Verdict::passed) good(stopped);
  if (check.verdict == Verdict::passed) check.reason = text::join(said, "; ");
  check.seconds = now() - begin;
  return check;
}

// The service itself does not run: it is for the person to start.
std::optional<Judgement> enter_service(const AskedService& asked, const Context& context, Runner& runner,
                                       const PlannedCheck::Stay& stay) {
  Services others(runner, context.settings.services);
  if (Judgement started = others.start(asked.needs); started.verdict != Verdict::passed) return started;
  Workplace place(runner, asked.surroundings, asked.run.front(), {}, true);
  if (place.obstacle() && place.obstacle()->verdict == Verdict::failed) return place.obstacle();
  const auto start = place.start_of(asked.run);
  stay({place.start_of_shell().command,
        {start.shown.empty() ? text::shell_join(asked.run) : start.shown},
        asked.needs,
        [&] { runner.look_beside(); }});
  static_cast<void>(others.stop());
  return std::nullopt;
}

std::vector<PlannedCheck> expand_services(const Context& context) {
  std::vector<PlannedCheck> out;
  for (const auto& service : context.settings.services) {
    if (!context.wanted(service.name, service.run.front())) continue;
    out.push_back({service.name, [&service, &context](Runner& runner) { return run_service(service, context, runner); },
                   text::shell_join(service.run), service.needs, service.place});
    out.back().program = service.run.front();
    out.back().own_network = true;
    out.back().enter = [&service, &context](Runner& runner, const PlannedCheck::Stay& stay) {
      return enter_service(service, context, runner, stay);
    };
  }
  return out;
}

std::vector<std::string> service_names(const Context& context) {
  std::vector<std::string> out;
  for (const auto& service : context.settings.services) out.push_back(service.name);
  return out;
}

}  // namespace

Kind service_kind() { return {CheckKind::service, expand_services, service_names}; }

}  // namespace coctilis::smoke
