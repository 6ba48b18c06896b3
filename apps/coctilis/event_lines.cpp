#include "event_lines.h"

#include "base/process.h"
#include "report/sentences.h"
#include "screen.h"

namespace coctilis::app {

namespace {

const char* name_of(pipeline::Goal goal) {
  using pipeline::Goal;
  switch (goal) {
    case Goal::survey: return "survey";
    case Goal::locate: return "locate";
    case Goal::options: return "options";
    case Goal::plan: return "plan";
    case Goal::build: return "build";
    case Goal::smoke: return "smoke";
    case Goal::stage: return "stage";
  }
  return "";
}

void write(const std::string& line) {
  Screen::put(stdout, line);
  Screen::flush(stdout);
}

}  // namespace

class EventLines::Steps : public engine::Observer {
 public:
  Steps(const model::Plan& plan, engine::Observer& inner, report::Events& events)
      : plan_(plan), inner_(inner), events_(events) {}
  void step_begun(std::size_t step, const model::StepResult& result) override {
    events_.step_begun(plan_.steps[step], step, result);
    inner_.step_begun(step, result);
  }
  void step_ended(std::size_t step, const model::StepResult& result) override {
    events_.step_ended(plan_.steps[step], step, result);
    inner_.step_ended(step, result);
  }
  void progress(const engine::Progress& progress) override {
    events_.progress(progress);
    inner_.progress(progress);
  }

 private:
  const model::Plan& plan_;
  engine::Observer& inner_;
  report::Events& events_;
};

EventLines::EventLines(pipeline::Watcher& inner) : inner_(inner), events_(write, now) {}

void EventLines::begun(const model::Run& run, pipeline::Goal goal) { events_.begun(run, name_of(goal)); }

void EventLines::noted(const std::string& text) {
  events_.note(text);
  inner_.noted(text);
}

void EventLines::unpacked(const model::Run& run) {
  events_.stage("unpack", true, run.unpacked_from + " to " + run.tree);
  inner_.unpacked(run);
}

void EventLines::surveyed(const model::Run& run) {
  events_.stage("survey", true, report::survey_sentence(run.survey));
  inner_.surveyed(run);
}

void EventLines::located(const model::Run& run, bool good) {
  for (const auto& note : run.notes) events_.note(note);
  events_.stage("locate", good, run.toolchain.name.empty() ? "" : report::locate_sentence(run));
  inner_.located(run, good);
}

void EventLines::planned(const model::Run& run, bool good) {
  events_.stage("plan", good, good ? report::plan_sentence(run) : "");
  if (good) {
    for (const auto& note : run.plan.notes) events_.note(note);
  }
  inner_.planned(run, good);
}

void EventLines::looked(const model::Run& run) {
  events_.stage("dry run", true, run.due ? report::due_sentence(run) : "");
  inner_.looked(run);
}

void EventLines::built(const model::Run& run, bool good) {
  events_.stage("build", good, run.built ? report::build_sentence(run) : "");
  for (const auto& note : run.outcome.notes) events_.note(note);
  inner_.built(run, good);
}

void EventLines::checked(const model::Run& run, bool good) {
  events_.stage("smoke", good, run.checked ? report::smoke_sentence(run) : "");
  inner_.checked(run, good);
}

void EventLines::staged(const model::Run& run) {
  events_.stage("stage", true, report::stage_sentence(run));
  inner_.staged(run);
}

void EventLines::check_ended(const model::Check& check) {
  events_.check_ended(check);
  inner_.check_ended(check);
}

void EventLines::member_begun(const model::Run& member) {
  events_.member_begun(member);
  inner_.member_begun(member);
}

void EventLines::member_ended(const model::Run& member) {
  events_.member_ended(member);
  inner_.member_ended(member);
}

engine::Observer& EventLines::building(const model::Run& run) {
  steps_ = std::make_unique<Steps>(run.plan, inner_.building(run), events_);
  return *steps_;
}

}  // namespace coctilis::app
