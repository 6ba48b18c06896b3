// What stands on a display (X11): finding a program's window, taking its picture, sending keys and clicks, and asking
// it to close. It happens in a process of its own in the network that the display is in, which this program calls
// itself for.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/process.h"

namespace coctilis::smoke {

struct ScreenTask {
  std::string display;  // ":1", "127.0.0.1:1"
  std::string title;    // regular expression of the window's title; empty: any
  double within = 10;   // seconds in which the window has to be there, with content
  std::string picture;  // where its picture goes (PNG), and with keys or clicks that of afterwards
  std::vector<std::string> keys;
  std::vector<std::pair<int, int>> clicks;  // pixels from its top left
  bool closes = false;                      // ask it to close, and nothing else
};

struct ScreenReport {
  std::string error;  // why there is no window as it is wanted; empty: there is one
  std::string title;
  int width = 0;
  int height = 0;
  std::vector<std::string> others;  // windows that are there, but not wanted: their titles
  bool can_close = false;           // it takes being asked to (WM_DELETE_WINDOW; ICCCM 4.2.8.1)
  bool changed = false;             // keys or clicks have changed what it shows
};

// Does it. To be called where the display can be reached.
[[nodiscard]] ScreenReport look_at_screen(const ScreenTask& task);

// Whether there is a key of that name: a letter or digit, "Return", "F1", with "ctrl+", "alt+", "shift+" before it.
[[nodiscard]] bool is_key(const std::string& name);

// As words of a call, what it does, and what it says: see smoke/exchange.h.
[[nodiscard]] std::vector<std::string> words_of(const ScreenTask& task);
[[nodiscard]] std::optional<std::string> screen_report_to_words(const std::vector<std::string>& words);
[[nodiscard]] ScreenReport screen_report_in(const Ended& ended);

}  // namespace coctilis::smoke
