// Checks what came out: it loads, it starts, it does what coctilis.toml and the description's tests ask.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "base/process.h"
#include "base/result.h"
#include "model/outcome.h"
#include "model/plan.h"
#include "model/settings.h"
#include "model/toolchain.h"

namespace coctilis::smoke {

struct Request {
  std::vector<std::string> only;  // names of checks or programs; empty: all
  double start_limit_seconds = 10;
  double test_limit_seconds = 600;              // for declared tests that set none
  const model::Toolchain* toolchain = nullptr;  // of programs made for another machine: how they are started here
  std::string staged = {};         // prefix that the tree is installed into, for its libraries' clients; empty: nowhere
  std::string not_staged = {};     // why it is not
  bool records = false;            // numbers that are read become those that are right
  bool debugs = false;             // failing programs are run under the debugger
  unsigned jobs = 1;               // how many may run at once, of those that can
  std::string shared_tokens = {};  // file of base/job_tokens.h that others take leave from as well; or empty
  unsigned repeat = 1;             // how often each check is made
  std::function<void(const std::string&)> begun = nullptr;  // told of a check, or a part of one, that begins
};

// Those of the names that are checks, or programs, as far as `request` tells what there is.
[[nodiscard]] std::vector<std::string> known_checks(const model::Plan& plan, const model::Settings& settings,
                                                    const Request& request, const std::vector<std::string>& names);

// A check as it stands in the list.
struct ListedCheck {
  model::CheckKind kind = model::CheckKind::loads;
  std::string name;
  std::string what;                // what it runs, for people
  std::vector<std::string> needs;  // other checks, and services
  Place place;
};
// The checks that would be made, in order. Errors as for run_checks.
[[nodiscard]] Result<std::vector<ListedCheck>> list_checks(const model::Plan& plan, const model::Settings& settings,
                                                           const Request& request);

// The surroundings of a check, made for a person to look around in.
struct Entered {
  Command command;                    // a shell in its working folder, with its environment, confined as the check is
  std::vector<std::string> runs;      // what the check runs there, for people
  std::vector<std::string> beside;    // services that run meanwhile
  std::function<void()> look_beside;  // to be called now and then: what they print is taken
};
// Makes the surroundings of the one check that `request` asks for, starts the services that it runs beside, and calls
// `stay`; what was made and started is gone when that returns. Errors: no check of that name, one that runs nothing, or
// several (Exit::usage); what would be in its way, but for the files that it needs (Exit::check).
[[nodiscard]] Result<bool> enter_check(const model::Plan& plan, const model::Settings& settings, const Request& request,
                                       const std::function<void(const Entered&)>& stay);

// Runs the checks in order; `ended` is told each result. Failing checks are results, not errors. A target that was not
// made is left out, a check of it is skipped with its reason. Errors: a name in `only` that is no check (Exit::usage).
[[nodiscard]] Result<std::vector<model::Check>> run_checks(const model::Plan& plan, const model::Settings& settings,
                                                           const Request& request,
                                                           const std::function<void(const model::Check&)>& ended);

}  // namespace coctilis::smoke
