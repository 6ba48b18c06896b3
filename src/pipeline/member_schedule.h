// Several trees that are brought up in one run, each in a process of its own: in the order of what needs what, those
// that do not wait for each other side by side, with one pool of jobs for the processes of all.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "model/run.h"
#include "pipeline/bringup.h"
#include "pipeline/member_process.h"
#include "survey/relations.h"

namespace coctilis::pipeline {

struct ScheduledMember {
  std::string name;
  // Without those that it needs it is not begun; those that it waits for have ended before, well or not.
  survey::Placed place;
  bool wanted = true;
  // How it begins, given the prefixes of those that it sees; they come in the order of the list.
  std::function<MemberTask(const std::vector<std::string>& installed)> task;
};

// Brings up those that are wanted; the watcher is told of each when it has ended. `folder`: for what processes share.
// Returns the run of each, parallel to `members`: nothing for one that is not wanted. One that is not begun for want of
// another has a problem that says so, and `not_begun`.
[[nodiscard]] std::vector<std::optional<model::Run>> bring_up_in_order(const std::vector<ScheduledMember>& members,
                                                                       unsigned jobs, const std::string& folder,
                                                                       Watcher& watcher);

}  // namespace coctilis::pipeline
