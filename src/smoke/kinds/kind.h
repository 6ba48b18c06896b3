// Kinds of checks: a file each in this folder, and a line in the table of kinds.cpp.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "model/outcome.h"
#include "model/plan.h"
#include "model/settings.h"
#include "smoke/expectations.h"
#include "smoke/runner.h"
#include "smoke/smoke.h"

namespace coctilis::smoke {

// What checks are made from.
struct Context {
  const model::Plan& plan;
  const model::Settings& settings;
  const Request& request;
  // Whether the check of that name, or of that program, is asked for.
  [[nodiscard]] bool wanted(const std::string& name, const std::string& program) const;
};

// A check that can run while others do.
class CheckBesideOthers {
 public:
  virtual ~CheckBesideOthers() = default;
  // Starts it; false: there is nothing to wait for.
  virtual bool begin(Runner& runner) = 0;
  [[nodiscard]] virtual bool ended() = 0;
  // Whether it failed, once it has ended: then it is to be made once more, alone, and this one counts for nothing.
  [[nodiscard]] virtual bool failed_at_first() = 0;
  [[nodiscard]] virtual model::Check finish() = 0;
};

// What such a check asks of those beside it.
struct Company {
  std::vector<std::size_t> waits;  // checks of its kind, by their place, that have to be over before it begins
  std::vector<std::string> locks;  // what only one of those that name it may use at a time
  unsigned jobs = 1;               // processors that it keeps busy
  bool alone = false;              // none may run beside it
  double cost = 0;                 // how long it takes, as its description has it; what was seen counts more
};

// A check to be made.
struct PlannedCheck {
  std::string name;
  std::function<model::Check(Runner& runner)> run;
  std::string what;                // what it runs, for people
  std::vector<std::string> needs;  // other checks, and services
  Place place;
  std::shared_ptr<CheckBesideOthers> beside = nullptr;  // how it runs while others do; null: it does not
  Company company = {};
  std::string program = {};  // by which it can be asked for, besides its name
  bool own_network = false;  // it runs in a network that no other check has used
  // Makes its surroundings and calls `stay`; gives what is in the way, if anything. Null: it runs nothing.
  using Stay = std::function<void(const Entered&)>;
  std::function<std::optional<Judgement>(Runner& runner, const Stay& stay)> enter = nullptr;
};

struct Kind {
  model::CheckKind kind;
  // The checks of this kind that are asked for, in order.
  std::vector<PlannedCheck> (*expand)(const Context& context);
  // Names under which checks of this kind can be asked for, besides those of programs.
  std::vector<std::string> (*names)(const Context& context);
};

// In the order in which they are made.
[[nodiscard]] const std::vector<Kind>& kinds();

// ---- the kinds --------------------------------------------------------------------------------------------------
[[nodiscard]] Kind loads_kind();     // its shared libraries are found
[[nodiscard]] Kind starts_kind();    // it starts
[[nodiscard]] Kind library_kind();   // a library that is installed can be used
[[nodiscard]] Kind service_kind();   // [[service]] of coctilis.toml
[[nodiscard]] Kind program_kind();   // [[smoke]] of it
[[nodiscard]] Kind declared_kind();  // tests of the description

// Targets whose result is there and of one of the kinds that can be checked.
[[nodiscard]] std::vector<const model::PlannedTarget*> built_targets(const model::Plan& plan);

}  // namespace coctilis::smoke
