// A run as it happens, for other programs: an event a line, each a JSON object of one line. docs/run-record.md has the
// keys of each.
#pragma once

#include <functional>
#include <string>

#include "engine/engine.h"
#include "model/run.h"

namespace coctilis::report {

inline constexpr int events_schema = 1;

class Events {
 public:
  // `out` gets each line with its line end; `now`: seconds that only grow.
  Events(std::function<void(const std::string&)> out, std::function<double()> now);

  // The run begins, or that of a member of its tree. What follows, up to its end, is of that member.
  void begun(const model::Run& run, const std::string& goal);
  void member_begun(const model::Run& member);
  void member_ended(const model::Run& member);
  // A stage has come to its end: `text` says in a sentence what it came to.
  void stage(const std::string& name, bool good, const std::string& text);
  void note(const std::string& text);
  void step_begun(const model::Step& step, std::size_t index, const model::StepResult& result);
  void step_ended(const model::Step& step, std::size_t index, const model::StepResult& result);
  // At most one of these a second.
  void progress(const engine::Progress& progress);
  void check_ended(const model::Check& check);
  // `record`: where its record lies; empty: it keeps none.
  void ended(const model::Run& run, const std::string& record);

 private:
  struct Line;

  std::function<void(const std::string&)> out_;
  std::function<double()> now_;
  double begin_;
  double told_progress_ = -1;
  std::string member_;
};

}  // namespace coctilis::report
