// What coctilis.toml asks to be checked: [[smoke]] and [[service]].
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "base/result.h"

namespace coctilis::model {

// What a program of a check runs in and with. In words, paths and values ${tree}, ${kiln}, ${program} (the folder that
// the program lies in) and what a check goes over (AskedCheck::over) are replaced.
struct Surroundings {
  // Of the tree, or absolute; empty: a scratch folder that is empty but for `files` and `folders`.
  std::string folder;
  std::map<std::string, std::string> environment;
  // What lies in the working folder, and where it comes from: a file or a folder of the tree. Copied where it is newer.
  struct File {
    std::string from;
    std::string to;  // from the working folder
  };
  std::vector<File> files;
  std::vector<std::string> folders;   // that have to be there: made when they are not
  std::vector<std::string> launcher;  // what starts the program, with its arguments: mpirun -n 4
  std::vector<std::string> devices;   // without which it is skipped: "display", or paths below /dev
  std::vector<std::string> benign;  // regular expressions (RE2): lines of the output that look like errors and are none
  std::vector<std::string> forbid;  // regular expressions: one of these in the output, and it has failed
};

// What is expected of one program. Patterns are regular expressions (RE2); ^ and $ stand for the ends of a line.
struct Expected {
  std::optional<int> exit = 0;        // nothing: any exit code
  std::vector<std::string> output;    // each of these is found in the output
  std::vector<std::string> absent;    // none of these is
  std::vector<std::string> in_order;  // these, each behind the one before
  std::vector<std::string> files;     // it makes these, or writes to them; from the working folder
  double within = 10;                 // seconds after which it is stopped, and has failed
  double at_least = 0;                // seconds before which it must not end
};

// A number that a check reads.
struct AskedNumber {
  std::string name;
  std::string find;    // regular expression whose one group it is; in the output, or in `file`
  std::string file;    // from the working folder
  std::string column;  // of `file`, a table whose first line names its columns: of that name ...
  int row = -1;        // ... in this line of values, counted from 0; negative: from the end
  std::string key;     // of `file`, JSON: a pointer (RFC 6901)
  // How far it may be off, both added up: in its own unit, and as a part of the value that is recorded. 0: the same
  // digits.
  double absolute = 0;
  double relative = 0;
  Place place;
};

struct CheckStep {
  std::string name;
  std::vector<std::string> run;      // the program of the tree by name, or a path, or one on PATH; then its arguments
  std::optional<std::string> input;  // what it reads on standard input; nothing: it is at its end
  std::string input_file;            // the same from a file of the tree; empty: none
  Expected expected;
  Place place;
};

// A program with windows, under a display of its own.
struct AskedWindow {
  std::string title;                        // regular expression; empty: any
  double within = 10;                       // seconds in which the window has to be there, with content
  std::vector<std::string> keys;            // sent to it, in order: names of key symbols, "Return" or "ctrl+q"
  std::vector<std::pair<int, int>> clicks;  // pixels from the top left of the window, sent after the keys
  std::string screen = "1280x800";
};

// A [[smoke]] check.
struct AskedCheck {
  std::string name;
  std::vector<CheckStep> steps;  // at least one; each sees what those before it left in the working folder
  Surroundings surroundings;
  std::vector<std::string> needs;     // other checks that have to pass first
  std::vector<std::string> services;  // that run meanwhile
  int retries = 0;                    // how often it may fail before that counts
  std::vector<AskedNumber> numbers;
  std::string reference;  // file of the tree that recorded numbers are in; empty: none is recorded
  // Names with values: it is run once for each value of the first, and so on; the numbers have to agree.
  std::vector<std::pair<std::string, std::vector<std::string>>> over;
  std::optional<AskedWindow> window;
  Place place;
};

// When a service is ready. Nothing said: a line of output, a port or a file, whichever comes first.
struct Ready {
  std::string line;  // regular expression
  int port = 0;      // it listens there (TCP)
  std::string file;  // from its working folder
  std::string url;   // answers, whatever the status
  double within = 10;
  [[nodiscard]] bool is_said() const { return !line.empty() || port > 0 || !file.empty() || !url.empty(); }
};

// What is asked of a service that is ready: a page, an exchange of words, or a program.
struct Probe {
  std::string url;                             // http only
  int status = 200;                            // that it answers with
  std::vector<std::string> body;               // regular expressions, each found in the page
  std::map<std::string, std::string> headers;  // of the answer: regular expressions
  std::string connect;                         // "host:port" (TCP)
  std::string send;                            // there
  std::string expect;                          // regular expression found in what comes back
  CheckStep step;                              // with `run`: a client
  int times = 1;
  bool at_once = false;  // the times side by side
  double within = 10;    // of pages and exchanges
  Place place;
};

// A [[service]]: a check of its own, and what other checks may run beside.
struct AskedService {
  std::string name;
  std::vector<std::string> run;
  Surroundings surroundings;
  std::vector<std::string> needs;  // other services that run meanwhile
  Ready ready;
  std::vector<Probe> probes;
  double stop_within = 5;  // seconds it has to end after it was asked to (SIGTERM)
  Place place;
};

}  // namespace coctilis::model
