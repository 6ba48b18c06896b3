// A program with windows while it is checked: under a display in memory (Xvfb) of its own, until its window is up; then
// its picture is taken, keys and clicks are sent, and it is asked to close.
#pragma once

#include <string>

#include "model/asked_check.h"
#include "smoke/expectations.h"
#include "smoke/runner.h"
#include "smoke/workplace.h"

namespace coctilis::smoke {

struct WindowSeen {
  Judgement judgement;
  std::string shown;     // the command for people
  std::string output;    // of the program
  std::string picture;   // PNG; empty: there is none
  bool watched = false;  // which files it asked for was seen
  WatchedFiles files;
};

// Skipped where this machine has no such display.
[[nodiscard]] WindowSeen run_window(const model::AskedWindow& asked, const model::CheckStep& step, Workplace& place);

}  // namespace coctilis::smoke
