// A member of a tree that is brought up in a process of its own, so that several are at once: what it is told and what
// came of it lie in files, as bytes of the values themselves.
#pragma once

#include <string>
#include <vector>

#include "base/process.h"
#include "model/run.h"
#include "pipeline/bringup.h"

namespace coctilis::pipeline {

struct MemberTask {
  model::Run member;  // as it begins
  Wish wish;
  bool for_others = false;  // what it installs is put in place for those that need it
  std::string whole_tree;
  std::string whole_kiln;  // --kiln of the whole: all of it may be written
};

// What a Watcher was told, in order.
struct MemberEvent {
  enum class Kind { noted, surveyed, located, planned, looked, built, checked, staged } kind = Kind::noted;
  bool good = true;
  std::string text;
};

struct MemberAnswer {
  model::Run member;  // as it ended
  std::vector<MemberEvent> events;
};

// A run for a tree that is brought up as a part of another run: with its command line, compilers, variants and what its
// user allows, and with nothing that is meant for the whole alone. `inherited` holds; more can be added to it.
[[nodiscard]] model::Run part_of(const model::Run& whole, const std::string& name, const std::string& tree,
                                 const std::string& kiln);

// How a process is started for the task; `file`: where the two files are to lie, without their endings. Throws Fault
// (Exit::kiln).
[[nodiscard]] Command member_command(const MemberTask& task, const std::string& file);
// What has come of it. A process that left no answer has a problem that says how it ended.
[[nodiscard]] MemberAnswer member_answer(const MemberTask& task, const std::string& file, const Ended& ended);
// Tells the watcher what the member's own was told.
void tell_of_member(const MemberAnswer& answer, Watcher& watcher);

// Inside the process: does the task, and leaves the answer. Returns the exit status.
int bring_up_member(const std::string& file);

}  // namespace coctilis::pipeline
