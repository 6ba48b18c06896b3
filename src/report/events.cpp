#include "report/events.h"

#include <nlohmann/json.hpp>

#include "base/files.h"
#include "report/report.h"

namespace coctilis::report {

using nlohmann::ordered_json;

// One event while it is put together; it is out when this ends.
struct Events::Line {
  Line(Events& to, const char* event) : events(to) {
    is["event"] = event;
    is["at"] = static_cast<double>(static_cast<long long>((to.now_() - to.begin_) * 1000)) / 1000;
    if (!to.member_.empty()) is["member"] = to.member_;
  }
  ~Line() { events.out_(is.dump(-1, ' ', false, ordered_json::error_handler_t::replace) + "\n"); }
  Line(const Line&) = delete;
  Line& operator=(const Line&) = delete;

  void of_step(const model::Step& step, std::size_t index) {
    is["step"] = index;
    is["kind"] = model::name_of(step.kind);
    if (!step.target.empty()) is["target"] = step.target;
    is["subject"] = step.subject;
  }
  void problem(const Problem& why) { is["problem"] = problem_document(why); }

  Events& events;
  ordered_json is;
};

Events::Events(std::function<void(const std::string&)> out, std::function<double()> now)
    : out_(std::move(out)), now_(std::move(now)), begin_(now_()) {}

void Events::begun(const model::Run& run, const std::string& goal) {
  Line line(*this, "begun");
  line.is["schema"] = events_schema;
  line.is["goal"] = goal;
  line.is["tree"] = files::absolute(run.options.tree);
  line.is["command"] = run.command;
  line.is["started"] = run.started;
}

void Events::member_begun(const model::Run& member) {
  member_ = member.as_member.name;
  const Line line(*this, "member begun");
}

void Events::member_ended(const model::Run& member) {
  member_ = member.as_member.name;
  {
    Line line(*this, "member ended");
    line.is["exit"] = member.exit_code();
    if (member.as_member.not_begun) line.is["not_begun"] = true;
    if (member.problem) line.problem(*member.problem);
  }
  member_.clear();
}

void Events::stage(const std::string& name, bool good, const std::string& text) {
  Line line(*this, "stage");
  line.is["stage"] = name;
  line.is["good"] = good;
  if (!text.empty()) line.is["text"] = text;
}

void Events::note(const std::string& text) {
  Line line(*this, "note");
  line.is["text"] = text;
}

void Events::step_begun(const model::Step& step, std::size_t index, const model::StepResult& result) {
  Line line(*this, "step begun");
  line.of_step(step, index);
  line.is["reason"] = result.reason;
}

void Events::step_ended(const model::Step& step, std::size_t index, const model::StepResult& result) {
  Line line(*this, "step ended");
  line.of_step(step, index);
  line.is["state"] = model::name_of(result.state);
  line.is["seconds"] = result.seconds;
  if (!result.end.empty()) line.is["end"] = result.end;
  if (result.state == model::StepState::failed) line.is["command"] = result.command;
  if (!result.output.empty()) line.is["output"] = result.output;
}

void Events::progress(const engine::Progress& progress) {
  const double now = now_();
  if (told_progress_ >= 0 && now - told_progress_ < 1) return;
  told_progress_ = now;
  Line line(*this, "progress");
  line.is["done"] = progress.done;
  if (!progress.open) line.is["total"] = progress.total;
  line.is["running"] = ordered_json::array();
  for (const auto& [step, age] : progress.running) line.is["running"].push_back(step);
  if (progress.seconds_left >= 0) line.is["seconds_left"] = progress.seconds_left;
}

void Events::check_ended(const model::Check& check) {
  Line line(*this, "check ended");
  line.is["kind"] = model::name_of(check.kind);
  line.is["name"] = check.name;
  line.is["verdict"] = model::name_of(check.verdict);
  line.is["reason"] = check.reason;
  line.is["seconds"] = check.seconds;
  if (!check.cause.empty()) line.is["cause"] = check.cause;
  if (!check.remedy.empty()) line.is["remedy"] = check.remedy;
}

void Events::ended(const model::Run& run, const std::string& record) {
  Line line(*this, "ended");
  line.is["exit"] = run.exit_code();
  line.is["seconds"] = run.seconds;
  if (run.problem) line.problem(*run.problem);
  if (!record.empty()) line.is["record"] = record;
}

}  // namespace coctilis::report
