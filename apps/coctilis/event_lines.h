// --json-lines: what a run tells goes to standard output as it happens, and on to whoever else watches it.
#pragma once

#include <memory>
#include <string>

#include "pipeline/bringup.h"
#include "report/events.h"

namespace coctilis::app {

// Writes events, and hands all on to `inner`, which is also who is asked; it has to live longer.
class EventLines : public pipeline::Watcher {
 public:
  explicit EventLines(pipeline::Watcher& inner);

  void begun(const model::Run& run, pipeline::Goal goal);
  // `record`: where its record lies; empty: there is none.
  void ended(const model::Run& run, const std::string& record) { events_.ended(run, record); }

  void doing(const std::string& what) override { inner_.doing(what); }
  void noted(const std::string& text) override;
  void unpacked(const model::Run& run) override;
  void surveyed(const model::Run& run) override;
  void located(const model::Run& run, bool good) override;
  void planned(const model::Run& run, bool good) override;
  void looked(const model::Run& run) override;
  void built(const model::Run& run, bool good) override;
  void checked(const model::Run& run, bool good) override;
  void staged(const model::Run& run) override;
  void entered(const smoke::Entered& check) override { inner_.entered(check); }
  void check_ended(const model::Check& check) override;
  void member_begun(const model::Run& member) override;
  void member_ended(const model::Run& member) override;
  bool asks_to_fill(const model::Run& run) override { return inner_.asks_to_fill(run); }
  bool asks_to_allow(const std::string& what) override { return inner_.asks_to_allow(what); }
  survey::FillObserver& filling() override { return inner_.filling(); }
  engine::Observer& building(const model::Run& run) override;

 private:
  class Steps;

  pipeline::Watcher& inner_;
  report::Events events_;
  std::unique_ptr<engine::Observer> steps_;
};

}  // namespace coctilis::app
