#include "smoke/service_run.h"

#include <signal.h>
#include <unistd.h>

#include "base/files.h"
#include "base/own_program.h"
#include "base/text.h"
#include "smoke/exchange.h"
#include "smoke/failing.h"
#include "smoke/patterns.h"
#include "smoke/processes.h"

namespace coctilis::smoke {

using model::Verdict;

namespace {

// A line by which servers say that they are ready.
const char* const line_of_ready =
    R"((?i)\b(?:ready|listening|listens|serving|started|waiting for connections|accepting|running on|bound to)\b)";

// "80, 443"; empty: on none.
std::string ports_of(const Process& process) {
  std::vector<std::string> out;
  for (const int port : listening_ports(process.pid())) out.push_back(std::to_string(port));
  return text::join(out, ", ");
}

}  // namespace

RunningService::RunningService(Runner& runner, const model::AskedService& asked)
    : runner_(runner), asked_(asked), place_(runner, asked.surroundings, asked.run.front(), {}, true) {}

RunningService::~RunningService() {
  runner_.beside(this, {});
  if (running_) (void)stop();
}

std::string RunningService::command() const { return start_.shown; }

void RunningService::look() {
  if (running_ && process_.poll()) {
    running_ = false;
    seen_.ended = process_.take();
  }
}

// It ended when it should not have.
Judgement RunningService::ended_before(const std::string& what) {
  Judgement out(Verdict::failed, "it ended " + what + ": " + seen_.ended.text());
  find_cause(out, runner_, start_.command, start_.program, place_.seen_folder(), seen_, true);
  return out;
}

// Why it is ready; empty: it is not yet.
std::string RunningService::why_ready(double& next_look) {
  const model::Ready& ready = asked_.ready;
  const bool said = ready.is_said();
  const std::string& output = process_.output_so_far();
  const bool has_printed = output.size() != printed_;
  printed_ = output.size();
  if (has_printed && !ready.line.empty() && is_found(ready.line, output)) return "said '" + ready.line + "'";
  if (has_printed && !said && is_found(line_of_ready, output)) says_ready_ = true;
  if (now() < next_look) return {};
  next_look = now() + 0.02;
  if (!ready.file.empty() && files::exists(place_.file(place_.with_values(ready.file)))) return "made " + ready.file;
  if (ready.port > 0 || !said) {
    const auto ports = listening_ports(process_.pid());
    if (ready.port > 0 && ports.contains(ready.port)) return "listens on port " + std::to_string(ready.port);
    if (!said && !ports.empty()) return "listens on port " + std::to_string(*ports.begin());
  }
  if (!ready.url.empty()) {
    if (!readiness_.running()) {
      Question question;
      question.url = place_.with_values(ready.url);
      question.within = ready.within;
      question.insists = true;
      readiness_ = Process::start(asking(question));
    } else if (readiness_.poll()) {
      const Reply answer = reply_in(readiness_.take());
      if (answer.error.empty()) return "answers at " + ready.url;
    }
  }
  // Where it listens says more than a line.
  if (says_ready_) return "says that it is";
  return {};
}

Judgement RunningService::start() {
  if (place_.obstacle()) return *place_.obstacle();
  start_ = place_.start_of(asked_.run);
  if (start_.obstacle) return *start_.obstacle;
  const double begin = now();
  start_.command.modes_count = runner_.is_own_tree();
  process_ = Process::start(start_.command);
  running_ = true;
  runner_.beside(this, [this] { look(); });
  double next_look = 0;
  for (;;) {
    look();
    if (!running_) {
      seen_.limit = asked_.ready.within;
      return ended_before("before it was ready");
    }
    if (interrupted_by != 0) return {Verdict::skipped, "interrupted"};
    if (const std::string why = why_ready(next_look); !why.empty())
      return {Verdict::passed, "ready after " + text::duration(now() - begin) + " (" + why + ")"};
    if (now() - begin > asked_.ready.within) break;
    runner_.look_beside();
    ::usleep(2000);
  }
  Judgement out(Verdict::failed, "not ready within " + text::duration(asked_.ready.within));
  const model::Ready& ready = asked_.ready;
  out.cause = !ready.line.empty()   ? "it did not print '" + ready.line + "'"
              : ready.port > 0      ? "it does not listen on port " + std::to_string(ready.port)
              : !ready.file.empty() ? "it did not make " + ready.file
              : !ready.url.empty()  ? "nothing answers at " + ready.url
                                    : "it neither listens on a port nor prints that it is ready";
  const std::string listens = ports_of(process_);
  if (!listens.empty()) out.evidence.push_back("it listens on port " + listens);
  if (const std::string waits = what_it_waits_for(process_.pid()); !waits.empty())
    out.evidence.push_back("it waits for " + waits);
  out.remedy =
      listens.empty()
          ? "say how it is seen that it is ready, and in what time: ready = { line = \"...\", within = \"30 s\" }"
          : "correct ready, or the port that it is told to listen on";
  return out;
}

Command RunningService::asking(const Question& question) const {
  Command command;
  command.argv = words_of(question);
  command.argv.insert(command.argv.begin(), own_program());
  command.folder = place_.folder();
  command.writable = {place_.folder()};
  command.output_limit = 64U << 20U;
  return command;
}

Judgement RunningService::ask_with(const model::Probe& probe) {
  Question question;
  question.url = place_.with_values(probe.url);
  question.send = place_.with_values(probe.send);
  question.until = probe.expect;
  question.within = probe.within;
  const std::string where = probe.url.empty() ? place_.with_values(probe.connect) : question.url;
  if (const auto colon = probe.connect.rfind(':'); colon != std::string::npos) {
    question.host = probe.connect.substr(0, colon);
    question.port = std::atoi(probe.connect.c_str() + colon + 1);
  }
  std::vector<Process> all;
  std::vector<Reply> answers(static_cast<std::size_t>(probe.times));
  const std::size_t together = probe.at_once ? answers.size() : 1;
  for (std::size_t next = 0; next < answers.size();) {
    const std::size_t begin = next;
    all.clear();
    for (; next < answers.size() && next - begin < together; ++next) all.push_back(Process::start(asking(question)));
    for (bool waits = true; waits && interrupted_by == 0;) {
      waits = false;
      for (auto& process : all) {
        if (process.running() && process.age() > probe.within + 10) process.stop(Ended::How::timed_out);
        waits = !process.poll() || waits;
      }
      runner_.look_beside();
      if (waits) ::usleep(2000);
    }
    if (interrupted_by != 0) return {Verdict::skipped, "interrupted"};
    for (std::size_t i = 0; i < all.size(); ++i) answers[begin + i] = reply_in(all[i].take());
  }
  for (std::size_t i = 0; i < answers.size(); ++i) {
    const Reply& answer = answers[i];
    const std::string which =
        where +
        (answers.size() > 1 ? " (" + std::to_string(i + 1) + " of " + std::to_string(answers.size()) + ")" : "");
    const auto fails = [&](const std::string& what) {
      Judgement out(Verdict::failed, which + ": " + what);
      const auto lines = text::split(text::printable(answer.body), '\n');
      for (std::size_t k = 0; k < lines.size() && k < 5; ++k) {
        if (!text::trim(lines[k]).empty()) out.evidence.push_back("it answered: " + text::clip(lines[k], 200));
      }
      return out;
    };
    if (!answer.error.empty()) {
      if (!running_) return ended_before("while it was asked");
      Judgement out = fails(answer.error);
      const std::string listens = ports_of(process_);
      out.cause =
          listens.empty() ? "the service does not listen on any port" : "the service listens on port " + listens;
      return out;
    }
    if (!probe.url.empty() && answer.status != probe.status)
      return fails("status " + std::to_string(answer.status) + ", expected " + std::to_string(probe.status));
    for (const auto& [name, pattern] : probe.headers) {
      const auto header = answer.headers.find(text::lower(name));
      if (header == answer.headers.end()) return fails("no header " + name);
      if (!is_found(pattern, header->second))
        return fails("header " + name + " is '" + text::printable_line(header->second) + "', expected '" + pattern +
                     "'");
    }
    for (const auto& pattern : probe.body) {
      if (!is_found(pattern, answer.body)) return fails("the page does not have '" + pattern + "'");
    }
    if (!probe.expect.empty() && !is_found(probe.expect, answer.body))
      return fails("what came back does not have '" + probe.expect + "'");
  }
  return {Verdict::passed, where};
}

Judgement RunningService::run_clients(const model::Probe& probe) {
  const model::CheckStep& step = probe.step;
  struct Client {
    Workplace::Start start;
    Observing observing;
    bool over = false;
  };
  const Expectations expected = expectations_of(step.expected, place_.asked());
  const auto times = static_cast<std::size_t>(probe.times);
  const std::size_t together = probe.at_once ? times : 1;
  for (std::size_t done = 0; done < times; done += together) {
    std::vector<Client> clients(std::min(together, times - done));
    for (auto& client : clients) {
      client.start = place_.start_of(step.run, step.input, step.input_file);
      if (client.start.obstacle) return *client.start.obstacle;
      client.observing = runner_.begin(client.start.command, step.expected.within);
    }
    for (bool waits = true; waits;) {
      waits = false;
      for (auto& client : clients) {
        client.over = client.over || client.observing.ended();
        waits = waits || !client.over;
      }
      runner_.look_beside();
      if (waits) ::usleep(2000);
    }
    for (auto& client : clients) {
      const Observation seen = client.observing.take();
      Judgement judgement = judge(seen, expected, client.start.emulated);
      if (judgement.verdict == Verdict::passed) continue;
      judgement.reason = "client " + text::shell_join(step.run) + ": " + judgement.reason;
      find_cause(judgement, runner_, client.start.command, client.start.program, place_.seen_folder(), seen, true);
      for (const auto& line : text::split(text::printable(seen.ended.output), '\n')) {
        if (judgement.evidence.size() < 8 && !text::trim(line).empty())
          judgement.evidence.push_back("it printed: " + text::clip(line, 200));
      }
      return judgement;
    }
  }
  return {Verdict::passed, text::shell_join(step.run)};
}

Judgement RunningService::one_probe(const model::Probe& probe) {
  return probe.step.run.empty() ? ask_with(probe) : run_clients(probe);
}

Judgement RunningService::probe() {
  for (const auto& probe : asked_.probes) {
    Judgement judgement = one_probe(probe);
    // One that does not answer as it should may just be ending.
    for (const double until = now() + 0.1; judgement.verdict == Verdict::failed && running_ && now() < until; look())
      ::usleep(2000);
    look();
    if (judgement.verdict == Verdict::failed && !running_) {
      const std::string asked = judgement.reason;
      judgement = ended_before("while it was asked");
      judgement.evidence.insert(judgement.evidence.begin(), asked);
    }
    if (judgement.verdict != Verdict::passed) return judgement;
  }
  look();
  if (!running_) return ended_before("by itself, after it was ready");
  const std::size_t count = asked_.probes.size();
  return {Verdict::passed, count == 0 ? std::string{} : text::count(count, "probe") + " answered"};
}

Judgement RunningService::stop() {
  runner_.beside(this, {});
  look();
  Judgement out;
  if (!running_) {
    // One that has nothing more to do once it has answered may end; one that fails may not.
    if (!seen_.ended.good()) return ended_before("by itself");
    out.reason = "ended by itself";
  } else {
    const double begin = now();
    process_.signal(SIGTERM);
    bool killed = false;
    while (running_) {
      look();
      runner_.look_beside();
      if (running_ && !killed && now() - begin > asked_.stop_within) {
        killed = true;
        seen_.waits_for = what_it_waits_for(process_.pid());
        process_.stop(Ended::How::timed_out);
      }
      ::usleep(1000);
    }
    const double took = now() - begin;
    const bool crashed = seen_.ended.how == Ended::How::signalled && seen_.ended.code != SIGTERM && !killed;
    if (killed) {
      out = {Verdict::failed, "it did not end within " + text::duration(asked_.stop_within) +
                                  " after it was asked to (SIGTERM), and was killed"};
      if (!seen_.waits_for.empty()) out.cause = "it waited for " + seen_.waits_for;
      out.remedy = "end it on SIGTERM, or give it the time it needs: stop-within = \"30 s\"";
    } else if (crashed) {
      out = {Verdict::failed, "when it was asked to end (SIGTERM) it crashed: " + seen_.ended.text()};
      find_cause(out, runner_, start_.command, start_.program, place_.seen_folder(), seen_, true);
    } else {
      out.reason = "stopped in " + text::duration(took);
    }
  }
  if (out.verdict != Verdict::passed) return out;
  Judgement printed = judge_forbidden(seen_.ended, asked_.surroundings.forbid);
  return printed.verdict == Verdict::passed ? out : printed;
}

Judgement Services::start(const std::vector<std::string>& names) {
  for (const auto& name : names) {
    const auto runs = [&](const auto& one) { return one->asked().name == name; };
    if (std::any_of(running_.begin(), running_.end(), runs)) continue;
    const auto it = std::find_if(all_.begin(), all_.end(), [&](const auto& one) { return one.name == name; });
    if (it == all_.end()) return {Verdict::failed, "there is no service '" + name + "'"};
    if (Judgement needed = start(it->needs); needed.verdict != Verdict::passed) return needed;
    auto service = std::make_unique<RunningService>(runner_, *it);
    Judgement judgement = service->start();
    if (judgement.verdict != Verdict::passed) {
      judgement.reason = "the service '" + name + "': " + judgement.reason;
      return judgement;
    }
    running_.push_back(std::move(service));
  }
  return {};
}

Judgement Services::stop() {
  Judgement out;
  for (; !running_.empty(); running_.pop_back()) {
    Judgement judgement = running_.back()->stop();
    if (out.verdict != Verdict::passed || judgement.verdict == Verdict::passed) continue;
    judgement.reason = "the service '" + running_.back()->asked().name + "': " + judgement.reason;
    out = std::move(judgement);
  }
  return out;
}

std::string Services::output() const {
  std::string out;
  for (const auto& one : running_) {
    if (!one->output().empty())
      out += "[" + one->asked().name + "]\n" + one->output() + (one->output().ends_with('\n') ? "" : "\n");
  }
  return out;
}

}  // namespace coctilis::smoke
