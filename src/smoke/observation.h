// What was seen of a program that a check ran.
#pragma once

#include "base/process.h"

namespace coctilis::smoke {

struct Observation {
  Ended ended;
  double limit = 0;        // seconds that it was given
  bool waited = false;     // it was still running then, and was stopped
  bool listening = false;  // it waited for connections
  std::string waits_for;   // what it waited for then (processes.h); empty: not known
};

}  // namespace coctilis::smoke
